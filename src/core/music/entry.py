"""Notes entered and changed one at a time: a passage with a cursor, and what a press does to it.

Every press gives a new draft; the one before is as it was, so that undo is to keep it. Notes keep their ids.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from itertools import accumulate

from core.errors import NotationError, PassageError
from core.music.barring import goes_on, joined, rebarred
from core.music.chords import chord_text
from core.music.events import LOUDNESS
from core.music.notation.score import single_notes
from core.music.passage import ARTICULATIONS, NOMINAL, NOTES_LIMIT, ORNAMENTS, Bar, Note, Passage
from core.music.pitch import STEPS, Pitch, key_alter, spell

LENGTHS = {name: Fraction(4, int(name)) for name in ("1", "2", "4", "8", "16", "32")}
TRIPLET = (3, 2)


@dataclass(frozen=True)
class Draft:
    """A passage that is being entered.

    Parameters
    ----------
    at : int
        Place of the note that the cursor is on, among all notes and rests; -1 before the first.
    """

    passage: Passage
    at: int = -1

    @cached_property
    def notes(self) -> tuple[Note, ...]:
        """The notes of all bars, one after the other."""
        return tuple(self.passage)

    @property
    def is_blank(self) -> bool:
        """Whether there is nothing but rests."""
        return all(note.is_rest for note in self.notes)

    @property
    def here(self) -> Note | None:
        """The note at the cursor; None before the first."""
        return self.notes[self.at] if 0 <= self.at < len(self.notes) else None

    @property
    def key_here(self) -> int:
        """Key signature at the cursor."""
        fifths, place = 0, -1
        for bar in self.passage.bars:
            if place >= max(self.at, 0):
                break
            fifths = fifths if bar.key_fifths is None else bar.key_fifths
            place += len(bar.notes)
        return fifths

    @property
    def near(self) -> Pitch | None:
        """The pitch at the cursor, or the last one before it."""
        return next((n.written_pitch for n in reversed(self.notes[: self.at + 1]) if n.written_pitch), None)


def blank(key_fifths: int = 0, time: tuple[int, int] = (4, 4)) -> Draft:
    """A bar of rest to begin with.

    Parameters
    ----------
    key_fifths : int, -7 to 7
        Sharps of the key signature; flats negative.
    time : (int, int)
        Time signature: beats, and what a beat is, as (3, 4).

    Returns
    -------
    Draft
    """
    notes = single_notes(Note("", None, Fraction(4 * time[0], time[1])), NotationError)
    return Draft(Passage((Bar(tuple(notes), key_fifths, time),)))


def insert(
    draft: Draft, pitches: Sequence[Pitch | None], quarters: Fraction, tuplet: tuple[int, int] = (1, 1)
) -> Draft:
    """Put notes, and None for rests, behind the cursor, which goes to the last of them.

    Parameters
    ----------
    draft : Draft
    pitches : sequence of Pitch or None
    quarters : Fraction
    tuplet : (int, int)
        So many notes in the time of so many, as (3, 2); (1, 1) for none.

    Returns
    -------
    Draft
    """
    length = quarters * tuplet[1] / tuplet[0]
    new = [Note("", pitch, length, tuplet) for pitch in pitches]
    if draft.is_blank and new:  # what begins the passage stays there
        new[0] = replace(new[0], tempo_bpm=draft.notes[0].tempo_bpm)
    if draft.is_blank:
        return _from_here(draft, lambda _, at: (new, at + len(new)))
    return _from_here(draft, lambda notes, at: ([*notes[: at + 1], *new, *notes[at + 1 :]], at + len(new)))


def delete(draft: Draft) -> Draft:
    """Take away the note at the cursor, which goes to the one before.

    Parameters
    ----------
    draft : Draft

    Returns
    -------
    Draft
    """
    if draft.here is None:
        return draft
    if len(_sounding_with(draft)) == len(draft.notes):
        first = draft.passage.bars[0]
        return blank(first.key_fifths or 0, first.time or (4, 4))
    return _from_here(draft, lambda notes, at: ([*notes[:at], *notes[at + 1 :]], at - 1))


def set_length(draft: Draft, quarters: Fraction, tuplet: tuple[int, int] = (1, 1)) -> Draft:
    """Give the note at the cursor another length.

    Parameters
    ----------
    draft : Draft
    quarters : Fraction
    tuplet : (int, int)
        So many notes in the time of so many, as (3, 2); (1, 1) for none.

    Returns
    -------
    Draft
    """
    return _changed(draft, quarters=quarters * tuplet[1] / tuplet[0], tuplet=tuplet)


def dot(draft: Draft) -> Draft:
    """Put a dot to the note at the cursor, or take its dots away.

    Parameters
    ----------
    draft : Draft

    Returns
    -------
    Draft
    """
    here = draft.here
    if here is None or here.nominal not in NOMINAL:
        return draft
    power, dots = NOMINAL[here.nominal]
    plain = Fraction(2) ** power
    return set_length(draft, plain if dots else plain * Fraction(3, 2), here.tuplet)


def triplet(draft: Draft) -> Draft:
    """Make the note at the cursor one of three in the time of two, or a plain one again.

    Parameters
    ----------
    draft : Draft

    Returns
    -------
    Draft
    """
    here = draft.here
    if here is None:
        return draft
    return set_length(draft, here.nominal, (1, 1) if here.tuplet == TRIPLET else TRIPLET)


def move_pitch(draft: Draft, *, semitones: int = 0, steps: int = 0) -> Draft:
    """Move the note at the cursor by signs (sharper or flatter by semitones) or by steps of the staff.

    Parameters
    ----------
    draft : Draft
    semitones : int, -1 to 1
    steps : int, steps of the staff

    Returns
    -------
    Draft
    """
    pitch = draft.here.written_pitch if draft.here else None
    if pitch is None:
        return draft
    if steps:
        octave, index = divmod(pitch.octave * 7 + STEPS.index(pitch.step) + steps, 7)
        step = STEPS[index]
        alter = pitch.alter if steps % 7 == 0 else key_alter(step, draft.key_here)
        moved = Pitch(step, alter, octave)
    else:
        moved = _sharpened(pitch, semitones)
    found = draft
    for place in _sounding_with(draft):  # a note over a bar line is one
        found = replace(_replaced(replace(found, at=place), written_pitch=moved), at=draft.at)
    return found


def _sounding_with(draft: Draft) -> list[int]:
    """Places of the notes that sound as one with that at the cursor: its beginning, its rest."""
    notes, first, last = draft.notes, draft.at, draft.at
    while first > 0 and goes_on(notes[first - 1], notes[first]):
        first -= 1
    while last + 1 < len(notes) and goes_on(notes[last], notes[last + 1]):
        last += 1
    return list(range(first, last + 1))


def _sharpened(pitch: Pitch, semitones: int) -> Pitch:
    alter = pitch.alter + semitones
    if abs(alter) <= 1:
        return Pitch(pitch.step, alter, pitch.octave)
    return spell(min(max(pitch.midi + semitones, 0), 127))


def toggle_tie(draft: Draft) -> Draft:
    """Tie the note at the cursor to the next, or no longer.

    Parameters
    ----------
    draft : Draft

    Returns
    -------
    Draft
    """
    here = draft.here
    return draft if here is None or here.is_rest else _replaced(draft, tied=not here.tied)


def toggle_slur(draft: Draft) -> Draft:
    """End the slur that is open before the cursor at this note; else begin one here, or take it away.

    Parameters
    ----------
    draft : Draft

    Returns
    -------
    Draft
    """
    here = draft.here
    if here is None or here.is_rest:
        return draft
    if _is_open_before(draft):
        return _replaced(draft, slur_stop=not here.slur_stop)
    return _replaced(draft, slur_start=not here.slur_start)


def _is_open_before(draft: Draft) -> bool:
    is_open = False
    for note in draft.notes[: max(draft.at, 0)]:
        is_open = (is_open and not note.slur_stop) or note.slur_start
    return is_open


def set_dynamic(draft: Draft, mark: str) -> Draft:
    """Put a dynamic mark to the note at the cursor; the same once more takes it away.

    Parameters
    ----------
    draft : Draft
    mark : str
        As ``mf``.

    Returns
    -------
    Draft

    Raises
    ------
    PassageError
        If there is none of that name.
    """
    if mark and mark not in LOUDNESS:
        raise PassageError(f"a dynamic must be one of {', '.join(LOUDNESS)}, got {mark[:20]!r}")
    here = draft.here
    return draft if here is None else _replaced(draft, dynamic="" if here.dynamic == mark else mark)


def toggle_articulation(draft: Draft, name: str) -> Draft:
    """Put an articulation to the note at the cursor, or take it away.

    Parameters
    ----------
    draft : Draft
    name : str
        As ``staccato``.

    Returns
    -------
    Draft

    Raises
    ------
    PassageError
        If there is none of that name.
    """
    if name not in ARTICULATIONS:
        raise PassageError(f"an articulation must be one of {', '.join(ARTICULATIONS)}, got {name[:20]!r}")
    here = draft.here
    if here is None or here.is_rest:
        return draft
    return _replaced(draft, articulations=here.articulations ^ {name})


def toggle_ornament(draft: Draft, name: str) -> Draft:
    """Put an ornament to the note at the cursor, or take it away.

    Parameters
    ----------
    draft : Draft
    name : str
        As ``trill``.

    Returns
    -------
    Draft

    Raises
    ------
    PassageError
        If there is none of that name.
    """
    if name not in ORNAMENTS:
        raise PassageError(f"an ornament must be one of {', '.join(ORNAMENTS)}, got {name[:20]!r}")
    here = draft.here
    if here is None or here.is_rest:
        return draft
    return _replaced(draft, ornaments=here.ornaments ^ {name})


def set_chord(draft: Draft, text: str) -> Draft:
    """Put a chord symbol to the note at the cursor; an empty one takes it away.

    Parameters
    ----------
    draft : Draft
    text : str
        As ``F#m7/C#``.

    Returns
    -------
    Draft

    Raises
    ------
    NotationError
        If it is none.
    """
    return draft if draft.here is None else _replaced(draft, chord=chord_text(text) if text.strip() else "")


def with_signs(draft: Draft, key_fifths: int, time: tuple[int, int], tempo_bpm: float) -> Draft:
    """Another key, time signature and tempo at the beginning; the notes stay, the bars are made anew.

    Parameters
    ----------
    draft : Draft
    key_fifths : int, -7 to 7
        Sharps of the key signature; flats negative.
    time : (int, int)
        Time signature: beats, and what a beat is, as (3, 4).
    tempo_bpm : float, quarter notes a minute, above 0

    Returns
    -------
    Draft
    """
    if draft.is_blank:
        draft = blank(key_fifths, time)
    first, *others = draft.passage.bars
    bars = (replace(first, key_fifths=key_fifths, time=time), *others)
    changed = replace(draft, passage=replace(draft.passage, bars=bars))
    if time != (first.time or (4, 4)):
        passage, at = rebarred(changed.passage, *joined(draft.passage, draft.at))
        changed = Draft(passage, at)
    first, *others = changed.passage.bars
    notes = (replace(first.notes[0], tempo_bpm=tempo_bpm), *first.notes[1:])
    bars = (replace(first, notes=notes), *others)
    return replace(changed, passage=replace(changed.passage, bars=bars))


def move(draft: Draft, by: int) -> Draft:
    """Move the cursor by notes.

    Parameters
    ----------
    draft : Draft
    by : int, notes
        Back where it is below 0.

    Returns
    -------
    Draft
    """
    return replace(draft, at=min(max(draft.at + by, -1), len(draft.notes) - 1))


def _replaced(draft: Draft, **values: object) -> Draft:
    """The note at the cursor with other values that leave its length as it is."""
    place = 0
    bars = []
    for bar in draft.passage.bars:
        inside = draft.at - place
        if 0 <= inside < len(bar.notes):
            notes = list(bar.notes)
            notes[inside] = replace(notes[inside], **values)  # type: ignore[arg-type]  # as the caller names them
            bar = replace(bar, notes=tuple(notes))
        place += len(bar.notes)
        bars.append(bar)
    return replace(draft, passage=replace(draft.passage, bars=tuple(bars)))


def _changed(draft: Draft, **values: object) -> Draft:
    """The note at the cursor with other values; what follows moves."""
    if draft.here is None:
        return draft

    def change(notes: list[Note], at: int) -> tuple[list[Note], int]:
        notes[at] = replace(notes[at], **values)  # type: ignore[arg-type]  # as the caller names them
        return notes, at

    return _from_here(draft, change)


def _from_here(draft: Draft, change: Callable[[list[Note], int], tuple[list[Note], int]]) -> Draft:
    """The same passage with its notes changed from the bar of the cursor on; bars before stay as they are.

    `change` gets the notes from there on, what bar lines parted taken together, and the cursor among them;
    it gives both back.
    """
    bars = draft.passage.bars
    begins = list(accumulate((len(bar.notes) for bar in bars), initial=0))
    here = max(n for n in range(len(bars)) if begins[n] <= max(draft.at, 0))
    while here and goes_on(draft.notes[begins[here] - 1], draft.notes[begins[here]]):
        here -= 1
    rest = draft.passage.from_bar(here)
    notes, at = change(*joined(rest, draft.at - begins[here]))
    if not notes:  # all from here on was taken away
        kept = replace(draft.passage, bars=bars[:here])
        return Draft(kept, begins[here] - 1)
    changed, at = rebarred(rest, notes, at)
    first = replace(changed.bars[0], key_fifths=bars[here].key_fifths, time=bars[here].time)
    whole = replace(draft.passage, bars=(*bars[:here], first, *changed.bars[1:]))
    if len(tuple(whole)) > NOTES_LIMIT:
        raise PassageError(f"a passage must have at most {NOTES_LIMIT:,} notes and rests")
    return Draft(whole, begins[here] + at)
