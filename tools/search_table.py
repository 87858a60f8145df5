"""Write docs/search.md: of taught fingerings of the top registers, how many the search finds.

With --check it writes nothing and fails where the file is not current.
"""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

import django  # noqa: E402

django.setup()

import numpy as np  # noqa: E402

from catalogue import in_hand as making  # noqa: E402
from core.charts.entry import DERIVED  # noqa: E402
from core.instruments.variants import Variants  # noqa: E402
from core.music.pitch import spell  # noqa: E402
from core.overtones import near_search as search  # noqa: E402
from studio.shipped import INSTRUMENTS, family_of, instrument  # noqa: E402

TARGET = ROOT / "docs" / "search.md"
TOLD = ROOT / "src" / "data" / "search.toml"
# The search that changed one or two touches of what its own chart had, asked in the same way.
BEFORE = {
    "saxophone": ((2, 4), (7, 10)),
    "clarinet": ((22, 26), (52, 67)),
    "oboe": ((0, 1), (4, 7)),
    "bassoon": ((0, 1), (2, 2)),
}
SHOWN = (6, 12)
# What the model puts farther off than so many cents is left out, where it is asked at all.
WAYS_REACH = {"by chance": np.inf, "the model alone": search.REACH_CENTS, "hands alone": np.inf}
HEAD = """# Untried fingerings: what the search finds

Of the taught fingerings of the top registers each was asked for as if nobody had it: every row of its note,
leads among them, left out of the charts of all members of the family. How many stand in the first six and
the first twelve that are shown, and in brackets how many lie one touch from a shown one. Hands alone: how
much it is like what the family has for the notes around. The sizes of the search were chosen on these rows.
Made by `make search`.

| family | asked for | before | by chance | the model alone | hands alone | both |
|---|---|---|---|---|---|---|
"""
ALONE = {
    "by chance": lambda looked, rng: rng.random(len(looked.rows)),
    "the model alone": lambda looked, _: looked.fits,
    "hands alone": lambda looked, _: looked.alike,
}


WAYS = (*ALONE, "both")


def families():
    """Members of each family, in the order of the instruments."""
    return {instrument(name).family: family_of(name) for name in INSTRUMENTS}


def asked_for(in_hand):
    """Taught rows of the top register that can be played, by their note."""
    top, found = in_hand.instrument.registers[-1], {}
    for entry in in_hand.catalogue.entries:
        taught = entry.is_truth and entry.source not in DERIVED and entry.kind not in search.NOT_THOUGHT_OF
        if taught and in_hand.instrument.register_of(entry.note) == top and not in_hand.lacking(entry):
            found.setdefault(entry.note.midi, []).append(entry)
    return found


def found_by(way, in_hand, midi, rng):
    """Fingerings that a way of searching shows for a note that nobody has."""
    rows = [row for row in making.family_rows(in_hand) if row.note.midi != midi]
    hidden = {entry.id for entry in in_hand.catalogue.by_midi.get(midi, ())}
    blind, note, model = in_hand.catalogue.with_own((), hidden), spell(midi), in_hand.acoustics.model
    if way == "both":
        around = [entry for step in (-2, -1, 1, 2) if (entry := in_hand.plainest(spell(midi + step)))]
        shown = search.near_search(model, rows, blind, note, in_hand.fitted, around, hand=in_hand.hand)
        return [near.fingering for near in shown]
    variants = Variants(in_hand.instrument, in_hand.fitted)
    thought_of = search.bearing(rows, note, in_hand.instrument)
    bases = [entry.fingering for entry in thought_of]
    looked = search.look(model, variants, thought_of, bases, [], note, search.TOUCHES, WAYS_REACH[way])
    order = np.argsort(-ALONE[way](looked, rng), kind="stable")[: search.LIMIT]
    return [variants.fingering(looked.rows[at]) for at in order]


def apart(variants, one, other):
    """Touches in which two fingerings differ, one that is half held instead counted once."""
    a, b = variants.row(one), variants.row(other)
    differ = {key[0] for key, at in variants.columns.items() if a[at] != b[at]}
    return len(differ)


def line(family, members, ways=WAYS):
    """One line of the table, what each way found in the first six and twelve, and of how many."""
    hits, near = ({way: [0, 0] for way in ways} for _ in range(2))
    count, rng = 0, np.random.default_rng(1)
    for name in members:
        in_hand = making.of_usual(name)
        variants = Variants(in_hand.instrument, in_hand.fitted)
        for midi, entries in asked_for(in_hand).items():
            count += len(entries)
            for way in ways:
                shown = found_by(way, in_hand, midi, rng)
                for entry in entries:
                    away = [apart(variants, one, entry.fingering) for one in shown]
                    for place, most in enumerate(SHOWN):
                        hits[way][place] += 0 in away[:most]
                        near[way][place] += min(away[:most], default=9) <= 1
    cells = [_cell(*BEFORE[family]), *(_cell(hits[way], near[way]) for way in ways)]
    return f"| {family} | {count} | {' | '.join(cells)} |\n", hits, count


def _cell(hits, near):
    return f"{hits[0]}, {hits[1]} ({near[0]}, {near[1]})"


def told(family, count, found):
    """What the page of untried fingerings says of it."""
    return f"\n[{family}]\nasked = {count}\nfound = {found}\n"


def main():
    lines, shown = (
        [HEAD],
        ["# Made by `make search`: of so many taught fingerings that were hidden, those found.\n"],
    )
    for family, members in families().items():
        text, hits, count = line(family, members)
        lines.append(text)
        shown.append(told(family, count, hits["both"][-1]))
    for file, parts in ((TARGET, lines), (TOLD, shown)):
        text = "".join(parts)
        if "--check" not in sys.argv:
            file.write_text(text, "utf-8")
        elif file.read_text("utf-8") != text:
            sys.exit(f"{file.name} is not current: make search")


if __name__ == "__main__":
    main()
