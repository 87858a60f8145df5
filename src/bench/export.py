"""What leaves the application: the score with its fingerings, the route with its evidence, a line drawn."""

import csv
import io
import json
from collections.abc import Callable
from dataclasses import dataclass

from bench.queries import Opened
from bench.solution import Solution, fingered
from bench.systems import SIZES, View, engraved, lines, symbols
from core.evidence.sources import Basis
from core.instruments.fingering import format_fingering
from core.music.notation.abc_writer import write_abc
from core.music.notation.midi_writer import write_midi
from core.music.notation.musicxml_writer import write_musicxml
from core.music.pitch import frequency_hz
from core.routes.explain import reason
from core.routes.hard_moves import stumble
from drawing.drawing_file import drawing_file
from drawing.engraving import shared_glyphs

STRANDS = ("pitch", "tone", "speaks", "hands")


@dataclass(frozen=True)
class FileForm:
    """A form in which a passage can be taken away."""

    words: str
    content_type: str
    made: Callable[[Opened, str], str | bytes]


def _musicxml(opened, _):
    model = opened.in_hand.instrument
    return write_musicxml(fingered(opened.solution()), model.to_sounding, model.label, model.clefs)


def _abc(opened, _):
    solution = opened.solution()
    pairs = zip(solution.events, solution.entries, strict=True)
    said = {event.id: opened.in_hand.said(entry.fingering) for event, entry in pairs if entry}
    return write_abc(solution.passage, said)


def _midi(opened, _):
    model = opened.in_hand.instrument
    return write_midi(opened.solution().passage, model.to_sounding, opened.settings.tempo_bpm, model.label)


def _csv(opened, _):
    rows = route_rows(opened)
    out = io.StringIO()
    writer = csv.DictWriter(out, fieldnames=list(rows[0]))
    writer.writeheader()
    for row in rows:
        writer.writerow({name: "" if value is None else _cell(value) for name, value in row.items()})
    return out.getvalue()


def _cell(value):
    """Text as a table may hold it: none that a program would take for a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "@") else value


def _json(opened, _):
    whole = {
        "title": opened.passage.title,
        "instrument": opened.in_hand.instrument.label,
        "tempo_bpm": opened.settings.tempo_bpm,
        "a4_hz": opened.settings.a4_hz,
        "notes": route_rows(opened),
    }
    return json.dumps(whole, ensure_ascii=False, indent=1)


def _svg(opened, note):
    """The line in which a note stands; the first if it is none."""
    view = View(opened, opened.solution(), None, frozenset())
    engraving = engraved(view, SIZES["usual"])
    made = lines(view, engraving, for_print=True)
    place = next((n for n, system in enumerate(engraving.systems) if note in system.notes), 0)
    return drawing_file(made[place], shared_glyphs([engraving]), symbols(view))


FORMS = {
    "musicxml": FileForm("MusicXML", "application/vnd.recordare.musicxml+xml; charset=utf-8", _musicxml),
    "abc": FileForm("ABC", "text/vnd.abc; charset=utf-8", _abc),
    "mid": FileForm("MIDI", "audio/midi", _midi),
    "csv": FileForm("The route as a table (CSV)", "text/csv; charset=utf-8", _csv),
    "json": FileForm("The route as data (JSON)", "application/json; charset=utf-8", _json),
    "svg": FileForm("This line as a drawing (SVG)", "image/svg+xml; charset=utf-8", _svg),
}


def route_rows(opened: Opened) -> list[dict]:
    """One row a note: where it stands, its fingering, what is known of it, what it costs, how sure it is."""
    solution = opened.solution()
    use = [Basis(source) for source in opened.settings.sources]
    known = opened.in_hand.evidence([entry for entry in solution.entries if entry], use)
    evidence = iter(known)
    return [
        _row(opened, solution, n, entry, next(evidence) if entry else None)
        for n, entry in enumerate(solution.entries)
    ]


def _row(opened, solution: Solution, n, entry, known):
    event, table, in_hand = solution.events[n], solution.table, opened.in_hand
    sounding = in_hand.instrument.to_sounding.apply(event.written_pitch)
    row = {
        "bar": event.notes[0].bar,
        "beat": float(event.notes[0].beat),
        "written": event.written_pitch.ascii,
        "sounding": sounding.ascii,
        "hertz": round(frequency_hz(sounding, opened.settings.a4_hz), 2),
        "seconds": round(event.seconds, 3),
        "fingering": entry.id if entry else None,
        "kind": entry.kind.value if entry else None,
        "touches": format_fingering(entry.fingering, in_hand.instrument) if entry else None,
        "said": in_hand.said(entry.fingering) if entry else None,
        "source": entry.source if entry else None,
        "confidence": entry.confidence.value if entry else None,
        "pinned": event.id in opened.settings.pins,
    }
    for name in STRANDS:
        weighed = getattr(known, name).combined if known else None
        unknown = weighed is None or weighed.basis is Basis.UNKNOWN
        row[name] = None if unknown else round(weighed.value, 3)
        row[f"{name}_spread"] = None if unknown else round(weighed.spread, 3)
        row[f"{name}_by"] = "unknown" if unknown else weighed.basis.value
    faults = (table.node_faults[n] + table.move_faults[n]).by_strand
    row |= {f"faults_{name}": round(value, 4) for name, value in faults.items()}
    chance = stumble(table, n)
    row["stumble"] = None if chance is None else round(chance, 4)
    why = reason(table, n)
    rival = None if why.rival is None else table.problem.given.offered[n].candidates[why.rival].entry.id
    return row | {"over": rival, "sure": str(why.sure) if rival else None, "because": why.because or None}
