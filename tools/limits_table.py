"""docs/limits.md: every limit that a teacher may meet, read from the code that holds it."""

import argparse
import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

import django  # noqa: E402

django.setup()

from bench import kept  # noqa: E402
from bench import services as bench  # noqa: E402
from catalogue import services as catalogue  # noqa: E402
from core.charts import chart_format  # noqa: E402
from core.evidence import sources  # noqa: E402
from core.music import events, passage, pitch  # noqa: E402
from core.music.notation import formats, midi, musicxml, musicxml_timeline, mxl  # noqa: E402
from core.practice import attempts  # noqa: E402
from core.routes import faults, problem  # noqa: E402
from counting import presses  # noqa: E402
from drawing import engraving  # noqa: E402
from evidence import services as evidence  # noqa: E402
from jobs import services as jobs  # noqa: E402
from jobs.kinds import KINDS  # noqa: E402
from passages import entering, forms  # noqa: E402
from passages import services as passages  # noqa: E402
from practice import services as practice  # noqa: E402
from students import services as students  # noqa: E402
from students.screens import sheet  # noqa: E402
from studio import bin  # noqa: E402

PAGE = ROOT / "docs" / "limits.md"
MB = 1_000_000
HEAD = """# Limits

Made by `make limits` from the code that holds them; `make current` holds it current. Each has a message of
its own that says what, where and what to do.

"""


def groups():
    """Limits in the order of the work: a heading, and what of each with how much."""
    return {
        "Scores": [
            ("a file", f"{formats.FILE_BYTES_LIMIT // MB} MB"),
            ("an ABC text", f"{formats.ABC_BYTES_LIMIT // MB} MB"),
            ("a MIDI file", f"{midi.BYTES_LIMIT // 1000} kB, {midi.TRACKS_LIMIT} tracks"),
            (
                "a compressed score, unpacked",
                f"{mxl.UNPACKED_LIMIT // MB} MB, {mxl.ENTRIES_LIMIT} entries",
            ),
            ("files at once", forms.FILES_LIMIT),
            ("typed text", f"{forms.TEXT_LIMIT:,} characters"),
            ("notes that are looked at in a part", f"{musicxml.READ_LIMIT:,}"),
        ],
        "Passages": [
            ("notes and rests", f"{passage.NOTES_LIMIT:,}"),
            ("length of a note", f"{musicxml_timeline.QUARTERS_LIMIT} quarters"),
            ("tempo", f"{events.TEMPO_MIN_BPM:g} to {events.TEMPO_MAX_BPM:g} quarter notes a minute"),
            ("tuning", f"A from {pitch.A4_HZ_MIN:g} to {pitch.A4_HZ_MAX:g} Hz"),
            ("what a strand counts", f"0 to {faults.WEIGHT_MAX:g} times"),
            ("moves between fingerings that are weighed", f"{problem.MOVES_LIMIT:,}"),
            ("states of a bench that are kept", f"{bench.STATES_KEPT:,}, and those that are named"),
            ("steps back while notes are entered", entering.UNDO_KEPT),
            ("windows of notes that are not opened yet", passages.ENTERED_KEPT),
            ("what was deleted is kept", f"{bin.KEPT_FOR.days} days"),
        ],
        "Fingerings and what is known of them": [
            ("a chart", f"{chart_format.CHART_BYTES_LIMIT // MB} MB, {chart_format.CHART_ROWS_LIMIT:,} rows"),
            ("fingerings of a teacher's own", f"{catalogue.OWN_LIMIT:,}"),
            ("readings typed at once", sources.READINGS_AT_ONCE),
            ("a reading", f"within {sources.READING_LIMIT_CENTS:g} cents"),
            ("judgements and readings of a fingering on an instrument", evidence.LOG_LIMIT),
            (
                "attempts on an instrument",
                f"{evidence.ATTEMPTS_KEPT:,}, {evidence.ATTEMPTS_AT_ONCE:,} at once",
            ),
            ("presses sent at once", f"{presses.AT_ONCE}; a browser sends the others after them"),
            ("spots on an instrument", f"{evidence.SPOTS_KEPT:,} of {attempts.SPOT_MOST} notes"),
        ],
        "For students": [
            ("a sheet", f"{sheet.NOTES_MOST:,} notes, {sheet.LINES_MOST} lines"),
            ("drills kept at once", practice.DRILLS_AT_ONCE),
            ("open pages for a student, of an instrument", students.PAGES_OPEN),
            ("attempts that a student logs", f"{students.A_HOUR} an hour, {students.A_DAY} a day"),
        ],
        "Work in the background": [
            *(
                (kind.words, f"{kind.seconds:g} s, {kind.megabytes} MB beyond rest")
                for kind in KINDS.values()
            ),
            ("under way at once, of a teacher", jobs.OPEN_MOST),
            ("a page waits for its work", f"{jobs.PATIENCE:g} s, then it goes on without"),
            ("results that wait to be fetched", f"{jobs.RESULTS_BYTES // MB} MB"),
            (
                "solutions and engravings that are kept",
                f"{(kept.SOLUTIONS_BYTES + engraving.KEPT_BYTES) // MB} MB",
            ),
        ],
    }


def page():
    """The whole page as text."""
    parts = []
    for heading, rows in groups().items():
        lines = [f"## {heading}", "", "| of | at most |", "|---|---|"]
        parts.append("\n".join([*lines, *(f"| {what} | {most} |" for what, most in rows)]))
    return HEAD + "\n\n".join(parts) + "\n"


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--check", action="store_true", help="only say whether the page is current")
    if parser.parse_args().check:
        sys.exit(0 if PAGE.read_text("utf-8") == page() else "docs/limits.md is old: run make limits")
    PAGE.write_text(page(), "utf-8")


if __name__ == "__main__":
    main()
