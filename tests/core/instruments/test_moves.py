import pytest
from hypothesis import given
from hypothesis import strategies as st

from catalogue import shipped
from core.instruments.fingering import parse_fingering
from core.instruments.moves import Action, move_between
from core.instruments.naming import Naming

ALTO = shipped.instrument("alto-saxophone")
ENTRIES = shipped.catalogue("alto-saxophone").entries
fingerings = st.sampled_from([entry.fingering for entry in ENTRIES])

SENTENCES = {
    "same": ("L1", "L1", "Nothing moves."),
    "open to open": ("open", "open", "Nothing moves."),
    "one finger": ("L1", "L1 L2", "Left hand: middle finger presses."),
    "bis to B slides": ("L1 bis", "L1", "Left hand: index finger lets go of bis."),
    "B to bis slides": ("L1", "L1 bis", "Left hand: index finger adds bis."),
    "front F to the stack": (
        "frontF L2",
        "L1 L2",
        "Left hand: index finger rolls from front F to first touch.",
    ),
    "little finger table": (
        "L1 L2 L3 G#",
        "L1 L2 L3 lowB",
        "Left hand: little finger slides from G-sharp to low B.",
    ),
    "a palm rolls on and keeps": ("palmD", "palmD palmEb", "Left hand: palm presses palm E-flat."),
    "other hand stays": (
        "L1 L2 L3 | R1 R2 R3 Eb",
        "L1 L2 L3 | R1 R2 R3 lowC",
        "Left hand stays. Right hand: little finger slides from low E-flat to low C.",
    ),
    "across the break": (
        "L2",
        "octave L1 L2 L3 | R1 R2 R3",
        "Left hand: thumb presses octave touch, index and ring fingers press. "
        "Right hand: index, middle and ring fingers press.",
    ),
    "roll to half": ("L1 L2", "L1/2 L2", "Left hand: index finger rolls to a half hole."),
}


def test_a_move_is_said_as_the_teacher_names_touches():
    before, after = (parse_fingering(touches, ALTO) for touches in ("palmD | R3", "palmD palmEb | sideF#"))
    said = {naming: move_between(before, after, ALTO, naming).sentence for naming in Naming}
    assert said[Naming.EACH_HAND] == (
        "Left hand: palm presses palm E-flat. "
        "Right hand: ring finger slides from third touch to side F-sharp."
    )
    assert "slides from sixth touch to" in said[Naming.THROUGH]
    assert "palm presses palm 2." in said[Naming.NUMBERED]


@pytest.mark.parametrize(("before", "after", "said"), SENTENCES.values(), ids=SENTENCES.keys())
def test_sentence(before, after, said):
    move = move_between(parse_fingering(before, ALTO), parse_fingering(after, ALTO), ALTO)
    assert move.sentence == said


OTHERS = {
    "one thumb, a touch besides": (
        *("b-flat-clarinet", "T L1 L2", "reg T L1 L2"),
        "Left hand: thumb adds register touch.",
    ),
    "over the break": (
        *("b-flat-clarinet", "A", "reg T L1 L2 L3 | R1 R2 R3 RE"),
        "Left hand: thumb presses register touch and thumb hole, index finger rolls from throat A to "
        "first hole, middle and ring fingers press. Right hand: index, middle and ring fingers press, "
        "little finger presses right E/B.",
    ),
    "a half hole and back": (
        *("b-flat-clarinet", "reg T L1/2 L2 L3 | R1 R2", "reg T L1 L2 L3 | R1 R2"),
        "Left hand: index finger rolls to the full hole. Right hand stays.",
    ),
    "a flick": (
        *("bassoon", "W L1/2 L2 L3 | R1 R2 R3", "A! L1 L2 L3 | R1 R2"),
        "Left hand: thumb lifts whisper and flicks A vent at the attack, index finger rolls to the full "
        "hole. Right hand: ring finger lifts.",
    ),
    "after a flick the thumb is off": (
        *("bassoon", "A! L1 L2 L3 | R1 R2", "C! L1 L2 L3 | R1"),
        "Left hand: thumb flicks C vent at the attack. Right hand: middle finger lifts.",
    ),
    "a thumb over four touches": (
        *("bassoon", "lowD lowC lowB lowBb L1 L2 L3 | E R1 R2 R3 F", "lowD L1 L2 L3 | E R1 R2 R3 F"),
        "Left hand: thumb lets go of low C, low B and low B-flat. Right hand stays.",
    ),
    "a thumb slides": (
        *("bassoon", "W L1 L2 L3 | thumbF# R1 R2 R3 F", "W L1 L2 L3 | Bb R1 R2"),
        "Left hand stays. Right hand: thumb slides from thumb F-sharp to right thumb B-flat, ring finger "
        "lifts, little finger lifts F touch.",
    ),
    "a little finger between its touches": (
        *("oboe", "L1 L2 L3 | R1 R2 R3 C", "L1 L2 L3 | R1 R2 R3 Eb"),
        "Left hand stays. Right hand: little finger slides from low C to right E-flat.",
    ),
    "half hole with the side of the finger": (
        *("oboe", "L1/2 L2 L3 | R1 R2 R3", "side8 L1 L2"),
        "Left hand: index finger rolls to the full hole and adds side octave, ring finger lifts. "
        "Right hand: index, middle and ring fingers lift.",
    ),
}


@pytest.mark.parametrize(("model", "before", "after", "said"), OTHERS.values(), ids=OTHERS.keys())
def test_sentence_of_the_other_families(model, before, after, said):
    instrument = shipped.instrument(model)
    move = move_between(parse_fingering(before, instrument), parse_fingering(after, instrument), instrument)
    assert move.sentence == said


@given(fingerings, fingerings)
def test_a_move_accounts_for_every_touch(before, after):
    moves = move_between(before, after, ALTO).fingers
    kept = {touch for move in moves for touch in move.kept}
    left = {touch for move in moves for touch in move.left}
    taken = {touch for move in moves for touch in move.taken}
    assert kept | left == before.touches
    assert kept | taken == after.touches
    assert (kept - left) - taken == before.touches & after.touches


@given(fingerings, fingerings)
def test_the_way_back_is_the_move_turned_round(before, after):
    there, back = move_between(before, after, ALTO), move_between(after, before, ALTO)
    turned = {Action.LIFTS: Action.PRESSES, Action.ADDS: Action.LETS_GO}
    turned |= {back: there for there, back in turned.items()}
    for move, again in zip(there.fingers, back.fingers, strict=True):
        assert (move.left, move.taken) == (again.taken, again.left)
        rolling = move.left and move.taken and move.finger.digit in ("palm", "side")
        assert again.action is (move.action if rolling else turned.get(move.action, move.action))


def test_marks_for_the_drawing():
    before, after = parse_fingering("frontF L2", ALTO), parse_fingering("L1 L2 L3", ALTO)
    assert move_between(before, after, ALTO).touches == {
        "frontF": "slides-from",
        "L1": "slides-to",
        "L2": "stays",
        "L3": "presses",
    }
