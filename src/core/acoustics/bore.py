"""Lossy tubes as transfer matrices: cylinders, and cones cut into slices.

A matrix takes pressure and flow at the far end of a piece to its end near the reed. All four
entries have the shape of the angular frequencies, or one that broadcasts with it, so that many
frequencies, many states of the holes and many pieces of the bore are worked out together.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, reduce
from operator import matmul

import numpy as np
import numpy.typing as npt
from scipy.special import jve

from core.acoustics.air import Air

ComplexArray = npt.NDArray[np.complex128]
FloatArray = npt.NDArray[np.float64]

# The longest slice of a cone: shorter ones change a resonance by less than a fifth of a cent.
SLICE = 0.03
# A cylinder counts as a cone that widens by this share of its radius.
FLAT = 1e-11


@dataclass(frozen=True)
class Matrix:
    """Transfer matrices: near pressure = a far pressure + b far flow, near flow = c … + d ….

    Parameters
    ----------
    a, d : np.ndarray of complex [shape=(n_freq,) or (n_stacked, n_freq)]
    b, c : np.ndarray of complex, of the same shape
        In Pa s/m³, and in its inverse.
    """

    a: ComplexArray
    b: ComplexArray
    c: ComplexArray
    d: ComplexArray

    def __matmul__(self, other: Matrix) -> Matrix:
        return Matrix(
            self.a * other.a + self.b * other.c,
            self.a * other.b + self.b * other.d,
            self.c * other.a + self.d * other.c,
            self.c * other.b + self.d * other.d,
        )

    def seen(self, load: ComplexArray) -> ComplexArray:
        """Impedance at the near end when the far end carries `load`.

        Parameters
        ----------
        load : np.ndarray of complex [shape=(..., n_freq)], Pa s/m³

        Returns
        -------
        np.ndarray of complex [shape=(..., n_freq)], Pa s/m³
        """
        return (self.a * load + self.b) / (self.c * load + self.d)

    def __getitem__(self, index: int) -> Matrix:
        """One of a stack."""
        return Matrix(self.a[index], self.b[index], self.c[index], self.d[index])

    @property
    def determinant(self) -> ComplexArray:
        """The determinant of each, which reciprocity makes 1; of the shape of the parts."""
        return self.a * self.d - self.b * self.c


def propagation(air: Air, omega: FloatArray, radius: float | FloatArray) -> tuple[ComplexArray, ComplexArray]:
    """Find propagation constant and characteristic impedance of a round lossy tube.

    Parameters
    ----------
    air : Air
    omega : np.ndarray [shape=(n_freq,)]
        Angular frequencies in rad/s, above 0.
    radius : float, or np.ndarray that broadcasts with omega
        In m, above 0.

    Returns
    -------
    np.ndarray [shape=(n_freq,)]
        Propagation constant Γ in 1/m, its real part the damping.
    np.ndarray [shape=(n_freq,)]
        Characteristic impedance in Pa s/m³.

    Notes
    -----
    Rigid isothermal wall. Scaled Bessel functions: the plain ones overflow in wide tubes.

    References
    ----------
    Zwikker and Kosten (1949), Sound Absorbing Materials. Chaigne and Kergomard (2016), ch. 5.
    """
    area = math.pi * radius**2
    viscous = np.sqrt(-1j * omega * air.density / air.viscosity) * radius
    thermal = viscous * math.sqrt(air.prandtl)
    series = 1j * omega * air.density / area / (1 - _mean(viscous))
    shunt = 1j * omega * area / (air.density * air.speed**2) * (1 + (air.gamma - 1) * _mean(thermal))
    return np.sqrt(series * shunt), np.sqrt(series / shunt)


def _mean(argument: ComplexArray) -> ComplexArray:
    """Mean over the cross-section of what the wall holds back: 2 J1(z) / (z J0(z)), z = s sqrt(-j).

    Wide tubes by the series of I1/I0 in inverse powers, narrow ones by a spline through exact values:
    equal to 1e-10, and many times faster.
    """
    found = -2j / argument * np.polynomial.polynomial.polyval(-1j / argument, WIDE_SERIES)
    stokes = np.abs(argument)
    narrow, narrowest = stokes < WIDE, stokes < NARROW
    found[narrow] = _narrow_mean(stokes[narrow])
    found[narrowest] = _exact_mean(argument[narrowest])
    return np.asarray(found)


def _exact_mean(argument: ComplexArray) -> ComplexArray:
    return np.asarray(2 * jve(1, argument) / (argument * jve(0, argument)))


@cache
def _knots() -> ComplexArray:
    """The mean at even steps, one of them beyond either end."""
    stokes = NARROW + (np.arange(KNOTS + 3) - 1) * KNOT_STEP
    return _exact_mean(stokes * np.sqrt(-1j))


def _narrow_mean(stokes: FloatArray) -> ComplexArray:
    """The mean between the knots, by the cubic through the four nearest: within 1e-11 of the exact one."""
    place = np.minimum(((stokes - NARROW) / KNOT_STEP).astype(np.int64), KNOTS - 1)
    t, at = (stokes - NARROW) / KNOT_STEP - place, _knots()
    before, here, after, beyond = (at[place + n] for n in range(4))
    return np.asarray(
        -t * (t - 1) * (t - 2) / 6 * before
        + (t + 1) * (t - 1) * (t - 2) / 2 * here
        - (t + 1) * t * (t - 2) / 2 * after
        + (t + 1) * t * (t - 1) / 6 * beyond
    )


def _wide_series(order: int) -> tuple[float, ...]:
    """Coefficients of w = I1(x)/I0(x) in powers of 1/x, from w' = 1 - w/x - w²."""
    found = [1.0]
    for k in range(1, order + 1):
        crossed = sum(found[i] * found[k - i] for i in range(1, k))
        found.append(((k - 2) * found[k - 1] - crossed) / 2)
    return tuple(found)


