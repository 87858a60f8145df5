"""Write docs/passages.md: eighty short lines with what is expected and chosen, why, and how sure.

With --check it writes nothing and fails where the file is not current.
"""

import csv
import os
import sys
from collections import Counter
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

import django  # noqa: E402

django.setup()

from catalogue import in_hand as making  # noqa: E402
from core.instruments.hand import PlayerLevel  # noqa: E402
from core.music.events import sounding_events  # noqa: E402
from core.music.notation.abc import read_abc  # noqa: E402
from core.routes.explain import chosen, reason  # noqa: E402
from core.routes.solve import solve  # noqa: E402

TABLE = ROOT / "tests" / "core" / "routes" / "short_lines.csv"
TARGET = ROOT / "docs" / "passages.md"
TEMPI = {"slow": 60.0, "fast": 144.0}
LEVELS = (PlayerLevel.BEGINNING, PlayerLevel.ADVANCED)
HEAD = """# Eighty short lines

What a teacher would expect of eighty slurred lines of eighths, written before the routes were looked at
(`tests/core/routes/short_lines.csv`), and what the routes take on a shipped instrument, at 60 and at 144,
for a beginner and for an advanced player. In brackets what each was chosen over, how surely, and for what; a
bold one is not what was expected. Made by `make passages`.

| instrument | notes as expected |
|---|---|
"""
LINES = """
| instrument, line | ♩ | level | expected | chosen |
|---|---|---|---|---|
"""


def main():
    with TABLE.open() as lines:
        rows = list(csv.DictReader(line for line in lines if not line.startswith("#")))
    agree, of, lines = Counter(), Counter(), []
    for row in rows:
        asked = [(pace, level) for pace in TEMPI for level in LEVELS]
        for (pace, level), (said, matches) in zip(asked, (told_of(row, *one) for one in asked), strict=True):
            lines.append(line(row, pace, level, said))
            agree[row["family"]] += sum(matches)
            of[row["family"]] += len(matches)
    shares = [f"| {family} | {agree[family]} of {of[family]} |\n" for family in of]
    shares.append(f"| all | {agree.total()} of {of.total()} |\n")
    text = HEAD + "".join(shares) + LINES + "".join(same_merged(lines))
    if "--check" in sys.argv:
        sys.exit(0 if TARGET.read_text("utf-8") == text else "docs/passages.md is not current: make passages")
    TARGET.write_text(text, "utf-8")


def same_merged(lines):
    """Lines of which the second level takes what the first does, as one."""
    for first, second in zip(lines[::2], lines[1::2], strict=True):
        both = first.replace(f" {LEVELS[0].value} ", " both ", 1)
        yield from [both] if both == second.replace(f" {LEVELS[1].value} ", " both ", 1) else [first, second]


def line(row, pace, level, said):
    """One line of the table."""
    expected = row[pace].replace("|", "/")
    head = f"{row['family']} `{row['line']}` | {TEMPI[pace]:.0f} | {level.value} | {expected}"
    return f"| {head} | {'; '.join(said)} |\n"


def told_of(row, pace, level):
    """What is taken for each note, in words, and whether it is what was expected."""
    family, music = row["family"], row["line"]
    in_hand = making.of_usual(family)
    in_hand = replace(in_hand, hand=replace(in_hand.hand, level=level))
    clef = " clef=bass" * (family == "bassoon")
    passage = read_abc(f"L:1/8\nM:4/4\nK:C{clef}\n{music}|").passage
    table = solve(
        sounding_events(passage, TEMPI[pace]), in_hand, making.moves_of(in_hand.catalogue, in_hand.hand)
    )
    notes = range(len(table.problem.events))
    taken = [chosen(table, note).entry.id.partition("+")[0] for note in notes]
    matches = [w == "*" or one in w.split("|") for one, w in zip(taken, row[pace].split(), strict=True)]
    said = [told(table, note) for note in notes]
    return [one if match else f"**{one}**" for one, match in zip(said, matches, strict=True)], matches


def told(table, note):
    """The fingering chosen for a note, and against what."""
    why, here = reason(table, note), chosen(table, note).entry.id
    if why.rival is None:
        return here
    rival = table.problem.given.offered[note].candidates[why.rival].entry.id
    return f"{here} (over {rival}: {why.sure}{f', {why.because}' if why.because else ''})"


if __name__ == "__main__":
    main()
