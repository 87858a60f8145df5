"""What stays down: chosen where a finger needs it again, and not where it would only be in the way.

Lines and fingerings were written before the rule was; where two are taught both stand.
"""

import pytest

from catalogue.in_hand import moves_of
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.explain import chosen, reason
from core.routes.solve import solve
from core_shapes import in_hand_of

ALTO, CLARINET, OBOE = "alto-saxophone", "b-flat-clarinet", "oboe"
LINES = [
    # bis, in flats: the index finger stays on it.
    (
        ALTO,
        116,
        "(_B A _B G _B A)",
        "Bb4-bis A4-plain+bis Bb4-bis G4-plain+bis Bb4-bis A4-plain|A4-plain+bis",
    ),
    (
        *(ALTO, 132, "(_B F D F _B d)"),
        "Bb4-bis F4-plain+bis D4-plain+bis F4-plain+bis Bb4-bis D5-plain|D5-plain+bis",
    ),
    # Not where B natural is next, nor where there is no B-flat at all.
    (ALTO, 116, "(B A G A B A)", "B4-plain A4-plain G4-plain A4-plain B4-plain A4-plain"),
    (ALTO, 132, "(F D F A d A)", "F4-plain D4-plain F4-plain A4-plain D5-plain A4-plain"),
    # It goes up where it is needed no more, and stays off where it never was.
    (ALTO, 100, "(_B A G F E D)", "Bb4-bis|Bb4-side A4-plain G4-plain F4-plain E4-plain D4-plain"),
    (ALTO, 100, "(B, ^C D E F G)", "B3-low Cs4-low D4-plain E4-plain F4-plain G4-plain"),
    # The right F/C stays while the left hand goes between E/B and none.
    (CLARINET, 116, "(B c B c)", "B4-left+RF C5-right B4-left+RF C5-right"),
    (CLARINET, 116, "(B ^c B ^c)", "B4-left Cs5-right B4-left Cs5-right"),
    # The right hand stays down over throat notes before the break.
    (CLARINET, 132, "(A c A c)", "A4-throat+R1+R2+R3+RF C5-right A4-throat+R1+R2+R3+RF C5-right"),
    (CLARINET, 132, "(A G A F)", "A4-throat G4-open A4-throat F4-plain"),
    # Low B with right C kept from low C; and not where D needs it open.
    (OBOE, 100, "(B, C B, C)", "B3-low+C C4-low B3-low+C C4-low"),
    (OBOE, 100, "(B, D B, D)", "B3-low D4-plain B3-low D4-plain"),
]


@pytest.mark.parametrize(("model", "tempo", "line", "expected"), LINES)
def test_a_finger_stays_where_it_is_needed_again(model, tempo, line, expected):
    in_hand = in_hand_of(model)
    passage = read_abc(f"L:1/16\nM:4/4\nK:C\n{line}|").passage
    table = solve(sounding_events(passage, float(tempo)), in_hand, moves_of(in_hand.catalogue))
    found = [chosen(table, note).entry.id for note in range(len(table.problem.events))]
    assert all(one in wanted.split("|") for one, wanted in zip(found, expected.split(), strict=True)), found


def test_the_same_fingering_without_what_stays_down_is_no_rival():
    in_hand = in_hand_of(ALTO)
    events = sounding_events(read_abc("L:1/8\nM:4/4\nK:C\n(A _B A _B)|").passage, 100.0)
    table = solve(events, in_hand, moves_of(in_hand.catalogue))
    for note in range(len(events)):
        why, here = reason(table, note), chosen(table, note).entry
        if why.rival is None:
            continue
        rival = table.problem.given.offered[note].candidates[why.rival].entry
        assert not rival.fingering.touches ^ here.fingering.touches <= {"bis", "Eb", "G#"}
