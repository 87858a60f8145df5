"""Fingerings on an instrument in hand: own ones, judgements, readings, preferences, and what follows."""

import itertools
import re

import pytest
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from tests.pages import words_of

from bench.queries import opened
from catalogue import services, shipped
from catalogue.alone import alone
from catalogue.models import HiddenFingering, OwnFingering
from catalogue.queries import of_instrument, of_model
from core.evidence.sources import ALL_SOURCES, Basis
from evidence import services as evidence
from evidence.models import JudgementMade, Preference, ReadingsTaken, Trial
from studio.models import OwnedInstrument
from studio.services import change_instrument

pytestmark = pytest.mark.django_db
NOTE, CHANGE = "catalogue:note", "catalogue:change"


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher, lacks=["highF#"], reed="2½")


def page(client, name, **asked):
    return client.get(reverse(f"catalogue:{name}"), asked)


def post(client, owned, action, entry, **more):
    data = {"on": f"i{owned.pk}", "note": "Bb4", "action": action, "entry": entry, **more}
    return client.post(reverse(CHANGE), data)


def chosen(passage):
    passage.refresh_from_db()
    return opened(passage, passage.current).solution().chosen_ids


def test_what_is_not_fitted_stands_last_and_what_is_preferred_first(teacher, owned):
    evidence.prefer(teacher, owned, of_instrument(owned), "Fs6-palm")
    in_hand = of_instrument(owned)
    ranked = sorted(in_hand.catalogue.by_midi[90], key=in_hand.rank)
    assert ranked[0].id == "Fs6-front"
    assert {entry.id for entry in ranked[-4:]} >= {"Fs6-palm", "Fs6-front-high"}
    evidence.prefer(teacher, owned, in_hand, "Bb4-one-one")
    in_hand = of_instrument(owned)
    assert min(in_hand.catalogue.by_midi[70], key=in_hand.rank).id == "Bb4-one-one"


@pytest.mark.parametrize(
    ("school", "kind"), [("flick the vent", "A3-flick-A"), ("hold the vent", "A3-held-A")]
)
def test_the_school_of_an_instrument_has_a_head_start(teacher, make_instrument, make_passage, school, kind):
    bassoon = make_instrument(teacher, "bassoon", positions={"bassoon vents": school})
    passage = make_passage(teacher, "L:1/4\nQ:1/4=80\nK:C\n(F,A,)(C2 A,) z|", owned=bassoon)
    assert list(chosen(passage).values())[1] == kind
    assert min(of_instrument(bassoon).catalogue.by_midi[57], key=of_instrument(bassoon).rank).id == kind


def test_the_bench_says_that_a_fingering_is_of_the_school(signed_in, teacher, make_instrument, make_passage):
    bassoon = make_instrument(teacher, "bassoon", positions={"bassoon vents": "hold the vent"})
    passage = make_passage(teacher, "L:1/4\nQ:1/4=80\nK:C\n(F,A,)C2|", owned=bassoon)
    shown = signed_in.get(reverse("bench:bench", args=[passage.pk]), {"note": "n2"}).content.decode()
    assert "As you teach it on this instrument: hold the vent." in shown


@pytest.mark.parametrize(("model", "asked"), [("bassoon", True), ("oboe", False)])
def test_a_school_is_asked_for_where_teachers_differ(signed_in, teacher, make_instrument, model, asked):
    owned = make_instrument(teacher, model)
    address = reverse("catalogue:instrument", args=[owned.pk])
    assert ("Vents from A3 up" in signed_in.get(address).content.decode()) is asked
    data = {"name": "x", "a4_hz": "440,5", "school_bassoon_vents": "hold the vent"}
    assert signed_in.post(address, data).status_code == 302
    owned.refresh_from_db()
    assert owned.a4_hz == 440.5
    assert owned.positions == ({"bassoon vents": "hold the vent"} if asked else {})


# Own fingerings.


def save(teacher, note="A4", touches="1 2 | low C key", **more):
    return services.save_own(teacher, "alto-saxophone", note=note, touches=touches, **more)


def test_an_own_fingering_is_offered_beside_the_catalogue_to_its_teacher_alone(teacher, other_teacher):
    row = save(teacher, note="G6", touches="octave 1 3 | side Bb 1 2", tone="full", cents=4)
    mine, theirs = (of_model(who, "alto-saxophone").catalogue for who in (teacher, other_teacher))
    assert row.touches == "octave L1 L3 | sideBb R1 R2"
    assert mine.by_id[row.entry_id].tone == "full"
    assert set(theirs.by_id) == set(shipped.catalogue("alto-saxophone").by_id) < set(mine.by_id)


