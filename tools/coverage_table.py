"""Write docs/coverage.md: what the catalogue has, by instrument, register and kind, and how sure it is."""

import argparse
import os
import sys
from collections import Counter, defaultdict
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

from catalogue import shipped  # noqa: E402
from core.charts.entry import DERIVED, HELD, ONE_FINGER, Confidence  # noqa: E402
from core.instruments.fingering import Kind, format_fingering  # noqa: E402
from core.music.pitch import parse_pitch, spell  # noqa: E402
from studio.shipped import INSTRUMENTS  # noqa: E402

PAGE = ROOT / "docs" / "coverage.md"
HEAD = """# What the catalogue has

Made by `make coverage` from `src/data`; a test holds it against the data.

A cell gives the rows of **high / medium / low** confidence, and leads after a plus; a point stands for none.
"Unknown" counts the rows whose tendency is not known; "remarks" those that the keywork alone does not settle,
each with a written reason. Notes without any row are listed as gaps. The second table of an instrument goes
note by note through its top register: taught rows, leads, and overtones for practice. What it was before the
top register was gone through stands in [catalogue.md](catalogue.md). Rows that a rule derives
(`core.charts.held`, `core.charts.one_finger`) are counted apart: what may stay down on a plain fingering,
"unknown" where a hole further down is moved by it; and forms to which one finger leads from a note below.
"""
# The written note with which the top register of a family begins.
TOP = {"saxophone": "E6", "clarinet": "C#6", "oboe": "C#6", "bassoon": "Eb4"}


def cell(counts):
    """Rows by confidence, from the surest down."""
    if not sum(counts.values()):
        return ""
    said = " / ".join(
        str(counts[level] or "·") for level in (Confidence.HIGH, Confidence.MEDIUM, Confidence.LOW)
    )
    return f"{said} + {counts[Confidence.LEAD]}" if counts[Confidence.LEAD] else said


def section(model, label):
    whole = shipped.catalogue(model)
    derived = [entry for entry in whole.entries if entry.source in DERIVED]
    chart = replace(whole, entries=tuple(entry for entry in whole.entries if entry.source not in DERIVED))
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
    lines.append(f"\nUnknown: {unknown}. Remarks: {remarks}. Gaps: {gaps(chart)}.\n")
    return [*lines, *note_by_note(chart), *held(derived, instrument)]


def held(derived, instrument):
    """What may stay down, by the touches that do, with the notes."""
    lines = ["\nDerived by rule, a finger stays down:"]
    for rest in instrument.rests:
        rows = [row for row in derived if row.source == HELD and row.id.split("+", 1)[1] == rest.mark]
        notes = ", ".join(f"{row.note}{'' if row.tendency else ' (unknown)'}" for row in rows)
        lines.append(f"`{' '.join(rest.touches) or rest.says}` on {notes or 'none'}.")
    lines = lines if instrument.rests else [lines[0] + " none."]
    forms = [row for row in derived if row.source == ONE_FINGER]
    lines.append("\nDerived by rule, one finger leads there:")
    for row in forms:
        touches = format_fingering(row.fingering, instrument).replace("|", "\\|")
        lines.append(f"{row.note} `{touches}` from `{row.id.rpartition('-from-')[2]}`.")
    return lines


def note_by_note(chart):
    """The top register: what there is to try for each note."""
    low = parse_pitch(TOP[chart.instrument.family]).midi
    lines = ["| note | taught | leads | overtones |", "|---|---|---|---|"]
    for midi in range(low, chart.instrument.written_high.midi + 1):
        entries = chart.by_midi.get(midi, ())
        overtones = [entry for entry in entries if entry.kind is Kind.HARMONIC and not entry.is_lead]
        leads = [entry for entry in entries if entry.is_lead]
        taught = [entry for entry in entries if entry not in overtones and entry not in leads]
        cells = [shown(chart, rows) for rows in (taught, leads, overtones)]
        lines.append(f"| {spell(midi)} | {' | '.join(cells)} |")
    return lines


def shown(chart, entries):
    """Rows in a cell: how many, and what they are."""
    touches = [format_fingering(entry.fingering, chart.instrument).replace("|", "\\|") for entry in entries]
    return f"{len(entries)}: " + "; ".join(f"`{one}`" for one in touches) if entries else ""


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
