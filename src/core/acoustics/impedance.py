"""Input impedance of a bore with its holes, as the reed sees it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from functools import cached_property, reduce
from itertools import pairwise
from operator import matmul

import numpy as np
import numpy.typing as npt

from core.acoustics.air import Air
from core.acoustics.bore import ComplexArray, FloatArray, Matrix, cone
from core.acoustics.radiation import unflanged
from core.acoustics.tonehole import Hole, hole_matrix

BoolArray = npt.NDArray[np.bool_]


@dataclass(frozen=True)
class Tube:
    """A bore from the reed to the bell; lengths in m.

    Parameters
    ----------
    profile : sequence of (place, radius)
        Radii along the axis, the first place 0, straight in between.
    holes : mapping of name to (place, hole)
        In any order; names are those of the keywork.
    reed_volume : float
        Volume in m³ whose compliance stands for reed and cavity, in parallel at the near end.
    """

    profile: tuple[tuple[float, float], ...]
    holes: dict[str, tuple[float, Hole]] = field(default_factory=dict)
    reed_volume: float = 0.0

    def __post_init__(self) -> None:
        places = [place for place, _ in self.profile]
        if len(places) < 2 or places[0] != 0 or places != sorted(set(places)):
            raise ValueError(f"a bore must be given from place 0 outward, got places {places}")
        if min(radius for _, radius in self.profile) <= 0:
            raise ValueError("a bore must have radii above 0")
        outside = [name for name, (place, _) in self.holes.items() if not 0 < place < places[-1]]
        if outside:
            raise ValueError(f"a hole must lie between reed and bell, got {', '.join(outside)}")

    @property
    def length(self) -> float:
        return self.profile[-1][0]

    @cached_property
    def hole_names(self) -> tuple[str, ...]:
        """From the reed outward."""
        return tuple(sorted(self.holes, key=lambda name: self.holes[name][0]))

    def radius_at(self, place: float) -> float:
        places, radii = zip(*self.profile, strict=True)
        return float(np.interp(place, places, radii))


def input_impedance(tube: Tube, open_holes: Collection[str], air: Air, omega: FloatArray) -> ComplexArray:
    """Work out the input impedance with some of the holes open.

    Parameters
    ----------
    open_holes : collection of str
        Names of the open holes; all others are closed.
    omega : np.ndarray [shape=(n_freq,)]
        Angular frequencies in rad/s, above 0.

    Returns
    -------
    np.ndarray [shape=(n_freq,)]
        In Pa s/m³.

    Raises
    ------
    ValueError
        If a hole is named that the bore does not have.
    """
    unknown = set(open_holes) - set(tube.holes)
    if unknown:
        raise ValueError(f"open holes must be holes of the bore, got {', '.join(sorted(unknown))}")
    state = np.array([[name in open_holes for name in tube.hole_names]], dtype=np.bool_)
    return np.asarray(input_impedances(tube, state, air, omega)[0])


def input_impedances(tube: Tube, states: BoolArray, air: Air, omega: FloatArray) -> ComplexArray:
    """Work out the input impedance of many states of the holes together.

    Parameters
    ----------
    states : np.ndarray of bool [shape=(n_states, n_holes)]
        Whether each hole is open, in the order of `tube.hole_names`.
    omega : np.ndarray [shape=(n_freq,)]

    Returns
    -------
    np.ndarray [shape=(n_states, n_freq)]
        In Pa s/m³.

    Raises
    ------
    ValueError
        If the states are not given hole by hole.

    Notes
    -----
    From the bell to the reed; states that are alike up to a point share all below it, so that every
    state of n holes costs about twice its own last step, not n steps.
    """
    if states.ndim != 2 or states.shape[1] != len(tube.holes):
        raise ValueError(f"states must have {len(tube.holes)} holes each, got shape {states.shape}")
    load = unflanged(air, omega, tube.profile[-1][1])[None, :]
    which = np.zeros(len(states), dtype=np.intp)
    upward = sorted(tube.hole_names, key=lambda name: -tube.holes[name][0])
    end = tube.length
    for name in upward:
        place, hole = tube.holes[name]
        load = _bore(tube, place, end, air, omega).seen(load)
        is_open = states[:, tube.hole_names.index(name)]
        kinds, which = np.unique(2 * which + is_open, return_inverse=True)
        below = load[kinds // 2]
        load = np.empty_like(below)
        for branch in (False, True):
            of_it = kinds % 2 == branch
            load[of_it] = hole_matrix(air, omega, hole, is_open=branch).seen(below[of_it])
        end = place
    load = _bore(tube, 0.0, end, air, omega).seen(load)
    if tube.reed_volume:
        load = load / (1 + load * 1j * omega * tube.reed_volume / (air.density * air.speed**2))
    return load[which]


def _bore(tube: Tube, start: float, end: float, air: Air, omega: FloatArray) -> Matrix:
    """The bore between two places."""
    cuts = [start, *(place for place, _ in tube.profile if start < place < end), end]
    pieces = [cone(air, omega, tube.radius_at(a), tube.radius_at(b), b - a) for a, b in pairwise(cuts)]
    return reduce(matmul, pieces)