@pytest.mark.parametrize(
    ("note", "touches", "message"),
    [
        ("H4", "1", "must read like"),
        ("D9", "1", "The note must lie from"),
        ("A4", "1 x", "no touch of the alto saxophone"),
        ("A4", "1 front F", "cannot hold"),
        ("A4", "1 2", "has this fingering for this note already"),
        ("G4", "1 2", "By the keywork it sounds written A4"),
    ],
)
def test_own_fingerings_pass_the_same_checks(teacher, note, touches, message):
    with pytest.raises(ValidationError, match=message):
        save(teacher, note, touches)
    assert not OwnFingering.objects.exists()


def test_the_keywork_can_be_overruled_with_a_reason_and_nothing_stands_twice(teacher):
    save(teacher, "G4", "1 2", reason="my A hole leaks")
    with pytest.raises(ValidationError, match="You have this fingering"):
        save(teacher, "G4", "L1 L2", reason="again")


def test_own_fingerings_end_at_a_limit_and_nothing_is_half_saved(teacher, monkeypatch):
    monkeypatch.setattr(services, "OWN_LIMIT", 2)
    save(teacher, note="G6", touches="octave 1 3 | side Bb 1 2")
    chart = b"note,touches\nBb4,1 4 5\nBb5,octave 1 4 5\n"
    with pytest.raises(ValidationError, match="At most 2 fingerings"):
        services.import_rows(teacher, "alto-saxophone", frozenset(), chart, {2, 3})
    assert OwnFingering.objects.count() == 1
    assert services.import_rows(teacher, "alto-saxophone", frozenset(), chart, {2}) == 1
    with pytest.raises(ValidationError, match="At most 2 fingerings"):
        save(teacher, note="G6", touches="octave 1 3 | side Bb 2")


def test_own_fingering_by_the_form_changed_and_deleted(signed_in, teacher):
    data = {
        "on": "alto-saxophone",
        "note": "G6",
        "touches": "octave 1 3 | 1 2",
        "kind": "altissimo",
        "confidence": "low",
    }
    answer = signed_in.post(reverse("catalogue:own-new"), data)
    row = OwnFingering.objects.get()
    assert answer["Location"].endswith("note=G6&touches=octave+L1+L3+%7C+R1+R2")
    shown = signed_in.get(answer["Location"]).content.decode()
    assert "own</span>" in shown
    address = reverse("catalogue:own", args=[row.pk])
    assert 'value="octave, 1 3 · 1 2"' in signed_in.get(address).content.decode()
    signed_in.post(address, {**data, "good_for": "loud ends"})
    row.refresh_from_db()
    assert row.good_for == "loud ends"
    signed_in.post(reverse("catalogue:own-delete", args=[row.pk]))
    assert not OwnFingering.objects.exists()


@pytest.mark.parametrize(
    ("changed", "message"),
    [
        ({"note": ""}, "Name the note"),
        ({"kind": "odd"}, "valid choice"),
        ({"cents": "200"}, "Cents must lie"),
    ],
)
def test_a_bad_own_form_keeps_what_was_typed(signed_in, changed, message):
    data = {
        "note": "G6",
        "touches": "octave 1 3",
        "kind": "altissimo",
        "confidence": "low",
        "good_for": "kept",
    }
    answer = signed_in.post(reverse("catalogue:own-new"), {**data, "on": "alto-saxophone", **changed})
    assert answer.status_code == 422
    assert message in answer.content.decode()
    assert 'value="kept"' in answer.content.decode()


def test_another_teachers_own_fingering_is_not_found(client, teacher, other_teacher):
    row = save(teacher)
    client.force_login(other_teacher)
    assert client.get(reverse("catalogue:own", args=[row.pk])).status_code == 404
    assert client.post(reverse("catalogue:own-delete", args=[row.pk])).status_code == 404
    assert OwnFingering.objects.exists()


@pytest.mark.parametrize("everywhere", [False, True])
def test_hide_here_or_everywhere_and_show_again(signed_in, teacher, make_instrument, owned, everywhere):
    other = make_instrument(teacher)
    shown = page(signed_in, "note", on=f"i{owned.pk}", note="Bb4", touches="L1 bis").content.decode()
    assert "On this instrument" in shown
    assert "On every alto saxophone" in shown
    post(signed_in, owned, "hide-everywhere" if everywhere else "hide-here", "Bb4-bis")
    assert HiddenFingering.objects.get().entry == "Bb4-bis"
    assert "Bb4-bis" not in of_instrument(owned).catalogue.by_id
    assert ("Bb4-bis" in of_instrument(other).catalogue.by_id) is not everywhere
    library = page(signed_in, "library", on=f"i{owned.pk}", kind="hidden").content.decode()
    assert library.count('class="tile ') == library.count(">hidden</span>") == 1
    shown = page(signed_in, "note", on=f"i{owned.pk}", note="Bb4", touches="L1 bis").content.decode()
    assert "Show it again" in shown
    post(signed_in, owned, "show", "Bb4-bis")
    assert not HiddenFingering.objects.exists()


# What is judged and read.


