"""Dimensions of an instrument as data: mouthpiece, bore, holes; and the states its keywork gives them.

Lengths in the data are in mm, volumes in mm³. Holes have the names of the keywork.
"""

from __future__ import annotations

import json
import tomllib
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from core.acoustics.air import Air, air_at
from core.acoustics.impedance import StateArray, Tube
from core.acoustics.tonehole import Hole
from core.errors import AcousticsError
from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument
from core.instruments.keywork import Mechanism, mechanism

MM = 1e-3
# Between a mouthpiece and a bore of another width.
STEP = 1.0
# A pad is this much wider than its hole.
PAD_WIDTH = 1.3


@dataclass(frozen=True)
class Mouthpiece:
    """A mouthpiece, or reed and staple: a cone from the reed to the bore, with a reed that gives way.

    Parameters
    ----------
    family : str
        What mouthpieces of its kind have in common.
    length, near, far : float
        Length, radius toward the reed and toward the bore.
    reed_volume : float
        Equivalent volume of the reed and of what the cone leaves out.
    """

    family: str
    length: float
    near: float
    far: float
    reed_volume: float


@dataclass(frozen=True)
class HoleSize:
    """A hole; `place` along the bore from the end of the mouthpiece, `pad` the height of its open pad."""

    name: str
    place: float
    radius: float
    chimney: float
    pad: float = 0.0
    jet: float = 0.0
    half: float = 0.0


@dataclass(frozen=True)
class Geometry:
    """An instrument's dimensions with one mouthpiece, and the temperature of the air in it."""

    mouthpiece: Mouthpiece
    bore: tuple[tuple[float, float], ...]
    holes: tuple[HoleSize, ...]
    celsius: float = 26.0

    @property
    def air(self) -> Air:
        """The air in it, at its temperature."""
        return air_at(self.celsius)

    def tube(self) -> Tube:
        """The bore that `impedance` works on, in m.

        Returns
        -------
        Tube

        Raises
        ------
        ValueError
            If no such tube can be: a hole wider than its bore, or beyond the bell.
        """
        first, top = self.mouthpiece, self.mouthpiece.length
        profile = [(0.0, first.near), (top, first.far)]
        step = STEP if abs(first.far - self.bore[0][1]) > 0.01 else 0.0
        profile += [(top + max(place, step), radius) for place, radius in self.bore if place or step]
        bare = Tube(tuple((place * MM, radius * MM) for place, radius in profile))
        holes = {}
        for size in self.holes:
            place = (top + size.place) * MM
            hole = Hole(
                size.radius * MM,
                bare.radius_at(place),
                size.chimney * MM,
                size.pad * MM,
                PAD_WIDTH * size.radius * MM if size.pad else 0.0,
                size.jet,
                size.half * MM,
            )
            holes[size.name] = (place, hole)
        return Tube(bare.profile, holes, first.reed_volume * MM**3)


@dataclass(frozen=True)
class Dimensions:
    """Plausible dimensions of an instrument, before any fit: one geometry for each mouthpiece family.

    Parameters
    ----------
    scaled_from : str
        Instrument whose dimensions were scaled; empty where they are its own.
    """

    instrument: str
    geometries: tuple[Geometry, ...]
    scaled_from: str = ""


def parse_plan(text: str, others: Callable[[str], str], instrument: Instrument) -> Dimensions:
    """Read plausible dimensions.

    Parameters
    ----------
    text : str
        TOML. ``extends`` names an instrument whose dimensions are scaled: ``length`` times as long,
        ``width`` times as wide; holes named again replace, or add to, those of the other.
    others : callable
        Text of another instrument's dimensions, by its name.
    instrument : Instrument

    Returns
    -------
    Dimensions

    Raises
    ------
    AcousticsError
        If the data cannot be read, or its holes are not those of the keywork.
    """
    try:
        data = _extended(tomllib.loads(text), others)
        holes = tuple(HoleSize(**hole) for hole in data["hole"])
        bore = tuple((float(place), float(radius)) for place, radius in data["bore"])
        geometries = tuple(
            Geometry(Mouthpiece(**mouthpiece), bore, holes, float(data["celsius"]))
            for mouthpiece in data["mouthpiece"]
        )
        tubes = [geometry.tube() for geometry in geometries]
    except (tomllib.TOMLDecodeError, KeyError, TypeError, ValueError) as error:
        raise AcousticsError(f"dimensions of {instrument.name} cannot be read: {error}") from error
    keywork = {hole.name for hole in instrument.holes}
    for tube in tubes:
        if set(tube.holes) != keywork:
            odd = sorted(set(tube.holes) ^ keywork)
            raise AcousticsError(f"{instrument.name}: holes differ from those of the keywork: {odd}")
    return Dimensions(instrument.name, geometries, data.get("extends", ""))


