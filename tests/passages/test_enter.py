"""Notes entered by the page: every press a form, undo, and what cannot be."""

import html
import re

import pytest
from django.urls import reverse

from core.music.passage import NOTES_LIMIT
from pages import words_of
from passages.models import EnteredNotes, KeptPassage
from passages.music import read_passage

pytestmark = pytest.mark.django_db
ENTER = "passages:enter"


def carried(response):
    """What the page's form carries on to the next press."""
    text = response.content.decode()
    fields = re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)">', text)
    return {name: html.unescape(value) for name, value in fields if name != "csrfmiddlewaretoken"}


@pytest.fixture
def page(signed_in):
    """Presses one after the other, each going on from the page before."""

    class Page:
        last = signed_in.get(reverse(ENTER), {"on": "alto-saxophone"})

        def press(self, do, **fields):
            data = {"on": "alto-saxophone", **carried(self.last), "do": do, **fields}
            self.last = signed_in.post(reverse(ENTER), data)
            return self

        @property
        def notes(self):
            text = carried(self.last)["draft"]
            return " ".join(text.split("K:")[1].split("\n", 1)[1].split())

    return Page()


def test_notes_are_entered_changed_and_opened_on_the_bench(page):
    for do in ("step:D", "step:E", "length:8", "step:F", "sharper", "rest", "length:4", "pitch:A5"):
        page.press(do)
    assert page.notes == "d e ^f/2 z/2 a |]"
    page.press("left").press("left").press("octave-up").press("open", title="Entered")
    passage = KeptPassage.objects.get()
    assert page.last["Location"] == reverse("bench:bench", args=[passage.pk])
    assert (passage.title, passage.notes, passage.highest) == ("Entered", 4, "F♯6")


def test_a_length_is_for_what_comes_until_the_cursor_is_moved(page):
    page.press("names", names="C5 D5 E5").press("length:2")
    assert page.notes == "c d e |]"
    page.press("left").press("length:2")
    assert page.notes == "c d2 e |]"
    page.press("select:0").press("dot")
    assert page.notes.startswith("c3/2 d2")
    page.press("step:G")
    assert page.notes.startswith("c3/2 G2 d/2- | d3/2")


def test_undo_goes_back_step_by_step_and_only_so_far(page, monkeypatch):
    monkeypatch.setattr("passages.entering.UNDO_KEPT", 6)
    page.press("step:C").press("step:D").press("articulation:accent").press("undo").press("undo")
    assert page.notes == "c |]"
    for _ in range(6 + 5):
        page.press("step:C")
    for _ in range(6 + 3):
        page.press("undo")
    assert page.notes.count("c") == 6  # the first presses are too long ago


def test_a_study_and_signs(page):
    page.press("signs", key="-2", time="3/4", tempo_bpm="72,5")
    page.press("length:8").press("study", kind="scale", tonic="Bb", mode="major", low="Bb4", high="Bb5")
    assert page.notes.startswith("[Q:1/4=72.500]B/2 c/2 d/2 e/2 f/2 g/2 | a/2 b/2 a/2")
    assert "no sign" not in words_of(page.last)[:200]
    page.press("study", kind="in octaves", tonic="C", mode="major", low="C4", high="D4")
    assert page.last.status_code == 422
    assert "is too little for a study in octaves" in words_of(page.last)
    assert page.notes.count("B") > 0


