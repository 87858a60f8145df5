"""The same touches for two notes of a route, and levers set for a while."""

from dataclasses import replace

from catalogue import shipped
from catalogue.in_hand import moves_of
from core.charts.entry import Confidence
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.explain import chosen
from core.routes.remarks import levers_set, same_touches
from core.routes.solve import solve
from core_shapes import in_hand_of

BASSOON = shipped.catalogue("bassoon").by_id


def test_a_lead_that_shares_its_touches_is_told_and_registers_are_not():
    lead = replace(BASSOON["G4-L2-L3-lowEb-R1-F"], note=BASSOON["A3-plain"].note, confidence=Confidence.LEAD)
    taught = BASSOON["G4-L2-L3-lowEb-R1-F"]
    (told,) = same_touches([taught, None, lead, taught])
    assert told.notes == (taught.note, lead.note)
    assert same_touches([BASSOON["C2-low"], BASSOON["D2-low"]]) == []
    assert same_touches([BASSOON["A2-plain+no-W"], BASSOON["A3-plain"]]) == []


def test_no_two_notes_of_a_tenor_scale_share_their_touches_untold():
    """Tenor register, where charts of leads had one set of touches for two notes."""
    in_hand = in_hand_of("bassoon")
    events = sounding_events(read_abc("L:1/8\nK:C clef=tenor\n_E=EF^FG^GA_B=Bc|").passage, 80.0)
    table = solve(events, in_hand, moves_of(in_hand.catalogue))
    taken = [chosen(table, note).entry for note in range(len(events))]
    assert len({entry.fingering for entry in taken}) == len(taken)


def test_a_lock_is_set_where_there_is_time_and_stays_for_the_low_notes():
    """Fast turns between low E and F: the thumb has nothing to do while the lock is on."""
    bassoon = in_hand_of("bassoon")
    locked = replace(bassoon, fitted=bassoon.fitted | {"lock"})
    line = "L:1/16\nQ:1/4=112\nK:C clef=bass\nz4 (C,,D,,E,,F,, C,,D,,E,,F,, C,,D,,E,,F,,) z4 (C D C D)|"
    for in_hand, expected in ((bassoon, []), (locked, [("lock", 0, 11)])):
        events = sounding_events(read_abc(line).passage)
        table = solve(events, in_hand, moves_of(in_hand.catalogue))
        taken = [chosen(table, note).entry for note in range(len(events))]
        found = levers_set(taken, in_hand.instrument)
        assert [(one.touch.name, one.first, one.last) for one in found] == expected
