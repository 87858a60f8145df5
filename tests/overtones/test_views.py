"""The Overtones view, untried fingerings, simulated tones, and the model on Note view and bench."""

import io
import wave
from dataclasses import replace

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from tests.pages import words_of

from bench.queries import opened
from catalogue import shipped
from catalogue.queries import of_instrument
from core.evidence.setups import only
from core.evidence.sources import ALL_SOURCES, Basis
from core_shapes import in_hand_of
from evidence import services as evidence

pytestmark = pytest.mark.django_db


def get(client, name, **asked):
    return client.get(reverse(f"overtones:{name}"), asked)


def text_of(response):
    return response.content.decode()


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher, reed="2½")


@pytest.mark.parametrize("model", shipped.INSTRUMENTS)
def test_every_instrument_has_its_overtones(signed_in, model):
    response = get(signed_in, "overtones", on=model)
    page = response.context["page"]
    assert response.status_code == 200
    proved = model != "english-horn"  # too few of its overtones are taught to try it on
    assert len(page.rows) >= 1 + proved  # it opens where something can be told
    assert all(row.trusted for row in page.rows)
    assert page.tasks
    assert bool(page.tasks[0].from_chart) is not proved  # what the chart has, where the model is silent
    assert page.curve.count("<polyline") == 2
    assert "Show the curve" in text_of(response)


def test_the_ladder_of_a_low_note(signed_in):
    page = get(signed_in, "overtones", on="alto-saxophone", note="Bb3").context["page"]
    assert [(row.partial, str(row.note)) for row in page.rows[-4:]] == [
        (4, "B♭5"),
        (3, "F5"),
        (2, "B♭4"),
        (1, "B♭3"),
    ]
    assert all("give or take" in row.pitch for row in page.rows[-4:-1])
    assert page.rows[-1].pitch == "about in tune, as it was fitted to the chart"
    high = [row for row in page.silent if row.note.midi > 84]
    assert high
    assert all((row.pitch, row.pure, row.readiness) == ("", "", "") for row in high)  # no trust, no number
    known = {str(row.note): row.chart for row in high}
    assert known["F6"].startswith("harmonic: overtone arithmetic, low confidence")


def test_a_note_beside_its_overtone_on_a_lower_fingering(signed_in):
    response = get(signed_in, "overtones", on="alto-saxophone", note="F5")
    matches = {match.entry.id: match for match in response.context["page"].matches}
    assert matches["Bb3-low"].partial == "third"
    assert matches["Bb3-low"].difference
    assert "simulated" in text_of(response)


def test_stepping_stones_from_a_chosen_start(signed_in):
    asked = {"on": "alto-saxophone", "note": "G6", "touches": "octave frontF | sideBb R1"}
    page = get(signed_in, "overtones", **asked, **{"from": "octave frontF L2"}).context["page"]
    assert [stone.what for stone in page.stones] == [
        "start here",
        "add side B-flat",
        "add first touch",
        "let go second touch",
    ]
    far = {**asked, "from": "L1 L2 L3 lowBb | R1 R2 R3 lowC"}
    assert "differ by" in get(signed_in, "overtones", **far).context["page"].no_stones


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"note": "H9"}, "is no note"),
        ({"note": "C9"}, "outside the range kept here"),
        ({"touches": "octave nose"}, "cannot be read"),
        ({"touches": "octave octave"}, "cannot be read"),
        ({"from": "<script>"}, "cannot be read"),
    ],
)
def test_what_cannot_be_read_is_said(signed_in, asked, said):
    response = get(signed_in, "overtones", on="alto-saxophone", **asked)
    assert response.status_code == 422
    assert said in text_of(response)
    assert "<script>nose" not in text_of(response)


def test_any_touches_have_a_page(signed_in):
    for touches in ("open", "palmF | sideE", "L1 L2 L3 lowBb | R1 R2 R3 lowC sideE", "lowB lowBb"):
        assert get(signed_in, "overtones", on="alto-saxophone", touches=touches).status_code == 200