@pytest.mark.parametrize(
    ("do", "fields", "message"),
    [
        ("names", {"names": "F#6 zork"}, "“zork” is no note; write notes like F#6"),
        ("pitch:H9", {}, "a pitch must read like F#6"),
        ("pitch:C99", {}, "a pitch must read like"),
        ("step:H", {}, "That note is not known here."),
        ("midi:500", {}, "That key is not known here."),
        ("dynamic:loud", {}, "a dynamic must be one of"),
        ("study", {"kind": "etude"}, "That study is not known here."),
        ("study", {"kind": "scale", "low": "x", "high": "y"}, "a pitch must read like"),
        ("signs", {"key": "99", "time": "4/4"}, "Choose a key and a time signature."),
        ("signs", {"key": "0", "time": "4/4", "tempo_bpm": "9999"}, "the tempo must be from 20 to 400"),
        ("signs", {"key": "0", "time": "4/4", "tempo_bpm": "fast"}, "a number must read like"),
        ("jump", {}, "That action is not known here."),
        ("select:99999999", {}, "That action is not known here."),
        ("step:C", {"draft": "\x00"}, "begin anew"),
        ("step:C", {"draft": "K:C\n" + "c" * 500_000}, "begin anew"),
        ("step:C", {"at": "x"}, "begin anew"),
        ("step:C", {"earlier": "{"}, "begin anew"),
        ("step:C", {"earlier": "[1]"}, "begin anew"),
        ("step:C", {"next": "7"}, "begin anew"),
        ("undo", {"earlier": '[["no music", 0, ""]]'}, "cannot be read any more"),
    ],
)
def test_what_cannot_be_done_is_said_and_nothing_is_lost(page, do, fields, message):
    page.press("step:C")
    page.press(do, **fields)
    assert page.last.status_code == 422
    assert message.lower() in words_of(page.last).lower()
    if "begin anew" not in message:
        assert page.notes == "c |]"