def test_judge_and_read_by_the_page(signed_in, owned):
    answer = post(signed_in, owned, "judge", "Bb4-bis", tone="thin", hands="easy", remark="buzzes")
    assert answer["Location"].endswith(f"on=i{owned.pk}&note=Bb4")
    post(signed_in, owned, "readings", "Bb4-bis", cents="12 -8 5")
    made, taken = JudgementMade.objects.get(), ReadingsTaken.objects.get()
    assert (made.tone, made.pitch, made.setup, made.remark) == ("thin", "", 1, "buzzes")
    assert taken.cents == [12, -8, 5]
    shown = page(signed_in, "note", on=f"i{owned.pk}", note="Bb4", touches="L1 bis").content.decode()
    assert "3 readings" in shown
    assert "“buzzes”" in shown
    without = page(
        signed_in, "note", on=f"i{owned.pk}", note="Bb4", touches="L1 bis", without="measured taught"
    )
    assert "3 readings" not in without.content.decode()
    for kind, row in (("judged", made), ("measured", taken)):
        post(signed_in, owned, "take-back", "Bb4-bis", kind=kind, row=row.pk)
    assert not JudgementMade.objects.exists()
    assert not ReadingsTaken.objects.exists()


@pytest.mark.parametrize(
    ("action", "more", "message"),
    [
        ("readings", {"cents": "a lot"}, "a number must read like"),
        ("readings", {"cents": ""}, "from 1 to 50 readings"),
        ("judge", {}, "Rate at least one strand"),
        ("judge", {"tone": "golden"}, "golden is not one of"),
        ("judge", {"remark": "x" * 301}, "at most 300"),
        ("take-back", {"kind": "judged", "row": "9" * 40}, "not known here"),
        ("take-back", {"kind": "odd", "row": "1"}, "not known here"),
        ("hide-here", {"entry": "none"}, "not in the catalogue"),
        ("prefer", {"entry": "none"}, "not kept for this instrument"),
        ("fly", {}, "not known here"),
    ],
)
def test_what_cannot_be_kept_is_said_where_it_was_typed(signed_in, owned, action, more, message):
    answer = post(signed_in, owned, action, more.pop("entry", "Bb4-bis"), touches="L1 bis", **more)
    assert answer.status_code == 422
    assert message in answer.content.decode()
    assert not JudgementMade.objects.exists()
    assert not ReadingsTaken.objects.exists()


def test_a_model_at_large_cannot_be_judged(signed_in):
    data = {"on": "oboe", "note": "Bb4", "action": "judge", "entry": "Bb4-plain", "tone": "thin"}
    assert signed_in.post(reverse(CHANGE), data).status_code == 422


def test_a_note_beyond_the_charts_is_tried_kept_and_played_like_any_other(
    signed_in, teacher, owned, make_passage
):
    here = {"on": f"i{owned.pk}", "note": "A7"}
    nothing = words_of(page(signed_in, "note", **here))
    assert "No fingering yet" in nothing
    assert "Keep as your own" not in nothing
    assert "Few play up here" in words_of(signed_in.get(reverse("overtones:near"), here))
    touches = "octave palmD palmEb | sideE"
    signed_in.post(reverse("catalogue:trial-begin"), {**here, "item": [f"touches:{touches}"]})
    shown = signed_in.get(reverse("catalogue:trial", args=[Trial.objects.get().pk]))
    assert "Does it speak?" in words_of(shown)
    passage = make_passage(teacher, "L:1/4\nK:C\na'' g'' |", owned=owned)
    assert set(chosen(passage).values()) == {None}
    data = {**here, "touches": touches, "kind": "altissimo", "confidence": "low"}
    assert signed_in.post(reverse("catalogue:own-new"), data).status_code == 302
    assert list(chosen(passage).values()) == [OwnFingering.objects.get().entry_id, None]


def test_what_the_teacher_says_a_new_reed_keeps_counts_on(signed_in, teacher, owned):
    evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-bis", "30 31 29")
    evidence.judge(teacher, owned, of_instrument(owned), "Bb4-bis", tone="thin", hands="easy")
    address = reverse("catalogue:instrument", args=[owned.pk])
    details = {"name": "x", "a4_hz": "440", "reed": "3", "mouthpiece": "", "keeps": ["pitch"]}
    assert signed_in.post(address, details).status_code == 302
    owned = OwnedInstrument.objects.get()
    entry = shipped.catalogue("alto-saxophone").by_id["Bb4-bis"]
    (found,) = of_instrument(owned).evidence([entry], ALL_SOURCES - {Basis.MODELLED})
    assert [round(s.value) for s in found.pitch.sources if s.basis is Basis.MEASURED] == [30]
    assert Basis.JUDGED not in {source.basis for source in found.tone.sources}
    assert found.hands.sources
    assert "keeps pitch" in words_of(signed_in.get(address))


