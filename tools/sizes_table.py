"""The sizes at the foot of docs/route.md, read from the code that holds them."""

import argparse
import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

from core.charts.entry import Confidence  # noqa: E402
from core.evidence import in_hand, sources  # noqa: E402
from core.music.aims import Aim  # noqa: E402
from core.music.ornaments import LIVELY_PER_S  # noqa: E402
from core.routes import candidates, explain, facility, faults, one_way, sureness, timing, trills  # noqa: E402
from core.routes import tempo_map as tempi  # noqa: E402

PAGE = ROOT / "docs" / "route.md"
HEAD = "## Sizes\n"
SAYS = "Made by `make sizes` from the code that holds them. All are our choice; faults are of one playing.\n"


def rows():
    """What has a size, and its size in words, in the order of the page."""
    in_tune, easiest = faults.WANTED[Aim.IN_TUNE].cents, faults.WANTED[Aim.EASIEST].cents
    heard, short = faults.NOTICED_CENTS, faults.NOTICED_CENTS_S
    return [
        ("a held note is heard to be out of tune from", f"{heard:g} cents"),
        ("so much more by the length of a note in seconds", f"{short:g} cents divided by it"),
        ("… where it is to be in tune above all, from", f"{in_tune * heard:g} cents"),
        ("… where it is to be easiest above all, from", f"{easiest * heard:g} cents"),
        (
            "a poor tone is heard after, and minded by",
            f"{faults.TONE_HEARD_S:g} s, {faults.TONE_MINDED:g} of all",
        ),
        ("a row used where it is good for something else only", f"{faults.OUT_OF_PLACE:g} faults"),
        ("a row used where it is to be avoided", f"{faults.AVOIDED:g} faults"),
        (
            "a row used beside a note that it is to be avoided beside",
            f"{faults.AVOIDED_BESIDE:g} faults, counted apart",
        ),
        ("a fingering that has to be prepared, and is not", f"{faults.UNPREPARED:g} faults"),
        ("a finger that jumps under a slur", f"{faults.BROKEN_SLUR:g} faults"),
        ("fingers of one hand against each other under a slur", f"{faults.BLIP:g} faults"),
        (
            "hands that go over to another form",
            f"{faults.RESHAPED:g} faults, slurred {faults.RESHAPED_SLUR:g}",
        ),
        ("a finger that stays down for nothing", f"{candidates.HELD_FOR_NOTHING:g} faults a note"),
        (
            "another way of a note in a figure",
            f"{one_way.CHANGED_WAY:g} faults, within {one_way.FIGURE} notes",
        ),
        ("head start of what is preferred on the instrument", f"{in_hand.PREFERRED:g} faults"),
        ("head start of what belongs to a school that is followed", f"{in_hand.OF_SCHOOL:g} faults"),
        (
            "a difference is worth a word from, and matters from",
            f"{explain.NOTEWORTHY:g} and {explain.MATTERS:g} faults",
        ),
        (
            "clearly, and probably, from",
            f"{explain.CLEAR:g} and {explain.PROBABLE:g} of {sureness.DRAWS} draws",
        ),
        ("a choice is as good as the best up to", f"{sureness.AS_GOOD:g} faults"),
        ("it is sure, and likely, from", f"{sureness.SURE:g} and {sureness.LIKELY:g} of all draws"),
        ("a strand is named as a reason from", f"{explain.PLAIN:g} of all draws"),
        ("a fingering turns along the tempo strip from", f"{tempi.WORTH_CHANGING:g} faults"),
        ("the tempo strip goes from, to", f"{tempi.MAP_FROM_BPM} to {tempi.MAP_TO_BPM}"),
        ("a note is long from, fast up to", f"{timing.LONG_S:g} s, {timing.FAST_S:g} s"),
        ("a trill has, where no speed is set", f"{LIVELY_PER_S:g} notes a second"),
        ("each note of a trill sounds for about", f"{trills.HEARD_S:g} s"),
        (
            "a player bends down, up, given time",
            f"{faults.BEND_DOWN_CENTS:g}, {faults.BEND_UP_CENTS:g} cents",
        ),
        ("a stiff finger, a small hand that reaches, a roll not learned", _times()),
        (
            "times of a move by level",
            ", ".join(f"{level} {times:g}" for level, times in facility.TIMES.items()),
        ),
        (
            "a break missed at any tempo, by level",
            ", ".join(f"{level} {miss:.2g}" for level, miss in facility.MISSES.items()),
        ),
        ("spread of a word of a chart, by confidence", _spreads()),
    ]


def _times():
    return ", ".join(f"{times:g} times" for times in (facility.STIFF, facility.FAR, facility.UNLEARNED))


def _spreads():
    return ", ".join(f"{one} {sources.WORD_SPREAD[one]:g}" for one in Confidence)


def page():
    """The whole page, its last part made anew."""
    before = PAGE.read_text("utf-8").partition(HEAD)[0].rstrip("\n")
    lines = ["| of | size |", "|---|---|", *(f"| {what} | {size} |" for what, size in rows())]
    return f"{before}\n\n{HEAD}\n{SAYS}\n" + "\n".join(lines) + "\n"


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--check", action="store_true", help="only say whether the page is current")
    if parser.parse_args().check:
        sys.exit(0 if PAGE.read_text("utf-8") == page() else "docs/route.md is old: run make sizes")
    PAGE.write_text(page(), "utf-8")


if __name__ == "__main__":
    main()
