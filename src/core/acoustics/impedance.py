"""Input impedance of a bore with its holes, as the reed sees it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from core.acoustics.air import Air
from core.acoustics.bore import ComplexArray, FloatArray, Matrix, cone
from core.acoustics.radiation import unflanged
from core.acoustics.tonehole import Hole, hole_matrix


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
    load = unflanged(air, omega, tube.profile[-1][1])
    for piece in reversed(_pieces(tube, open_holes, air, omega)):
        load = piece.seen(load)
    if tube.reed_volume:
        compliance = 1j * omega * tube.reed_volume / (air.density * air.speed**2)
        load = load / (1 + load * compliance)
    return load


def _pieces(tube: Tube, open_holes: Collection[str], air: Air, omega: FloatArray) -> Sequence[Matrix]:
    """Matrices from the reed to the bell: stretches of bore, and the holes between them."""
    at = sorted((place, name) for name, (place, _) in tube.holes.items())
    cuts = sorted({place for place, _ in tube.profile} | {place for place, _ in at})
    pieces: list[Matrix] = []
    for start, end in pairwise(cuts):
        pieces.append(cone(air, omega, tube.radius_at(start), tube.radius_at(end), end - start))
        pieces += [
            hole_matrix(air, omega, tube.holes[name][1], is_open=name in open_holes)
            for place, name in at
            if place == end
        ]
    return pieces
