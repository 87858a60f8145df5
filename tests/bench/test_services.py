"""Use cases: whole or not at all, for the teacher who asks."""

from dataclasses import replace

import pytest
from django.core.exceptions import ValidationError
from django.core.management import call_command

from bench import services
from bench.export import FORMS
from bench.queries import opened
from bench.solution import solve
from core_shapes import DATA, in_hand_of
from passages.models import KeptPassage, State
from passages.services import add_passage, delete_passage, read_source
from passages.settings import SOURCES, BenchSettings
from studio.models import Student

pytestmark = pytest.mark.django_db


@pytest.fixture
def passage(teacher, make_passage):
    return make_passage(teacher, "L:1/16\nQ:1/4=132\nK:C\n(=B_B=B_B) g'4 z8|^f'4|")


def chosen(passage):
    passage.refresh_from_db()
    return opened(passage, passage.current).solution().chosen_ids


def settings_of(passage):
    return opened(passage, passage.current).settings


def text_of(passage):
    return FORMS["musicxml"].made(opened(passage, passage.current), "")


def test_a_new_passage_keeps_its_facts(passage):
    assert (passage.notes, passage.bars, passage.lowest, passage.highest) == (6, 2, "B♭4", "G6")
    assert settings_of(passage).tempo_bpm == 132


def test_pin_the_rest_follows_and_undo_brings_it_back(passage):
    before = chosen(passage)
    services.pin(passage.teacher, passage, passage.current, "n2", "Bb4-bis")
    assert chosen(passage)["n2"] == "Bb4-bis" != before["n2"]
    services.undo(passage.teacher, passage, passage.current)
    assert chosen(passage) == before
    services.redo(passage.teacher, passage, passage.current)
    assert chosen(passage)["n2"] == "Bb4-bis"


def test_pinning_again_takes_the_pin_away(passage):
    for _ in range(2):
        services.pin(passage.teacher, passage, passage.current, "n2", "Bb4-bis")
    assert settings_of(passage).pins == {}
    assert passage.current.what == "Unpin B♭4 in bar 1"


def test_ban_and_take_in_again(passage):
    services.ban(passage.teacher, passage, passage.current, "n2", "Bb4-side")
    assert chosen(passage)["n2"] != "Bb4-side"
    services.ban(passage.teacher, passage, passage.current, "n2", "Bb4-side")
    assert settings_of(passage).bans == {}


def test_a_pin_lifts_a_ban_and_a_ban_a_pin():
    settings = BenchSettings(100).banned("n1", "a").banned("n1", "b").pinned("n1", "a")
    assert (settings.pins, settings.bans) == ({"n1": "a"}, {"n1": ["b"]})
    assert settings.banned("n1", "a").pins == {}


def test_settings_survive_storage():
    settings = BenchSettings(96.5, 442, ("highF#",), {"pitch": 2.0}, {"n1": "a"}, {"n2": ["b"]})
    assert BenchSettings.from_json(settings.to_json()) == settings


def test_what_two_windows_choose_is_kept_and_either_can_be_taken(passage):
    first = passage.current
    services.set_tempo(passage.teacher, passage, first, 80)
    mine = services.set_tempo(passage.teacher, passage, first, 60)
    assert [s.settings["tempo_bpm"] for s in passage.states.all()] == [132, 80, 60]
    passage.refresh_from_db()
    assert passage.current.settings["tempo_bpm"] == 80
    assert mine.name == "Other window: Tempo 60"
    services.take_version(passage.teacher, passage, passage.current, mine.number)
    passage.refresh_from_db()
    assert passage.current == mine
    assert mine.parent == first
    with pytest.raises(ValidationError, match="kept no more"):
        services.take_version(passage.teacher, passage, passage.current, 99)


def test_undo_in_a_window_that_was_left_behind_undoes_nothing_of_the_other(passage):
    first = passage.current
    second = services.set_tempo(passage.teacher, passage, first, 80)
    services.set_tempo(passage.teacher, passage, second, 60)
    assert services.undo(passage.teacher, passage, second) == first
    passage.refresh_from_db()
    assert passage.current.settings["tempo_bpm"] == 60


def test_the_same_settings_make_no_new_state(passage):
    services.set_tempo(passage.teacher, passage, passage.current, 132)
    assert passage.states.count() == 1


@pytest.mark.parametrize("tempo", [0, 10_000, -3, float("nan")])
def test_a_bad_tempo_saves_nothing(passage, tempo):
    with pytest.raises(ValidationError, match="The tempo must be from 20 to 400"):
        services.set_tempo(passage.teacher, passage, passage.current, tempo)
    assert State.objects.count() == 1


def test_a_touch_that_is_fitted_is_offered_and_one_taken_off_takes_its_pins(passage):
    even = dict.fromkeys(("pitch", "tone", "speaks", "hands"), 1)
    same = {"a4_hz": 442, "weights": even, "sources": SOURCES}
    services.set_up(passage.teacher, passage, passage.current, fitted=["highF#", "R1"], **same)
    assert settings_of(passage).fitted == ("highF#",)
    services.pin(passage.teacher, passage, passage.current, "n7", "Fs6-palm")
    assert chosen(passage)["n7"] == "Fs6-palm"
    services.set_up(passage.teacher, passage, passage.current, fitted=[], **same)
    assert settings_of(passage).pins == {}
    assert chosen(passage)["n7"] == "Fs6-front"


