"""Ask the models which variant of a linkage brings taught fingerings into tune: docs/linkages.md.

With --check it writes nothing and fails where the page is not current. The geometries are those that ship: no
fit saw the fingerings asked about here, but where it is said.
"""

import os
import sys
import textwrap
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

from catalogue import shipped  # noqa: E402
from core.acoustics.ensemble import Ensemble  # noqa: E402
from core.acoustics.model import Model  # noqa: E402
from core.instruments.fingering import parse_fingering  # noqa: E402
from core.music.pitch import parse_pitch  # noqa: E402

PAGE = ROOT / "docs" / "linkages.md"
SAXOPHONES = ("alto-saxophone", "tenor-saxophone", "soprano-saxophone", "baritone-saxophone")
FRONT = (
    ("E6", "octave frontF L2 L3"),
    ("F6", "octave frontF L2"),
    ("F#6", "octave frontF L2 | sideBb"),
    ("G6", "octave frontF | sideBb R1"),
    ("G#6", "octave frontF | sideBb"),
)
SMALL = ("L1", "L2")
NEAR_CENTS = 35
# Title, what was found, instruments, fingerings, and by variant what moves which hole; the shipped one first.
QUESTIONS = (
    (
        "Saxophone: front F",
        "Which cups under the first finger the touch shuts, C and small C-sharp. Taken over: both.",
        SAXOPHONES,
        FRONT,
        {
            "shuts both cups": {},
            "shuts C only": {"C-sharp hole": SMALL},
            "shuts none": {"C hole": ("L1",), "C-sharp hole": SMALL},
        },
    ),
    (
        "Baritone: low A",
        "Without the low B-flat touch the note is there only if low A shuts the bell cups by itself. "
        "Usual, so a fitting that may be taken away; the fingering with low B-flat held stands beside it.",
        ("baritone-saxophone",),
        (("A3", "lowA L1 L2 L3 | R1 R2 R3 lowC"), ("A3", "lowA L1 L2 L3 lowBb | R1 R2 R3 lowC")),
        {
            "shuts the bell cups": {},
            "shuts its own only": {"low C hole": ("lowB", "lowBb"), "low B hole": ("lowBb",)},
        },
    ),
    (
        "Clarinet: the two upper side touches",
        "Whether each opens its own hole, or the upper one both. Taken over: each its own. The lower alone "
        "gives A over open G, both together B-flat; teaching has A with both, so both fingerings stand, "
        "with what differs. The fit saw A with either touch.",
        ("b-flat-clarinet", "bass-clarinet"),
        (
            ("A4", "| sideBb"),
            ("A4", "| sideBb sideB"),
            ("B4", "A | sideB"),
            ("B4", "reg A | sideBb"),
            ("C5", "reg A | sideBb sideB"),
        ),
        {"each its own": {}, "the upper opens both": {"side B-flat trill hole": ("sideBb", "sideB")}},
    ),
    (
        "Bass clarinet: throat B-flat",
        "Whether it has a hole of its own, or the register vent serves. Varies by maker, so a fitting; "
        "usual. The geometries were fitted with the hole: the vent is asked at a disadvantage.",
        ("bass-clarinet",),
        (("Bb4", "reg A"), ("Bb4", "reg A L2 L3 | R2 R3"), ("Bb4", "reg A | R1 R2 R3")),
        {"a hole of its own": {}, "the register vent": None},
    ),
    (
        "Bassoon: touches of the left thumb",
        "Whether a low touch takes those above it along: every taught fingering holds them all, so the "
        "variants cannot be told apart. Nothing changed.",
        ("bassoon",),
        (
            ("C2", "lowD lowC L1 L2 L3 | E R1 R2 R3 F"),
            ("C#3", "W C# lowD L1 L2 L3"),
            ("C#4", "C# L1 L2 L3"),
            ("C#4", "C# lowD L1 L2 L3"),
        ),
        {"each its own": {}, "low C takes D along": {"E hole": ("lowD", "lowC")}},
    ),
    (
        "Bassoon: E-flat 3 fork",
        "Whether a linkage of the right thumb brings the fork into tune. None does, so nothing changed; "
        "more fingers bring it nearer. It is taught as sharp, so no fit is told that it is in tune.",
        ("bassoon",),
        (
            ("Eb3", "W L1 L3"),
            ("Eb3", "W L1 L3 | Bb"),
            ("Eb3", "W L1 L3 | Bb R2"),
            ("Eb3", "W L1 L3 | R1 R2"),
            ("Eb4", "L1 L3"),
        ),
        {
            "shipped": {},
            "thumb B-flat shuts the A plate": {"A hole": ("R3", "Bb")},
        },
    ),
    (
        "Oboe and English horn: trill touches",
        "Each with a small hole above the first plate; placed so that the trills of the first register are "
        "in tune on the oboe, so this proves nothing but that they can be. Makers differ in what each opens.",
        ("oboe", "english-horn"),
        (
            ("C#5", "L1 leftTrill"),
            ("D5", "L1 | rightTrill R1"),
            ("C#6", "side8 L1 leftTrill"),
            ("D6", "side8 L1 | rightTrill R1"),
        ),
        {"each its own": {}},
    ),
    (
        "Soprano: high G",
        "Where it is fitted, with high F-sharp held and without; the place of its hole is a guess.",
        ("soprano-saxophone",),
        (
            ("G6", "octave palmF palmEb palmD | sideE highF# highG"),
            ("G6", "octave palmF palmEb palmD | sideE highG"),
        ),
        {"opens its own hole": {}},
    ),
)
HEAD = """# Linkages, and what the models say of them

Made by `make linkages`. A linkage can be found by acoustics: of its variants that one is likelier which
brings fingerings into tune that are taught and that no fit has seen. Cents off the taught
note, the median over the ensemble, with what its geometries differ by; a point: no resonance within 150
cents. Truth tables of what ships stand in `tests/core/instruments/test_keywork.py` and `test_linkages.py`.
"""


