"""Truth tables of the linkages of clarinets, oboe and bassoon; the saxophones' are in test_keywork.

Each table says what the keywork gives first: the written pitch of the plain first register.
"""

import pytest

from core.instruments.fingering import parse_fingering
from core.instruments.keywork import may_sound, mechanism, unholdable, usual_note
from studio import shipped

CLARINET = {
    "bell": ("T L1 L2 L3 | R1 R2 R3 RE", "E3"),
    "left E/B closes the F/C pad too": ("T L1 L2 L3 LE | R1 R2 R3", "E3"),
    "F/C": ("T L1 L2 L3 | R1 R2 R3 RF", "F3"),
    "left F/C": ("T L1 L2 L3 LF | R1 R2 R3", "F3"),
    "F-sharp/C-sharp opens its own pad": ("T L1 L2 L3 | R1 R2 R3 RF#", "F#3"),
    "left F-sharp/C-sharp": ("T L1 L2 L3 LF# | R1 R2 R3", "F#3"),
    "F-sharp over left E": ("T L1 L2 L3 LE | R1 R2 R3 RF#", "F#3"),
    "all six": ("T L1 L2 L3 | R1 R2 R3", "G3"),
    "A-flat": ("T L1 L2 L3 | R1 R2 R3 Ab", "G#3"),
    "left A-flat": ("T L1 L2 L3 LAb | R1 R2 R3", "G#3"),
    "R1 R2": ("T L1 L2 L3 | R1 R2", "A3"),
    "R1": ("T L1 L2 L3 | R1", "Bb3"),
    "fork: the ring of R2 closes the pad above": ("T L1 L2 L3 | R2", "B3"),
    "right sliver": ("T L1 L2 L3 | R1 sliverB", "B3"),
    "left hand": ("T L1 L2 L3", "C4"),
    "left C-sharp/G-sharp": ("T L1 L2 L3 C#", "C#4"),
    "L1 L2": ("T L1 L2", "D4"),
    "side E-flat": ("T L1 L2 | sideEb", "Eb4"),
    "left sliver": ("T L1 L2 sliverEb", "Eb4"),
    "one and one, by the bridge": ("T L1 | R1", "Eb4"),
    "one and two": ("T L1 | R2", "Eb4"),
    "L1": ("T L1", "E4"),
    "thumb alone": ("T", "F4"),
    "first finger without thumb": ("L1", "F#4"),
    "side F-sharp": ("T | sideEb sideF#", "F#4"),
    "open": ("open", "G4"),
    "throat G-sharp": ("G#", "G#4"),
    "throat A": ("A", "A4"),
    "side B-flat": ("A | sideBb", "Bb4"),
    "resonance changes nothing": ("A L2 L3 | R2 R3", "A4"),
}
OBOE = {
    "bell": ("L1 L2 L3 lowBb | R1 R2 R3", "Bb3"),
    "low B needs no right C": ("L1 L2 L3 lowB | R1 R2 R3", "B3"),
    "low C": ("L1 L2 L3 | R1 R2 R3 C", "C4"),
    "low C-sharp closes D by itself": ("L1 L2 L3 | R1 R2 R3 C#", "C#4"),
    "all six": ("L1 L2 L3 | R1 R2 R3", "D4"),
    "right E-flat": ("L1 L2 L3 | R1 R2 R3 Eb", "Eb4"),
    "left E-flat": ("L1 L2 L3 leftEb | R1 R2 R3", "Eb4"),
    "left E-flat over low C": ("L1 L2 L3 leftEb | R1 R2 R3 C", "Eb4"),
    "R1 R2": ("L1 L2 L3 | R1 R2", "E4"),
    "right F": ("L1 L2 L3 | R1 R2 F", "F4"),
    "left F": ("L1 L2 L3 leftF | R1 R2", "F4"),
    "forked F": ("L1 L2 L3 | R1 R3", "F4"),
    "R1": ("L1 L2 L3 | R1", "F#4"),
    "articulated: R1 holds G-sharp shut": ("L1 L2 L3 G# | R1", "F#4"),
    "left trill touch": ("L1 leftTrill", "C#5"),
    "right trill touch": ("L1 | rightTrill R1", "D5"),
    "left hand": ("L1 L2 L3", "G4"),
    "G-sharp": ("L1 L2 L3 G#", "G#4"),
    "L1 L2": ("L1 L2", "A4"),
    "R1 raises A": ("L1 L2 | R1", "Bb4"),
    "L1": ("L1", "B4"),
    "R1 raises B": ("L1 | R1", "C5"),
    "R1 raises neither under L2 L3": ("L1 L2 L3 | R1", "F#4"),
}
BASSOON = {
    "bell: four touches of the left thumb": ("lowD lowC lowB lowBb L1 L2 L3 | E R1 R2 R3 F", "Bb1"),
    "low B": ("lowD lowC lowB L1 L2 L3 | E R1 R2 R3 F", "B1"),
    "low C": ("lowD lowC L1 L2 L3 | E R1 R2 R3 F", "C2"),
    "low C-sharp by the little finger": ("lowD lowC L1 L2 L3 lowC# | E R1 R2 R3 F", "C#2"),
    "low D": ("lowD L1 L2 L3 | E R1 R2 R3 F", "D2"),
    "low E-flat": ("lowD L1 L2 L3 lowEb | E R1 R2 R3 F", "Eb2"),
    "E touch": ("L1 L2 L3 | E R1 R2 R3 F", "E2"),
    "F touch": ("W L1 L2 L3 | R1 R2 R3 F", "F2"),
    "thumb F-sharp over F": ("W L1 L2 L3 | thumbF# R1 R2 R3 F", "F#2"),
    "little-finger F-sharp closes F too": ("W L1 L2 L3 | R1 R2 R3 F#", "F#2"),
    "all six": ("W L1 L2 L3 | R1 R2 R3", "G2"),
    "A-flat": ("W L1 L2 L3 | R1 R2 R3 Ab", "G#2"),
    "thumb A-flat": ("W L1 L2 L3 | thumbAb R1 R2 R3", "G#2"),
    "R1 R2": ("W L1 L2 L3 | R1 R2", "A2"),
    "right thumb B-flat": ("W L1 L2 L3 | Bb R1 R2", "Bb2"),
    "R1": ("W L1 L2 L3 | R1", "B2"),
    "left hand": ("W L1 L2 L3", "C3"),
    "thumb C-sharp": ("W C# L1 L2 L3", "C#3"),
    "thumb C-sharp with low D": ("W C# lowD L1 L2 L3", "C#3"),
    "L1 L2": ("W L1 L2", "D3"),
    "L1": ("W L1", "E3"),
    "whisper alone": ("W", "F3"),
}
BASS = {
    "low E-flat": ("T L1 L2 L3 | R1 R2 R3 REb", "Eb3"),
    "low D": ("T L1 L2 L3 | lowD R1 R2 R3 REb", "D3"),
    "low C-sharp": ("T L1 L2 L3 | lowC# R1 R2 R3 REb", "C#3"),
    "low C": ("T L1 L2 L3 | lowC R1 R2 R3 REb", "C3"),
    "E as on the clarinet": ("T L1 L2 L3 | R1 R2 R3 RE", "E3"),
}
BARITONE = {
    "low A": ("lowA L1 L2 L3 lowBb | R1 R2 R3 lowC", "A3"),
    "low B-flat": ("L1 L2 L3 lowBb | R1 R2 R3 lowC", "Bb3"),
}
TABLES = {
    **dict.fromkeys(("b-flat-clarinet", "a-clarinet", "e-flat-clarinet"), CLARINET),
    "bass-clarinet": CLARINET | BASS | {"bell": BASS["E as on the clarinet"]},
    "oboe": OBOE,
    "english-horn": {name: row for name, row in OBOE.items() if name != "bell"},
    "bassoon": BASSOON,
    "baritone-saxophone": BARITONE,
}
ROWS = [(model, *row, name) for model, table in TABLES.items() for name, row in table.items()]


