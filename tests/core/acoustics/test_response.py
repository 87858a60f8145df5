"""How notes answer on simple tubes: partial, margin, what they crack to, support and cutoff."""

import math

import numpy as np
import pytest

from core.acoustics.air import air_at
from core.acoustics.impedance import Tube, input_impedance
from core.acoustics.peaks import Peak, find_peaks
from core.acoustics.response import cutoff_of, respond, support
from core.acoustics.tonehole import Hole

AIR = air_at(25)
FREQUENCY = np.arange(50.0, 3000.0, 4.0)
FINGER = Hole(radius=0.0035, bore_radius=0.0075, chimney=0.007)
HOLES = {
    "vent": (0.15, Hole(radius=0.0015, bore_radius=0.0075, chimney=0.012)),
    **{f"hole {n}": (0.42 + 0.018 * n, FINGER) for n in range(6)},
}
TUBE = Tube(((0, 0.0075), (0.6, 0.0075)), HOLES)
OPEN = [f"hole {n}" for n in range(6)]


def curve(*open_holes):
    return input_impedance(TUBE, open_holes, AIR, 2 * np.pi * FREQUENCY)


def peaks(*open_holes):
    return find_peaks(FREQUENCY, curve(*open_holes))


def test_the_lowest_note_has_nothing_to_crack_to():
    found = respond(peaks(*OPEN), peaks(*OPEN)[0].frequency * 1.01)
    assert (found.partial, found.margin, found.cracks_to) == (1, math.inf, None)
    assert found.cents == pytest.approx(-1200 * math.log2(1.01), abs=1e-9)


def test_a_vent_gives_the_twelfth_its_margin():
    twelfth = peaks()[1].frequency
    shut, vented = respond(peaks(), twelfth), respond(peaks("vent"), twelfth)
    assert shut.partial == vented.partial == 2
    assert shut.margin < 0
    assert vented.margin > shut.margin + 3
    assert shut.cracks_to == peaks()[0].frequency


def test_a_note_far_from_every_resonance_is_none_of_the_fingering():
    first = peaks()[0].frequency
    assert respond(peaks(), first * 1.5) is None
    assert respond([], 440.0) is None
    with pytest.raises(ValueError, match="above 0"):
        respond(peaks(), 0.0)


def test_the_strongest_lower_resonance_is_the_rival():
    row = [Peak(200, 30, 20), Peak(400, 41, 20), Peak(600, 38, 20), Peak(800, 50, 20)]
    found = respond(row, 601.0)
    assert (found.partial, found.margin, found.cracks_to) == (3, -3, 400)


def test_cutoff_of_a_row_of_holes():
    cutoff = cutoff_of(TUBE, OPEN, AIR)
    assert 1500 < cutoff < 1800
    assert cutoff_of(TUBE, OPEN[::2], AIR) == pytest.approx(cutoff / math.sqrt(2))  # twice as far apart
    assert cutoff_of(TUBE, ["hole 5"], AIR) is None


def test_a_cylinder_backs_the_third_multiple_and_not_the_second():
    sounding = peaks()[0].frequency
    found = support(FREQUENCY, curve(), sounding, cutoff=2000.0)
    assert found[2] < -15 < found[3] < 3
    assert support(FREQUENCY, curve(), sounding, cutoff=2.5 * sounding).keys() == {2}
    assert support(FREQUENCY, curve(), 1600.0, cutoff=1700.0) == {}