def test_what_was_kept_is_drawn_with_the_reed_that_it_was_read_with(signed_in, teacher, owned):
    evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-bis", "30 31 29")
    change_instrument(teacher, owned, name="x", fitted=[], a4_hz=440, reed="3", keeps=["pitch"])
    told = signed_in.get(reverse("catalogue:instrument", args=[owned.pk])).context["page"]
    assert [row.pitch for row in told.rows] == [("", "30 cents sharp ± 4, 3 read")]
    assert told.beside.changed == ()  # it counts with either
    assert told.earlier == ""


def test_an_earlier_reed_taken_up_again_has_its_readings(signed_in, teacher, owned):
    evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-bis", "30 31 29")
    for reed in ("3", "2½"):
        owned = change_instrument(teacher, owned, name="x", fitted=[], a4_hz=440, reed=reed)
    assert (owned.setup, owned.setups.count()) == (1, 2)
    entry = shipped.catalogue("alto-saxophone").by_id["Bb4-bis"]
    assert of_instrument(owned).evidence([entry])[0].pitch.combined.value > 20


def test_two_set_ups_lie_side_by_side(signed_in, teacher, owned):
    rows = ("A4-plain", "B4-plain", "Bb4-bis", "G4-plain", "C5-plain")
    for entry in rows:
        evidence.type_readings(teacher, owned, of_instrument(owned), entry, "0 1 -1")
    change_instrument(teacher, owned, name="x", fitted=[], a4_hz=440, reed="3")
    first = signed_in.get(reverse("catalogue:instrument", args=[owned.pk]))
    assert "Nothing was read under both yet" in words_of(first)
    for entry in rows[:2]:
        evidence.type_readings(teacher, owned, of_instrument(owned), entry, "40 41 39")
    two = words_of(signed_in.get(reverse("catalogue:instrument", args=[owned.pk])))
    assert "Low: 2 fingerings read under both, 1 more to tell" in two
    evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-bis", "38 39 40")
    answer = signed_in.get(reverse("catalogue:instrument", args=[owned.pk]), {"beside": "1"})
    shown = words_of(answer)
    assert re.search(r"Low: (39|40) cents higher than with 2½ \(\+\d+ to \+\d+\), by 3 fingerings", shown)
    assert answer.content.decode().count('class="mark-beside"') == 5
    assert "reed half a strength harder, low: read on 1 instrument" in shown


def test_long_notes_taken_otherwise_under_another_set_up_are_listed(signed_in, teacher, owned):
    usual = alone(of_instrument(owned))[70].entry
    evidence.type_readings(teacher, owned, of_instrument(owned), usual.id, "45 46 44 47 45")
    change_instrument(teacher, owned, name="x", fitted=[], a4_hz=440, reed="3")
    answer = signed_in.get(reverse("catalogue:instrument", args=[owned.pk]))
    changed = {row.note: row for row in answer.context["page"].beside.changed}
    assert changed["B♭4"].now.startswith(usual.kind.value)
    assert changed["B♭4"].beside != changed["B♭4"].now
    assert "G5" not in changed


def test_another_reed_sets_what_was_heard_apart(signed_in, teacher, owned):
    evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-bis", "30 31 29")
    change_instrument(teacher, owned, name="x", fitted=[], a4_hz=440, reed="3")
    entry = shipped.catalogue("alto-saxophone").by_id["Bb4-bis"]
    (found,) = of_instrument(owned).evidence([entry], ALL_SOURCES - {Basis.MODELLED})
    assert found.earlier == 3
    assert found.pitch.combined.value == 0
    shown = page(signed_in, "note", on=f"i{owned.pk}", note="Bb4", touches="L1 bis")
    assert "does not count" in words_of(shown)


# What it does to a route.


ABC = "L:1/4\nQ:1/4=60\nK:F\nA4 | B4 | A4 |"


def test_readings_on_the_students_instrument_change_the_route(teacher, owned, make_passage):
    passage, plain = make_passage(teacher, ABC, owned=owned), make_passage(teacher, ABC)
    before = chosen(passage)
    assert before == chosen(plain)
    evidence.type_readings(teacher, owned, of_instrument(owned), before["n2"], "45 46 44 47 45")
    assert chosen(passage)["n2"] != before["n2"]
    assert chosen(plain) == before


def test_a_source_switched_off_takes_its_effect_away(signed_in, teacher, owned, make_passage):
    passage = make_passage(teacher, ABC, owned=owned)
    before = chosen(passage)
    evidence.type_readings(teacher, owned, of_instrument(owned), before["n2"], "45 46 44 47 45")
    weights = {f"weight_{s}": "1" for s in ("pitch", "tone", "speaks", "hands")}
    data = {"action": "set-up", "state": "1", "sources": ["taught", "modelled", "judged"], **weights}
    answer = signed_in.post(reverse("bench:change", args=[passage.pk]), data)
    assert answer.status_code == 302
    assert chosen(passage) == before


