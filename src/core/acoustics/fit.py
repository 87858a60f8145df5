"""Fit an instrument's dimensions to the notes that its anchors must give.

Anchors are standard fingerings of the two lowest registers, and one of a kind for what these leave
loose. Dimensions stay near plausible ones: each has a prior, and bounds at three of its standard
deviations. The fit sees its anchors and nothing else of the charts.

Notes
-----
A fit is not unique. Two families of mouthpieces serve the standard notes alike and part company high
up; an ensemble over both, each from several plausible instruments, shows how far.

References
----------
Branch, Coleman and Li (1999), A subspace, interior, and conjugate gradient method for large-scale
bound-constrained minimization problems, SIAM J. Sci. Comput. 21.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import least_squares

from core.acoustics.air import Air
from core.acoustics.bore import ComplexArray, FloatArray
from core.acoustics.geometry import Geometry, HoleSize, hole_states
from core.acoustics.impedance import Pieces, StateArray, Tube
from core.acoustics.peaks import lowest
from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument

# How well an anchor is to be met, in cents.
ANCHOR_CENTS = 4.0
# Standard deviations of the priors: natural logarithms, or shares of the length of the bore.
WHOLE = {"mouthpiece": 0.08, "reed": 0.25, "length": 0.012, "pads": 0.15, "chimneys": 0.08}
WIDTHS = 3  # at the top, in the middle and at the bell
WIDTH, HOLE_RADIUS, HOLE_PLACE, VENT_PLACE = 0.03, 0.06, 0.012, 0.008
BOUND = 3.0
# What a plausible instrument of an ensemble may differ by before the fit, in the same measure.
DRAW = 0.7
CELSIUS = (24.0, 29.0)
# Steps toward a resonance, and how far each reaches at most, in cents.
STEPS, PROBE, REACH = 3, 12.0, 72.0
AROUND = 2 ** (np.array([-PROBE, 0.0, PROBE]) / 1200)
# A small turn of a knob, to see what it does; and how often the whole is tried at most.
TURN, EVALUATIONS = 1e-4, 25


@dataclass(frozen=True)
class Anchor:
    """A fingering and the sounding frequency in Hz that it must give."""

    fingering: Fingering
    frequency: float


@dataclass(frozen=True)
class Fit:
    """Fitted dimensions, and how far the anchors lie from them: root mean square in cents."""

    geometry: Geometry
    rms: float


def n_knobs(geometry: Geometry) -> int:
    """How many numbers a fit may turn.

    Parameters
    ----------
    geometry : Geometry

    Returns
    -------
    int
    """
    return len(WHOLE) + WIDTHS + 2 * len(geometry.holes)


def turned(geometry: Geometry, knobs: FloatArray) -> Geometry:
    """The geometry with its dimensions turned away from the plausible ones.

    Parameters
    ----------
    geometry : Geometry
    knobs : np.ndarray [shape=(n_knobs,)]
        In standard deviations of the priors.

    Returns
    -------
    Geometry
    """
    whole = {name: float(np.exp(sd * knob)) for (name, sd), knob in zip(WHOLE.items(), knobs, strict=False)}
    widths = np.exp(WIDTH * knobs[len(WHOLE) : len(WHOLE) + WIDTHS])
    places, radii = np.split(knobs[len(WHOLE) + WIDTHS :], 2)
    end = geometry.bore[-1][0]

    def width(place: float) -> float:
        return float(np.interp(place / end, np.linspace(0, 1, WIDTHS), widths))

    bore = tuple((place * whole["length"], radius * width(place)) for place, radius in geometry.bore)
    ends, radii_there = (np.array(column) for column in zip(*bore, strict=True))
    holes = []
    for hole, place, radius in zip(geometry.holes, places, radii, strict=True):
        share = VENT_PLACE if hole.jet else HOLE_PLACE
        moved = float(np.clip(hole.place + share * end * place, 2.0, bore[-1][0] - 2.0))
        limit = 0.98 * float(np.interp(moved, ends, radii_there))
        holes.append(
            HoleSize(
                hole.name,
                moved,
                min(hole.radius * float(np.exp(HOLE_RADIUS * radius)), limit),
                hole.chimney * whole["chimneys"],
                hole.pad * whole["pads"],
                hole.jet,
                hole.half,
            )
        )
    first = geometry.mouthpiece
    mouthpiece = replace(
        first, length=first.length * whole["mouthpiece"], reed_volume=first.reed_volume * whole["reed"]
    )
    return replace(geometry, mouthpiece=mouthpiece, bore=bore, holes=tuple(holes))


def resonances_near(tube: Tube, air: Air, states: StateArray, guess: FloatArray) -> FloatArray:
    """The resonance of each state next to a guess, in Hz; a few steps only, so it must start near.

    Parameters
    ----------
    tube : Tube
    air : Air
    states : np.ndarray of int [shape=(n_states, n_holes)]
    guess : np.ndarray [shape=(n_states,)], Hz

    Returns
    -------
    np.ndarray [shape=(n_states,)], Hz
    """
    at = guess.astype(float)
    for _ in range(STEPS):
        admittance = 1 / Pieces(tube, air, 2 * np.pi * at[:, None] * AROUND).each(states)
        below, here, above = admittance.T
        shift, _, _ = lowest(below, here, above, REACH / PROBE)
        at = at * 2 ** (PROBE * shift / 1200)
    return at


def draws(plan: Sequence[Geometry], count: int, seed: int) -> list[Geometry]:
    """Plausible instruments to fit from: `count` of each of the plan's geometries.

    Each with its own holes, chimneys, pads and widths, and its own temperature; the places are the plan's.

    Parameters
    ----------
    plan : sequence of Geometry
    count : int, above 0
        Instruments of each geometry.
    seed : int
        Of the order, so that it comes again.

    Returns
    -------
    list of Geometry
    """
    random = np.random.default_rng(seed)
    found = []
    for geometry in plan:
        for _ in range(count):
            knobs = DRAW * random.standard_normal(n_knobs(geometry))
            n_holes = len(geometry.holes)
            knobs[-2 * n_holes : -n_holes] = 0
            found.append(replace(turned(geometry, knobs), celsius=float(random.uniform(*CELSIUS))))
    return found


def fit(start: Geometry, instrument: Instrument, anchors: Sequence[Anchor]) -> Fit:
    """Turn a plausible instrument until its anchors are in tune.

    Parameters
    ----------
    start : Geometry
        Its dimensions are the middles of the priors.
    instrument : Instrument
    anchors : sequence of Anchor

    Returns
    -------
    Fit
    """
    names = [hole.name for hole in start.holes]
    plain = start.tube()
    rows = hole_states(plain, instrument, [anchor.fingering for anchor in anchors])
    states = rows[:, [plain.hole_names.index(name) for name in names]]
    wanted = np.array([anchor.frequency for anchor in anchors])

    def near(knobs: FloatArray, guess: FloatArray) -> FloatArray:
        return resonances_near(*_laid_out(turned(start, knobs), names, states), guess)

    def residuals(knobs: FloatArray) -> FloatArray:
        cents = 1200 * np.log2(near(knobs, wanted) / wanted)
        return np.concatenate([cents / ANCHOR_CENTS, knobs])

    def jacobian(knobs: FloatArray) -> FloatArray:
        """By how much each knob moves each resonance: from what it adds to the admittance there."""
        at = near(knobs, wanted)

        def admittance(turn: FloatArray, around: FloatArray) -> ComplexArray:
            tube, air, ordered = _laid_out(turned(start, turn), names, states)
            return np.asarray(1 / Pieces(tube, air, 2 * np.pi * at[:, None] * around).each(ordered))

        below, here, above = admittance(knobs, AROUND).T
        slope = (above - below) / (2 * PROBE)
        moved = np.empty((len(wanted), len(knobs)))
        for n, step in enumerate(TURN * np.eye(len(knobs))):
            added = admittance(knobs + step, np.ones(1))[:, 0] - here
            moved[:, n] = -(slope.conj() * added).real / np.abs(slope) ** 2 / TURN
        return np.concatenate([moved / ANCHOR_CENTS, np.eye(len(knobs))])

    found = least_squares(
        residuals,
        np.zeros(n_knobs(start)),
        jac=jacobian,
        bounds=(-BOUND, BOUND),
        max_nfev=EVALUATIONS,
        ftol=1e-4,
    )
    cents = found.fun[: len(wanted)] * ANCHOR_CENTS
    return Fit(turned(start, found.x), float(np.sqrt(np.mean(cents**2))))


def _laid_out(geometry: Geometry, names: Sequence[str], states: StateArray) -> tuple[Tube, Air, StateArray]:
    """A geometry as a tube in its air, and the states in the order of its holes."""
    tube = geometry.tube()
    return tube, geometry.air, states[:, [names.index(name) for name in tube.hole_names]]
