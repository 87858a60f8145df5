"""Write docs/verdict.md: what is said of sixty right rows of charts and of sixty misprinted ones.

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

import django  # noqa: E402

django.setup()

from catalogue.in_hand import of_usual  # noqa: E402
from core.charts.audit import Finding, audit_chart  # noqa: E402
from core.charts.chart_format import read_chart  # noqa: E402
from core.charts.verdict import Verdict, judge  # noqa: E402
from core.errors import CoreError  # noqa: E402
from core.instruments.fingering import parse_fingering  # noqa: E402
from core.music.pitch import parse_pitch  # noqa: E402
from studio.shipped import INSTRUMENTS  # noqa: E402

TABLE = ROOT / "tests" / "core" / "charts" / "audit_rows.csv"
TARGET = ROOT / "docs" / "verdict.md"
UNKNOWN = Finding.UNKNOWN_TOUCH
HEAD = """# What is said of a row that somebody brings

Sixty right rows and sixty misprinted ones, a third of each in the top register, written before the audit was
looked at for them (`tests/core/charts/audit_rows.csv`). Each was audited as the chart stands, and judged once
more as if no chart had it. Made by `make verdict`.

"""


def rows():
    """The rows, as they stand in the table."""
    with TABLE.open(encoding="utf-8") as lines:
        return list(csv.DictReader(line for line in lines if not line.startswith("#")))


def audited(row):
    """The finding of an audit, and its words."""
    in_hand = of_usual(row["model"])
    read = read_chart(f"note,touches\n{row['note']},{row['touches']}\n".encode())
    (found,) = audit_chart(read, in_hand.catalogue, in_hand.fitted, in_hand.acoustics).rows
    return found.finding, found.words


def unheard_of(row):
    """What the verdict is where no chart has the row."""
    in_hand, note = of_usual(row["model"]), parse_pitch(row["note"])
    try:
        fingering = parse_fingering(row["touches"], in_hand.instrument)
    except CoreError:
        return UNKNOWN
    known = in_hand.catalogue.find(note, fingering)
    blind = in_hand.catalogue.with_own((), {known.id}) if known else in_hand.catalogue
    (judged,) = judge(blind, [(fingering, note)], in_hand.acoustics)
    return judged.verdict


def counts(title, order, asked, found):
    """One line for each finding that came up: how many of the right rows, how many of the misprinted."""
    counted = Counter((finding, bool(row["cause"])) for row, finding in zip(asked, found, strict=True))
    lines = [
        f"| {finding} | {counted[finding, False]} | {counted[finding, True]} |\n"
        for finding in order
        if counted[finding, False] or counted[finding, True]
    ]
    return "".join([f"| {title} | right | misprinted |\n|---|---|---|\n", *lines, "\n"])


def page():
    """The whole page as text."""
    asked = rows()
    told = [audited(row) for row in asked]
    parts = [
        HEAD,
        counts("audited", Finding, asked, [finding for finding, _ in told]),
        counts("no chart has it", [*Verdict, UNKNOWN], asked, [unheard_of(row) for row in asked]),
        "| misprinted row | what is wrong | what is said |\n|---|---|---|\n",
    ]
    for row, (finding, words) in zip(asked, told, strict=True):
        if row["cause"]:
            where = f"{INSTRUMENTS[row['model']]} {row['note']} `{row['touches']}`".replace("|", "\\|")
            said = words if words.startswith(finding) else f"{finding}: {words}"
            parts.append(f"| {where} | {row['cause']} | {said} |\n")
    return "".join(parts)


def main():
    if "--check" in sys.argv:
        sys.exit(0 if TARGET.read_text("utf-8") == page() else "docs/verdict.md is not current: make verdict")
    TARGET.write_text(page(), "utf-8")


if __name__ == "__main__":
    main()
