"""What a model has earned by its hold-out: the table of results, and what may be shown by it.

Trust reaches as far as it was tried and no farther: above the highest note of a register and use that
the hold-out tried, nothing is shown.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from core.acoustics.holdout import Cell
from core.acoustics.model import Use
from core.instrument import Instrument
from core.pitch import Pitch, parse_pitch

# Shares within 35 cents that cents must earn, as they are or after a player's readings; at least so
# many rows must have been tried, or as many seen by the fit, and random fingerings do half as well.
EARNED, EARNED_WITH_READINGS = 0.8, 0.75
TRIED, SEEN, SEEN_FOR_RESPONSE = 3, 5, 3
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
    """

    level: Level
    error: float = math.inf
    scatter: float = math.inf
    top: Pitch | None = None


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
                f'register = "{cell.register}", use = "{cell.use}", top = "{cell.top.ascii}"',
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
    return Trust(Level(row["level"]), math.hypot(bias, scatter), scatter, parse_pitch(row["top"]))


def trust_in(table: Table, instrument: Instrument, use: Use, note: Pitch) -> Trust:
    """What the model has earned for a written note by a use of its resonance."""
    found = table.get((instrument.register_of(note).name, use.value), NO_TRUST)
    return found if found.top and note.midi <= found.top.midi else NO_TRUST
