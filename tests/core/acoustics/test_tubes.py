"""Tubes, holes and resonances against closed forms, conservation laws and known signs."""

import math
from functools import reduce
from operator import matmul

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import jve

from core.acoustics.air import Air, air_at
from core.acoustics.bore import _mean, cone, cylinder, propagation
from core.acoustics.impedance import Pieces, Tube, input_impedance
from core.acoustics.peaks import find_peaks
from core.acoustics.radiation import unflanged
from core.acoustics.tonehole import Hole, hole_matrix

AIR = air_at(25)
LOSSLESS = Air(AIR.speed, AIR.density, viscosity=1e-16)
FREQUENCY = np.arange(50.0, 3000.0, 4.0)
OMEGA = 2 * np.pi * FREQUENCY
IDENTITY = 1e-9  # relative, of a product of some hundred matrices
VENT = Hole(radius=0.0015, bore_radius=0.0075, chimney=0.012)
radii = st.floats(0.002, 0.03)
lengths = st.floats(0.005, 0.8)


def cents(frequency, other):
    return 1200 * math.log2(frequency / other)


def finger_hole(radius=0.004, bore_radius=0.0075):
    return Hole(radius, bore_radius, chimney=0.007)


@given(near=radii, far=radii, length=lengths)
def test_a_piece_of_bore_is_reciprocal(near, far, length):
    assert np.allclose(cone(AIR, OMEGA, near, far, length).determinant, 1, rtol=IDENTITY, atol=IDENTITY)


@pytest.mark.parametrize("is_open", [True, False])
@pytest.mark.parametrize("hole", [finger_hole(), VENT], ids=["finger hole", "vent"])
def test_a_hole_is_reciprocal(hole, is_open):
    determinant = hole_matrix(AIR, OMEGA, hole, is_open=is_open).determinant
    assert np.allclose(determinant, 1, rtol=IDENTITY)


@given(near=radii, far=radii, length=lengths, part=st.floats(0.1, 0.9), is_open=st.booleans())
def test_nothing_gives_back_more_than_it_takes(near, far, length, part, is_open):
    place = part * length
    width = near + (far - near) * part
    tube = Tube(((0, near), (length, far)), {"x": (place, Hole(0.4 * width, width, 0.005))})
    assert np.all(input_impedance(tube, ["x"] if is_open else [], AIR, OMEGA).real > 0)


def test_a_short_tube_is_a_mass_and_a_closed_one_a_spring():
    omega, radius, length = np.array([2 * np.pi * 20.0]), 0.01, 0.01
    area = math.pi * radius**2
    mass = cylinder(AIR, omega, radius, length).seen(np.array([0j]))
    assert mass.imag == pytest.approx(omega * AIR.density * length / area, rel=0.05)
    spring = cylinder(AIR, omega, radius, length).seen(np.array([1e15 + 0j]))
    assert spring.imag == pytest.approx(-AIR.density * AIR.speed**2 / (omega * area * length), rel=0.05)


def test_a_lossless_cylinder_is_the_closed_form():
    seen = cylinder(LOSSLESS, OMEGA, 0.0075, 0.6).seen(np.zeros_like(OMEGA, dtype=complex))
    tangent = np.tan(OMEGA / LOSSLESS.speed * 0.6)
    calm = np.abs(tangent) < 3  # beside the poles nothing is without loss
    specific = LOSSLESS.impedance / (math.pi * 0.0075**2)
    assert np.allclose(seen.imag[calm], specific * tangent[calm], rtol=1e-4)


def test_losses_of_a_wide_tube():
    gamma, _ = propagation(AIR, OMEGA, 0.0075)
    # Kirchhoff's law for wide tubes: about 3e-5 sqrt(f) / radius nepers a metre, slower by as much
    assert np.allclose(gamma.real, 3.0e-5 * np.sqrt(FREQUENCY) / 0.0075, rtol=0.03)
    assert np.all(OMEGA / gamma.imag < AIR.speed)


def test_slices_of_a_cone():
    def resonances(longest):
        matrix = cone(AIR, OMEGA, 0.0025, 0.02, 2.5, longest)
        return [p.frequency for p in find_peaks(FREQUENCY, matrix.seen(unflanged(AIR, OMEGA, 0.02)))]

    usual, fine, whole = resonances(0.03), resonances(2.5 / 120), resonances(2.5)
    assert max(abs(cents(a, b)) for a, b in zip(usual, fine, strict=True)) < 0.15
    assert max(abs(cents(a, b)) for a, b in zip(whole, fine, strict=True)) > 3
    steps = cylinder(AIR, OMEGA, 0.01, 0.5)
    assert np.allclose(cone(AIR, OMEGA, 0.01, 0.01 + 1e-9, 0.5).b, steps.b, rtol=1e-5)


