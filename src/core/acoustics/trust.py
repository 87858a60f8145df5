"""What a model has earned by its hold-out: the table of results, and what may be shown by it.

Trust reaches as far as it was tried and no farther: nothing is shown above the highest note of a
register and use that was tried, for partials beyond those tried, or for overtones of fingerings
higher than those tried.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from core.acoustics.holdout import Cell
from core.acoustics.model import Prediction, Use
from core.instruments.instrument import Instrument
from core.music.pitch import Pitch, parse_pitch

# Shares within 35 cents that cents must earn, as they are or after a player's readings; at least so
# many rows must have been tried, or as many seen by the fit, and random fingerings do half as well.
EARNED, EARNED_WITH_READINGS = 0.8, 0.75
TRIED, SEEN, SEEN_FOR_RESPONSE = 3, 5, 3
# Where models of other dimensions failed too, few rows that come right here prove nothing: no cents in
# these registers, on forks of these families that the fit did not see, or above these notes.
NO_CENTS = {"oboe": {"high"}, "bassoon": {"high"}}
NO_CENTS_FORKED = {"oboe", "bassoon"}
NO_TRUST_ABOVE = {"saxophone": parse_pitch("A6"), "clarinet": parse_pitch("F6")}
FIGURES = ("bias", "median", "scatter", "within", "within_offset", "random", "neighbours")


class Level(StrEnum):
    """What may be shown, from the most to nothing."""

    PITCH = "pitch and response"
    READINGS = "response, and pitch after readings"
    RESPONSE = "response only"
    NONE = "nothing"


@dataclass(frozen=True)
class Trust:
    """What holds for one register and use: level, errors to reckon with in cents, and how far up.

    Parameters
    ----------
    error, scatter : float
        Root mean square of the error as it is, and standard deviation of what an offset leaves.
    top, base : Pitch
        Highest note tried, and highest first register note that an overtone was tried on.
    partial : int
        Highest partial tried.
    """

    level: Level
    error: float = math.inf
    scatter: float = math.inf
    top: Pitch | None = None
    base: Pitch | None = None
    partial: int = 0


NO_TRUST = Trust(Level.NONE)
Table = Mapping[tuple[str, str], Trust]


def level_of(cell: Cell) -> Level:
    """What a register and use have earned."""
    enough = cell.count >= TRIED or (cell.count and cell.anchors >= SEEN)
    if enough and cell.within >= max(EARNED, 2 * cell.random):
        return Level.PITCH
    if cell.count >= TRIED and cell.within_offset >= max(EARNED_WITH_READINGS, 2 * cell.random):
        return Level.READINGS
    if cell.anchors >= SEEN_FOR_RESPONSE or (cell.count >= TRIED and cell.auc[1] > 0.5):
        return Level.RESPONSE
    return Level.NONE


def format_table(cells_of: Mapping[str, Iterable[Cell]]) -> str:
    """Write the results of every instrument as TOML."""
    lines = ["# Made by `make holdout ARGS=--write`: what the models earned on fingerings they never saw."]
    for name, cells in cells_of.items():
        lines.append(f"\n[{name}]\ncell = [")
        for cell in cells:
            figures = [f"{what} = {_number(getattr(cell, what))}" for what in FIGURES]
            bounds = [
                f"{what} = [{', '.join(map(_number, getattr(cell, what)))}]" for what in ("auc", "auc_random")
            ]
            parts = [
                f'register = "{cell.register}", use = "{cell.use}"',
                f'top = "{cell.top.ascii}", base = "{cell.base.ascii}", partial = {cell.partial}',
                f'level = "{level_of(cell)}", count = {cell.count}, anchors = {cell.anchors}',
                *figures,
                *bounds,
            ]
            lines.append(f"  {{ {', '.join(parts)} }},")
        lines.append("]")
    return "\n".join(lines) + "\n"


def _number(value: float) -> str:
    return "nan" if math.isnan(value) else f"{value:.2f}"


def parse_table(text: str) -> dict[str, dict[tuple[str, str], Trust]]:
    """Read what each instrument's registers and uses have earned."""
    return {
        name: {(row["register"], row["use"]): _trust(row) for row in data["cell"]}
        for name, data in tomllib.loads(text).items()
    }


def _trust(row: Mapping[str, Any]) -> Trust:
    bias, scatter = (math.inf if math.isnan(row[what]) else float(row[what]) for what in ("bias", "scatter"))
    return Trust(
        Level(row["level"]),
        math.hypot(bias, scatter),
        scatter,
        parse_pitch(row["top"]),
        parse_pitch(row["base"]),
        int(row["partial"]),
    )


def trust_in(table: Table, instrument: Instrument, prediction: Prediction, note: Pitch) -> Trust:
    """What a prediction for a written note has earned."""
    register, family = instrument.register_of(note).name, instrument.family
    found = table.get((register, prediction.use.value), NO_TRUST)
    if found.top is None or found.base is None:
        return NO_TRUST
    top = min(found.top.midi, NO_TRUST_ABOVE[family].midi if family in NO_TRUST_ABOVE else found.top.midi)
    too_high = prediction.use is Use.OVERTONE and prediction.base.midi > found.base.midi
    if note.midi > top or too_high or prediction.partial > found.partial:
        return NO_TRUST
    forked = prediction.forked and family in NO_CENTS_FORKED
    if found.level is not Level.NONE and (forked or register in NO_CENTS.get(family, ())):
        return replace(found, level=Level.RESPONSE)
    return found
