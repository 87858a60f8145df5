"""Drills of a note: held, begun out of nothing, slurred to, in scales, in other fingerings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from core.drills.material import Drill, DrillKind, Material
from core.drills.writing import (
    EIGHTH,
    HALF,
    OCTAVE,
    QUARTER,
    SIXTEENTH,
    WHOLE,
    Section,
    drill_of,
    key_name,
    rest,
    slurred,
    tone,
)
from core.music.passage import Note
from core.music.pitch import Pitch, spell
from core.music.scale import MODES, keys_with, major_tonic, scale

# Keys that scales go through, and from how far below slurs rise to the note.
KEYS_MOST, SLURRED_FROM = 5, (12, 7, 5)
MAJOR = MODES["major"]
TRIAD = (0, 4, 7)


def _below(material: Material, semitones: int) -> Pitch | None:
    """The note so far below the highest one, spelled by the key; None where a drill may not go there."""
    midi = material.highest.pitch.midi - semitones
    return spell(midi, material.fifths) if material.within(midi) else None


def long_tones(material: Material) -> Iterator[Drill]:
    """Up to the note by the steps of the key, each held.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    top = material.highest.pitch
    up = [p for p in _key_scale(material.fifths, top.midi - OCTAVE, top.midi - 1) if material.within(p.midi)]
    notes = [tone(material, pitch, WHOLE) for pitch in (*up, top)]
    if len(notes) > 1:
        yield drill_of(
            material,
            DrillKind.LONG_TONES,
            f"Long tones up to {top}",
            "One steady pitch on each, soft to loud and back, before it is asked for in time.",
            [Section((_marked(notes[0], dynamic="p"), *notes[1:]), material.fifths, "soft to loud and back")],
        )


def attacks(material: Material) -> Iterator[Drill]:
    """After a rest, ever softer.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    top = material.highest
    notes: list[Note] = []
    for mark in ("mf", "p", "pp"):
        for dynamic in (mark, ""):
            notes += [rest(QUARTER), tone(material, top.pitch, QUARTER, top.fingering, dynamic=dynamic)]
        notes += [rest(HALF), tone(material, top.pitch, HALF, top.fingering)]
    yield drill_of(
        material,
        DrillKind.ATTACKS,
        f"{top.pitch} after a rest, ever softer",
        "It is to speak at once, out of nothing: hear it before the tongue lets go.",
        [Section(tuple(notes), material.fifths)],
    )


def slurs(material: Material) -> Iterator[Drill]:
    """From below up to the note and back, under one slur.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    top = material.highest
    notes: list[Note] = []
    for semitones in SLURRED_FROM:
        low = _below(material, semitones)
        if low is not None:
            there = tone(material, top.pitch, QUARTER, top.fingering)
            back = tone(material, low, QUARTER)
            notes += [*slurred([back, there, back, there]), tone(material, low, HALF), rest(HALF)]
    if notes:
        yield drill_of(
            material,
            DrillKind.SLURS,
            f"Slurs up to {top.pitch}",
            "The air goes on while the register changes; no push, no bite.",
            [Section(tuple(notes), material.fifths)],
        )