def test_a_cone_is_many_short_cylinders():
    parts = 2000
    whole = cone(AIR, OMEGA, 0.006, 0.012, 0.4)
    built = cylinder(AIR, OMEGA, 0.006 + 0.003 / parts, 0.4 / parts)
    for n in range(1, parts):
        built = built @ cylinder(AIR, OMEGA, 0.006 + 0.006 * (n + 0.5) / parts, 0.4 / parts)
    load = unflanged(AIR, OMEGA, 0.012)
    assert np.allclose(np.abs(whole.seen(load)), np.abs(built.seen(load)), rtol=2e-3)


def test_a_cylinder_overblows_odd_partials_and_a_cone_all():
    reed = [
        p.frequency
        for p in find_peaks(FREQUENCY, input_impedance(Tube(((0, 0.0075), (0.6, 0.0075))), [], AIR, OMEGA))
    ]
    assert [round(f / reed[0], 1) for f in reed[:4]] == pytest.approx([1, 3, 5, 7], abs=0.15)
    # a truncated cone with a mouthpiece of the volume that is cut off
    cut = math.pi * 0.0045**2 * 0.075 / 3
    whole = Tube(((0, 0.0045), (0.6, 0.0405)), reed_volume=cut)
    horn = [p.frequency for p in find_peaks(FREQUENCY, input_impedance(whole, [], AIR, OMEGA))]
    assert [f / horn[0] for f in horn[:3]] == pytest.approx([1, 2, 3], abs=0.12)


@pytest.mark.parametrize(
    ("opened", "rises"), [("low", (20, 90)), ("high", (400, 700))], ids=["near the end", "half way"]
)
def test_an_open_hole_shortens_the_tube(opened, rises):
    holes = {"low": (0.57, finger_hole()), "high": (0.42, finger_hole())}
    tube = Tube(((0, 0.0075), (0.6, 0.0075)), holes)
    shut, open_ = (
        find_peaks(FREQUENCY, input_impedance(tube, names, AIR, OMEGA))[0].frequency
        for names in ([], [opened])
    )
    assert rises[0] < cents(open_, shut) < rises[1]


def test_signs_of_a_hole():
    bare = Tube(((0, 0.0075), (0.6, 0.0075)))
    low = {"next": (0.50, finger_hole()), "below": (0.54, finger_hole())}
    high = Tube(bare.profile, {"closed": (0.1, finger_hole())})

    def first(tube, names):
        return find_peaks(FREQUENCY, input_impedance(tube, names, AIR, OMEGA))[0].frequency

    holed = Tube(bare.profile, low)
    # a closed hole is a spring near the reed, where it lowers, and near the bell takes away some mass
    assert cents(first(high, []), first(bare, [])) < -1 < 0 < cents(first(holed, []), first(bare, []))
    fork, plain = first(holed, ["next"]), first(holed, ["next", "below"])
    assert -80 < cents(fork, plain) < -5  # closing a hole below the first open one lowers
    padded = {"next": (0.50, Hole(0.004, 0.0075, 0.007, pad_height=0.002, pad_radius=0.006))}
    assert first(Tube(bare.profile, padded), ["next"]) < first(
        Tube(bare.profile, {"next": low["next"]}), ["next"]
    )


def test_a_register_vent_weakens_the_first_resonance_and_a_jet_tames_it():
    holes = {"vent": (0.15, VENT)}
    tube = Tube(((0, 0.0075), (0.6, 0.0075)), holes)
    shut, vented = (
        find_peaks(FREQUENCY, input_impedance(tube, names, AIR, OMEGA)) for names in ([], ["vent"])
    )
    assert 3 < shut[0].height - vented[0].height < 20
    assert abs(cents(vented[1].frequency, shut[1].frequency)) < 60
    jet = Tube(tube.profile, {"vent": (0.15, Hole(0.0015, 0.0075, 0.012, jet=40.0))})
    blown = find_peaks(FREQUENCY, input_impedance(jet, ["vent"], AIR, OMEGA))
    assert cents(blown[0].frequency, shut[0].frequency) < cents(vented[0].frequency, shut[0].frequency)


def test_a_mouthpiece_lowers_high_notes_most():
    def peaks(volume):
        tube = Tube(((0, 0.0045), (0.6, 0.0405)), reed_volume=volume)
        return [p.frequency for p in find_peaks(FREQUENCY, input_impedance(tube, [], AIR, OMEGA))]

    drops = [cents(b, a) for a, b in zip(peaks(1.5e-6), peaks(2.0e-6), strict=False)][:3]
    assert 0 > drops[0] > drops[1] > drops[2]