def test_a_simulated_tone_is_a_sound_file(signed_in):
    response = get(
        signed_in, "tone", on="alto-saxophone", note="F5", touches="L1 L2 L3 lowBb | R1 R2 R3 lowC"
    )
    assert response["Content-Type"] == "audio/wav"
    with wave.open(io.BytesIO(response.content)) as file:
        assert file.getnframes() > 10_000


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"touches": "L1"}, "Name the written note"),
        ({"note": "F5", "touches": "x"}, "cannot be read"),
        ({"note": "E4", "touches": "L1 L2 L3 lowBb | R1 R2 R3 lowC"}, "no resonance near"),
        ({"note": "xx", "touches": "L1"}, "is no note"),
    ],
)
def test_a_tone_that_cannot_be_is_said(signed_in, asked, said):
    response = get(signed_in, "tone", on="alto-saxophone", **asked)
    assert response.status_code == 422
    assert said in text_of(response)


def test_untried_fingerings_are_marked_and_can_be_tried(signed_in):
    response = get(signed_in, "near", on="alto-saxophone", note="G6")
    rows = response.context["page"].rows
    assert len(rows) > 3
    assert text_of(response).count("untried</span>") == len(rows)
    tried = signed_in.get(reverse("catalogue:note") + rows[0].query)
    assert tried.status_code == 200
    assert tried.context["page"].can_keep
    around = signed_in.get(reverse("overtones:near") + rows[0].vary)
    assert len(around.context["page"].rows) > 0
    assert "One touch around" in text_of(around)
    wrong = get(signed_in, "near", on="alto-saxophone", note="G6", touches="zither", vary="1")
    assert wrong.status_code == 422
    assert get(signed_in, "near", on="bassoon", note="E9").status_code == 422


def test_others_instruments_are_not_there(signed_in, other_teacher, make_instrument):
    theirs = make_instrument(other_teacher)
    for name in ("overtones", "near", "tone"):
        assert get(signed_in, name, on=f"i{theirs.pk}").status_code == 404


def note(client, **asked):
    return client.get(reverse("catalogue:note"), asked)


def test_the_note_view_says_what_the_model_says(signed_in):
    page = note(signed_in, on="b-flat-clarinet", note="D6", touches="reg T L2 L3 | R1").context["page"]
    said = " ".join(page.modelled)
    assert "Modelled pitch: about" in said
    assert "if it cracks, to the third partial, about written G5" in said
    changed = note(signed_in, on="b-flat-clarinet", note="D6", touches="reg T L2 L3 sliverEb | R1 Ab")
    said = " ".join(changed.context["page"].modelled)
    assert "Beside that fingering: about" in said
    assert "± " in said


def test_the_model_is_silent_where_it_earned_nothing(signed_in):
    untrusted = note(signed_in, on="alto-saxophone", note="D5", touches="palmD")
    said = untrusted.context["page"].modelled
    assert list(said) == ["The model has not proved itself here, so it says nothing."]
    high = note(signed_in, on="alto-saxophone", note="A6", touches="octave L2 L3").context["page"].modelled
    assert "once two notes of this kind are read" in high[0]
    far = note(signed_in, on="alto-saxophone", note="E4", touches="octave").context["page"].modelled
    assert list(far) == ["The model finds no resonance near this note."]
    oboe = note(signed_in, on="oboe", note="B5", touches="thumb8 L1").context["page"]
    assert oboe.entry.id == "B5-automatic"
    assert oboe.modelled == ()


def test_the_model_is_a_source_that_can_be_switched_off(signed_in):
    asked = {"on": "alto-saxophone", "note": "Bb5", "touches": "octave L1 | R1"}
    on, off = (note(signed_in, **asked, without=without).context["page"] for without in ("", "modelled"))
    assert "Pitch: unknown" in off.looked_at.sentence
    assert "Pitch: unknown" not in on.looked_at.sentence
    assert "modelled" in on.looked_at.sentence.split(";")[0]
    assert off.modelled == ()
    assert ("modelled", False) in [(name, counts) for name, counts, _ in off.sources]


