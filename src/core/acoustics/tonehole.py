"""Tone holes and vents, open and closed, as transfer matrices at a point of the bore."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from core.acoustics.air import Air
from core.acoustics.bore import FloatArray, Matrix, propagation
from core.acoustics.radiation import flanged_length, pad_length

# Loss of a jet through a small vent, as a share of density times velocity: its flow is no longer small.
JET_LOSS = 0.85
# Velocity in m/s of the air in a half hole, about that under 1 kPa.
HALF_HOLE_JET = 40.0


@dataclass(frozen=True)
class Hole:
    """A hole in the wall of the bore; lengths in m.

    Parameters
    ----------
    radius, bore_radius : float
        Of the hole, and of the bore where it sits; the hole is the narrower.
    chimney : float
        Height of its wall.
    pad_height, pad_radius : float
        Of the open pad above the rim; 0 for a finger hole.
    jet : float
        Velocity of the air in the vent under playing pressure, in m/s; 0 for a finger hole, where
        the flow is small against it.
    half_radius : float
        Of what is left open when it is half-holed; 0 for a hole that is not.
    """

    radius: float
    bore_radius: float
    chimney: float
    pad_height: float = 0.0
    pad_radius: float = 0.0
    jet: float = 0.0
    half_radius: float = 0.0

    def __post_init__(self) -> None:
        if not 0 < self.radius <= self.bore_radius:
            raise ValueError(f"a hole must be no wider than its bore, got {self}")
        if not self.chimney > 0:
            raise ValueError(f"a hole must have a chimney, got {self}")

    @property
    def half_open(self) -> Hole:
        """What is left when it is half-holed: a vent. Itself where it is not half-holed."""
        if not self.half_radius:
            return self
        return replace(self, radius=self.half_radius, jet=HALF_HOLE_JET, half_radius=0.0)

    @property
    def ratio(self) -> float:
        """Radius of the hole over that of the bore, up to 1."""
        return self.radius / self.bore_radius

    @property
    def inner_length(self) -> float:
        """Length that the hole gains toward the bore."""
        r = self.ratio
        return self.radius * (0.82 - 0.193 * r - 1.09 * r**2 + 1.27 * r**3 - 0.71 * r**4)

    @property
    def matching_length(self) -> float:
        """Length that stands for the volume between round wall and flat bottom of the hole."""
        return self.radius * self.ratio / 8 * (1 + 0.207 * self.ratio**3)

    @property
    def outer_length(self) -> float:
        """Length that the open hole gains outside, under its pad if it has one."""
        if not self.pad_height:
            return flanged_length(self.radius)
        rim = 0.3 * self.radius
        return flanged_length(self.radius) + pad_length(self.radius, self.pad_height, self.pad_radius, rim)


def hole_matrix(air: Air, omega: FloatArray, hole: Hole, *, is_open: bool) -> Matrix:
    """Make the transfer matrix of a hole: a branch to the side, and what it takes from the bore's length.

    Parameters
    ----------
    air : Air
    omega : np.ndarray [shape=(n_freq,)], rad/s, above 0
    hole : Hole
    is_open : bool

    Returns
    -------
    Matrix

    References
    ----------
    Dubos et al. (1999), Theory of sound propagation in a duct with a branched tube using modal
    decomposition, Acustica 85. Lefebvre and Scavone (2012), Characterization of woodwind
    instrument toneholes with the finite element method, JASA 131.
    """
    return hole_matrices(air, omega, [hole], is_open=is_open)[0]


def hole_matrices(air: Air, omega: FloatArray, holes: Sequence[Hole], *, is_open: bool) -> Matrix:
    """Make the transfer matrices of many holes, stacked along the first axis.

    Parameters
    ----------
    air : Air
    omega : np.ndarray [shape=(n_freq,)], rad/s, above 0
    holes : sequence of Hole
    is_open : bool

    Returns
    -------
    Matrix
        Parts of shape (n_holes, n_freq).
    """

    def column(values: Iterable[float]) -> FloatArray:
        return np.array(list(values), dtype=float).reshape((-1,) + (1,) * omega.ndim)

    radius = column(hole.radius for hole in holes)
    area = math.pi * radius**2
    gamma, impedance = propagation(air, omega, radius)
    inner = gamma * column(hole.inner_length for hole in holes)
    wall = column(hole.chimney + hole.matching_length for hole in holes)
    if is_open:
        outer = column(hole.outer_length for hole in holes)
        radiated = 0.5 * (omega * radius / air.speed) ** 2 * air.impedance / area
        jet = JET_LOSS * air.density * column(hole.jet for hole in holes) / area
        shunt = impedance * (inner + np.tanh(gamma * (wall + outer))) + radiated + jet
    else:
        shunt = impedance * (inner + 1 / np.tanh(gamma * wall))
    taken = column(_series_length(hole, is_open=is_open) for hole in holes)
    bore = math.pi * column(hole.bore_radius for hole in holes) ** 2
    series = 1j * omega * air.density / bore * taken
    a = 1 + series / (2 * shunt)
    return Matrix(a, series * (1 + series / (4 * shunt)), 1 / shunt, a)


def _series_length(hole: Hole, *, is_open: bool) -> float:
    """Length in m that a hole adds to the bore: negative, as it takes some away."""
    r, height = hole.ratio, 1.84 * hole.chimney / hole.radius
    ends = 0.940 + 0.540 * r + 0.285 * r**2
    depth = math.tanh(height) if is_open else 1 / math.tanh(height)
    return -hole.radius * r**2 / (1.78 * depth + ends)
