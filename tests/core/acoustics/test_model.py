"""The fitted models against what is known of their families: registers, vents, signs, sensitivities."""

import math
from dataclasses import replace
from statistics import median

import numpy as np
import pytest
from tests.core.acoustics.shipped_models import BASES, cents, heights_of_the_lowest, predicted

from catalogue import shipped
from core.acoustics.ensemble import Ensemble
from core.acoustics.impedance import Pieces, input_impedance
from core.acoustics.model import Model
from core.acoustics.peaks import find_peaks
from core.acoustics.prediction import SoundsAs
from core.acoustics.states import every_state
from core.instruments.fingering import Fingering, parse_fingering
from core.music.pitch import parse_pitch


@pytest.mark.parametrize("name", BASES)
def test_anchors_are_in_tune(name):
    model, chart = shipped.model(name), shipped.catalogue(name)
    entries = [chart.by_id[row] for row in shipped.split(name)["anchors"]]
    found = model.predict([(entry.fingering, entry.note) for entry in entries])
    off = [
        prediction.cents - (entry.tendency.cents if entry.tendency else 0)
        for entry, prediction in zip(entries, found, strict=True)
    ]
    assert np.sqrt(np.mean(np.square(off))) < 9
    assert all(prediction.partial == entry.partial for entry, prediction in zip(entries, found, strict=True))


def test_many_fingerings_together_are_each_by_itself():
    name = "oboe"
    together, entries = shipped.model(name), shipped.catalogue(name).entries[::9]
    asked = [(entry.fingering, entry.note) for entry in entries]
    alone = Model(Ensemble(shipped.instrument(name), shipped.geometries(name)))
    for one, found in zip(asked, together.predict(asked), strict=True):
        (single,) = alone.predict([one])
        assert (single is None) == (found is None)
        assert found is None or single.each == pytest.approx(found.each, abs=1e-6)


def test_each_at_its_own_frequencies_is_all_at_those():
    geometry = shipped.geometries("bassoon")[3]
    tube, model = geometry.tube(), shipped.model("bassoon")
    chart = shipped.catalogue("bassoon").entries[::11]
    rows = model.states([entry.fingering for entry in chart])[:, model.ensemble.order[3]]
    omega = 2 * np.pi * np.outer(np.linspace(80, 400, len(rows)), [0.9, 1.0, 1.3])
    own = Pieces(tube, geometry.air, omega).each(rows)
    for row, frequencies, found in zip(rows, omega, own, strict=True):
        direct = Pieces(tube, geometry.air, frequencies).all(row[None, :])[0]
        assert np.allclose(found, direct, rtol=1e-9)


def test_a_clarinet_has_odd_partials_and_the_cones_all():
    for name, row, partials in (
        ("b-flat-clarinet", "G3-plain", [1, 3, 5]),
        ("alto-saxophone", "Bb3-low", [1, 2, 3, 4]),
        ("oboe", "B3-low", [1, 2, 3]),
        ("bassoon", "Bb1-low", [1, 2, 3, 4]),
    ):
        rungs = shipped.model(name).rungs(shipped.catalogue(name).by_id[row].fingering)
        for rung, partial in zip(rungs, partials, strict=False):
            assert rung.partial == partial
            assert abs(cents(rung.frequency, partial * rungs[0].frequency)) < 75, (name, partial)


@pytest.mark.parametrize(
    ("name", "shut", "vented", "least"),
    [
        ("alto-saxophone", "L1 L2 L3 | R1", "octave L1 L2 L3 | R1", 4),
        ("alto-saxophone", "L1", "octave L1", 4),
        ("tenor-saxophone", "L1 L2", "octave L1 L2", 4),
        ("b-flat-clarinet", "T L1 L2 L3", "reg T L1 L2 L3", 5),
        ("oboe", "L1 L2 L3", "thumb8 L1 L2 L3", 4),
        ("oboe", "L1 L2", "side8 L1 L2", 3),
        ("oboe", "L1 L2 L3 | R1 R2 R3", "L1/2 L2 L3 | R1 R2 R3", 4),
        ("bassoon", "W L1 L2 L3 | R1 R2 R3", "W L1/2 L2 L3 | R1 R2 R3", 4),
    ],
)
def test_a_vent_weakens_the_lower_resonance_in_every_geometry(name, shut, vented, least):
    before, after = (heights_of_the_lowest(name, text) for text in (shut, vented))
    assert all(a < b for a, b in zip(after, before, strict=True))
    assert median(b - a for a, b in zip(after, before, strict=True)) > least


def test_why_a_bassoon_cracks_from_a3_up():
    """Whisper held, crook vent open, A vent open: the octave below loses ground step by step."""
    closed, pip, flick = (
        heights_of_the_lowest("bassoon", text)
        for text in ("W L1 L2 L3 | R1 R2", "L1 L2 L3 | R1 R2", "A L1 L2 L3 | R1 R2")
    )
    for a, b, c in zip(closed, pip, flick, strict=True):
        assert a > b + 2 > c + 4


def test_a_flicked_vent_helps_the_attack_and_leaves_the_pitch():
    plain, flicked, held = (predicted("bassoon", row) for row in ("A3-plain", "A3-flick-A", "A3-held-A"))
    assert flicked.each == plain.each
    assert flicked.margin == held.margin > plain.margin + 3


