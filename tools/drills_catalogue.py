"""docs/drills.md: every kind of drill with its first line, made from the demo's data.

Run with `make drills`; half a minute, in a database of its own that is thrown away.
"""

import os
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
os.environ["FAIR_REACH_MODE"] = "demo"
FOLDER = ROOT / "docs" / "drills"
HEAD = """# Drills

Every kind of drill with its first line, as `make drills` makes them from the demo's data; written pitch. A
drill is in four-four and fills its bars. It keeps the fingerings of the music that it serves, goes no higher
than the reach but for notes of that music, and uses no note without a fingering.
"""
# What is asked for: part of the student's name and notes of the passage, or a note of the instrument.
ASKED = (("Tamsin", "n114", "n118"), ("Tamsin", "C6", ""), ("Tamsin", "F6", ""))


def main():
    with tempfile.TemporaryDirectory() as data:
        os.environ["FAIR_REACH_DATA"] = data
        import django

        django.setup()
        from django.core.management import call_command

        call_command("migrate", verbosity=0)
        call_command("load_demo", verbosity=0)
        write(first_of_each_kind())


def first_of_each_kind():
    """The easiest drill of each kind, by kind: (about, drill, table, instrument in hand)."""
    from bench.queries import opened
    from catalogue.queries import of_instrument
    from core.music.pitch import parse_pitch
    from practice import drilling
    from studio.models import OwnedInstrument

    found = {}
    for name, first, last in ASKED:
        owned = OwnedInstrument.objects.get(student__name__startswith=name)
        in_hand = of_instrument(owned)
        if last:
            passage = owned.passages.get(purpose="")
            at = opened(passage, passage.current, in_hand)
            spot = drilling.spot_between(at, first, last)
            material = drilling.material_of_spot(at, spot, drilling.top_on(owned, in_hand))
            about = f"{drilling.about(material)} of {passage.title}"
        else:
            note = parse_pitch(first)
            top = drilling.top_on(owned, in_hand)
            material = drilling.material_of_note(in_hand, note, in_hand.plainest(note), top)
            about = f"{note} on {in_hand.instrument.noun}"
        for drill, table, _ in drilling.drills_for(material, in_hand):
            found.setdefault(drill.kind, (about, drill, table, in_hand))
    return found


def write(found):
    from core.drills.material import DrillKind
    from drawing.drawing_file import drawing_file
    from drawing.engraving import shared_glyphs
    from practice.screens.drills import first_line

    FOLDER.mkdir(exist_ok=True)
    lines = [HEAD]
    for kind in DrillKind:
        about, drill, table, in_hand = found[kind]
        _, engraving, line, symbols = first_line(drill, table, in_hand)
        name = kind.value.replace(" ", "-")
        (FOLDER / f"{name}.svg").write_text(drawing_file(line, shared_glyphs([engraving]), symbols), "utf-8")
        lines += [f"## {kind.value.capitalize()}", "", f"**{drill.name}.** {drill.purpose} For {about}.", ""]
        lines += [f"![First line of {drill.name}](drills/{name}.svg)", ""]
    (ROOT / "docs" / "drills.md").write_text("\n".join(lines).rstrip() + "\n", "utf-8")


if __name__ == "__main__":
    main()
