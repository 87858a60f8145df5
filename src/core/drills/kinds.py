"""Every kind of drill that can be made of a note, a link or a spot.

What a drill asks for lies within the reach and has a fingering, but for notes of the spot itself.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from core.drills.material import Drill, Kind, Material, Served
from core.drills.writing import (
    EIGHTH,
    HALF,
    QUARTER,
    SEXTUPLET,
    SIXTEENTH,
    TRIPLET,
    WHOLE,
    Section,
    rest,
    slurred,
    tone,
    written,
)
from core.music.passage import Note
from core.music.pitch import Interval, Pitch, spell
from core.music.scale import TONICS, scale, tonic_fifths, tonic_name

# Notes of a spot that are written out where it is repeated in many ways; keys that scales go through; notes
# that are added one by one.
REPEATED_MOST, KEYS_MOST, ADDED_MOST = 16, 5, 12
WHOLE_STEP = 2
# How far below a note the scales to it begin, and from where slurs rise to it.
OCTAVE, SLURRED_FROM = 12, (12, 7, 5)
MAJOR = (0, 2, 4, 5, 7, 9, 11)
TRIAD = (0, 4, 7)
# Lengths of one beat, or two, of the other rhythms, and how many notes later a line begins.
Beats = tuple[tuple[Fraction, tuple[int, int]], ...]
PLAIN = (1, 1)
THIRD, SIXTH = Fraction(1, 3), Fraction(1, 6)
TRIPLETS: Beats = ((THIRD, TRIPLET),) * 3
SEXTUPLETS: Beats = ((SIXTH, SEXTUPLET),) * 6
RHYTHMS: tuple[tuple[str, Beats, int], ...] = (
    ("dotted, long first", ((Fraction(3, 4), PLAIN), (SIXTEENTH, PLAIN)), 0),
    ("dotted, short first", ((SIXTEENTH, PLAIN), (Fraction(3, 4), PLAIN)), 0),
    ("in triplets", TRIPLETS, 0),
    ("in triplets, a note later", TRIPLETS, 1),
    ("in triplets, two notes later", TRIPLETS, 2),
    ("a sextuplet first", SEXTUPLETS + TRIPLETS * 3, 0),
    ("a sextuplet in the middle", TRIPLETS + SEXTUPLETS + TRIPLETS * 2, 0),
    ("a sextuplet last", TRIPLETS * 3 + SEXTUPLETS, 0),
    ("swung", ((2 * THIRD, TRIPLET), (THIRD, TRIPLET)), 0),
)


def drills(material: Material) -> list[Drill]:
    """All drills that can be made; of one note those for a note, of more those for the way between, too."""
    makers: list[Callable[[Material], Iterator[Drill]]] = [
        _long_tones,
        _attacks,
        _slurs,
        _trills,
        _loops,
        _scales,
        _rhythms,
        _add_a_note,
        _through_keys,
        _octaves,
        _colours,
        _matching,
        _stones,
    ]
    own = {note.pitch.midi for note in material.notes}
    return [
        drill
        for maker in makers
        for drill in maker(material)
        if all(note.written_pitch is None or _allowed(material, own, note) for note in drill.passage)
    ]


def _allowed(material: Material, own: set[int], note: Note) -> bool:
    return note.written_pitch is not None and (
        note.written_pitch.midi in own or material.within(note.written_pitch.midi)
    )


def _drill(material: Material, kind: Kind, name: str, purpose: str, sections: Sequence[Section]) -> Drill:
    return Drill(kind, name, purpose, written(sections, material, name))


def _below(material: Material, semitones: int) -> Pitch | None:
    """The note so far below the highest one, spelled by the key; None where a drill may not go there."""
    midi = material.highest.pitch.midi - semitones
    return spell(midi, material.fifths) if material.within(midi) else None


def _long_tones(material: Material) -> Iterator[Drill]:
    """Up to the note by the steps of the key, each held."""
    top = material.highest.pitch
    up = [p for p in _key_scale(material.fifths, top.midi - OCTAVE, top.midi - 1) if material.within(p.midi)]
    notes = [tone(material, pitch, WHOLE) for pitch in (*up, top)]
    if len(notes) > 1:
        yield _drill(
            material,
            Kind.LONG_TONES,
            f"Long tones up to {top}",
            "One steady pitch on each, soft to loud and back, before it is asked for in time.",
            [Section((_marked(notes[0], dynamic="p"), *notes[1:]), material.fifths, "soft to loud and back")],
        )


def _attacks(material: Material) -> Iterator[Drill]:
    """After a rest, ever softer."""
    top = material.highest
    notes: list[Note] = []
    for mark in ("mf", "p", "pp"):
        for n, quarters in enumerate((QUARTER, QUARTER)):
            begun = tone(material, top.pitch, quarters, top.fingering, dynamic="" if n else mark)
            notes += [rest(QUARTER), begun]
        notes += [rest(HALF), tone(material, top.pitch, HALF, top.fingering)]
    yield _drill(
        material,
        Kind.ATTACKS,
        f"{top.pitch} after a rest, ever softer",
        "It is to speak at once, out of nothing: hear it before the tongue lets go.",
        [Section(tuple(notes), material.fifths)],
    )


def _slurs(material: Material) -> Iterator[Drill]:
    """From below up to the note and back, under one slur."""
    top = material.highest
    notes: list[Note] = []
    for semitones in SLURRED_FROM:
        low = _below(material, semitones)
        if low is not None:
            there = tone(material, top.pitch, QUARTER, top.fingering)
            back = tone(material, low, QUARTER)
            notes += [*slurred([back, there, back, there]), tone(material, low, HALF), rest(HALF)]
    if notes:
        yield _drill(
            material,
            Kind.SLURS,
            f"Slurs up to {top.pitch}",
            "The air goes on while the register changes; no push, no bite.",
            [Section(tuple(notes), material.fifths)],
        )


def _trills(material: Material) -> Iterator[Drill]:
    """To and fro, from quarters to sixteenths, written out."""
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
        for length, tuplet in ((QUARTER, PLAIN), (EIGHTH, PLAIN), (THIRD, TRIPLET), (SIXTEENTH, PLAIN)):
            turns = [one, other] * (int(WHOLE / length) // 2)
            notes += slurred([tone(material, s.pitch, length, s.fingering, tuplet=tuplet) for s in turns])
        notes.append(tone(material, one.pitch, WHOLE, one.fingering))
        yield _drill(
            material,
            Kind.TRILL,
            name,
            "Slowly at first, so that both hands learn one motion; stop where it grows uneven.",
            [Section(tuple(notes), material.fifths)],
        )


def _way(apart: int) -> str:
    return "above" if apart > 0 else "below"


def _loops(material: Material) -> Iterator[Drill]:
    """Five notes of every key that has the note, round and round."""
    here = material.highest.pitch
    sections = []
    for fifths in _keys_of(here.midi):
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
            words = f"{_major(fifths)} major"
            sections.append(Section((*slurred(round_), *slurred(round_), last), fifths, words))
    if sections:
        yield _drill(
            material,
            Kind.LOOPS,
            f"Five-note loops with {here}",
            "The note among its neighbours in every key that has it; each key until it is even.",
            sections,
        )


def _up(degree: int) -> int:
    """Semitones of a degree of the major scale above its keynote."""
    octaves, step = divmod(degree, 7)
    return 12 * octaves + MAJOR[step]


def _scales(material: Material) -> Iterator[Drill]:
    """Scales and arpeggios up to the note and back."""
    top = material.highest.pitch
    runs, chords = [], []
    for fifths in _keys_of(top.midi)[:KEYS_MOST]:
        keynote, words = 7 * fifths % 12, f"{_major(fifths)} major"
        up = [
            pitch for pitch in _key_scale(fifths, top.midi - OCTAVE, top.midi) if material.within(pitch.midi)
        ]
        triad = [pitch for pitch in up if (pitch.midi - keynote) % 12 in TRIAD]
        if len(up) > 2:
            runs.append(Section(_there_and_back(material, up), fifths, words))
        if len(triad) > 2 and triad[-1].midi == top.midi:
            chords.append(Section(_there_and_back(material, triad), fifths, words))
    for kind, word, sections in ((Kind.SCALES, "Scales", runs), (Kind.ARPEGGIOS, "Arpeggios", chords)):
        if sections:
            yield _drill(
                material,
                kind,
                f"{word} up to {top}",
                "The note at the end of a line that is known, keys with few signs first.",
                sections,
            )


def _there_and_back(material: Material, up: Sequence[Pitch]) -> tuple[Note, ...]:
    line = [tone(material, pitch, EIGHTH) for pitch in (*up, *up[-2:0:-1])]
    return (*slurred(line), tone(material, up[0], QUARTER))


def _rhythms(material: Material) -> Iterator[Drill]:
    """The spot to and fro in other rhythms."""
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
        yield _drill(
            material,
            Kind.RHYTHM,
            f"The spot {name}",
            "Another note is long, another one quick: what was hidden by the rhythm comes out.",
            [Section(tuple(notes), material.fifths)],
        )


def _to_and_fro(material: Material) -> list[Served]:
    """The notes of the spot forwards and back, so that it goes round without a leap of its own."""
    notes = material.notes[:REPEATED_MOST]
    plain = [notes[0], *(b for a, b in pairwise(notes) if a.pitch.midi != b.pitch.midi)]
    return [*plain, *plain[-2:0:-1]]


def _add_a_note(material: Material) -> Iterator[Drill]:
    """Two notes, three, four: from the first on, and from the last back."""
    notes = material.notes[:ADDED_MOST]
    if len(notes) < 3:
        return
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
        yield _drill(
            material,
            Kind.ADD_A_NOTE,
            f"Add a note, {name}",
            "On to the next bar only when this one is clean three times in a row.",
            sections,
        )


def _through_keys(material: Material) -> Iterator[Drill]:
    """The spot in every key, by half steps and by fifths."""
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
            yield _drill(
                material,
                Kind.THROUGH_KEYS,
                f"The spot through the keys, {name}",
                "What the ear asks for, with other fingers each time; keys out of reach are left out.",
                sections,
            )


def _octaves(material: Material) -> Iterator[Drill]:
    """The spot in every octave within reach."""
    shifts = [s for s in range(-36, 37, OCTAVE) if s and _fits(material, s)]
    if len(material.notes) < 2 or not shifts:
        return
    order = sorted([*shifts, 0])
    sections = [section for shift in order if (section := _moved(material, shift))]
    yield _drill(
        material,
        Kind.OCTAVES,
        "The spot in every octave",
        "First where it is easy: the same tune, and the same ease higher up.",
        sections,
    )


def _fits(material: Material, shift: int) -> bool:
    return all(material.within(note.pitch.midi + shift) for note in material.notes)


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
    return Section(tuple(slurred(notes)), fifths, f"{_major(fifths)} major" if shift % 12 else "")


def _colours(material: Material) -> Iterator[Drill]:
    """Two fingerings of one note by turns."""
    here = material.highest
    for other in material.colours:
        notes: list[Note] = []
        for length in (QUARTER, EIGHTH, SIXTEENTH):
            turns = [here.fingering, other] * (int(WHOLE / length) // 2)
            notes += [tone(material, here.pitch, length, fingering) for fingering in turns]
        notes.append(tone(material, here.pitch, WHOLE, here.fingering))
        yield _drill(
            material,
            Kind.COLOURS,
            f"Two colours of {here.pitch}",
            "One pitch, two tones: the colour is to change, not the height.",
            [Section(tuple(notes), material.fifths)],
        )


def _matching(material: Material) -> Iterator[Drill]:
    """A note in its usual fingering against the same pitch as a partial of a lower one."""
    here = material.highest
    for harmonic in material.harmonics:
        two = [
            tone(material, here.pitch, WHOLE, harmonic),
            tone(material, here.pitch, WHOLE, here.fingering),
        ]
        yield _drill(
            material,
            Kind.MATCHING,
            f"{here.pitch} as an overtone, then as usual",
            "Match pitch and tone of the second to the first: what the throat does is the same.",
            [Section((*two, *slurred([_short(note) for note in two * 2])), material.fifths)],
        )


def _short(note: Note) -> Note:
    return _marked(note, quarters=HALF)


def _stones(material: Material) -> Iterator[Drill]:
    """To the fingering of the note, one touch at a time."""
    if len(material.stones) < 3:
        return
    notes = [tone(material, pitch, HALF, touches) for pitch, touches in material.stones]
    yield _drill(
        material,
        Kind.STONES,
        f"Stepping stones to {material.highest.pitch}",
        "One touch changes at a time, and each step is let speak before the next.",
        [Section(tuple(slurred(notes)), material.fifths)],
    )


def _marked(note: Note, **values: object) -> Note:
    return replace(note, **values)  # type: ignore[arg-type]


def _keys_of(midi: int) -> list[int]:
    """Major keys that hold a note, those with the fewest signs first, sharps before flats."""
    keys = [fifths for fifths in range(-5, 7) if (midi - 7 * fifths) % 12 in MAJOR]
    return sorted(keys, key=lambda fifths: (abs(fifths), fifths < 0))


def _major(fifths: int) -> str:
    return tonic_name(_tonic(fifths))


def _tonic(fifths: int) -> str:
    return next(tonic for tonic in TONICS if tonic_fifths(tonic) == fifths)


def _key_scale(fifths: int, low: int, high: int) -> list[Pitch]:
    """The notes of a major key from one semitone to another."""
    return scale(_tonic(fifths), "major", spell(low), spell(high)) if low < high else []


def _in_key(midi: int, fifths: int) -> Pitch:
    """A note of a major key, spelled as the key does."""
    return scale(_tonic(fifths), "major", spell(midi), spell(midi))[0]