@pytest.mark.parametrize(
    ("model", "touches", "sounds"), [row[:3] for row in ROWS], ids=[f"{row[0]}: {row[3]}" for row in ROWS]
)
def test_linkage(model, touches, sounds):
    instrument = shipped.instrument(model)
    fingering = parse_fingering(touches, instrument)
    assert mechanism(instrument, fingering).plain.ascii == sounds
    assert unholdable(instrument, fingering) == []


VENTS = [
    ("b-flat-clarinet", "T L1", ()),
    ("b-flat-clarinet", "reg T L1", ("register vent",)),
    ("b-flat-clarinet", "reg T L1/2 L2 L3 | R1 R2", ("register vent", "first hole")),
    ("bass-clarinet", "reg T L1 L2 L3", ("upper register vent",)),
    ("bass-clarinet", "reg T L1 L2 L3 | R1 R2 R3", ("lower register vent",)),
    ("oboe", "thumb8 L1 L2 L3", ("first octave vent",)),
    ("oboe", "thumb8 side8 L1 L2", ("second octave vent",)),
    ("oboe", "L1/2 L2 L3 | R1 R2 R3", ("first hole",)),
    ("bassoon", "W L1", ()),
    ("bassoon", "L1 L2 L3", ("crook vent",)),
    ("bassoon", "L1 L2 L3 | E R1 R2 R3 F", ()),
    ("bassoon", "A! L1 L2 L3 | R1 R2", ("crook vent",)),
    ("bassoon", "A L1 L2 L3 | R1 R2", ("crook vent", "A vent")),
    ("bassoon", "W L1/2 L2 L3 | R1 R2 R3", ("first hole",)),
]


@pytest.mark.parametrize(("model", "touches", "vents"), VENTS)
def test_vents(model, touches, vents):
    instrument = shipped.instrument(model)
    assert mechanism(instrument, parse_fingering(touches, instrument)).open_vents == vents


