"""What a model has earned by its hold-out: the table of results, and what may be shown by it.

Trust reaches as far as it was tried and no farther: nothing is shown above the highest note of a
register and form that was tried, for partials beyond those tried, or for overtones of fingerings
higher than those tried.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from core.acoustics.holdout import Cell, area_of
from core.acoustics.model import Model
from core.acoustics.prediction import Prediction, SoundsAs
from core.charts.entry import Entry
from core.instruments.fingering import Fingering
from core.music.pitch import Pitch, parse_pitch

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
    """What holds for one register and form: level, errors to reckon with in cents, and how far up.

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


@dataclass(frozen=True)
class Limits:
    """What is known of the models of a family of instruments, whatever the hold-out of one of them says.

    Where models of other dimensions failed too, few rows that come right in one prove nothing.

    Parameters
    ----------
    even_db : float
        Margin at which a note speaks in half of all cases, in dB; it lines up with the words that charts
        use for taught fingerings.
    no_cents : tuple of str
        Registers without cents.
    after_readings : tuple of str
        Registers without cents before the player's own readings.
    no_cents_forked : bool
        No cents on forks that the fit did not see.
    readings_above : Pitch or None
        Above this written note no cents before the player's own readings.
    above : Pitch or None
        Above this written note nothing is shown.
    """

    even_db: float = -3.0
    no_cents: tuple[str, ...] = ()
    after_readings: tuple[str, ...] = ()
    no_cents_forked: bool = False
    readings_above: Pitch | None = None
    above: Pitch | None = None

    def capped(self, level: Level, register: str) -> Level:
        """What may be shown at most throughout a register, of what was earned there.

        Parameters
        ----------
        level : Level
        register : str
            Name of a register.

        Returns
        -------
        Level
        """
        if level is not Level.NONE and register in self.no_cents:
            return Level.RESPONSE
        return Level.READINGS if level is Level.PITCH and register in self.after_readings else level


@dataclass(frozen=True)
class TriedModel:
    """A model with what it earned when it was tried, and the rows that its fit was given."""

    model: Model
    table: Table
    limits: Limits = Limits()
    anchors: tuple[Entry, ...] = ()


def level_of(cell: Cell) -> Level:
    """What a register and form have earned.

    Parameters
    ----------
    cell : Cell

    Returns
    -------
    Level
    """
    enough = cell.count >= TRIED or (cell.count and cell.anchors >= SEEN)
    if enough and cell.within >= max(EARNED, 2 * cell.random):
        return Level.PITCH
    if cell.count >= TRIED and cell.within_offset >= max(EARNED_WITH_READINGS, 2 * cell.random):
        return Level.READINGS
    if cell.anchors >= SEEN_FOR_RESPONSE or (cell.count >= TRIED and cell.auc[1] > 0.5):
        return Level.RESPONSE
    return Level.NONE


def format_table(cells_of: Mapping[str, Iterable[Cell]]) -> str:
    """Write the results of every instrument as TOML.

    Parameters
    ----------
    cells_of : mapping of str to iterable of Cell
        By the name of an instrument.

    Returns
    -------
    str
    """
    lines = ["# Made by `make holdout ARGS=--write`: what the models earned on fingerings they never saw."]
    for name, cells in cells_of.items():
        lines.append(f"\n[{name}]\ncell = [")
        for cell in cells:
            figures = [f"{what} = {_number(getattr(cell, what))}" for what in FIGURES]
            bounds = [
                f"{what} = [{', '.join(map(_number, getattr(cell, what)))}]" for what in ("auc", "auc_random")
            ]
            parts = [
                f'register = "{cell.register}", form = "{cell.form}"',
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
    """Read what each instrument's registers and forms have earned.

    Parameters
    ----------
    text : str

    Returns
    -------
    dict of str to dict of (str, str) to Trust
    """
    return {
        name: {(row["register"], row["form"]): _trust(row) for row in data["cell"]}
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


def parse_limits(text: str) -> dict[str, Limits]:
    """Read the limits of families of instruments from TOML; a family that is not named has none.

    Parameters
    ----------
    text : str

    Returns
    -------
    dict of str to Limits
    """
    found = {}
    for family, row in tomllib.loads(text).items():
        above, readings = (parse_pitch(row.pop(n)) if n in row else None for n in ("above", "readings_above"))
        no_cents, after = (tuple(row.pop(name, ())) for name in ("no_cents", "after_readings"))
        found[family] = Limits(
            no_cents=no_cents, after_readings=after, readings_above=readings, above=above, **row
        )
    return found


def trust_in(tried: TriedModel, prediction: Prediction, fingering: Fingering, note: Pitch) -> Trust:
    """What a prediction of a fingering for a written note has earned.

    Parameters
    ----------
    tried : TriedModel
    prediction : Prediction
    fingering : Fingering
    note : Pitch

    Returns
    -------
    Trust
    """
    register, form = area_of(tried.model.instrument, fingering, note, prediction)
    limits, found = tried.limits, tried.table.get((register, form), NO_TRUST)
    if found.top is None or found.base is None:
        return NO_TRUST
    top = min(found.top.midi, limits.above.midi) if limits.above else found.top.midi
    too_high = prediction.sounds_as is SoundsAs.OVERTONE and prediction.base.midi > found.base.midi
    if note.midi > top or too_high or prediction.partial > found.partial:
        return NO_TRUST
    level = limits.capped(found.level, register)
    if level is not Level.NONE and prediction.forked and limits.no_cents_forked:
        level = Level.RESPONSE
    high = limits.readings_above is not None and note.midi > limits.readings_above.midi
    if level is Level.PITCH and high:
        level = Level.READINGS
    return replace(found, level=level)