def test_a_preference_has_a_head_start_and_can_be_taken_away(signed_in, teacher, owned, make_passage):
    passage = make_passage(teacher, ABC, owned=owned)
    before = chosen(passage)["n2"]
    other = next(row for row in ("Bb4-bis", "Bb4-side") if row != before)
    post(signed_in, owned, "prefer", other)
    assert chosen(passage)["n2"] == other
    post(signed_in, owned, "prefer", other)
    assert chosen(passage)["n2"] == before
    post(signed_in, owned, "prefer", "Bb4-bis")
    post(signed_in, owned, "prefer", "Bb4-side")
    assert [row.entry for row in Preference.objects.all()] == ["Bb4-side"]


def test_what_is_fitted_and_tuned_is_the_instruments(signed_in, teacher, owned, make_passage):
    passage = make_passage(teacher, "K:C\n^f'|", owned=owned)
    bench = signed_in.get(reverse("bench:bench", args=[passage.pk])).content.decode()
    assert "Not offered: palm" in bench
    assert "needs high F-sharp, which is not fitted" in bench
    change_instrument(teacher, owned, name="x", fitted=["highF#"], a4_hz=443, reed="2½")
    bench = signed_in.get(reverse("bench:bench", args=[passage.pk])).content.decode()
    assert "needs high F-sharp" not in bench
    assert "where A is 443" in bench


# Pages.


def test_the_library_is_the_whole_chart_along_the_range(signed_in, owned):
    shown = page(signed_in, "library", on=f"i{owned.pk}").content.decode()
    chart = shipped.catalogue("alto-saxophone")
    assert shown.count('<li class="rung') == 41
    assert shown.count('class="touches">') == len(chart.entries)
    assert "Not offered: needs high F-sharp" in shown
    assert shown.count('<li class="gap ') == 0
    leads = sum(entry.is_lead for entry in chart.entries)
    assert shown.count(">lead</span>") == leads
    assert f"{leads} leads to try" in shown


def test_leads_stand_apart_on_the_note_view_and_in_the_library(signed_in):
    shown = page(signed_in, "note", on="alto-saxophone", note="G6")
    found = shown.context["page"]
    assert found.cards
    assert not any(card.entry.is_lead for card in found.cards)
    assert [card.touches for card in found.leads] == ["octave, front F · high F♯"]
    text = shown.content.decode()
    assert text.index("Leads: try these") > text.index(found.cards[-1].touches)
    assert "General teaching practice, a lead, not vouched for, 1 of 3 accounts" in text
    assert "Tone: unknown" in found.leads[0].sentence  # nobody says how it sounds
    only = page(signed_in, "library", on="alto-saxophone", kind="leads").content.decode()
    leads = sum(entry.is_lead for entry in shipped.catalogue("alto-saxophone").entries)
    assert only.count('class="touches">') == leads


def test_a_note_with_leads_alone_says_so(signed_in):
    text = page(signed_in, "note", on="oboe", note="A6").content.decode()
    assert "taught widely enough to be vouched for. Try the leads below." in text
    assert "hidden by you" not in text


def test_a_lead_that_is_preferred_is_a_candidate(signed_in, teacher, owned):
    evidence.prefer(teacher, owned, of_instrument(owned), "C7-palmEb-palmD")
    found = page(signed_in, "note", on=f"i{owned.pk}", note="C7").context["page"]
    assert [card.entry.id for card in found.cards if card.entry.is_lead] == ["C7-palmEb-palmD"]
    assert all(card.entry.id != "C7-palmEb-palmD" for card in found.leads)


def test_own_fingerings_reach_an_octave_above_the_printed_range(signed_in, teacher):
    row = save(teacher, note="D8", touches="octave palm D palm Eb palm F | side E")
    assert row.note == "D8"
    assert "D8" in page(signed_in, "library", on="alto-saxophone").content.decode()
    with pytest.raises(ValidationError, match="must lie from"):
        save(teacher, note="D#8", touches="octave palm D")


def test_notes_without_a_fingering_are_one_stretch_of_the_ladder(signed_in, teacher):
    for midi in (58, 59):
        for entry in shipped.catalogue("bassoon").by_midi[midi]:
            services.hide(teacher, "bassoon", entry.id)
    answer = page(signed_in, "library", on="bassoon")
    shown = answer.content.decode()
    assert shown.count('<li class="gap ') == 1
    assert "B3 to B♭3 Every fingering here" in words_of(answer)
    assert [f'id="{note}"' in shown for note in ("bb3", "b3", "d5")] == [True] * 3