def loops(material: Material) -> Iterator[Drill]:
    """Five notes of every key that has the note, round and round.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    here = material.highest.pitch
    sections = []
    for fifths in keys_with(here.midi):
        degree = MAJOR.index((here.midi - 7 * fifths) % 12)
        # the first five notes of the key where they hold the note and lie within reach, else five up to it
        for first in (max(0, degree - 4), degree - 4):
            five = [here.midi + _up(first + n) - _up(degree) for n in range(5)]
            if all(material.within(midi) for midi in five):
                break
        else:
            five = []
        if five:
            pitches = [_in_key(midi, fifths) for midi in (*five, *five[-2:0:-1])]
            round_ = [tone(material, pitch, EIGHTH) for pitch in pitches]
            last = tone(material, pitches[0], WHOLE)
            words = key_name(fifths)
            sections.append(Section((*slurred(round_), *slurred(round_), last), fifths, words))
    if sections:
        yield drill_of(
            material,
            DrillKind.LOOPS,
            f"Five-note loops with {here}",
            "The note among its neighbours in every key that has it; each key until it is even.",
            sections,
        )


def _up(degree: int) -> int:
    """Semitones of a degree of the major scale above its keynote."""
    octaves, step = divmod(degree, 7)
    return 12 * octaves + MAJOR[step]


def scales(material: Material) -> Iterator[Drill]:
    """Scales and arpeggios up to the note and back.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    top = material.highest.pitch
    runs, chords = [], []
    for fifths in keys_with(top.midi)[:KEYS_MOST]:
        keynote, words = 7 * fifths % 12, key_name(fifths)
        up = [
            pitch for pitch in _key_scale(fifths, top.midi - OCTAVE, top.midi) if material.within(pitch.midi)
        ]
        triad = [pitch for pitch in up if (pitch.midi - keynote) % 12 in TRIAD]
        if len(up) > 2:
            runs.append(Section(_there_and_back(material, up), fifths, words))
        if len(triad) > 2 and triad[-1].midi == top.midi:
            chords.append(Section(_there_and_back(material, triad), fifths, words))
    for kind, word, sections in (
        (DrillKind.SCALES, "Scales", runs),
        (DrillKind.ARPEGGIOS, "Arpeggios", chords),
    ):
        if sections:
            yield drill_of(
                material,
                kind,
                f"{word} up to {top}",
                "The note at the end of a line that is known, keys with few signs first.",
                sections,
            )


def _there_and_back(material: Material, up: Sequence[Pitch]) -> tuple[Note, ...]:
    line = [tone(material, pitch, EIGHTH) for pitch in (*up, *up[-2:0:-1])]
    return (*slurred(line), tone(material, up[0], QUARTER))


def colours(material: Material) -> Iterator[Drill]:
    """Two fingerings of one note by turns.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    here = material.highest
    for other in material.colours:
        notes: list[Note] = []
        for length in (QUARTER, EIGHTH, SIXTEENTH):
            turns = [here.fingering, other] * (int(WHOLE / length) // 2)
            notes += [tone(material, here.pitch, length, fingering) for fingering in turns]
        notes.append(tone(material, here.pitch, WHOLE, here.fingering))
        yield drill_of(
            material,
            DrillKind.COLOURS,
            f"Two colours of {here.pitch}",
            "One pitch, two tones: the colour is to change, not the height.",
            [Section(tuple(notes), material.fifths)],
        )


def matching(material: Material) -> Iterator[Drill]:
    """A note in its usual fingering against the same pitch as a partial of a lower one.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    here = material.highest
    for harmonic in material.harmonics:
        two = [
            tone(material, here.pitch, WHOLE, harmonic),
            tone(material, here.pitch, WHOLE, here.fingering),
        ]
        yield drill_of(
            material,
            DrillKind.MATCHING,
            f"{here.pitch} as an overtone, then as usual",
            "Match pitch and tone of the second to the first: what the throat does is the same.",
            [Section((*two, *slurred([_short(note) for note in two * 2])), material.fifths)],
        )


def _short(note: Note) -> Note:
    return _marked(note, quarters=HALF)


def stones(material: Material) -> Iterator[Drill]:
    """To the fingering of the note, one touch at a time.

    Parameters
    ----------
    material : Material

    Returns
    -------
    iterator of Drill
    """
    if len(material.stones) < 3:
        return
    notes = [tone(material, pitch, HALF, touches) for pitch, touches in material.stones]
    yield drill_of(
        material,
        DrillKind.STONES,
        f"Stepping stones to {material.highest.pitch}",
        "One touch changes at a time, and each step is let speak before the next.",
        [Section(tuple(slurred(notes)), material.fifths)],
    )


def _marked(note: Note, **values: object) -> Note:
    return replace(note, **values)  # type: ignore[arg-type]


def _key_scale(fifths: int, low: int, high: int) -> list[Pitch]:
    """The notes of a major key from one semitone to another."""
    return scale(major_tonic(fifths), "major", spell(low), spell(high)) if low < high else []


def _in_key(midi: int, fifths: int) -> Pitch:
    """A note of a major key, spelled as the key does."""
    return scale(major_tonic(fifths), "major", spell(midi), spell(midi))[0]
