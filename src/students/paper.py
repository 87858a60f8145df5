"""A student's sheet as a PDF, set by Typst from what the page shows; nothing of it is read as a program."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory

import typst
from django.conf import settings

from drawing.drawing_file import drawing_file
from students.screens.sheet import Music, StudentSheet, WayToPage

CONTENT_TYPE = "application/pdf"
PAPERS = {"a4": "A4", "us-letter": "Letter"}
TEMPLATE = settings.DATA / "paper" / "sheet.typ"


def pdf_of(sheet: StudentSheet, paper: str, way: WayToPage | None = None) -> bytes:
    """The sheet on a paper of `PAPERS`: black and white, to be read at arm's length."""
    with TemporaryDirectory() as name:
        folder = Path(name)
        data = {
            "paper": paper,
            "student": sheet.student,
            "instrument": sheet.instrument,
            "title": sheet.title,
            "way": way.says if way else None,
            "passage": _music(folder, "passage", sheet.passage) if sheet.passage else None,
            "moves": [[one.where, one.notes, one.move, one.asks] for one in sheet.moves],
            "ossia": [_music(folder, f"ossia{n}", one) for n, one in enumerate(sheet.ossia)],
            "drills": [_music(folder, f"drill{n}", one) for n, one in enumerate(sheet.drills)],
            "ladders": [_ladder(one) for one in sheet.ladders],
            "week": _week(sheet.week) if sheet.week else None,
            "cues": sheet.cues,
            "read": sheet.how_to_read,
            "caution": sheet.caution,
        }
        if way:
            (folder / "way.svg").write_text(way.code, "utf-8")
        (folder / "sheet.json").write_text(json.dumps(data, ensure_ascii=False), "utf-8")
        (folder / "sheet.typ").write_bytes(TEMPLATE.read_bytes())
        return typst.compile(folder / "sheet.typ", root=folder, ignore_system_fonts=True)


def _music(folder: Path, name: str, music: Music):
    """Its words, and its lines as files: their names, and how wide each is of the widest."""
    files = []
    for n, line in enumerate(music.lines):
        file = f"{name}-{n}.svg"
        (folder / file).write_text(drawing_file(line, music.glyphs, music.symbols), "utf-8")
        files.append([file, line.width])
    return {"title": music.title, "says": music.says, "lines": files}


def _ladder(move):
    steps = [] if move.done else move.steps
    return {"notes": move.notes, "where": move.where, "move": move.move, "step": move.step, "steps": steps}


def _week(week):
    return {
        "note": str(week.note) if week.note else "",
        "days": [f"{day.date:%a} {day.date.day}" for day in week.days],
        "rows": [
            {
                "name": task.name,
                "says": task.says,
                "cells": [_cell(block) for block in days],
            }
            for task, days in week.rows
        ],
        "tones": next((b.detail for b in week.days[0].blocks if b.task.sort == "long tones"), ""),
        "care": f"{week.caution} {week.stop}",
    }


def _cell(block):
    """Minutes of a task on a day, and its detail where that is not the same every day."""
    if block is None:
        return ["", ""]
    return [str(block.minutes), "" if block.task.sort == "long tones" else block.detail]