def test_a_note_whose_fingerings_are_all_hidden_is_no_gap_of_the_catalogue(signed_in, teacher):
    for entry in shipped.catalogue("oboe").by_midi[58]:
        services.hide(teacher, "oboe", entry.id)
    ladder = page(signed_in, "library", on="oboe").content.decode()
    assert ladder.count("is hidden by you") == 1
    assert "is known here" not in ladder
    note = page(signed_in, "note", on="oboe", note="Bb3").content.decode()
    assert "Every fingering for B♭3 is hidden by you" in note
    assert "nor a lead" not in note


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        ({"note": "H5"}, "“H5” is no note"),
        ({"note": "<b>"}, "“&lt;b&gt;” is no note"),
        ({"note": "C9"}, "Written C9 lies outside the range kept here"),
        ({"note": "\x00"}, "is no note"),
        ({"note": "A4", "touches": "L9"}, "cannot be read"),
    ],
)
def test_an_address_that_cannot_be_read_says_so(signed_in, asked, message):
    answer = page(signed_in, "note", on="alto-saxophone", **asked)
    assert answer.status_code == 422
    assert message in answer.content.decode()


@pytest.mark.parametrize(
    ("asked", "rungs"),
    [
        ({"search": "Bb4"}, 1),
        ({"search": "a#4"}, 1),
        ({"search": "B♭"}, 4),
        ({"kind": "front"}, 3),
        ({"kind": "x"}, 0),
    ],
)
def test_search_by_either_name_and_filter_by_kind(signed_in, asked, rungs):
    shown = page(signed_in, "library", on="alto-saxophone", **asked).content.decode()
    assert shown.count('<li class="rung') == rungs


@pytest.mark.parametrize(
    ("search", "message"), [("H", "is no note"), ("C9", "lies outside"), ("<b>", "is no note")]
)
def test_a_search_for_no_note_says_so(signed_in, search, message):
    answer = page(signed_in, "library", on="oboe", search=search)
    assert answer.status_code == 422
    assert message in answer.content.decode()


def test_a_row_that_the_keywork_cannot_explain_gives_its_reason_instead(signed_in):
    shown = page(signed_in, "note", on="b-flat-clarinet", note="Bb4", touches="reg A").content.decode()
    assert "The register vent, open with the throat A, serves as its tone hole." in shown
    assert "By the keywork it sounds" not in shown


def test_pressing_a_touch_says_what_the_keywork_says(signed_in):
    tried = page(signed_in, "note", on="alto-saxophone", note="A4", touches="L1 L2 | sideBb").content.decode()
    assert "Plain, it sounds written B♭4." in tried
    assert "By the keywork it sounds written B♭4, not A4." in tried
    assert "Tried: not in the chart" in tried
    impossible = page(signed_in, "note", on="alto-saxophone", note="A4", touches="L1 frontF").content.decode()
    assert "Left index finger cannot hold front F and first touch at once." in impossible
    assert "Keep as your own" not in impossible
    high = page(signed_in, "note", on="alto-saxophone", note="G#6", touches="octave L1 L3").content.decode()
    assert "an open hole between closed ones serves as a vent" in high
    assert "mind the ears" in high


@pytest.mark.parametrize("on", ["alto-saxophone", "b-flat-clarinet", "oboe", "bassoon", "baritone-saxophone"])
def test_every_note_of_an_instrument_can_be_looked_at(signed_in, on):
    model = shipped.instrument(on)
    for midi in range(model.written_low.midi, model.written_high.midi + 1, 5):
        from core.music.pitch import spell

        assert page(signed_in, "note", on=on, note=spell(midi).ascii).status_code == 200


@pytest.mark.parametrize("asked", [{}, {"note": " "}, {"without": "taught judged measured x"}])
def test_addresses_that_name_no_note_show_the_middle(signed_in, asked):
    assert page(signed_in, "note", on="oboe", **asked).status_code == 200


@pytest.mark.parametrize("on", ["kazoo", "i999", "i" + "9" * 40, "i", "i-1"])
def test_an_instrument_that_is_not_there_is_not_found(signed_in, on):
    for name in ("library", "note", "walk", "audit"):
        assert page(signed_in, name, on=on).status_code == 404


def test_another_teachers_instrument_is_not_found(client, other_teacher, owned):
    client.force_login(other_teacher)
    assert page(client, "note", on=f"i{owned.pk}").status_code == 404
    assert post(client, owned, "prefer", "Bb4-bis").status_code == 404


def test_walk_a_scale(signed_in, owned):
    shown = page(
        signed_in, "walk", on=f"i{owned.pk}", tonic="Bb", mode="major", low="Bb3", high="Bb4", way="down"
    )
    text = shown.content.decode()
    assert "B♭ major, B♭4 to B♭3" in text
    assert text.count('class="pitch ') == 8
    assert text.count('class="move ') == 7


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        ({"tonic": "H"}, "valid choice"),
        ({"mode": "blues"}, "valid choice"),
        ({"low": "C0"}, "The range must lie from"),
        ({"low": "x"}, "must read like"),
        ({"low": "C#4", "high": "C#4"}, "No note of this scale"),
    ],
)
def test_a_walk_that_cannot_be_says_why(signed_in, asked, message):
    answer = page(signed_in, "walk", on="oboe", **asked)
    assert answer.status_code == 422
    assert message in answer.content.decode()


