"""Scores written by other libraries, read by ours: what comes back, and what does not.

The libraries are installed into a folder of their own for this run; the application needs none of them. Each
reads the demo's passages, as we write them, and writes them in its own manner.
"""

import base64
import json
import subprocess
import sys
import tempfile
import venv
from pathlib import Path

import verovio

from core.errors import CoreError
from core.music.events import sounding_events
from core.music.notation.formats import read_score, written_for
from core.music.notation.midi_writer import write_midi
from core.music.notation.musicxml_writer import write_musicxml
from core.music.notation.score import Choices
from core.music.pitch import Interval

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "foreign_scores.md"
ALTO = Interval(-5, -9)
NEAR_S = 0.13
PACKAGES = ["music21==10.5.1", "partitura==1.9.0", "pretty_midi==0.2.11.post0", "setuptools<81"]
# Run by the other Python: reads what is named, writes what is named.
WRITERS = {
    ("music21", "musicxml"): "from music21 import converter; converter.parse(a).write('musicxml', fp=b)",
    ("music21", "midi"): "from music21 import converter; converter.parse(a).write('midi', fp=b)",
    ("partitura", "musicxml"): "import partitura; partitura.save_musicxml(partitura.load_musicxml(a), b)",
    ("partitura", "midi"): "import partitura; partitura.save_score_midi(partitura.load_musicxml(a), b)",
    (
        "pretty_midi",
        "midi",
    ): "import pretty_midi; pretty_midi.PrettyMIDI(a.replace('.musicxml', '.mid')).write(b)",
}
PROGRAM = """
import json, sys, warnings
warnings.simplefilter("ignore")
for a, b, code in json.load(sys.stdin):
    try:
        exec(code, {"a": a, "b": b})
    except Exception as error:
        print(json.dumps([b, repr(error)[:200]]), flush=True)
"""


def main():
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        passages = {}
        for path in sorted((ROOT / "src" / "data" / "demo").glob("*.abc")):
            passage = read_score(path.read_bytes()).passage
            passages[path.stem] = passage
            score = write_musicxml(passage, ALTO, "Alto saxophone")
            (home / f"{path.stem}.musicxml").write_text(score)
            (home / f"{path.stem}.mid").write_bytes(write_midi(passage, ALTO))
            (home / f"{path.stem}.verovio.midi").write_bytes(engraved(score))
        failures = written_by_others(home, passages)
        rows = [
            row(home, name, passage, library, kind, failures)
            for library, kind in [*WRITERS, ("verovio", "midi")]
            for name, passage in passages.items()
        ]
    PAGE.write_text(page(rows))
    print("\n".join("  ".join(one) for one in rows))


def engraved(score):
    toolkit = verovio.toolkit()
    toolkit.loadData(score)
    return base64.b64decode(toolkit.renderToMIDI())


def written_by_others(home, passages):
    """Let the other libraries write; gives back what they failed at, by file."""
    environment = home / "venv"
    venv.create(environment, with_pip=True)
    python = environment / "bin" / "python"
    subprocess.run([python, "-m", "pip", "install", "--quiet", *PACKAGES], check=True)
    jobs = [
        (str(home / f"{name}.musicxml"), str(home / f"{name}.{library}.{kind}"), code)
        for (library, kind), code in WRITERS.items()
        for name in passages
    ]
    done = subprocess.run(
        [python, "-c", PROGRAM], input=json.dumps(jobs), capture_output=True, text=True, check=False
    )
    return dict(json.loads(line) for line in done.stdout.splitlines() if line.startswith("["))


def row(home, name, passage, library, kind, failures):
    """What was written, and what of it we read: notes, and how many have their pitch and their time."""
    path = home / f"{name}.{library}.{kind}"
    if str(path) in failures or not path.exists():
        return library, kind, name, "not written", failures.get(str(path), "")
    try:
        reading = read_score(path.read_bytes(), Choices(grid=12))
    except CoreError as error:
        return library, kind, name, "refused", str(error)
    said, same = max(
        (
            (words, alike(passage, written_for(reading, ALTO, pitch_is)))
            for words, pitch_is in (("", "file"), ("the file holds written pitch", "written"))
        ),
        key=lambda one: one[1],
    )
    notices = "; ".join(filter(None, (said, " ".join(reading.notices)[:160])))
    return library, kind, name, f"{same} of {len(sounding_events(passage))} notes the same", notices


def alike(passage, again):
    """How many notes have their pitch and their length again."""
    ours, theirs = sounding_events(passage), sounding_events(again, passage.tempo_bpm)
    return sum(
        one.written_pitch.midi == other.written_pitch.midi and abs(one.seconds - other.seconds) < NEAR_S
        for one, other in zip(ours, theirs, strict=False)
    )


def page(rows):
    head = [
        "# Scores written by other libraries",
        "",
        "The demo's passages, written anew by libraries of the registries and read by ours; made by",
        "`make foreign`. A note is the same if it has its pitch and, to an eighth of a second, its length;",
        "how long a tongued or short note is held in MIDI is a library's own choice.",
        "",
        "| library | kind | passage | read | said |",
        "|---|---|---|---|---|",
    ]
    return "\n".join([*head, *(f"| {' | '.join(one)} |" for one in rows)]) + "\n"


if __name__ == "__main__":
    sys.exit(main())