def test_readings_of_two_notes_tell_the_altissimo(signed_in, teacher, owned):
    entry = shipped.catalogue("alto-saxophone").by_id["A6-two-three"]
    assert of_instrument(owned).acoustics.of(entry.fingering, entry.note).pitch is None
    evidence.type_readings(teacher, owned, of_instrument(owned), "G6-split", "12 14 13")
    assert of_instrument(owned).acoustics.of(entry.fingering, entry.note).pitch is None  # one note is too few
    evidence.type_readings(teacher, owned, of_instrument(owned), "A6-hand-down", "8 9 10")
    other = shipped.catalogue("alto-saxophone").by_id["A6-hand-down"]  # its own reading does not count twice
    assert of_instrument(owned).acoustics.of(other.fingering, other.note).pitch is None
    trusted = of_instrument(owned).acoustics.of(entry.fingering, entry.note)
    assert trusted.notes_read == 2
    assert trusted.pitch.spread > 20
    assert trusted.left_out > 0
    response = note(signed_in, on=f"i{owned.pk}", note="A6", touches="octave L2 L3")
    assert "by the readings of 2 notes" in " ".join(response.context["page"].modelled)


@pytest.mark.parametrize(
    ("on", "said"), [("bassoon", "of 16 high bassoon"), ("alto-saxophone", "of 24 high sax")]
)
def test_the_search_says_how_often_it_finds_what_is_taught(signed_in, on, said):
    page = signed_in.get(reverse("overtones:near"), {"on": on, "note": "E5"})
    assert said in words_of(page).lower()


def test_readings_under_an_earlier_set_up_do_not_correct(teacher, owned):
    for row in ("G6-split", "A6-hand-down"):
        evidence.type_readings(teacher, owned, of_instrument(owned), row, "12 14 13")
    entry = shipped.catalogue("alto-saxophone").by_id["A6-two-three"]
    now, other_reed = of_instrument(owned), replace(of_instrument(owned), setups=only(9))
    assert now.acoustics.of(entry.fingering, entry.note).pitch
    assert other_reed.acoustics.of(entry.fingering, entry.note).pitch is None


def test_the_bench_counts_the_model_or_not(signed_in, teacher, make_passage):
    passage = make_passage(teacher, "L:1/2\nQ:1/4=60\nK:C\n_b _b |")
    bench = opened(passage, passage.current)
    entry = bench.in_hand.catalogue.by_id["Bb5-one-one"]
    modelled, plain = (
        bench.in_hand.evidence([entry], use)[0].pitch.combined.value
        for use in (ALL_SOURCES, ALL_SOURCES - {Basis.MODELLED})
    )
    assert modelled < -15
    assert plain == 0
    answer = signed_in.get(reverse("bench:bench", args=[passage.pk]))
    assert "modelled" in answer.context["set_up"]["sources"].value()
    assert set(bench.solution().chosen_ids.values()) <= {"Bb5-bis", "Bb5-side"}


def test_margin_feeds_how_it_speaks():
    bassoon = in_hand_of("bassoon", fitted=frozenset())
    entries = [bassoon.catalogue.by_id[row] for row in ("A3-plain", "A3-held-A")]
    plain, vented = bassoon.acoustics.of_entries(entries)
    assert plain.speaks.value < vented.speaks.value


def test_a_page_asks_no_more_of_the_database_as_readings_grow(signed_in, teacher, owned):
    def count():
        with CaptureQueriesContext(connection) as captured:
            get(signed_in, "overtones", on=f"i{owned.pk}", note="B5")
        return len(captured)

    few = count()
    for row in ("A5-plain", "B5-plain", "C6-plain", "G6-split", "A6-hand-down"):
        evidence.type_readings(teacher, owned, of_instrument(owned), row, "1 2 3")
    assert count() == few
