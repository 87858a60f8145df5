"""The tempo strip: what changes with the tempo, as ticks on a line of tempi, and a ladder up to it."""

from dataclasses import dataclass

from django.utils.safestring import SafeString

from bench.queries import Opened
from bench.screens.changes import Way, way
from bench.solution import Solution
from bench.systems import View
from core.routes.tempo_map import Switch, TempoMap, tempo_map
from core.words import in_100
from drawing.tempo_strip import Tick, strip_svg

# Within a quarter of the tempo in hand changes are drawn strong: there they matter in practice.
NEAR = 0.25
LADDER = (0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
SWITCHES_SHOWN = 60


@dataclass(frozen=True)
class SwitchShown:
    """Fingerings that change together at a tempo."""

    bpm: int
    faster: bool
    near: bool
    saves: str
    way: Way


@dataclass(frozen=True)
class TempoStep:
    """A step of the ladder: what the fingerings of the tempo in hand cost there beside the best ones."""

    bpm: int
    faults: float
    kept: str


@dataclass(frozen=True)
class TempoStrip:
    """Everything said of other tempi.

    Parameters
    ----------
    hold_from, hold_to : int
        The tempi between which every fingering holds.
    """

    bpm: str
    first: int
    last: int
    drawing: SafeString
    hold_from: int
    hold_to: int
    switches: tuple[SwitchShown, ...]
    left_out: int
    ladder: tuple[TempoStep, ...]


def map_of(solution: Solution, bpm: float) -> TempoMap:
    """The tempo map of a solution."""
    return solution.once(("tempo map", bpm), lambda: tempo_map(solution.table, bpm))


def tempo_strip(opened: Opened) -> TempoStrip:
    """Build the strip."""
    bpm, solution = opened.settings.tempo_bpm, opened.solution()
    found = map_of(solution, bpm)
    first, last = int(found.tempi[0]), int(found.tempi[-1])
    slower = [switch.bpm for switch in found.switches if not switch.faster]
    faster = [switch.bpm for switch in found.switches if switch.faster]
    ticks = [Tick(s.bpm, near(s, bpm), f"{s.bpm}: {len(s.notes)} change") for s in found.switches]
    view = View(opened, solution, None, frozenset())
    nearest = sorted(found.switches, key=lambda switch: abs(switch.bpm - bpm))[:SWITCHES_SHOWN]
    return TempoStrip(
        bpm=f"{round(bpm, 1):g}",
        first=first,
        last=last,
        drawing=strip_svg(found.tempi, found.faults, found.faults + found.kept_costs, ticks, bpm),
        hold_from=max(slower, default=first - 1) + 1,
        hold_to=min(faster, default=last + 1) - 1,
        switches=tuple(_shown(view, s, bpm) for s in sorted(nearest, key=lambda s: (s.bpm, s.notes))),
        left_out=len(found.switches) - len(nearest),
        ladder=tuple(_rung(found, round(bpm * share)) for share in LADDER if bpm * share >= first),
    )


def near(switch: Switch, bpm: float) -> bool:
    """Whether a switch is near the tempo in hand."""
    return abs(switch.bpm - bpm) <= NEAR * bpm


def _shown(view, switch, bpm):
    return SwitchShown(
        bpm=switch.bpm,
        faster=switch.faster,
        near=near(switch, bpm),
        saves=in_100(switch.saves),
        way=way(view, switch.notes, switch.before, switch.after),
    )


def _rung(found, bpm):
    kept = found.kept_cost_at(bpm)
    return TempoStep(
        bpm, float(found.faults[bpm - int(found.tempi[0])]), in_100(kept) if kept >= 0.005 else ""
    )
