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
from core.acoustics.bore import ComplexArray, FloatArray, Matrix, cones
from core.acoustics.radiation import unflanged
from core.acoustics.tonehole import Hole, hole_matrices

# States of a hole.
CLOSED, OPEN, HALF = 0, 1, 2
KINDS = 3
StateArray = npt.NDArray[np.uint8]


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
        """From the reed to the bell, in m."""
        return self.profile[-1][0]

    @cached_property
    def hole_names(self) -> tuple[str, ...]:
        """From the reed outward."""
        return tuple(sorted(self.holes, key=lambda name: self.holes[name][0]))

    def radius_at(self, place: float) -> float:
        """Radius of the bore, in m.

        Parameters
        ----------
        place : float, m
            From the reed; beyond either end the radius there is kept.

        Returns
        -------
        float, m
        """
        places, radii = zip(*self.profile, strict=True)
        return float(np.interp(place, places, radii))

    def state(self, open_holes: Collection[str], half_holes: Collection[str] = ()) -> StateArray:
        """State of each hole, in the order of `hole_names`.

        Parameters
        ----------
        open_holes : collection of str
            Names of holes.
        half_holes : collection of str
            Names of holes that are half open.

        Returns
        -------
        np.ndarray of int [shape=(n_holes,)]

        Raises
        ------
        ValueError
            If a hole is named that the bore does not have.
        """
        unknown = {*open_holes, *half_holes} - set(self.holes)
        if unknown:
            raise ValueError(f"open holes must be holes of the bore, got {', '.join(sorted(unknown))}")
        kinds = dict.fromkeys(open_holes, OPEN) | dict.fromkeys(half_holes, HALF)
        return np.array([kinds.get(name, CLOSED) for name in self.hole_names], dtype=np.uint8)


class Pieces:
    """The matrices of a bore and its holes at given frequencies, made once for every state of the holes.

    Parameters
    ----------
    tube : Tube
    air : Air
    omega : np.ndarray
        Angular frequencies in rad/s, above 0: of shape (n_freq,), shared by all states; or of
        shape (n_states, n_freq), each state its own, for `each`.
    """

    def __init__(self, tube: Tube, air: Air, omega: FloatArray) -> None:
        self._n_holes = len(tube.holes)
        self._end = unflanged(air, omega, tube.profile[-1][1])
        self._top, *below = _bores(tube, air, omega)
        holes = [tube.holes[name][1] for name in tube.hole_names]
        closed = hole_matrices(air, omega, holes, is_open=False)
        open_ = hole_matrices(air, omega, holes, is_open=True)
        half = hole_matrices(air, omega, [hole.half_open for hole in holes], is_open=True)
        self._steps = []
        for n in reversed(range(len(holes))):
            states = (closed, open_, half) if holes[n].half_radius else (closed, open_)
            self._steps.append((n, tuple(state[n] @ below[n] for state in states)))
        self._reed = 1j * omega * tube.reed_volume / (air.density * air.speed**2)

    def all(self, states: StateArray) -> ComplexArray:
        """Input impedance of every state, in Pa s/m³.

        Parameters
        ----------
        states : np.ndarray [shape=(n_states, n_holes)]
            `CLOSED`, `OPEN` or `HALF`, in the order of `Tube.hole_names`.

        Returns
        -------
        np.ndarray [shape=(n_states, n_freq)]

        Raises
        ------
        ValueError
            If the states are not given hole by hole, or one is half open that is not half-holed.

        Notes
        -----
        From the bell to the reed; states that are alike up to a point share all below it, so that
        every state of n holes costs about twice its own last step, not n steps.
        """
        self._check(states)
        load = self._end[None, :]
        which = np.zeros(len(states), dtype=np.intp)
        for index, branches in self._steps:
            kinds, which = np.unique(KINDS * which + states[:, index], return_inverse=True)
            below = load[kinds // KINDS]
            load = np.empty_like(below)
            for branch, matrix in enumerate(branches):
                of_it = kinds % KINDS == branch
                if of_it.any():
                    load[of_it] = matrix.seen(below[of_it])
        return self._at_reed(load)[which]

    def each(self, states: StateArray) -> ComplexArray:
        """Input impedance of each state at frequencies of its own, in Pa s/m³; shapes as `all`.

        Parameters
        ----------
        states : np.ndarray of int [shape=(n_states, n_holes)]

        Returns
        -------
        np.ndarray of complex [shape=(n_states, n_freq)], Pa s/m³

        Raises
        ------
        ValueError
            As `all`.
        """
        self._check(states)
        load = self._end
        for index, branches in self._steps:
            below, state = load, states[:, index, None]
            load = branches[CLOSED].seen(below)
            for kind in range(OPEN, len(branches)):
                load = np.where(state == kind, branches[kind].seen(below), load)
        return self._at_reed(load)

    def _check(self, states: StateArray) -> None:
        if states.ndim != 2 or states.shape[1] != self._n_holes:
            raise ValueError(f"states must have {self._n_holes} holes each, got shape {states.shape}")
        if any((states[:, index] >= len(branches)).any() for index, branches in self._steps):
            raise ValueError("only a hole that is half-holed can be half open")

    def _at_reed(self, load: ComplexArray) -> ComplexArray:
        load = self._top.seen(load)
        return np.asarray(load / (1 + load * self._reed))


def input_impedance(
    tube: Tube, open_holes: Collection[str], air: Air, omega: FloatArray, half_holes: Collection[str] = ()
) -> ComplexArray:
    """Work out the input impedance with some of the holes open; all others are closed.

    Parameters
    ----------
    tube : Tube
    open_holes, half_holes : collection of str
    air : Air
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
    state = tube.state(open_holes, half_holes)[None, :]
    return np.asarray(Pieces(tube, air, omega).all(state)[0])


def _bores(tube: Tube, air: Air, omega: FloatArray) -> list[Matrix]:
    """The bore from the reed to the first hole, and from each hole to the next and to the bell."""
    holes = [tube.holes[name][0] for name in tube.hole_names]
    cuts = sorted({0.0, tube.length, *holes, *(place for place, _ in tube.profile)})
    pieces = [(tube.radius_at(a), tube.radius_at(b), b - a) for a, b in pairwise(cuts)]
    matrices = dict(zip(cuts, cones(air, omega, pieces), strict=False))
    return [
        reduce(matmul, (matrices[cut] for cut in cuts if start <= cut < end))
        for start, end in pairwise([0.0, *holes, tube.length])
    ]
