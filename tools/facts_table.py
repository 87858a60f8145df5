"""Write docs/double-reeds.md: sixty facts of double reeds, and what the charts say of each.

With --check it writes nothing and fails where the file is not current.
"""

import csv
import os
import sys
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

from catalogue import shipped  # noqa: E402
from core.charts.entry import Speaks  # noqa: E402
from core.errors import CoreError  # noqa: E402
from core.instruments.fingering import ON_PURPOSE, parse_fingering  # noqa: E402
from core.music.pitch import parse_pitch  # noqa: E402

TABLE = ROOT / "tests" / "core" / "charts" / "double_reed_facts.csv"
TARGET = ROOT / "docs" / "double-reeds.md"
RIGHT, MISSING, LEAD, WRONG = "right", "missing", "a lead only", "wrong"
HEAD = """# Sixty facts of double reeds

Written from teaching practice before the charts were looked at again for them
(`tests/core/charts/double_reed_facts.csv`), and what the charts have of each. What is missing is not known
well enough here to be vouched for, or the instrument of the data has no such touch. Made by `make facts`.

"""


def facts():
    """The facts, as they stand in the table."""
    with TABLE.open(encoding="utf-8") as lines:
        return list(csv.DictReader(line for line in lines if not line.startswith("#")))


def found(fact):
    """What the chart has of a fact: right, missing, a lead only, or wrong."""
    chart = shipped.catalogue(fact["instrument"])
    says, _, more = fact["says"].partition(" ")
    note = parse_pitch(fact["note"])
    rows = [row for row in chart.by_midi.get(note.midi, ()) if row.kind not in ON_PURPOSE]
    if fact["touches"] != "*":
        try:
            held = parse_fingering(fact["touches"], chart.instrument)
        except CoreError:
            return RIGHT if says == "not" else MISSING
        if says == "trill":
            return _trill(chart, held, more)
        rows = [row for row in rows if row.fingering == held]
    if says == "not":
        return WRONG if rows else RIGHT
    if not rows:
        return MISSING
    if all(row.is_lead for row in rows):
        return LEAD
    if any(_agrees(row, says, more) for row in rows):
        return RIGHT
    return MISSING if says == "without" else WRONG


def _trill(chart, held, more):
    name, _, touches = more.partition(" ")
    try:
        form = parse_fingering(touches, chart.instrument)
    except CoreError:
        return MISSING
    row = chart.find(parse_pitch(name), form)
    return RIGHT if row and not row.is_lead and len(row.fingering.touches ^ held.touches) == 1 else MISSING


def _agrees(row, says, more):
    match says:
        case "sharp":
            return row.tendency is not None and row.tendency.cents > 0
        case "needs":
            return more in row.requires
        case "without":
            return more not in row.requires
        case "less":
            return row.speaks is Speaks.NEEDS_CARE and "soft attacks" in row.avoid_when
        case _:
            return True


def page():
    """The whole page as text."""
    asked = facts()
    results = [found(fact) for fact in asked]
    counts = Counter(results)
    said = ", ".join(f"{counts[name]} {name}" for name in (RIGHT, LEAD, MISSING, WRONG))
    lines = [HEAD, f"{said}.\n\n| | instrument, note | fact | found |\n|---|---|---|---|\n"]
    for fact, result in zip(asked, results, strict=True):
        shown = result if result == RIGHT else f"**{result}**"
        where = f"{fact['instrument']} {fact['note']}"
        lines.append(f"| {fact['number']} | {where} | {fact['fact']} | {shown} |\n")
    return "".join(lines)


def main():
    if "--check" in sys.argv:
        sys.exit(0 if TARGET.read_text("utf-8") == page() else "docs/double-reeds.md is old: make facts")
    TARGET.write_text(page(), "utf-8")


if __name__ == "__main__":
    main()