def test_a_hundred_thousand_notes_are_not_taken(page):
    page.press("names", names="c " * 100_000)
    assert page.last.status_code == 422
    assert "At most 200 notes" in words_of(page.last)
    page.press("step:C", draft="L:1/4\nK:C\n" + "cdef|" * (NOTES_LIMIT // 4), at="0")
    assert page.last.status_code == 422
    assert "at most 3,000 notes and rests" in words_of(page.last)


def test_of_a_long_passage_the_bars_about_the_cursor_are_shown_and_can_be_pressed(page):
    page.press("step:C", draft="L:1/4\nK:C\n" + "c d e f|" * 200, at="400")
    assert "201 bars · 801 notes" in words_of(page.last)
    assert "those about the cursor are shown" in words_of(page.last)
    numbers = [int(n) for n in re.findall(r'value="select:(\d+)"', page.last.content.decode())]
    assert numbers == list(range(numbers[0], numbers[-1] + 1))
    assert numbers[0] < 401 < numbers[-1]
    assert len(numbers) < 150
    assert re.search(r'id="note-401"[^>]*aria-current="true"', page.last.content.decode())


def test_rests_alone_are_not_kept(page):
    page.press("rest").press("open")
    assert page.last.status_code == 422
    assert "Enter at least one note first." in words_of(page.last)
    assert not KeptPassage.objects.exists()


def test_nothing_without_signing_in(client):
    assert client.get(reverse(ENTER)).status_code == 302


# The same on a passage that there is.


@pytest.fixture
def changing(signed_in, teacher, make_passage):
    """A passage with a pin on its third note and one left out on its fourth, and presses on its notes."""
    passage = make_passage(teacher, "L:1/4\nK:C\n!p!c d _b (e|f2) {g}_B2|]")
    for action, note, entry in (("pin", "n3", "Bb5-bis"), ("ban", "n6", "Bb4-side")):
        passage.refresh_from_db()
        data = {"action": action, "state": passage.current.number, "note": note, "entry": entry}
        assert signed_in.post(reverse("bench:change", args=[passage.pk]), data).status_code == 302
    address = reverse("passages:notes", args=[passage.pk])

    class Changing:
        last = signed_in.get(address)

        def press(self, do, **fields):
            self.last = signed_in.post(address, {**carried(self.last), "do": do, **fields})
            return self

    shown = Changing()
    shown.passage = passage
    return shown


def kept(changing):
    changing.press("open")
    assert changing.last.status_code == 302
    changing.passage.refresh_from_db()
    settings = changing.passage.current.settings
    return settings["pins"], settings["bans"]


def test_pins_go_along_with_the_notes_that_stay(changing):
    assert kept(changing.press("select:0").press("step:D").press("step:E")) == (
        {"n5": "Bb5-bis"},
        {"n8": ["Bb4-side"]},
    )
    assert changing.passage.states.count() == 1
    assert (changing.passage.notes, changing.passage.bars) == (8, 3)


def test_a_pin_goes_with_its_note_and_stays_where_the_pitch_does(changing):
    pins, bans = kept(changing.press("select:2").press("sharper"))
    assert (pins, bans) == ({}, {"n6": ["Bb4-side"]})
    assert changing.passage.current.what == "Notes changed"


def test_deleting_and_undoing_keeps_what_is_known_of_the_notes(changing):
    changing.press("select:0").press("delete").press("undo")
    assert kept(changing) == ({"n3": "Bb5-bis"}, {"n6": ["Bb4-side"]})


def test_what_a_passage_has_besides_its_notes_is_there_after_a_change(changing):
    kept(changing.press("select:1").press("sharper"))
    music = read_passage(changing.passage.musicxml)
    notes = list(music)
    assert (notes[0].dynamic, [str(pitch) for pitch in notes[-1].grace]) == ("p", ["G5"])
    assert [n.slur_start for n in notes].count(True) == [n.slur_stop for n in notes].count(True) == 1
    assert notes[1].written_pitch.ascii == "D#5"


def test_a_passage_keeps_at_least_one_note(changing):
    for _ in range(7):
        changing.press("select:0").press("delete")
    changing.press("open")
    assert changing.last.status_code == 422
    assert "Leave at least one note." in words_of(changing.last)


def test_notes_are_kept_as_they_are_entered_and_offered_again(page, signed_in, teacher, other_teacher):
    page.press("step:D").press("step:E", title="Half a tune")
    window = carried(page.last)["window"]
    assert f"window={window}" in page.last["HX-Replace-Url"]
    again = signed_in.get(reverse(ENTER), {"window": window})
    assert carried(again)["draft"] == carried(page.last)["draft"]
    assert 'value="Half a tune"' in again.content.decode()
    assert "not opened yet" not in words_of(again)
    fresh = signed_in.get(reverse(ENTER), {"on": "oboe"})
    assert "2 notes entered" in words_of(fresh)
    assert f"?window={window}" in fresh.content.decode()
    signed_in.force_login(other_teacher)
    assert "not opened yet" not in words_of(signed_in.get(reverse(ENTER)))
    assert carried(signed_in.get(reverse(ENTER), {"window": window}))["draft"] != carried(again)["draft"]
    signed_in.force_login(teacher)
    page.last = again
    page.press("open")
    assert "not opened yet" not in words_of(signed_in.get(reverse(ENTER)))


def test_what_was_entered_in_a_window_can_be_thrown_away_and_old_ones_go(page, signed_in, monkeypatch):
    monkeypatch.setattr("passages.services.ENTERED_KEPT", 3)
    for _ in range(5):
        page.last = signed_in.get(reverse(ENTER))
        page.press("step:D")
    kept = EnteredNotes.objects.all()
    assert kept.count() == 3
    other = kept.first()
    signed_in.post(reverse(ENTER), {"do": "forget", "other": str(other.window)})
    assert not EnteredNotes.objects.filter(pk=other.pk).exists()
    assert EnteredNotes.objects.count() == 2


def test_a_change_of_a_passage_is_offered_on_that_passage_alone(signed_in, teacher, make_passage):
    one, other = make_passage(teacher), make_passage(teacher)
    where = reverse("passages:notes", args=[one.pk])
    first = signed_in.get(where)
    signed_in.post(where, carried(first) | {"do": "step:D"})
    assert "not opened yet" in words_of(signed_in.get(where))
    for elsewhere in (reverse("passages:notes", args=[other.pk]), reverse(ENTER)):
        assert "not opened yet" not in words_of(signed_in.get(elsewhere))
    window = carried(first)["window"]
    wrong = signed_in.get(reverse("passages:notes", args=[other.pk]), {"window": window})
    assert (
        carried(wrong)["draft"] == carried(signed_in.get(reverse("passages:notes", args=[other.pk])))["draft"]
    )
