"""Sounding notes: tied notes taken together, timed, with what bears on their fingering."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction

from core.errors import PassageError, bar_and_beat
from core.music.aims import Aim
from core.music.intonation import EQUAL, check_tuned_to, tuned_cents
from core.music.ornaments import LIVELY_PER_S, Ornament, ornament_of
from core.music.passage import Note, Passage, PlacedNote, with_fields
from core.music.pitch import Interval, Pitch

TEMPO_MIN_BPM, TEMPO_MAX_BPM = 20.0, 400.0
TRILLS_MIN_PER_S, TRILLS_MAX_PER_S = 4.0, 16.0
DYNAMICS = ("pppp", "ppp", "pp", "p", "mp", "mf", "f", "ff", "fff", "ffff")
# Loudness of a mark on a scale from 0 (softest) to 1 (loudest).
LOUDNESS = {mark: place / (len(DYNAMICS) - 1) for place, mark in enumerate(DYNAMICS)}
LOUDNESS |= {"sf": 0.7, "sfz": 0.7, "fz": 0.7, "fp": 0.4}
# A note marked so begins loud and goes on soft.
LOUD_THEN_SOFT = {"fp": (LOUDNESS["f"], LOUDNESS["p"]), "sfp": (LOUDNESS["ff"], LOUDNESS["p"])}
# How much longer the hands have when nothing sounds between two notes: tongued, after a short note, after a
# long one, after a breath.
SLURRED, TONGUED, AFTER_SHORT, AFTER_LONG, AFTER_BREATH = 1.0, 1.25, 1.5, 1.1, 2.0
SHORT, LONG, BREATHS = {"staccato", "staccatissimo"}, {"tenuto"}, {"breath-mark", "caesura"}
# A note that grows softer into a rest or the end dies away if it is no louder than this as it begins.
DIES_FROM = 0.5
# A grace note comes before its beat, about eleven of them a second at 120; together they take at most half of
# the time there is.
GRACE_QUARTERS, GRACE_SHARE = Fraction(3, 16), 0.5
# Before the first mark, about mezzo-forte; and how far a hairpin goes that leads to no mark: two marks.
PLAIN_LOUDNESS, HAIRPIN_WAY = 0.55, 2 / (len(DYNAMICS) - 1)


@dataclass(frozen=True)
class Manner:
    """How music is played, as far as the page does not say it.

    Parameters
    ----------
    tuned_to : str
        What held notes are tuned to; see `core.music.intonation`.
    unison : bool
        Others play the same notes: pitch is heard in short ones, too.
    trills_per_s : float, 4 to 16
        Notes a second that trills are to have.
    aims : mapping of note id to Aim
        What is aimed at in some notes.

    Raises
    ------
    PassageError
        If something lies outside its range.
    """

    tuned_to: str = EQUAL
    unison: bool = False
    trills_per_s: float = LIVELY_PER_S
    aims: Mapping[str, Aim] = field(default_factory=dict)

    def __post_init__(self) -> None:
        check_tuned_to(self.tuned_to)
        if not TRILLS_MIN_PER_S <= self.trills_per_s <= TRILLS_MAX_PER_S:
            raise PassageError(
                f"trills must have from {TRILLS_MIN_PER_S:.0f} to {TRILLS_MAX_PER_S:.0f} notes a second, "
                f"got {self.trills_per_s:g}"
            )


PLAIN = Manner()


@dataclass(frozen=True)
class Event:
    """A sounding note: tied notes taken together, with what bears on its fingering.

    Parameters
    ----------
    notes : tuple of PlacedNote
        The written notes that make it up.
    seconds : float
        How long it sounds.
    available_s : float
        From the start of the note before to the start of this one; infinite for the first.
    after_rest, slurred : bool
        How it begins; tongued if neither.
    loudness : float, 0 to 1
        From the last dynamic mark, or on the way of a hairpin; see `loudnesses`.
    attack : float, 0 to 1
        Loudness as it begins.
    dies : bool
        It grows softer to nothing.
    freed : float, 1 or more
        How much longer the hands have on the way into it, since nothing sounds between.
    grace : bool
        It is a grace note of the next event that is none.
    ornament : Ornament or None
        What it alternates with.
    tuned_cents : float, cents
        Where it should lie against equal temperament if it is held.
    exposed : bool
        Its pitch is heard as that of a held note, since others play it, too.
    aim : Aim or None
        What is aimed at.
    fingering : str
        The first fingering written under one of its notes.
    """

    notes: tuple[PlacedNote, ...]
    seconds: float
    available_s: float
    after_rest: bool
    slurred: bool
    loudness: float
    attack: float = PLAIN_LOUDNESS
    dies: bool = False
    freed: float = SLURRED
    grace: bool = False
    ornament: Ornament | None = None
    tuned_cents: float = 0.0
    exposed: bool = False
    aim: Aim | None = None

    @property
    def id(self) -> str:
        """Id of the first of its notes."""
        return self.notes[0].note.id

    @property
    def written_pitch(self) -> Pitch:
        """Its pitch as written for the instrument.

        Raises
        ------
        PassageError
            If it begins with a rest.
        """
        pitch = self.notes[0].note.written_pitch
        if pitch is None:
            raise PassageError(f"an event must begin with a note, got the rest {self.id}")
        return pitch

    def quicker(self, factor: float) -> Event:
        """The same note so many times as fast.

        Parameters
        ----------
        factor : float, above 0
            So many times as fast.

        Returns
        -------
        Event
        """
        return with_fields(self, seconds=self.seconds / factor, available_s=self.available_s / factor)

    @property
    def fingering(self) -> str:
        """Touches written under its first note; empty for none."""
        return next((placed.note.fingering for placed in self.notes if placed.note.fingering), "")


def check_tempo(tempo_bpm: float) -> float:
    """Return a tempo that can be played.

    Parameters
    ----------
    tempo_bpm : float, quarter notes a minute, above 0

    Returns
    -------
    float, quarter notes a minute

    Raises
    ------
    PassageError
        If `tempo_bpm` is not from 20 to 400 quarter notes a minute.
    """
    if not TEMPO_MIN_BPM <= tempo_bpm <= TEMPO_MAX_BPM:
        raise PassageError(
            f"the tempo must be from {TEMPO_MIN_BPM:.0f} to {TEMPO_MAX_BPM:.0f} quarter notes a minute, "
            f"got {tempo_bpm:g}"
        )
    return tempo_bpm


def sounding_events(
    passage: Passage, tempo_bpm: float | None = None, manner: Manner = PLAIN
) -> tuple[Event, ...]:
    """Take tied notes together, put grace notes before theirs, and time them all.

    Parameters
    ----------
    passage : Passage
    tempo_bpm : float, 20 to 400, optional
        Tempo at the start; later changes keep their proportion to it. Default: as written.
    manner : Manner

    Returns
    -------
    tuple of Event
    """
    first_bpm = passage.tempo_bpm
    factor = check_tempo(tempo_bpm if tempo_bpm is not None else first_bpm) / first_bpm
    events: list[Event] = []
    open_tie: list[PlacedNote] = []
    bpm, clock, last_onset, onset = first_bpm, 0.0, -float("inf"), 0.0
    in_slur = slurred = False
    after_rest = True
    level, softer = 0.0, _softening(passage)
    for place, (placed, following, loudness) in enumerate(_with_next(passage)):
        note = placed.note
        bpm = note.tempo_bpm if note.tempo_bpm is not None else bpm
        seconds = float(note.quarters) * 60.0 / (bpm * factor)
        if note.is_rest:
            after_rest, in_slur = True, False
        elif not open_tie:
            onset, slurred, level, started_after_rest = clock, in_slur, loudness, after_rest
        clock += seconds
        if note.is_rest:
            continue
        in_slur = (in_slur and not note.slur_stop) or note.slur_start
        open_tie.append(placed)
        if note.tied and following is not None and _same_pitch(note, following.note):
            continue
        head = open_tie[0].note
        attack, held = LOUD_THEN_SOFT.get(head.dynamic, (level, level))
        dies = (following is None or following.note.is_rest) and level <= DIES_FROM and place in softer
        event = Event(
            tuple(open_tie),
            seconds=clock - onset,
            available_s=onset - last_onset,
            after_rest=started_after_rest,
            slurred=slurred,
            loudness=held,
            attack=attack,
            dies=dies,
            freed=SLURRED if slurred else _freed(events),
            ornament=ornament_of(head, passage.key_at(head.id), manner.trills_per_s)
            if head.ornaments
            else None,
            tuned_cents=tuned_cents(passage, head.id, head.written_pitch.midi, manner.tuned_to)
            if head.written_pitch
            else 0.0,
            exposed=manner.unison,
            aim=manner.aims.get(head.id),
        )
        events += _with_graces(event, float(GRACE_QUARTERS) * 60.0 / (bpm * factor))
        last_onset, after_rest, open_tie = onset, False, []
    return tuple(events)


def moved_events(passage: Passage, events: Iterable[Event], interval: Interval) -> tuple[Event, ...]:
    """The events of a passage that is transposed, which takes no timing anew.

    Parameters
    ----------
    passage : Passage
        As it stands.
    events : iterable of Event
        Of this passage.
    interval : Interval

    Returns
    -------
    tuple of Event
        As those of `passage.transposed(interval)`; a root that notes are tuned to moves with them.
    """
    first = 0 if passage.has_upbeat else 1
    intervals = dict(enumerate((best for _, best in passage.intervals(interval)), start=first))

    def moved(event: Event) -> Event:
        notes = tuple(with_fields(one, note=one.note.transposed(intervals[one.bar])) for one in event.notes)
        there, ornament = intervals[notes[0].bar], event.ornament
        if ornament is not None:
            fifths = passage.key_at(event.id) + there.fifths
            ornament = ornament_of(notes[0].note, fifths, ornament.per_s)
        return with_fields(event, notes=notes, ornament=ornament)

    return tuple(moved(event) for event in events)


def _with_next(passage: Passage) -> Iterator[tuple[PlacedNote, PlacedNote | None, float]]:
    """Every note and rest with the one after it, and how loud it begins."""
    following: list[PlacedNote | None] = [*passage.placed[1:], None]
    return zip(passage.placed, following, loudnesses(passage), strict=True)


def _freed(events: list[Event]) -> float:
    """How much longer the hands have after the last event, if the next one is tongued."""
    marks = events[-1].notes[-1].note.articulations if events else frozenset()
    if marks & BREATHS:
        return AFTER_BREATH
    if marks & SHORT:
        return AFTER_SHORT
    return AFTER_LONG if marks & LONG else TONGUED


def _with_graces(event: Event, grace_s: float) -> list[Event]:
    """An event after its grace notes, which take their time from what is before it, and are slurred to it."""
    head = event.notes[0]
    if not head.note.grace:
        return [event]
    count = len(head.note.grace)
    each = min(grace_s, GRACE_SHARE * event.available_s / count)
    graces = [
        Event(
            (replace(head, note=Note(f"{event.id}.g{n + 1}", pitch, GRACE_QUARTERS)),),
            seconds=each,
            available_s=event.available_s - count * each if n == 0 else each,
            after_rest=event.after_rest and n == 0,
            slurred=event.slurred or n > 0,
            loudness=event.attack,
            attack=event.attack,
            freed=event.freed if n == 0 else SLURRED,
            grace=True,
            aim=event.aim,
        )
        for n, pitch in enumerate(head.note.grace)
    ]
    return [*graces, replace(event, available_s=each, after_rest=False, slurred=True, freed=SLURRED)]


def loudnesses(passage: Passage) -> list[float]:
    """Loudness of every note and rest at its beginning.

    A hairpin leads evenly to the mark at its end, or right after it; without one, by two marks. It ends where
    it says so, and at the latest before the next mark or hairpin.

    Parameters
    ----------
    passage : Passage

    Returns
    -------
    list of float, 0 to 1
    """
    notes = list(passage)
    found: list[float] = []
    level = PLAIN_LOUDNESS
    while len(found) < len(notes):
        start = len(found)
        level = LOUDNESS.get(notes[start].dynamic, level)
        if not notes[start].hairpin:
            found.append(level)
            continue
        end = _hairpin_end(notes, start)
        after = notes[end].dynamic if end < len(notes) else ""
        way = HAIRPIN_WAY if notes[start].hairpin == "crescendo" else -HAIRPIN_WAY
        target = LOUDNESS.get(after, min(max(level + way, 0.0), 1.0))
        whole = float(sum(note.quarters for note in notes[start:end]))
        gone = 0.0
        for note in notes[start:end]:
            found.append(level + (target - level) * gone / whole)
            gone += float(note.quarters)
        level = target
    return found


def _softening(passage: Passage) -> set[int]:
    """Places of the notes that lie under a diminuendo."""
    notes = list(passage)
    begins = [place for place, note in enumerate(notes) if note.hairpin == "diminuendo"]
    return {place for begin in begins for place in range(begin, _hairpin_end(notes, begin))}


def _hairpin_end(notes: list[Note], start: int) -> int:
    """Place of the first note after the hairpin that begins at a note."""
    for place in range(start, len(notes)):
        if place > start and (notes[place].dynamic or notes[place].hairpin):
            return place
        if notes[place].hairpin_stop:
            return place + 1
    return len(notes)


def _same_pitch(note: Note, other: Note) -> bool:
    if note.written_pitch is None or other.written_pitch is None:
        return False
    return note.written_pitch.midi == other.written_pitch.midi


def where(event: Event) -> str:
    """Tell bar and beat of an event in words.

    Parameters
    ----------
    event : Event

    Returns
    -------
    str
    """
    return bar_and_beat(event.notes[0].bar, event.notes[0].beat)