def test_the_resonance_vent_of_the_forked_f_is_pressed_by_nobody_and_may_be_missing():
    oboe = shipped.instrument("oboe")
    forked = parse_fingering("L1 L2 L3 | R1 R3", oboe)
    assert "forked F vent" in mechanism(oboe, forked).open_holes
    assert "forked F vent" not in mechanism(oboe, forked, fitted=()).open_holes
    assert "forked F vent" not in mechanism(oboe, parse_fingering("L1 L2 L3 | R1 R2 R3", oboe)).open_holes


HANDS = [
    ("b-flat-clarinet", "| R3 sliverB", 1),
    ("b-flat-clarinet", "L3 sliverEb", 1),
    ("b-flat-clarinet", "L1 A", 1),
    ("b-flat-clarinet", "A G#", 0),
    ("b-flat-clarinet", "C# LE", 1),
    ("b-flat-clarinet", "| Ab RF", 1),
    ("b-flat-clarinet", "reg T", 0),
    ("b-flat-clarinet", "L1/2 L2/2", 1),
    ("oboe", "L1 side8", 0),
    ("oboe", "G# lowB", 1),
    ("oboe", "| R3 F", 1),
    ("oboe", "| Eb C", 1),
    ("bassoon", "lowD lowC lowB lowBb", 0),
    ("bassoon", "W C# lowD", 0),
    ("bassoon", "W lowC", 1),
    ("bassoon", "A C", 0),
    ("bassoon", "| Bb E", 1),
    ("bassoon", "| F Ab", 1),
]


@pytest.mark.parametrize(("model", "touches", "complaints"), HANDS)
def test_what_a_hand_can_hold(model, touches, complaints):
    instrument = shipped.instrument(model)
    assert len(unholdable(instrument, parse_fingering(touches, instrument))) == complaints


@pytest.mark.parametrize(
    ("model", "touches", "usual"),
    [
        ("alto-saxophone", "octave L1", "B5"),
        ("b-flat-clarinet", "reg T L1", "B5"),
        ("bassoon", "L1 L2 L3", "C4"),
        ("oboe", "side8 L1 L2", "A5"),
        ("oboe", "L1 L2", "A4"),
    ],
)
def test_the_register_follows_from_the_vents(model, touches, usual):
    instrument = shipped.instrument(model)
    assert usual_note(instrument, parse_fingering(touches, instrument)).ascii == usual


def test_a_clarinet_overblows_odd_partials_and_cones_all():
    clarinet, alto = shipped.instrument("b-flat-clarinet"), shipped.instrument("alto-saxophone")
    low_e = may_sound(clarinet, parse_fingering("T L1 L2 L3 | R1 R2 R3 RE", clarinet))
    assert sorted(midi - 52 for midi in low_e) == [0, 19, 28, 34]
    low_b_flat = may_sound(alto, parse_fingering("L1 L2 L3 lowBb | R1 R2 R3 lowC", alto))
    assert sorted(midi - 58 for midi in low_b_flat) == [0, 12, 19, 24, 28, 31, 34, 36]


def test_a_lifted_first_finger_is_a_vent_only_over_closed_holes():
    clarinet = shipped.instrument("b-flat-clarinet")
    over = mechanism(clarinet, parse_fingering("reg T L2 L3 | R1 R2", clarinet))
    assert (over.plain.ascii, over.tube.ascii) == ("F4", "A3")
    alone = mechanism(clarinet, parse_fingering("reg T", clarinet))
    assert alone.plain == alone.tube


BASS = {
    "a hole of its own": ("reg A", {"throatBb"}, "Bb4", ()),
    "without one the vent": ("reg A", set(), "A4", ("upper register vent",)),
    "the throat A alone": ("A", {"throatBb"}, "A4", ()),
    "the register touch alone": ("reg T", {"throatBb"}, "F4", ("upper register vent",)),
    "the lower vent with the right hand": (
        "reg T L1 L2 L3 | R1 R2 R3",
        {"throatBb"},
        "G3",
        ("lower register vent",),
    ),
}


@pytest.mark.parametrize(("touches", "fitted", "sounds", "vents"), BASS.values(), ids=BASS.keys())
def test_throat_b_flat_of_the_bass_clarinet(touches, fitted, sounds, vents):
    bass = shipped.instrument("bass-clarinet")
    read = mechanism(bass, parse_fingering(touches, bass), fitted)
    assert (read.plain.ascii, read.open_vents) == (sounds, vents)


@pytest.mark.parametrize(
    ("touches", "open_"),
    [
        ("| sideB", {"upper trill hole"}),
        ("| sideBb", {"side B-flat trill hole"}),
        ("| sideBb sideB", {"upper trill hole", "side B-flat trill hole"}),
        ("| sideF#", {"side F-sharp hole"}),
        ("| sideEb", {"side E-flat hole"}),
    ],
)
def test_each_side_touch_of_the_clarinet_opens_its_own_hole(touches, open_):
    clarinet = shipped.instrument("b-flat-clarinet")
    plain = mechanism(clarinet, parse_fingering("open", clarinet)).open_holes
    read = mechanism(clarinet, parse_fingering(touches, clarinet))
    assert set(read.open_holes) - set(plain) == open_
