"""What a student sees on the page made for them: today, the note of the week, ladders, and the sheet."""

from dataclasses import dataclass

from django.utils.safestring import SafeString

from core.music.pitch import spell
from core.practice.attempts import Result, SpotNote
from counting.asked import spot_asked
from counting.drawn import Drawn, drawn_of
from counting.queries import Tally, today_of
from drawing.compact import large_symbol
from students.queries import StudentPage, counted_today
from students.screens.ladders import MoveDue, move_at, moves_due
from students.screens.sheet import StudentSheet
from students.screens.week import WeekPage

OF_NOTE = (Result.CLEAN, Result.CRACKED)
OF_MOVE = (Result.CLEAN, Result.STUMBLED)


@dataclass(frozen=True)
class ToLog:
    """Something of which a student may log attempts.

    Parameters
    ----------
    id : str
        Of its card: made of what it is, so that it stays the same.
    drawn : str
        What is drawn, as a press carries it.
    drawings : tuple of str
        The fingerings, in order.
    presses : tuple of (str, str)
        Values and words of what may come of it.
    bpm : int or None
        At which it is played.
    counted : str
        How many were clean today.
    last_key : str
        Key of the student's last press today; empty for none.
    """

    id: str
    title: str
    says: str
    drawn: str
    drawings: tuple[SafeString, ...]
    presses: tuple[tuple[str, str], ...]
    bpm: int | None
    counted: str
    last_key: str


@dataclass(frozen=True)
class ForStudent:
    """The page."""

    sheet: StudentSheet
    week: WeekPage
    to_log: tuple[ToLog, ...]


def for_student(asked, page: StudentPage) -> ForStudent:
    """Build the page.

    What was counted on it today stays on it until tomorrow, as it was drawn, in the order of the music.

    Parameters
    ----------
    asked : students.sheets.AskedSheet
    """
    if not page.may_log:
        return ForStudent(asked.made(), asked.week, ())
    cards = [_of_note(asked, page)] if asked.week.note is not None else []
    if asked.music:
        cards += [_of_move(*card) for card in _moves(asked, page)]
    counted = today_of(page.instrument_id, [card.drawn for card in cards])
    in_hand = asked.on_with.at.in_hand
    shown = (_shown(in_hand, card, *one) for card, one in zip(cards, counted, strict=True))
    return ForStudent(asked.made(), asked.week, tuple(shown))


def counted_words(hits: Tally) -> str:
    """How many were clean today, in words."""
    return f"{hits.clean} of {hits.total} clean today" if hits.total else "not played today"


def counted_now(drawn, page: StudentPage) -> dict[str, dict[str, str]]:
    """What was counted today of what stands on a page, by what its presses carry, and the key of the last."""
    spots = {text: one for text in drawn if (one := drawn_of(text)).page == page.pk}
    told = zip(spots, today_of(page.instrument_id, spots.values()), strict=True)
    return {text: {"words": counted_words(hits), "last": last} for text, (hits, last) in told}


@dataclass(frozen=True)
class _Card:
    drawn: Drawn
    title: str
    says: str
    results: tuple[Result, ...]
    bpm: int | None = None


def _of_note(asked, page):
    at, note = asked.on_with.at, asked.week.note
    entry = at.in_hand.plainest(note)
    step = SpotNote(note.midi, entry.id if entry else "", 0.0)
    drawn = Drawn(at.owned.pk, at.owned.setup, (step,), page=page.pk)
    return _Card(drawn, str(note), "by heart, nothing looked up", OF_NOTE)


def _moves(asked, page):
    """Moves of the passage: what is drawn, and where its ladder stands."""
    note_at = asked.music.solution().note_at
    due = {note_at[move.after_id]: move for move in moves_due(asked.music, asked.playings)}
    drawn = {one.first + 1: one for one in counted_today(page, asked.music)}
    for place, move in due.items():
        if len(drawn) < len(due) and place not in drawn:
            drawn[place] = spot_asked(asked.music, move.before_id, move.after_id, page=page.pk).drawn
    for place in sorted(drawn):
        move = due.get(place) or move_at(asked.music, asked.playings, place)
        if move is not None:
            yield drawn[place], move


def _of_move(drawn: Drawn, move: MoveDue):
    bpm = move.target if move.done else move.bpm
    return _Card(drawn, move.notes, f"{move.where}, {move.step}", OF_MOVE, bpm)


def _shown(in_hand, card: _Card, hits, last):
    drawn = card.drawn
    entries = [in_hand.catalogue.by_id.get(step.fingering) for step in drawn.steps]
    pitches = "-".join(spell(step.midi).ascii.replace("#", "s") for step in drawn.steps)
    return ToLog(
        id=f"{pitches}-{drawn.first}",
        title=card.title,
        says=card.says,
        drawn=drawn.signed(),
        drawings=tuple(large_symbol(entry.fingering, in_hand) for entry in entries if entry),
        presses=tuple((result.value, result.capitalize()) for result in card.results),
        bpm=card.bpm,
        counted=counted_words(hits),
        last_key=last,
    )
