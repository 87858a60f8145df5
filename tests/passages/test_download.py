"""What is taken away of a passage: scores, a table, data, a drawing."""

import csv
import io
import json
from xml.etree import ElementTree as ET

import pytest
from django.urls import reverse

from catalogue.queries import of_instrument
from core.music.notation.formats import read_score
from core.music.notation.score import Choices
from evidence import services as evidence

pytestmark = pytest.mark.django_db
ABC = "L:1/8\nK:C\nC2 B2 c2 d2 | _b4 g'4 |]"


def take(client, passage, form, **asked):
    return client.get(reverse("bench:download", args=[passage.pk, form]), asked)


def test_download(signed_in, teacher, make_passage):
    passage = make_passage(teacher, title="Über the Weir!")
    answer = take(signed_in, passage, "musicxml")
    assert answer["Content-Disposition"] == 'attachment; filename="uber-the-weir.musicxml"'
    assert b"<text>L1 L2 L3 | R1 R2 R3 lowC</text>" in answer.content
    assert b"<fingering>L1 L2 L3 | R1 R2 R3 lowC</fingering>" in answer.content
    assert take(signed_in, passage, "exe").status_code == 404


def test_a_passage_is_taken_away_and_brought_in_again(signed_in, teacher, make_passage):
    source = read_score(ABC.encode()).passage
    passage = make_passage(teacher, ABC)
    abc = take(signed_in, passage, "abc").content
    assert read_score(abc).passage.bars == source.bars
    assert '"_1 2 3 · 1 2 3, low C"'.encode() in abc
    heard = read_score(take(signed_in, passage, "mid").content, Choices(grid=4)).passage
    sounding = [n.written_pitch.midi + 9 for n in heard]
    assert sounding == [n.written_pitch.midi for n in source]


def test_the_route_is_taken_away_with_its_evidence(signed_in, teacher, make_instrument, make_passage):
    owned = make_instrument(teacher)
    evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-side", "-4 -6 -5")
    line = "T:Weir\nL:1/4\nQ:1/4=60\nK:C\nB _B g' f'''|"
    passage = make_passage(teacher, line, owned=owned)
    rows = list(csv.DictReader(io.StringIO(take(signed_in, passage, "csv").content.decode())))
    whole = json.loads(take(signed_in, passage, "json").content)
    assert [row["written"] for row in rows] == ["B4", "Bb4", "G6", "F8"]
    assert [note["written"] for note in whole["notes"]] == ["B4", "Bb4", "G6", "F8"]
    _, flat, high, gap = whole["notes"]
    assert (flat["fingering"], flat["pitch_by"], flat["over"]) == ("Bb4-side", "measured", "Bb4-bis")
    assert (high["pitch"], high["pitch_by"]) == (None, "unknown")
    assert (gap["fingering"], gap["sure"], rows[3]["fingering"]) == (None, None, "")
    assert float(rows[1]["pitch"]) == flat["pitch"] < 0


def test_a_line_is_taken_away_as_a_drawing_that_stands_by_itself(signed_in, teacher, make_passage):
    passage = make_passage(teacher, "L:1/4\nK:C\n" + "c d e f|" * 12)
    first, last = (take(signed_in, passage, "svg", note=note).content.decode() for note in ("n1", "n48"))
    for text in (first, last):
        root = ET.fromstring(text)
        ids = {element.get("id") for element in root.iter() if element.get("id")}
        points = [element.get("href") for element in root.iter() if element.get("href")]
        assert points
        assert {point[1:] for point in points} <= ids
    assert first != last