def asked(name, moves, rows):
    """Cents of fingerings on an instrument with some of its linkages changed."""
    instrument, fitted = shipped.instrument(name), None
    if moves is None:
        fitted = frozenset()
    else:
        holes = [
            replace(hole, moved_by=moves[hole.name], added=()) if hole.name in moves else hole
            for hole in instrument.holes
        ]
        instrument = replace(instrument, holes=tuple(holes))
    model = Model(Ensemble(instrument, shipped.geometries(name)), fitted)
    return model.predict(
        [(parse_fingering(touches, instrument), parse_pitch(note)) for note, touches in rows]
    )


def cell(row):
    return f"{row.cents:+.0f} ± {row.spread:.0f}".replace("-", "−") if row else "·"


def in_tune(found):
    """How many of all that were asked of a variant came out near the taught note."""
    near = sum(row is not None and abs(row.cents) <= NEAR_CENTS for row in found)
    return f"{near} of {len(found)}"


def section(title, words, names, rows, variants):
    found = {
        (name, variant): asked(name, moves, rows) for name in names for variant, moves in variants.items()
    }
    of_variant = {variant: [row for name in names for row in found[name, variant]] for variant in variants}
    counts = "; ".join(f"{variant} {in_tune(all_of)}" for variant, all_of in of_variant.items())
    heads = [f"{note} `{touches}`".replace("|", "\\|") for note, touches in rows]
    lines = [f"## {title}\n", *textwrap.wrap(words, 110), ""]
    lines += [*textwrap.wrap(f"Within {NEAR_CENTS} cents: {counts}.", 110), ""]
    lines.append(f"| instrument | linkage | {' | '.join(heads)} |")
    lines.append("|---" * (len(rows) + 2) + "|")
    for (name, variant), cells in found.items():
        lines.append(f"| {shipped.INSTRUMENTS[name]} | {variant} | {' | '.join(map(cell, cells))} |")
    return "\n".join(lines)


def main():
    page = HEAD + "\n" + "\n\n".join(section(*question) for question in QUESTIONS) + "\n"
    if "--check" in sys.argv:
        sys.exit(0 if PAGE.read_text("utf-8") == page else "docs/linkages.md is not current: make linkages")
    PAGE.write_text(page, "utf-8")


if __name__ == "__main__":
    main()