def hundreds_of_touches():
    """Sets of touches for G5 that hands can hold, none of them in the catalogue."""
    little = ("", "G# ", "lowB ", "lowC# ", "lowBb ")
    right = ("R1", "R2", "R3", "Eb", "sideC", "sideBb")
    sets = [c for k in range(2, 5) for c in itertools.combinations(right, k)]
    return [f"octave L1 L2 L3 {g}| {' '.join(s)}" for g in little for s in sets]


def upload(client, owned, text, **more):
    file = SimpleUploadedFile("chart.csv", text.encode())
    return client.post(reverse("catalogue:audit"), {"on": f"i{owned.pk}", "file": file, **more})


CHART = (
    "note,touches\nBb4,1 bis\nG6,octave 1 3 | side Bb 1 2\nG4,1 2\n"
    "F#6,octave palm D palm Eb palm F | side E high F#\n"
)


def test_audit_then_take_the_chosen_rows_over(signed_in, teacher, owned):
    shown = upload(signed_in, owned, CHART).content.decode()
    assert "contradicted by the keywork" in shown
    assert "octave, 1 3 · side B♭, 1 2" in shown  # as the teacher says it, beside what was written
    assert "octave 1 3 | side Bb 1 2" in shown
    assert "stops short of the range above" in shown
    assert shown.count('name="line"') == 3
    assert not OwnFingering.objects.exists()
    data = {"on": f"i{owned.pk}", "text": CHART, "action": "import", "line": ["2", "3", "4", "5", "x"]}
    signed_in.post(reverse("catalogue:audit"), data)
    rows = OwnFingering.objects.order_by("note")
    assert [(row.note, row.touches) for row in rows] == [
        ("G4", "L1 L2"),
        ("G6", "octave L1 L3 | sideBb R1 R2"),
    ]
    assert rows[0].reason
    signed_in.post(reverse("catalogue:audit"), data)
    assert OwnFingering.objects.count() == 2
    assert " 2 fingerings" not in page(signed_in, "library", on="oboe", kind="own").content.decode()


def test_a_chart_that_begins_with_empty_lines_keeps_its_rows(signed_in, teacher, owned):
    """A browser takes the first line break of a text area away: the row ticked is the row taken."""
    chart = "\n\nnote,touches,kind\nC5,octave 1 2 3,false\nD5,octave 1 2,false\n"
    shown = upload(signed_in, owned, chart).content.decode()
    area = shown.split('<textarea name="text" hidden>')[1].split("</textarea>")[0]
    kept = area.removeprefix("\n")  # as a browser reads it
    assert kept == chart
    data = {"on": f"i{owned.pk}", "text": kept, "action": "import", "line": ["4"]}
    signed_in.post(reverse("catalogue:audit"), data)
    assert [row.note for row in OwnFingering.objects.all()] == ["C5"]


def test_many_rows_are_taken_over_at_once(signed_in, teacher, owned, make_passage, monkeypatch):
    """And a note with more fingerings than fit a byte still has its bench."""
    rows = hundreds_of_touches()
    chart = "note,touches,reason\n" + "".join(f"G5,{touches},x\n" for touches in rows)
    data = {"on": f"i{owned.pk}", "text": chart, "action": "import"}
    data["line"] = [str(line) for line in range(2, len(rows) + 2)]
    assert signed_in.post(reverse("catalogue:audit"), data).status_code == 302
    assert OwnFingering.objects.count() > 129
    passage = make_passage(teacher, "L:1/8\nK:C\ngagb g2|", owned=owned)
    for name in ("bench", "sheet"):
        assert signed_in.get(reverse(f"bench:{name}", args=[passage.pk])).status_code == 200
    monkeypatch.setattr("core.routes.problem.MOVES_LIMIT", 10)
    again = {"action": "set-up", "sources": ["taught"], "state": "1"}
    again |= {f"weight_{strand}": "1" for strand in ("pitch", "tone", "speaks", "hands")}
    answer = signed_in.post(reverse("bench:change", args=[passage.pk]), again)
    assert answer.status_code == 422
    assert "too many fingerings to be weighed" in answer.content.decode()
    save(teacher, note="G6", touches="octave 1 3 | side Bb 1 2")  # so that nothing is known from before
    answer = signed_in.get(reverse("bench:sheet", args=[passage.pk]))
    assert answer.status_code == 422
    assert "That cannot be shown" in answer.content.decode()


