"""Air in the bore."""

from __future__ import annotations

import math
from dataclasses import dataclass

CELSIUS_MIN, CELSIUS_MAX = -10.0, 50.0
KELVIN = 273.16


@dataclass(frozen=True)
class Air:
    """Properties of air at one temperature.

    Parameters
    ----------
    speed : float
        Of sound, in m/s.
    density : float
        In kg/m³.
    viscosity : float
        Shear viscosity, in Pa s.
    prandtl : float
    gamma : float
        Ratio of specific heats.
    """

    speed: float
    density: float
    viscosity: float
    prandtl: float = 0.7104
    gamma: float = 1.402

    @property
    def impedance(self) -> float:
        """Characteristic impedance of free air, in Pa s/m."""
        return self.density * self.speed


def air_at(celsius: float) -> Air:
    """Find the properties of dry air at a temperature.

    Parameters
    ----------
    celsius : float
        From -10 to 50.

    Returns
    -------
    Air

    Raises
    ------
    ValueError
        If the temperature lies outside.

    References
    ----------
    Keefe (1984), Acoustical wave propagation in cylindrical ducts: transmission line parameter
    approximations for isothermal and nonisothermal boundary conditions, JASA 75. Chaigne and
    Kergomard (2016), Acoustics of Musical Instruments, ch. 5.

    Examples
    --------
    >>> round(air_at(25).speed, 1), round(air_at(25).density, 3)
    (346.3, 1.184)
    """
    if not CELSIUS_MIN <= celsius <= CELSIUS_MAX:
        raise ValueError(f"air must have from {CELSIUS_MIN:g} to {CELSIUS_MAX:g} °C, got {celsius!r}")
    ratio = (celsius + KELVIN) / KELVIN
    return Air(331.45 * math.sqrt(ratio), 1.2929 / ratio, 1.708e-5 * (1 + 0.0029 * celsius))
