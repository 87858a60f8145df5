"""Try every model on the fingerings that its fit never saw, and print what comes of it.

With --write the results also go to src/data/acoustics/trust.toml, from which the application takes
what it may show, and to docs/holdout.md. With --check they are held against what is written there.
"""

import argparse
import json
import math
import os
import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SRC = ROOT / "src"
sys.path.insert(0, str(SRC))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

from django.conf import settings  # noqa: E402

from catalogue import shipped  # noqa: E402
from core.acoustics.holdout import HoldOut, cells, form_cells  # noqa: E402
from core.acoustics.trust import Level, format_table, level_of  # noqa: E402
from studio.shipped import family_of  # noqa: E402

HEAD = (
    *("Register", "Form", "Seen", "Held out", "Up to", "Off, cents", "Median", "Scatter", "Within 35"),
    *("After readings", "Random", "Next to", "AUC next to", "AUC random", "Shown"),
)
# So far a figure may lie from the one written down: other builds of numpy round otherwise.
TOLERANCE = 0.02
INTRO = """# What the models earned

Made by `make holdout ARGS=--write`; `make current` holds it current. What the columns of the tables mean
stands in [acoustics.md](acoustics.md). *Shown* is what is left by what is known of the family as a whole
(`src/data/acoustics/families.toml`).

## What may be claimed

Of taught fingerings that no fit saw, those that come out within 35 cents; in brackets random fingerings for
the same notes.

"""
FORMS = {"first": "first resonance"}
NEVER = """Never told: the pitch of one particular instrument without readings on it, since reed, lip, tongue
and throat are not in the model; the tone of high notes.

"""


def percent(share):
    return "–" if math.isnan(share) else f"{share:.0%}"


def whole(cents):
    return "–" if math.isnan(cents) else f"{cents:.0f}"


def bounds(area):
    return "–" if math.isnan(area[0]) else f"{area[0]:.2f} ({area[1]:.2f}–{area[2]:.2f})"


def row(name, cell):
    return (
        *(cell.register, cell.form, str(cell.anchors), str(cell.count), cell.top.ascii),
        *(whole(cell.bias), whole(cell.median), whole(cell.scatter)),
        *(percent(getattr(cell, what)) for what in ("within", "within_offset", "random", "neighbours")),
        *(bounds(cell.auc), bounds(cell.auc_random), str(shown(name, cell))),
    )


def limits_of(name):
    """What is known of a family, by its own name or that of one of its members."""
    member = next(each for each in shipped.INSTRUMENTS if name in (each, shipped.instrument(each).family))
    return shipped.tried(member, frozenset()).limits


def shown(name, cell):
    """What is shown of a register and form, after what is known of the family."""
    return limits_of(name).capped(level_of(cell), cell.register)


def claims(found):
    """A line for each register and form, under what may be shown of it, instruments alike there together."""
    lines = {level: {} for level in Level}
    for name, cells_of in found.items():
        for cell in cells_of:
            key = (limits_of(name), cell.register, cell.form)
            lines[shown(name, cell)].setdefault(key, []).append((name, cell))
    parts = []
    for level, by_key in lines.items():
        said = [f"- {claim(*key, rows)}" for key, rows in by_key.items()]
        parts.append(f"**{str(level).capitalize()}**\n\n" + "\n".join(said))
    return "\n\n".join(parts) + "\n\n" + NEVER


def named(names):
    """Instruments by their labels; all of a family, or a family tried together, by its own name."""
    first = names[0]
    if first not in shipped.INSTRUMENTS:
        return f"all {first}s together"
    if len(names) > 2 and set(names) == set(family_of(first)):
        return f"every {shipped.instrument(first).family}"
    return ", ".join(shipped.INSTRUMENTS[name] for name in names)


def claim(limits, register, form, rows):
    """What the hold-outs of one register and form say, over several instruments."""
    count = sum(cell.count for _, cell in rows)
    where = f"{named([name for name, _ in rows])}: {register}, {FORMS.get(form, form)}"
    top = max(cell.top.midi for _, cell in rows)
    if limits.above and limits.above.midi < top:
        where += f", nothing above {limits.above}"
    if limits.readings_above and limits.readings_above.midi < top:
        where += f", above {limits.readings_above} after readings"
    if not count:
        return f"{where}: none held out, {sum(cell.anchors for _, cell in rows)} seen"
    within = sum(round(cell.count * cell.within) for _, cell in rows)
    by_chance = sum(cell.count * cell.random for _, cell in rows) / count
    return f"{where}: {within} of {count} ({by_chance:.0%})"


def table(rows):
    """Rows of words as Markdown, in columns that line up in a terminal too."""
    widths = [max(len(line[n]) for line in (HEAD, *rows)) for n in range(len(HEAD))]
    lines = [HEAD, ["-" * width for width in widths], *rows]
    return "\n".join("| " + " | ".join(map(str.ljust, line, widths)) + " |" for line in lines)


def fit_rms(name):
    text = (settings.DATA / "acoustics" / "fitted" / f"{name}.json").read_text("utf-8")
    return json.loads(text)["provenance"]["rms_cents"]


def trial(name):
    split = shipped.split(name)
    return HoldOut(shipped.model(name), shipped.catalogue(name), split["anchors"], split["held_out"])


def families():
    """Instruments by family, of families that tell forms apart."""
    found = {}
    for name in shipped.INSTRUMENTS:
        if shipped.instrument(name).forms:
            found.setdefault(shipped.instrument(name).family, []).append(name)
    return found


def is_current(name, rows):
    """Whether what is written of an instrument is what was found just now."""
    written = tomllib.loads((settings.DATA / "acoustics" / "trust.toml").read_text("utf-8"))[name]["cell"]
    fresh = tomllib.loads(format_table({name: rows}))[name]["cell"]
    return len(written) == len(fresh) and all(
        old.keys() == new.keys() and all(alike(old[key], value) for key, value in new.items())
        for old, new in zip(written, fresh, strict=True)
    )


def alike(old, new):
    if isinstance(new, list):
        return len(old) == len(new) and all(map(alike, old, new))
    if isinstance(new, float):
        return abs(old - new) <= TOLERANCE or (math.isnan(old) and math.isnan(new))
    return old == new


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("instruments", nargs="*", default=list(shipped.INSTRUMENTS))
    parser.add_argument("--write", action="store_true")
    parser.add_argument("--check", action="store_true")
    asked = parser.parse_args()
    found, parts = {}, []

    def add(name, title, rows):
        found[name] = rows
        parts.append(title + table([row(name, cell) for cell in rows]))
        print(f"\n{parts[-1]}", flush=True)

    for name in asked.instruments:
        rms = fit_rms(name)
        title = f"## {shipped.INSTRUMENTS[name]}\n\nFit: {min(rms):.1f} to {max(rms):.1f} cents rms.\n\n"
        add(name, title, cells(trial(name)))
    for family, names in families().items():
        if set(names) <= set(asked.instruments):
            add(
                family,
                f"## {family.capitalize()}s together, by form\n\n",
                form_cells(list(map(trial, names))),
            )
    if asked.check:
        apart = [name for name, rows in found.items() if not is_current(name, rows)]
        sys.exit(f"trust.toml is not current for {', '.join(apart)}: make holdout" if apart else 0)
    if asked.write:
        (settings.DATA / "acoustics" / "trust.toml").write_text(format_table(found), "utf-8")
        page = INTRO + claims(found) + "\n\n".join(parts) + "\n"
        (ROOT / "docs" / "holdout.md").write_text(page, "utf-8")


if __name__ == "__main__":
    main()