@pytest.mark.parametrize(
    ("note", "entry"), [("n2", "no-such"), ("n99", "Bb4-bis"), ("n1", "Bb4-bis"), ("n7", "own-1")]
)
def test_a_fingering_of_another_note_is_refused(passage, note, entry):
    with pytest.raises(ValidationError, match="does not belong to this note"):
        services.pin(passage.teacher, passage, passage.current, note, entry)
    assert State.objects.count() == 1


def test_a_pin_that_the_chart_no_longer_has_is_left_out(passage):
    before = chosen(passage)
    stored = {**passage.current.settings, "pins": {"n2": "gone-from-the-chart"}}
    State.objects.filter(pk=passage.current.pk).update(settings=stored)
    assert chosen(passage) == before


def test_clear_takes_every_pin_and_ban_away(passage):
    before = chosen(passage)
    services.pin(passage.teacher, passage, passage.current, "n2", "Bb4-bis")
    services.ban(passage.teacher, passage, passage.current, "n4", "Bb4-side")
    services.clear(passage.teacher, passage, passage.current)
    settings = settings_of(passage)
    assert (settings.pins, settings.bans) == ({}, {})
    assert chosen(passage) == before


def test_old_states_are_let_go(passage, monkeypatch):
    monkeypatch.setattr(services, "STATES_KEPT", 5)
    for tempo in range(60, 70):
        services.set_tempo(passage.teacher, passage, passage.current, tempo)
    assert passage.states.count() == 5
    assert passage.current.settings["tempo_bpm"] == 69
    for _ in range(9):
        services.undo(passage.teacher, passage, passage.current)
        passage.refresh_from_db()
    assert passage.current.settings["tempo_bpm"] == 65


def test_exported_and_brought_in_again_every_choice_is_a_pin(passage, teacher):
    services.pin(passage.teacher, passage, passage.current, "n2", "Bb4-one-two")
    text = text_of(passage)
    again, notices, _ = read_source(text.encode(), "alto-saxophone", "file")
    saved = add_passage(teacher, title="", instrument="alto-saxophone", passage=again, notices=notices)
    assert saved.notices == []
    assert chosen(saved) == chosen(passage) == settings_of(saved).pins
    assert text_of(saved) == text
    assert saved.musicxml == passage.musicxml


def test_a_fingering_under_a_note_that_the_chart_lacks_is_said(teacher):
    text = musicxml_with("L1 L2 L3 R9")
    passage, notices, _ = read_source(text, "alto-saxophone", "file")
    saved = add_passage(teacher, title="", instrument="alto-saxophone", passage=passage, notices=notices)
    assert "“L1 L2 L3 R9” under C5 is not in the catalogue" in saved.notices[0]


def musicxml_with(fingering):
    from core.music.notation.formats import read_score
    from core.music.notation.musicxml_writer import write_musicxml
    from core.music.pitch import Interval

    passage = read_score(b"K:C\nc|").passage.with_fingerings({"n1": fingering})
    return write_musicxml(passage, Interval(-5, -9), "x").encode()


def test_demo_data_is_loaded_once_and_never_overwritten(django_user_model, capsys):
    call_command("load_demo")
    assert Student.objects.count() == 4
    assert [p.title.split(": ")[1] for p in KeptPassage.objects.filter(purpose="").order_by("pk")] == [
        *("IV. Below the Lock", "III. Over the Top Sluice", "II. Eel Ladder", "I. Mill Race")
    ]
    passage = KeptPassage.objects.get(title__contains="Over the Top Sluice")
    assert passage.notes > 100
    assert passage.bars == 20
    services.set_tempo(passage.teacher, passage, passage.current, 60)
    call_command("load_demo")
    passage.refresh_from_db()
    assert passage.current.settings["tempo_bpm"] == 60
    delete_passage(passage.teacher, passage)
    call_command("load_demo")
    assert KeptPassage.objects.filter(purpose="").count() == 3
    assert not django_user_model.objects.get(username="demo").has_usable_password()


def test_no_demo_passage_has_a_gap_and_most_instruments_lack_something():
    call_command("load_demo", verbosity=0)
    for passage in KeptPassage.objects.all():
        assert passage.owned.lacks or passage.owned.model == "b-flat-clarinet"
        assert None not in chosen(passage).values(), passage.title
        assert passage.notices == [] or "Moved to written pitch" in passage.notices[0]


def test_the_demo_passage_has_no_gap_and_changes_with_speed():
    passage, _, _ = read_source(
        (DATA / "demo" / "over-the-top-sluice.musicxml").read_bytes(), "alto-saxophone", "file"
    )
    from core.music.notation.musicxml_writer import write_musicxml
    from core.music.pitch import Interval

    text = write_musicxml(passage, Interval(-5, -9), "x")
    alto = in_hand_of("alto-saxophone", fitted=frozenset())
    slow = solve(alto, text, BenchSettings(60.0))
    fast = solve(alto, text, replace(BenchSettings(60.0), tempo_bpm=160.0))
    assert None not in slow.chosen_ids.values()
    assert sum(slow.chosen_ids[n] != fast.chosen_ids[n] for n in slow.chosen_ids) >= 5
