"""Drills of a spot: its moves to and fro, its notes in other rhythms, added one by one, in other keys.

Of one note alone the moves to the notes beside it are practised.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise

from core.drills.material import Drill, DrillKind, Material, Served
from core.drills.writing import (
    AS_WRITTEN,
    EIGHTH,
    OCTAVE,
    QUARTER,
    SEXTUPLET,
    SIXTEENTH,
    TRIPLET,
    WHOLE,
    Section,
    drill_of,
    key_name,
    slurred,
    tone,
)
from core.music.passage import Note
from core.music.pitch import Interval, spell

# Notes of a spot that are written out where it is repeated in many ways; notes that are added one by one.
REPEATED_MOST, ADDED_MOST = 16, 12
WHOLE_STEP = 2
# How trills are written out.
FASTER = ((QUARTER, AS_WRITTEN), (EIGHTH, AS_WRITTEN), (Fraction(1, 3), TRIPLET), (SIXTEENTH, AS_WRITTEN))
# Lengths of one beat, or two, of the other rhythms, and how many notes later a line begins.
Beats = tuple[tuple[Fraction, tuple[int, int]], ...]
THIRD, SIXTH = Fraction(1, 3), Fraction(1, 6)
TRIPLETS: Beats = ((THIRD, TRIPLET),) * 3
SEXTUPLETS: Beats = ((SIXTH, SEXTUPLET),) * 6
RHYTHMS: tuple[tuple[str, Beats, int], ...] = (
    ("dotted, long first", ((Fraction(3, 4), AS_WRITTEN), (SIXTEENTH, AS_WRITTEN)), 0),
    ("dotted, short first", ((SIXTEENTH, AS_WRITTEN), (Fraction(3, 4), AS_WRITTEN)), 0),
    ("in triplets", TRIPLETS, 0),
    ("in triplets, a note later", TRIPLETS, 1),
    ("in triplets, two notes later", TRIPLETS, 2),
    ("a sextuplet first", SEXTUPLETS + TRIPLETS * 3, 0),
    ("a sextuplet in the middle", TRIPLETS + SEXTUPLETS + TRIPLETS * 2, 0),
    ("a sextuplet last", TRIPLETS * 3 + SEXTUPLETS, 0),
    ("swung", ((2 * THIRD, TRIPLET), (THIRD, TRIPLET)), 0),
)


def trills(material: Material) -> Iterator[Drill]:
    """To and fro, from quarters to sixteenths, written out.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    pairs: dict[tuple[int, int], tuple[Served, Served, str]] = {}
    for before, after in pairwise(material.notes):
        if before.pitch.midi != after.pitch.midi:
            pair = (before.pitch.midi, after.pitch.midi)
            pairs.setdefault(pair, (before, after, f"{before.pitch} and {after.pitch} by turns"))
    if not pairs:
        here = material.highest
        for apart in (-WHOLE_STEP, -1, 1, WHOLE_STEP):
            midi = here.pitch.midi + apart
            if material.within(midi):
                other = Served(spell(midi, material.fifths), QUARTER)
                step = "whole" if abs(apart) == WHOLE_STEP else "half"
                pairs[here.pitch.midi, midi] = here, other, f"{here.pitch} and a {step} step {_way(apart)}"
    for one, other, name in list(pairs.values())[:REPEATED_MOST]:
        notes: list[Note] = []
        for length, tuplet in FASTER:
            turns = [one, other] * (int(WHOLE / length) // 2)
            notes += slurred([tone(material, s.pitch, length, s.fingering, tuplet=tuplet) for s in turns])
        notes.append(tone(material, one.pitch, WHOLE, one.fingering))
        yield drill_of(
            material,
            DrillKind.TRILL,
            name,
            "Slowly at first, so that both hands learn one motion; stop where it grows uneven.",
            [Section(tuple(notes), material.fifths)],
        )


def _way(apart: int) -> str:
    return "above" if apart > 0 else "below"


def rhythms(material: Material) -> Iterator[Drill]:
    """The spot to and fro in other rhythms.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    line = _to_and_fro(material)
    if len(line) < 2:
        return
    for name, beats, later in RHYTHMS:
        bar = beats * int(WHOLE / sum(length for length, _ in beats))
        bars = max(2, -(-len(line) // len(bar)))
        notes: list[Note] = []
        for n in range(bars):
            some = []
            for at, (length, tuplet) in enumerate(bar, start=n * len(bar) + later):
                note = line[at % len(line)]
                some.append(tone(material, note.pitch, length, note.fingering, tuplet=tuplet))
            notes += slurred(some)
        end = line[later % len(line)]
        notes.append(tone(material, end.pitch, WHOLE, end.fingering))
        yield drill_of(
            material,
            DrillKind.RHYTHM,
            f"{_named(material, REPEATED_MOST)} {name}",
            "Another note is long, another one quick: what was hidden by the rhythm comes out.",
            [Section(tuple(notes), material.fifths)],
        )


def _named(material: Material, most: int) -> str:
    """The spot, or so many of its first notes where it has more."""
    return f"The first {most} notes" if len(material.notes) > most else "The spot"


def _to_and_fro(material: Material) -> list[Served]:
    """The notes of the spot forwards and back, so that it goes round without a leap of its own."""
    notes = material.notes[:REPEATED_MOST]
    plain = [notes[0], *(b for a, b in pairwise(notes) if a.pitch.midi != b.pitch.midi)]
    return [*plain, *plain[-2:0:-1]]


def add_a_note(material: Material) -> Iterator[Drill]:
    """Two notes, three, four: from the first on, and from the last back.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    notes = material.notes[:ADDED_MOST]
    if len(notes) < 3:
        return
    cut = f", its first {ADDED_MOST}" if len(material.notes) > ADDED_MOST else ""
    for name, parts in (
        ("from the first on", [notes[:n] for n in range(2, len(notes) + 1)]),
        ("from the last back", [notes[-n:] for n in range(2, len(notes) + 1)]),
    ):
        sections = [
            Section(
                tuple(slurred([tone(material, note.pitch, EIGHTH, note.fingering) for note in part])),
                material.fifths,
                f"{len(part)} notes",
            )
            for part in parts
        ]
        yield drill_of(
            material,
            DrillKind.ADD_A_NOTE,
            f"Add a note, {name}{cut}",
            "On to the next bar only when this one is clean three times in a row.",
            sections,
        )


def through_keys(material: Material) -> Iterator[Drill]:
    """The spot in every key, by half steps and by fifths.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    if len(material.notes) < 2:
        return
    for name, order in (
        ("by half steps", range(12)),
        ("by fifths", (7 * n % 12 for n in range(12))),
    ):
        sections = []
        for shift in order:
            moved = _moved(material, _octave_for(material, shift))
            if moved:
                sections.append(moved)
        if len(sections) > 1:
            yield drill_of(
                material,
                DrillKind.THROUGH_KEYS,
                f"{_named(material, REPEATED_MOST)} through the keys, {name}",
                "What the ear asks for, with other fingers each time; keys out of reach are left out.",
                sections,
            )


def octaves(material: Material) -> Iterator[Drill]:
    """The spot in every octave within reach.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    shifts = [s for s in range(-36, 37, OCTAVE) if s and _fits(material, s)]
    if len(material.notes) < 2 or not shifts:
        return
    order = sorted([*shifts, 0])
    sections = [section for shift in order if (section := _moved(material, shift))]
    yield drill_of(
        material,
        DrillKind.OCTAVES,
        f"{_named(material, REPEATED_MOST)} in every octave",
        "First where it is easy: the same tune, and the same ease higher up.",
        sections,
    )


def _fits(material: Material, shift: int) -> bool:
    return all(material.within(note.pitch.midi + shift) for note in material.notes[:REPEATED_MOST])


def _octave_for(material: Material, shift: int) -> int | None:
    """The shift with octaves more or fewer that is nearest to where the spot is; None if none fits."""
    fitting = [s for s in range(shift - 48, shift + 37, OCTAVE) if s == 0 or _fits(material, s)]
    return min(fitting, key=abs, default=None)


def _moved(material: Material, shift: int | None) -> Section | None:
    """The spot moved by semitones, in the key that goes along; with its own fingerings where it stays."""
    if shift is None:
        return None
    fifths = (material.fifths + 7 * shift + 5) % 12 - 5 if shift % 12 else material.fifths
    interval = Interval((7 * shift - fifths + material.fifths) // 12, shift)
    notes = []
    for note in material.notes[:REPEATED_MOST]:
        pitch = interval.apply(note.pitch) if shift else note.pitch
        if abs(pitch.alter) > 1:  # a double sign is no help in a drill
            pitch = spell(pitch.midi, fifths)
        notes.append(tone(material, pitch, EIGHTH, "" if shift else note.fingering))
    return Section(tuple(slurred(notes)), fifths, key_name(fifths) if shift % 12 else "")