NARROW, WIDE, WIDE_SERIES = 0.3, 20.0, _wide_series(12)
KNOTS = 6000
KNOT_STEP = (WIDE - NARROW) / KNOTS


def cylinder(air: Air, omega: FloatArray, radius: float, length: float) -> Matrix:
    """Make the transfer matrix of a lossy cylinder; lengths in m.

    Parameters
    ----------
    air : Air
    omega : np.ndarray [shape=(n_freq,)], rad/s, above 0
    radius, length : float, m, above 0

    Returns
    -------
    Matrix
    """
    gamma, impedance = propagation(air, omega, radius)
    cosh, sinh = np.cosh(gamma * length), np.sinh(gamma * length)
    return Matrix(cosh, impedance * sinh, sinh / impedance, cosh)


def cone(
    air: Air, omega: FloatArray, near: float, far: float, length: float, longest: float = SLICE
) -> Matrix:
    """Make the transfer matrix of a lossy cone, or of a cylinder where both radii are equal.

    Parameters
    ----------
    air : Air
    omega : np.ndarray [shape=(n_freq,)], rad/s, above 0
    near, far : float
        Radii toward the reed and away from it, in m.
    length : float
        Along the axis, in m.
    longest : float
        Longest slice; within one the losses are those of its mean radius.

    Returns
    -------
    Matrix

    References
    ----------
    Mapes-Riordan (1993), Horn modeling with conical and cylindrical transmission-line elements,
    JAES 41.
    """
    return cones(air, omega, [(near, far, length)], longest)[0]


def cones(
    air: Air, omega: FloatArray, pieces: Sequence[tuple[float, float, float]], longest: float = SLICE
) -> list[Matrix]:
    """Make the transfer matrices of many cones together; each piece is (near, far, length).

    Parameters
    ----------
    air : Air
    omega : np.ndarray [shape=(n_freq,)], rad/s, above 0
    pieces : sequence of (float, float, float), m
        Radius toward the reed, radius away from it, length of each.
    longest : float, m
        Longest slice of a cone.

    Returns
    -------
    list of Matrix
    """
    counts = [1 if near == far else max(1, math.ceil(length / longest)) for near, far, length in pieces]
    rows = [
        (near + (far - near) * n / count, near + (far - near) * (n + 1) / count, length / count)
        for (near, far, length), count in zip(pieces, counts, strict=True)
        for n in range(count)
    ]
    columns = [np.array(column).reshape((-1,) + (1,) * omega.ndim) for column in zip(*rows, strict=True)]
    stack = _slices(air, omega, *columns)
    ends = np.cumsum(counts)
    return [
        reduce(matmul, (stack[n] for n in range(end - count, end)))
        for end, count in zip(map(int, ends), counts, strict=True)
    ]


def _slices(air: Air, omega: FloatArray, near: FloatArray, far: FloatArray, length: FloatArray) -> Matrix:
    """Spherical waves between two distances from the apex of each cone, behind the reed or before it."""
    mean = (near + far) / 2
    gamma, impedance = propagation(air, omega, mean)
    specific = impedance * math.pi * mean**2
    taper = np.where(near == far, FLAT * near, far - near)
    apex = near * length / taper
    x, y = apex, apex + length
    grown = np.exp(gamma * length)
    cosh, sinh = (grown + 1 / grown) / 2, (grown - 1 / grown) / 2
    area = math.pi * near**2
    return Matrix(
        a=far / near * cosh - sinh / (gamma * x),
        b=specific / (math.pi * near * far) * sinh,
        c=area / (gamma * specific * x) * ((gamma * y - 1 / (gamma * x)) * sinh + (y / x - 1) * cosh),
        d=near / far * (cosh + sinh / (gamma * x)),
    )
