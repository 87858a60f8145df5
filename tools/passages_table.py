"""Write docs/passages.md: twenty short lines with what is expected and chosen, why, and how sure.

With --check it writes nothing and fails where the file is not current.
"""

import csv
import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

import django  # noqa: E402

django.setup()

from catalogue import in_hand as making  # noqa: E402
from core.music.events import sounding_events  # noqa: E402
from core.music.notation.abc import read_abc  # noqa: E402
from core.routes.explain import chosen, reason  # noqa: E402
from core.routes.solve import solve  # noqa: E402

TABLE = ROOT / "tests" / "core" / "routes" / "short_lines.csv"
TARGET = ROOT / "docs" / "passages.md"
TEMPI = {"slow": 60.0, "fast": 144.0}
HEAD = """# Twenty short lines

What a teacher would expect of twenty slurred lines of eighths, written before the routes were looked at
(`tests/core/routes/short_lines.csv`), and what the routes take on a shipped instrument of each family,
at 60 and at 144. In brackets what each was chosen over, how surely, and for what. Made by `make passages`.

| instrument, line | ♩ | expected | chosen |
|---|---|---|---|
"""


def main():
    with TABLE.open() as lines:
        rows = list(csv.DictReader(line for line in lines if not line.startswith("#")))[:20]
    text = HEAD + "".join(line(row, pace) for row in rows for pace in TEMPI)
    if "--check" in sys.argv:
        sys.exit(0 if TARGET.read_text("utf-8") == text else "docs/passages.md is not current: make passages")
    TARGET.write_text(text, "utf-8")


def line(row, pace):
    family, music = row["family"], row["line"]
    in_hand = making.of_usual(family)
    clef = " clef=bass" * (family == "bassoon")
    passage = read_abc(f"L:1/8\nM:4/4\nK:C{clef}\n{music}|").passage
    table = solve(sounding_events(passage, TEMPI[pace]), in_hand, making.moves_of(in_hand.catalogue))
    said = [told(table, note) for note in range(len(table.problem.events))]
    expected = row[pace].replace("|", "/")
    return f"| {family} `{music}` | {TEMPI[pace]:.0f} | {expected} | {'; '.join(said)} |\n"


def told(table, note):
    """The fingering chosen for a note, and against what."""
    why, here = reason(table, note), chosen(table, note).entry.id
    if why.rival is None:
        return here
    rival = table.problem.given.offered[note].candidates[why.rival].entry.id
    return f"{here} (over {rival}: {why.sure}{f', {why.because}' if why.because else ''})"


if __name__ == "__main__":
    main()