@pytest.mark.parametrize(
    "text",
    [
        pytest.param('[{"note": "A4", "touches": "L1", "cents": ' + "9" * 5_000 + "}]", id="5,000 digits"),
        pytest.param('[{"note": "A4", "touches": "L1 \\ud800"}]', id="half a character"),
        pytest.param("[" * 100_000, id="brackets without end"),
    ],
)
def test_a_hostile_chart_is_refused(signed_in, owned, text):
    answer = upload(signed_in, owned, text)
    assert answer.status_code == 422
    assert "chart" in answer.content.decode()


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("", "submitted file is empty"),
        ("kind\nside\n", "must have the columns"),
        ("x" * 1_000_001, "at most 1 MB"),
    ],
)
def test_a_chart_that_cannot_be_read_is_said(signed_in, owned, text, message):
    answer = upload(signed_in, owned, text)
    assert answer.status_code == 422
    assert message in answer.content.decode()


@pytest.mark.parametrize("form", ["csv", "json"])
def test_charts_to_take_away_agree_when_audited(signed_in, teacher, owned, form):
    save(teacher, note="G6", touches="octave 1 3 | side Bb 1 2")
    for what in ("", "own"):
        answer = page_of_chart(signed_in, form, f"i{owned.pk}", what)
        audit = services.audit(teacher, of_instrument(owned), answer.content)
        assert set(audit.counts) <= {"agrees", "a lead here", "needs what is not fitted"}
    assert page_of_chart(signed_in, "xml", "oboe", "").status_code == 404
    assert b"# Touches: thumb8" in page_of_chart(signed_in, "csv", "oboe", "template").content


def page_of_chart(client, form, on, what):
    return client.get(reverse("catalogue:chart", args=[form]), {"on": on, "what": what})


@pytest.mark.parametrize(
    "name", ["library", "note", "walk", "audit", "own-new", "instruments", "student-new"]
)
def test_nothing_without_signing_in(client, name):
    assert reverse("studio:sign-in") in page(client, name)["Location"]


@pytest.mark.parametrize("much", [0, 40])
def test_pages_keep_their_number_of_queries(signed_in, teacher, owned, django_assert_num_queries, much):
    for n in range(much):
        evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-bis", "5 6")
        evidence.judge(teacher, owned, of_instrument(owned), "Bb4-side", tone="full")
        save(teacher, note="A6", touches=f"octave 1 {'2' if n % 2 else '3'}", reason="x") if n < 2 else None
    asked = {"on": f"i{owned.pk}"}
    for name, more, queries in (
        ("library", {}, 15),
        ("note", {"note": "Bb4"}, 17),
        ("walk", {}, 15),
        ("audit", {}, 15),
    ):
        with django_assert_num_queries(queries):
            assert page(signed_in, name, **asked, **more).status_code == 200


def test_a_remark_cannot_bring_markup(signed_in, owned):
    post(signed_in, owned, "judge", "Bb4-bis", remark="<script>alert(1)</script>")
    assert (
        b"<script>alert"
        not in page(signed_in, "note", on=f"i{owned.pk}", note="Bb4", touches="L1 bis").content
    )


@pytest.mark.parametrize(
    ("on", "note", "sounds"),
    [("alto-saxophone", "Gb4", "A3"), ("bass-clarinet", "Db4", "B2"), ("oboe", "Cb5", "B4")],
)
def test_a_sounding_note_has_a_plain_name(signed_in, on, note, sounds):
    assert page(signed_in, "note", on=on, note=note).context["page"].sounding.startswith(f"sounds {sounds},")


def test_an_instruments_page_weighs_only_what_was_heard(signed_in, teacher, owned, monkeypatch):
    evidence.type_readings(teacher, owned, of_instrument(owned), "Bb4-bis", "12 14")
    weighed = []
    from catalogue.screens import instrument
    from core.evidence import in_hand

    real = in_hand.evidence
    for where in (in_hand, instrument):
        monkeypatch.setattr(
            where, "evidence", lambda entry, *more: weighed.append(entry.id) or real(entry, *more)
        )
    shown = signed_in.get(reverse("catalogue:instrument", args=[owned.pk]))
    (row,) = shown.context["page"].rows
    assert (row.note, row.pitch[0]) == ("B♭4", "13 cents sharp ± 5, 2 read")
    assert weighed == ["Bb4-bis"]


def around(client, **asked):
    """What the page of a note says of the notes around: each note with its kind, and chances in and out."""
    words = words_of(page(client, "note", on="alto-saxophone", **asked))
    return words.partition("Moves to the notes around")[2]


def test_the_notes_around_are_fingered_as_a_route_would_and_for_what_no_chart_has_too(signed_in):
    by_palm = around(signed_in, note="F6", touches="octave palmD palmEb palmF | sideE")
    by_front = around(signed_in, note="F6", touches="octave frontF L2")
    assert "E6 a half step below, palm" in by_palm
    assert "E6 a half step below, front" in by_front
    untaught = around(signed_in, note="B4", touches="L1 L3")
    assert "A4 a whole step below" in untaught
    assert "In (" in untaught
