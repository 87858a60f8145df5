"""Write docs/hands.md: moves ranked by hand against the time that the hands are said to need for them.

With --check it writes nothing and fails where the file is not current.
"""

import csv
import os
import sys
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

import django  # noqa: E402

django.setup()

import numpy as np  # noqa: E402
from scipy.stats import kendalltau, rankdata  # noqa: E402

from catalogue import shipped  # noqa: E402
from core.instruments.actions import grips  # noqa: E402
from core.instruments.fingering import Fingering, parse_fingering  # noqa: E402
from core.instruments.hand import Hand, PlayerLevel  # noqa: E402
from core.music.pitch import parse_pitch  # noqa: E402
from core.routes.demands import demands, entry_grips  # noqa: E402
from core.routes.facility import move_effects, time_needed_s  # noqa: E402

TABLE = ROOT / "tests" / "core" / "routes" / "ranked_moves.csv"
EARLIER = TABLE.with_name("ranked_pairs.csv")
TARGET = ROOT / "docs" / "hands.md"
# Kendall's tau of all moves when they were first looked at.
BEFORE = {"alto-saxophone": 0.785, "b-flat-clarinet": 0.752, "oboe": 0.755, "bassoon": 0.744}
SAMPLES, OUT_OF_PLACE = 1_000, 6
HEAD = """# Hands, held against moves that were ranked by hand

Sixty moves a family, ranked in six tiers from teaching practice, for an advanced player in slurred sixteenths
at about 112, by somebody who saw neither costs nor code (`tests/core/routes/ranked_moves.csv`, with what was
held for doubtful before looking). Costs were set on every other move, beginning with the first, and are told
on those between. Kendall's tau between tier and the time that a move needs; in brackets 9 in 10 of a thousand
samples drawn from the moves. Made by `make hands`.

| instrument | before | set on | told on | all |
|---|---|---|---|---|
"""
OTHERS = """
112 moves that were ranked before those, by which no cost was set (`tests/core/routes/ranked_pairs.csv`), both
ways: {}.
"""
OUT = """
## Most out of place

Of all moves of an instrument, by how many places of sixty: those that the costs hold for harder than they
were ranked (+), and for easier (-).

| instrument | move | tier | ms | places |
|---|---|---|---|---|
"""


@dataclass(frozen=True)
class RankedMove:
    """A move with its tier, 1 the easiest; a side is a note and its fingering."""

    model: str
    tier: int
    sides: tuple[tuple[str, Fingering], tuple[str, Fingering]]
    why: str


def ranked_moves() -> list[RankedMove]:
    """The moves as they were ranked."""
    with TABLE.open() as lines:
        rows = list(csv.DictReader(line for line in lines if not line.startswith("#")))
    found = []
    for row in rows:
        instrument = shipped.catalogue(row["model"]).instrument
        sides = (("from_note", "before"), ("to_note", "after"))
        sides = tuple((row[note], parse_fingering(row[touches], instrument)) for note, touches in sides)
        found.append(RankedMove(row["model"], int(row["tier"]), sides, row["why"]))
    return found


def needed_s(moves):
    """Seconds that moves of one instrument need."""
    chart = shipped.catalogue(moves[0].model)
    before, after = ([move.sides[n] for move in moves] for n in (0, 1))
    held = [
        grips(
            chart.instrument,
            [f for _, f in side],
            [_partial(chart, *one) for one in side],
            [parse_pitch(note) for note, _ in side],
        )
        for side in (before, after)
    ]
    return time_needed_s(move_effects(chart.instrument, *held, Hand(level=PlayerLevel.ADVANCED)))


def _partial(chart, note, fingering):
    """Of the row with these touches; where there is none, of the note's first row that says one."""
    rows = chart.by_midi.get(parse_pitch(note).midi, ())
    same = [row.partial for row in rows if row.fingering == fingering]
    return same[0] if same else next((row.partial for row in rows if row.partial), None)


def earlier():
    """Instrument and Kendall's tau of the moves that were ranked before."""
    with EARLIER.open() as lines:
        rows = list(csv.DictReader(line for line in lines if not line.startswith("#")))
    for model in dict.fromkeys(row["family"] for row in rows):
        some, chart = [row for row in rows if row["family"] == model], shipped.catalogue(model)
        one, other = (
            entry_grips(chart, [chart.by_id[row[side]] for row in some]) for side in ("before", "after")
        )
        needed = sum(demands(chart.instrument, *way).needed_s for way in ((one, other), (other, one)))
        yield model, kendalltau([int(row["level"]) for row in some], needed).statistic


def main():
    moves = ranked_moves()
    lines, out = [], []
    for model, before in BEFORE.items():
        some = [move for move in moves if move.model == model]
        tier, needed = np.array([move.tier for move in some]), needed_s(some)
        parts = [
            _tau(tier[part], needed[part]) for part in (slice(0, None, 2), slice(1, None, 2), slice(None))
        ]
        lines.append(f"| {model} | {before:.2f} | {' | '.join(parts)} |\n")
        apart = rankdata(needed) - rankdata(tier)
        for n in np.argsort(-np.abs(apart), kind="stable")[:OUT_OF_PLACE]:
            notes = " to ".join(note for note, _ in some[n].sides)
            move = f"{notes}: {some[n].why}"
            out.append(f"| {model} | {move} | {tier[n]} | {1000 * needed[n]:.0f} | {apart[n]:+.0f} |\n")
    others = OTHERS.format(", ".join(f"{model} {tau:.2f}" for model, tau in earlier()))
    text = HEAD + "".join(lines) + others + OUT + "".join(out)
    if "--check" in sys.argv:
        sys.exit(0 if TARGET.read_text("utf-8") == text else "docs/hands.md is not current: make hands")
    TARGET.write_text(text, "utf-8")


def _tau(tier, needed):
    draw, count = np.random.default_rng(1), len(tier)
    drawn = [draw.integers(0, count, count) for _ in range(SAMPLES)]
    low, high = np.percentile([kendalltau(tier[one], needed[one]).statistic for one in drawn], [5, 95])
    return f"{kendalltau(tier, needed).statistic:.2f} ({low:.2f} to {high:.2f})"


if __name__ == "__main__":
    main()