@given(f0=st.floats(120, 1500), q=st.floats(15, 80))
def test_one_resonance_is_found_as_it_is(f0, q):
    impedance = 1 / (1 + 2j * q * (FREQUENCY / f0 - 1))
    (peak,) = find_peaks(FREQUENCY, impedance)
    assert abs(cents(peak.frequency, f0)) < 0.01
    assert peak.q == pytest.approx(q, rel=1e-3)


def test_a_coarse_grid_finds_what_a_fine_one_finds():
    tube = Tube(((0, 0.0045), (0.6, 0.0405)), reed_volume=1.6e-6)
    fine = np.arange(50.0, 1500.0, 0.1)
    coarse = find_peaks(FREQUENCY, input_impedance(tube, [], AIR, OMEGA))
    exact = find_peaks(fine, input_impedance(tube, [], AIR, 2 * np.pi * fine))
    for one, other in zip(coarse, exact, strict=False):
        assert abs(cents(one.frequency, other.frequency)) < 0.2


HOLES = {f"hole {n}": (0.2 + 0.03 * n, finger_hole()) for n in range(8)}
MANY = Tube(((0, 0.007), (0.25, 0.0075), (0.55, 0.008), (0.6, 0.02)), HOLES, reed_volume=1e-6)


def test_every_state_at_once_is_each_state_by_itself():
    omega = OMEGA[::40]
    states = ((np.arange(256)[:, None] >> np.arange(8)) % 2).astype(np.uint8)
    found = Pieces(MANY, AIR, omega).all(states)
    for state, together in zip(states, found, strict=True):
        pieces = [cone(AIR, omega, 0.007, MANY.radius_at(0.2), 0.2)]
        for n, is_open in enumerate(state):
            start, end = 0.2 + 0.03 * n, 0.2 + 0.03 * (n + 1) if n < 7 else 0.55
            pieces.append(hole_matrix(AIR, omega, finger_hole(), is_open=is_open))
            for a, b in [(start, 0.25), (0.25, end)] if start < 0.25 < end else [(start, end)]:
                pieces.append(cone(AIR, omega, MANY.radius_at(a), MANY.radius_at(b), b - a))
        pieces.append(cone(AIR, omega, 0.008, 0.02, 0.05))
        seen = reduce(matmul, pieces).seen(unflanged(AIR, omega, 0.02))
        direct = 1 / (1 / seen + 1j * omega * 1e-6 / (AIR.density * AIR.speed**2))
        assert np.allclose(together, direct, rtol=1e-9)


@pytest.mark.parametrize(
    ("wrong", "message"),
    [
        (lambda: air_at(80), "from -10 to 50"),
        (lambda: Hole(0.01, 0.007, 0.005), "no wider than its bore"),
        (lambda: Hole(0.003, 0.007, 0), "must have a chimney"),
        (lambda: Tube(((0, 0.01),)), "from place 0 outward"),
        (lambda: Tube(((0, 0.01), (0.5, 0))), "radii above 0"),
        (lambda: Tube(((0, 0.01), (0.5, 0.01)), {"x": (0.7, finger_hole())}), "between reed and bell"),
        (lambda: input_impedance(Tube(((0, 0.01), (0.5, 0.01))), ["y"], AIR, OMEGA), "holes of the bore"),
        (lambda: Pieces(MANY, AIR, OMEGA).all(np.ones((2, 3), dtype=np.uint8)), "8 holes each"),
        (lambda: find_peaks(np.array([1.0, 2.0, 4.0]), np.ones(3)), "evenly growing steps"),
    ],
)
def test_what_cannot_be_is_refused(wrong, message):
    with pytest.raises(ValueError, match=message):
        wrong()


def test_an_open_end_reaches_six_tenths_of_its_radius_beyond():
    omega, radius = np.array([2 * np.pi * 100.0]), 0.01
    area = math.pi * radius**2
    found = unflanged(AIR, omega, radius)
    assert found.imag * area / (omega * AIR.density) == pytest.approx(0.6133 * radius, rel=0.01)
    assert found.real * area / AIR.impedance == pytest.approx((omega * radius / AIR.speed) ** 2 / 4, rel=0.01)


def test_quick_forms_of_the_losses_are_the_exact_ones():
    stokes = np.geomspace(0.05, 400, 4000)
    argument = stokes * np.sqrt(-1j)
    exact = 2 * jve(1, argument) / (argument * jve(0, argument))
    assert np.allclose(_mean(argument), exact, rtol=1e-9, atol=0)