def test_a_half_hole_or_lifted_first_finger_lets_the_fifth_partial_of_a_clarinet_hold():
    plain = shipped.model("b-flat-clarinet")
    down, note = parse_fingering("reg T L1 L2 L3 | R1 R2", plain.instrument), parse_pitch("C#6")
    margins = [plain.predict([(down, note)])[0].margin] + [
        predicted("b-flat-clarinet", row).margin for row in ("Cs6-lift", "Cs6-half")
    ]
    assert margins[0] < min(margins[1:]) - 3


def test_signs_in_the_normal_range():
    """A closed hole below the first open ones lowers, an added vent raises."""
    for name, plain, changed, note, sign in (
        ("alto-saxophone", "L1", "L1 | R1", "B4", -1),
        ("alto-saxophone", "L1 L2 L3", "L1 L2 L3 | R3", "G4", -1),
        ("b-flat-clarinet", "T L1", "T L1 | R1 R2", "E4", -1),
        ("b-flat-clarinet", "T L1 L2 L3", "T L1 L2 L3 | Ab", "C4", 1),
        ("bassoon", "W L1 L2 L3", "W L1 L2 L3 | R2 R3", "C3", -1),
        ("oboe", "L1 L2 L3", "L1 L2 L3 | R2 R3", "G4", -1),
    ):
        model = shipped.model(name)
        pair = [(parse_fingering(text, model.instrument), parse_pitch(note)) for text in (plain, changed)]
        one, other = model.predict(pair)
        differences = [b - a for a, b in zip(one.each, other.each, strict=True)]
        assert all(sign * difference > 0 for difference in differences), (name, changed)


def test_alternates_differ_alike_in_every_geometry():
    model, chart = shipped.model("b-flat-clarinet"), shipped.catalogue("b-flat-clarinet")
    agree = []
    for one, other in (
        *(("Cs6-lift", "Cs6-ab-lift"), ("D6-lift", "D6-plain-lift"), ("Eb6-lift", "Eb6-sliver-lift")),
        *(("Fs5-fork", "Fs5-sliver"), ("Bb5-side", "Bb5-one-one"), ("G4-open", "G4-resonance")),
    ):
        asked = [(chart.by_id[row].fingering, chart.by_id[row].note) for row in (one, other)]
        first, second = model.predict(asked)
        signs = [np.sign(b - a) for a, b in zip(first.each, second.each, strict=True)]
        agree.append(abs(np.mean(signs)) / 2 + 0.5)
    assert np.mean(agree) > 0.9


def test_the_mouthpiece_moves_high_notes_most():
    model = shipped.model("alto-saxophone")
    geometry = model.geometries[0]
    more = replace(geometry.mouthpiece, reed_volume=geometry.mouthpiece.reed_volume + 500)
    pair = [
        Model(Ensemble(model.instrument, [replace(geometry, mouthpiece=m)]))
        for m in (geometry.mouthpiece, more)
    ]

    def drop(row):
        found = shipped.catalogue("alto-saxophone").by_id[row]
        one, other = (m.predict([(found.fingering, found.note)])[0].cents for m in pair)
        return other - one

    assert -8 < drop("D4-plain") < 0
    assert -45 < drop("Cs6-open") < -12


def test_the_cutoff_of_a_clarinet_and_what_lies_above_it():
    model, chart = shipped.model("b-flat-clarinet"), shipped.catalogue("b-flat-clarinet")
    low, high = chart.by_id["G3-plain"], chart.by_id["E6-lift"]
    backed = model.support(low.fingering, low.note)
    assert backed[2] < -10 < backed[3] < 3  # the odd multiple is backed, the even one is not
    assert model.support(high.fingering, high.note) == {}


def test_a_note_that_no_resonance_serves_is_none():
    model = shipped.model("alto-saxophone")
    low = shipped.catalogue("alto-saxophone").by_id["Bb3-low"].fingering
    assert model.predict([(low, parse_pitch("E4"))]) == [None]
    found = model.predict([(low, parse_pitch("F5"))])[0]
    assert (found.partial, found.sounds_as) == (3, SoundsAs.OVERTONE)
    assert model.predict([(Fingering(), parse_pitch("C#5"))])[0].margin == math.inf


def test_what_was_heard_before_is_let_go_in_time(monkeypatch):
    monkeypatch.setattr("core.acoustics.ensemble.STATES_KEPT", 3)
    model = Model(Ensemble(shipped.instrument("oboe"), shipped.geometries("oboe")[:1]))
    entries = shipped.catalogue("oboe").entries[:5]
    found = model.resonances([entry.fingering for entry in entries])
    assert len(found) == 5
    model.resonances([entries[0].fingering])
    assert len(model.ensemble._known) <= 6


def test_a_finer_grid_changes_nothing_to_speak_of():
    geometry = shipped.geometries("bassoon")[0]
    tube = geometry.tube()
    shut = shipped.model("bassoon").frequency
    fine = np.geomspace(50, 700, 8000)
    coarse = find_peaks(shut, input_impedance(tube, [], geometry.air, 2 * np.pi * shut))
    exact = find_peaks(fine, input_impedance(tube, [], geometry.air, 2 * np.pi * fine))
    for one, other in zip(coarse, exact, strict=False):
        # a weak one near the cutoff is the worst
        assert abs(cents(one.frequency, other.frequency)) < (0.5 if one.height > 25 else 1.0)


@pytest.mark.parametrize("name", ["b-flat-clarinet", "oboe"])
def test_every_state_is_one_that_a_fingering_gives(name):
    model = shipped.model(name)
    known = {row.tobytes() for row in every_state(model.instrument)}
    steady = [replace(entry.fingering, momentary=frozenset()) for entry in shipped.catalogue(name).entries]
    assert {row.tobytes() for row in model.states(steady)} <= known
    assert len(known) > 1000