def _extended(data: dict[str, Any], others: Callable[[str], str]) -> dict[str, Any]:
    if "extends" not in data:
        return data
    base = _extended(tomllib.loads(others(data["extends"])), others)
    length, width = float(data["length"]), float(data["width"])
    sizes = {"place": length, "length": length, "radius": width, "near": width, "far": width}
    sizes |= {"chimney": width, "pad": width, "half": width, "reed_volume": length * width**2}

    def scaled(row: Mapping[str, Any]) -> dict[str, Any]:
        return {key: value * sizes[key] if key in sizes else value for key, value in row.items()}

    own = {hole["name"]: hole for hole in data.get("hole", [])}
    without = set(data.get("without", []))
    holes = [scaled(hole) for hole in base["hole"] if hole["name"] not in {*own, *without}]
    return {
        "celsius": base["celsius"],
        "mouthpiece": [scaled(row) for row in base["mouthpiece"]],
        "bore": [(place * length, radius * width) for place, radius in base["bore"]],
        "hole": [*holes, *own.values()],
    } | {key: value for key, value in data.items() if key != "hole"}


def format_ensemble(geometries: Iterable[Geometry], provenance: Mapping[str, Any]) -> str:
    """Write fitted geometries as JSON, with where they come from.

    Parameters
    ----------
    geometries : iterable of Geometry
    provenance : mapping of str to Any
        Where the geometries come from, by a name for each thing said.

    Returns
    -------
    str
    """
    rows = [_rounded(asdict(geometry)) for geometry in geometries]
    return json.dumps({"provenance": provenance, "geometries": rows}, indent=1) + "\n"


def parse_ensemble(text: str) -> tuple[Geometry, ...]:
    """Read fitted geometries.

    Parameters
    ----------
    text : str

    Returns
    -------
    tuple of Geometry
    """
    return tuple(
        Geometry(
            Mouthpiece(**row["mouthpiece"]),
            tuple((place, radius) for place, radius in row["bore"]),
            tuple(HoleSize(**hole) for hole in row["holes"]),
            row["celsius"],
        )
        for row in json.loads(text)["geometries"]
    )


def _rounded(value: Any) -> Any:
    if isinstance(value, float):
        return round(value, 3)
    if isinstance(value, Mapping):
        return {key: _rounded(item) for key, item in value.items() if item or key == "place"}
    return [_rounded(item) for item in value] if isinstance(value, list | tuple) else value


def hole_states(
    tube: Tube, instrument: Instrument, fingerings: Sequence[Fingering], fitted: Collection[str] | None = None
) -> StateArray:
    """State of every hole under each fingering.

    Parameters
    ----------
    tube : Tube
    instrument : Instrument
    fingerings : sequence of Fingering
    fitted : collection of str, optional
        Optional touches and fittings of the instrument in hand. Default: what is usually fitted.

    Returns
    -------
    np.ndarray [shape=(n_fingerings, n_holes)]
    """
    return standing(tube, [mechanism(instrument, fingering, fitted) for fingering in fingerings])


def standing(tube: Tube, reads: Sequence[Mechanism]) -> StateArray:
    """State of every hole under each reading of the keywork.

    Parameters
    ----------
    tube : Tube
    reads : sequence of Mechanism

    Returns
    -------
    np.ndarray of int [shape=(n_reads, n_holes)]
    """
    rows = np.zeros((len(reads), len(tube.holes)), dtype=np.uint8)
    for row, read in zip(rows, reads, strict=True):
        row[:] = tube.state({*read.open_holes, *read.open_vents} - set(read.half_holes), read.half_holes)
    return rows
