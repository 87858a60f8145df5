"""What each finger does between two fingerings, as a teacher would tell it; written before looking."""

import pytest

from catalogue import shipped
from core.instruments.fingering import parse_fingering
from core.instruments.moves import move_between

ALTO, CLARINET, OBOE, BASSOON = "alto-saxophone", "b-flat-clarinet", "oboe", "bassoon"
INDEX, THUMB, LITTLE = "left index finger", "left thumb", "left little finger"
WRITTEN = [
    # A thumb or an index finger that comes to a neighbour, which it could hold besides, rolls over to it.
    (BASSOON, "W L1", "A L1 L2 L3 R1 R2", THUMB, "rolls"),
    (BASSOON, "A L1 L2 L3 R1 R2", "C L1 L2 L3", THUMB, "rolls"),
    (BASSOON, "C L1 L2 L3", "D L1 L2", THUMB, "rolls"),
    (BASSOON, "W L1 L2 L3 E R1 R2 R3 F", "lowD L1 L2 L3 E R1 R2 R3 F", THUMB, "rolls"),
    (CLARINET, "T", "A reg", THUMB, "rolls"),
    (CLARINET, "T L1", "A", INDEX, "rolls"),
    (CLARINET, "G#", "A", INDEX, "rolls"),
    (ALTO, "octave L1 L2", "octave frontF L2", INDEX, "rolls"),
    # To one that is not beside it, it slides.
    (BASSOON, "W L1 L2 L3", "C L1 L2 L3", THUMB, "slides"),
    (BASSOON, "A L1 L2 L3 R1 R2", "D L1 L2", THUMB, "slides"),
    (BASSOON, "L1 L2 L3 thumbF# R1 R2 R3 F", "L1 L2 L3 E R1 R2 R3 F", "right thumb", "slides"),
    (OBOE, "L1 L2 L3 R1 R2 R3", "L1 L2 L3 R1 R2 F", "right ring finger", "slides"),
    (OBOE, "L1 L2 L3 leftF R1 R2", "L1 L2 L3 G#", LITTLE, "slides"),
    (CLARINET, "T reg L1 L2 L3 LE R1 R2 R3", "T reg L1 L2 L3 LF R1 R2 R3", LITTLE, "slides"),
    # One that stays where it is and takes another touch adds it; giving it up it lets go of a part.
    (OBOE, "L1 L2", "side8 L1 L2", INDEX, "adds"),
    (OBOE, "thumb8 L1 L2 L3", "side8 L1 L2", INDEX, "adds"),
    (OBOE, "side8 L1 L2", "L1 L2", INDEX, "lets go"),
    (ALTO, "L1", "L1 bis", INDEX, "adds"),
    (ALTO, "L1 bis", "L1", INDEX, "lets go"),
    (BASSOON, "W L1 L2 L3", "W C# L1 L2 L3", THUMB, "adds"),
    (BASSOON, "lowD L1 L2 L3 E R1 R2 R3 F", "lowC lowD L1 L2 L3 E R1 R2 R3 F", THUMB, "adds"),
    (CLARINET, "T L1 L2 L3", "T reg L1 L2 L3", THUMB, "adds"),
    (CLARINET, "T reg L1 L2 L3", "T L1 L2 L3", THUMB, "lets go"),
    (BASSOON, "C D L1 L2", "C L1 L2", THUMB, "lets go"),
    # Palms and the side of the hand are opened by different places of the hand: they press.
    (ALTO, "octave palmD", "octave palmD palmEb", "left palm", "presses"),
    (ALTO, "octave palmD palmEb sideE", "octave palmD palmEb", "right side", "lifts"),
    # Half a hole from the full one is a finger that tilts; from the air it has to find it.
    (OBOE, "L1 L2 L3 R1 R2 R3", "L1/2 L2 L3 R1 R2 R3", INDEX, "tilts"),
    (OBOE, "L1/2 L2 L3 R1 R2 R3", "thumb8 L1 L2 L3 R1 R2", INDEX, "tilts"),
    (BASSOON, "W", "W L1/2 L2 L3 R1 R2 R3", INDEX, "finds"),
    (BASSOON, "W L1/2 L2 L3 R1 R2 R3", "W", INDEX, "lifts"),
    # What is only touched at the attack.
    (BASSOON, "W L1", "A! L1 L2 L3 R1 R2", THUMB, "flicks"),
    (BASSOON, "L1 L2 L3", "C! L1 L2 L3", THUMB, "flicks"),
    # The plain ones.
    (ALTO, "L1 L2", "L1", "left middle finger", "lifts"),
    (ALTO, "L1", "octave L1 L2 L3 R1 R2 R3", THUMB, "presses"),
    (OBOE, "thumb8 L1 L2 L3", "side8 L1 L2", THUMB, "lifts"),
    (CLARINET, "T L1", "L1", THUMB, "lifts"),
    (ALTO, "L1 L2", "L1", INDEX, "stays"),
]


@pytest.mark.parametrize(("model", "before", "after", "finger", "action"), WRITTEN)
def test_a_finger_does_what_a_teacher_would_say(model, before, after, finger, action):
    instrument = shipped.catalogue(model).instrument
    one, other = (parse_fingering(text, instrument) for text in (before, after))
    did = {move.finger.name: move.action.value for move in move_between(one, other, instrument).fingers}
    assert did[finger] == action
