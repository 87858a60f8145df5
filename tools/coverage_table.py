"""Write docs/coverage.md: what the catalogue has, by instrument, register and kind, and how sure it is."""

import argparse
import os
import sys
from collections import Counter, defaultdict
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

from catalogue import shipped  # noqa: E402
from core.charts.entry import Confidence  # noqa: E402
from core.instruments.fingering import Kind  # noqa: E402
from core.music.pitch import spell  # noqa: E402
from studio.shipped import INSTRUMENTS  # noqa: E402

PAGE = ROOT / "docs" / "coverage.md"
HEAD = """# What the catalogue has

Made by `make coverage` from `src/data`; a test holds it against the data.

A cell gives the rows of **high / medium / low** confidence; a point stands for none. "Unknown" counts the
rows whose tendency is not known; "remarks" those that the keywork alone does not settle, each with a written
reason. Notes without any row are listed as gaps.
"""


def cell(counts):
    """Rows by confidence, from the surest down."""
    levels = [Confidence.HIGH, Confidence.MEDIUM, Confidence.LOW]
    return " / ".join(str(counts[level] or "·") for level in levels) if sum(counts.values()) else ""


def section(model, label):
    chart = shipped.catalogue(model)
    instrument = chart.instrument
    kinds = [kind for kind in Kind if any(entry.kind is kind for entry in chart.entries)]
    table = defaultdict(Counter)
    for entry in chart.entries:
        register = instrument.register_of(entry.note).name
        for row in (register, "all"):
            for column in (entry.kind, "all"):
                table[row, column][entry.confidence] += 1
    low, high = instrument.written_low, instrument.written_high
    lines = [f"\n## {label}: {len(chart.entries)} rows, written {low} to {high}\n"]
    lines.append("| register | " + " | ".join(kind.value for kind in kinds) + " | all |")
    lines.append("|---" * (len(kinds) + 2) + "|")
    for name in [register.name for register in instrument.registers] + ["all"]:
        cells = [cell(table[name, column]) for column in (*kinds, "all")]
        lines.append(f"| {name} | " + " | ".join(cells) + " |")
    unknown = sum(entry.tendency is None for entry in chart.entries)
    remarks = sum(bool(entry.reason) for entry in chart.entries)
    lines.append(f"\nUnknown: {unknown}. Remarks: {remarks}. Gaps: {gaps(chart)}.")
    return lines


def gaps(chart):
    """Notes of the range without a row, runs joined."""
    low, high = chart.instrument.written_low.midi, chart.instrument.written_high.midi
    runs = []
    for midi in range(low, high + 1):
        if midi in chart.by_midi:
            continue
        if runs and runs[-1][1] == midi - 1:
            runs[-1][1] = midi
        else:
            runs.append([midi, midi])
    said = [str(spell(a)) if a == b else f"{spell(a)} to {spell(b)}" for a, b in runs]
    return ", ".join(said) or "none"


def page():
    """The whole page as text."""
    lines = [HEAD.rstrip()]
    for model, label in INSTRUMENTS.items():
        lines += section(model, label)
    return "\n".join(lines) + "\n"


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--check", action="store_true", help="only say whether the page is current")
    if parser.parse_args().check:
        sys.exit(0 if PAGE.read_text("utf-8") == page() else "docs/coverage.md is old: run make coverage")
    PAGE.write_text(page(), "utf-8")


if __name__ == "__main__":
    main()
