"""What is particular about a student's hands bears on times and on what is offered."""

import pytest

from catalogue.in_hand import moves_of
from core.errors import InstrumentError
from core.instruments.hand import ANY_HAND, FINGERS, Hand
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.candidates import UNLEARNED
from core.routes.explain import chosen
from core.routes.hard_moves import closely
from core.routes.solve import solve
from core_shapes import in_hand_of


def table_of(model, abc, hand, tempo=100.0, **more):
    in_hand = in_hand_of(model, hand=hand)
    events = sounding_events(read_abc(abc).passage, tempo)
    return solve(events, in_hand, moves_of(in_hand.catalogue, hand), **more)


@pytest.mark.parametrize(
    ("hand", "line", "slower"),
    [
        (Hand(stiff=frozenset({"right index"})), "(G F)", True),
        (Hand(stiff=frozenset({"left little"})), "(G F)", False),
        (Hand(small=True), "(C _E)", True),
        (Hand(small=True), "(G F)", False),
    ],
)
def test_a_move_takes_longer_for_the_finger_concerned_and_no_other(hand, line, slower):
    abc = f"L:1/8\nK:C\n{line}|"
    plain, other = (closely(table_of("alto-saxophone", abc, one), 1) for one in (ANY_HAND, hand))
    assert (other.needed_s > plain.needed_s) == slower
    assert (other.move.stumble > plain.move.stumble) == slower


def test_half_holes_that_are_not_learned_are_left_while_there_is_another():
    abc = "L:1/4\nK:C\n^c'|"
    learned = table_of("b-flat-clarinet", abc, ANY_HAND)
    not_yet = table_of("b-flat-clarinet", abc, Hand(half_holes=False))
    assert not chosen(not_yet, 0).entry.fingering.half
    bars = {c.bar for c in not_yet.problem.given.offered[0].candidates if c.entry.fingering.half}
    assert bars == {UNLEARNED}
    half = next(c.entry.id for c in learned.problem.given.offered[0].candidates if c.entry.fingering.half)
    pinned = table_of("b-flat-clarinet", abc, Hand(half_holes=False), pins={"n1": half})
    assert chosen(pinned, 0).entry.id == half


def test_where_only_a_half_hole_is_known_it_is_taken():
    table = table_of("oboe", "L:1/4\nK:C\nd|", Hand(half_holes=False))
    assert chosen(table, 0) is not None


def test_hands_are_stored_and_read_again():
    for hand in (ANY_HAND, Hand(True, frozenset(FINGERS[:3]), False, False)):
        assert Hand.from_json(hand.to_json()) == hand
    assert ANY_HAND.to_json() == {}
    assert ANY_HAND.said == ()
    with pytest.raises(InstrumentError, match="stiff finger must be one of"):
        Hand(stiff=frozenset({"third"}))
