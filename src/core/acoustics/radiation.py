"""What the open end of a tube gives off."""

from __future__ import annotations

import math

import numpy as np

from core.acoustics.air import Air
from core.acoustics.bore import ComplexArray, FloatArray

# Above this ka the published approximations end; reed woodwinds stay well below it in what counts.
KA_MAX = 1.5


def unflanged(air: Air, omega: FloatArray, radius: float) -> ComplexArray:
    """Find the radiation impedance of a tube that ends in free air, in Pa s/m³.

    Parameters
    ----------
    air : Air
    omega : np.ndarray [shape=(n_freq,)]
        Angular frequencies in rad/s; above ka = 1.5 the value there is kept.
    radius : float
        In m.

    Returns
    -------
    np.ndarray of complex [shape=(n_freq,)], Pa s/m³

    References
    ----------
    Causse, Kergomard and Lurton (1984), Input impedance of brass musical instruments, JASA 75.
    """
    ka = np.minimum(omega * radius / air.speed, KA_MAX)
    log = np.log(ka)
    real = 0.25 * ka**2 + 0.0127 * ka**4 + 0.082 * ka**4 * log - 0.023 * ka**6
    imaginary = 0.6133 * ka - 0.036 * ka**3 + 0.034 * ka**3 * log - 0.0187 * ka**5
    return np.asarray((real + 1j * imaginary) * air.impedance / (math.pi * radius**2))


def flanged_length(radius: float) -> float:
    """Length by which an open hole in a wide wall reaches beyond its rim, in m.

    Parameters
    ----------
    radius : float, m, above 0

    Returns
    -------
    float, m

    References
    ----------
    Dalmont, Nederveen and Joly (2001), Radiation impedance of tubes with different flanges,
    J. Sound Vib. 244.
    """
    return 0.8216 * radius


def pad_length(radius: float, height: float, pad_radius: float, wall: float) -> float:
    """Length that an open pad hovering above a hole adds, in m.

    Parameters
    ----------
    radius, height, pad_radius, wall : float
        Of the hole, of the pad above its rim, of the pad, thickness of the rim; in m.

    Returns
    -------
    float, m

    References
    ----------
    Dalmont, Nederveen and Joly (2001), as above: a tube that faces a disk.
    """
    gap = height / radius
    near = 3.5 * math.pow(gap, 0.8) * math.pow(gap + 3 * wall / radius, -0.4)
    return radius / (near + 30 * math.pow(height / pad_radius, 2.6))
