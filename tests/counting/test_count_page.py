"""The page of counting: opened from a note or a passage, then fixed; what it says, and without a script."""

import re
from urllib.parse import parse_qs, urlsplit

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from tests.counts import drawn_on, keep, press, send
from tests.pages import words_of

from bench.queries import opened
from bench.services import pin
from catalogue.queries import of_instrument
from core.music.pitch import parse_pitch
from core.practice.attempts import Place
from evidence.models import AttemptMade, SpotPlayed
from passages.music import read_passage
from passages.services import change_notes, delete_passage
from practice import services

pytestmark = pytest.mark.django_db
RUN = "Q:1/4=160\nL:1/16\nK:C\nB,^CB,^C DEFG|"


def of_note(client, owned, note="G6", **asked):
    return client.get(reverse("counting:count"), {"on": f"i{owned.pk}", "note": note, **asked}, follow=True)


def of_spot(client, passage, **asked):
    return client.get(reverse("counting:spot", args=[passage.pk]), asked, follow=True)


def address_of(page):
    """Where a page came from in the end."""
    return page.request["PATH_INFO"] + "?" + page.request["QUERY_STRING"]


def tap(client, page, result="clean", **more):
    """A press on a page without a script."""
    fields = dict(re.findall(r'name="(drawn|key|bpm)"\s+value="([^"]*)"', page.content.decode()))
    return client.post(address_of(page), fields | {"result": result} | more, follow=True)


def undo(client, page):
    return client.post(address_of(page), {"back": ""}, follow=True)


def fingered(page):
    return parse_qs(urlsplit(address_of(page)).query)["spot"]


def test_a_note_is_counted_without_a_script_and_taken_back(signed_in, owned):
    page = of_note(signed_in, owned, place="stage")
    page = tap(signed_in, page)
    assert "1 of 1 clean" in words_of(page)
    page = tap(signed_in, page, "", cracked_to="G5")
    words = words_of(page)
    assert "1 of 2 clean" in words
    assert "Last: cracked to G5, clean" in words
    page = undo(signed_in, page)
    assert "1 of 1 clean" in words_of(page)
    assert list(AttemptMade.objects.values_list("place", "note_midi")) == [("stage", 91)]


def test_each_fingering_of_a_note_is_counted_by_itself(signed_in, owned):
    first, second = [e.id for e in of_instrument(owned).at_hand(parse_pitch("Bb5").midi)][:2]
    keep(owned, "Bb5", times=3, entry=first)
    assert "3 of 3 clean" in words_of(of_note(signed_in, owned, "Bb5", entry=first))
    assert "0 of 0 clean" in words_of(of_note(signed_in, owned, "Bb5", entry=second))


def test_a_crack_is_offered_again_at_the_note_where_it_was(signed_in, teacher, passage):
    page, who = of_spot(signed_in, passage, **{"from": "n1", "to": "n4", "miss": "n3"}), f"t{teacher.pk}"
    send(signed_in, press(drawn_on(page), "cracked", cracked_to="A6"), who=who)
    assert "Cracked to A6" in words_of(signed_in.get(address_of(page)))
    assert "Cracked to A6" not in words_of(
        of_spot(signed_in, passage, **{"from": "n1", "to": "n4", "miss": "n2"})
    )


def test_a_spot_is_from_one_note_to_another_in_either_order_and_not_too_long(
    signed_in, teacher, owned, make_passage
):
    long = make_passage(teacher, "L:1/16\nK:C\n" + "cdef|" * 20, owned=owned)
    there = of_spot(signed_in, long, **{"from": "n2", "to": "n5"})
    assert fingered(there) == fingered(of_spot(signed_in, long, **{"from": "n5", "to": "n2"}))
    assert [step.split(":")[0] for step in fingered(there)[0].split()] == ["D5", "E5", "F5", "C5"]
    # a tongued sixteenth leaves the hands a quarter more time than a slurred one
    assert [step.split(":")[1] for step in fingered(there)[0].split()] == [
        "0.0",
        "0.3125",
        "0.3125",
        "0.3125",
    ]
    whole = of_spot(signed_in, long, **{"from": "n1", "to": "n80"})
    assert len(fingered(whole)[0].split()) == 64


def test_a_form_sent_twice_is_kept_once(signed_in, owned):
    page = of_note(signed_in, owned)
    for _ in range(2):
        tap(signed_in, page)
    assert AttemptMade.objects.count() == 1


def test_a_spot_is_counted_without_a_script_and_taken_back(signed_in, passage):
    page = of_spot(signed_in, passage, **{"from": "n1", "to": "n4", "miss": "n3"})
    assert "A miss is counted at B3" in words_of(page)
    for result in ("clean", "stumbled", "clean"):
        page = tap(signed_in, page, result)
    words = words_of(page)
    assert "2 of 3 clean" in words
    assert "Last: clean at 160, stumbled at B3, clean at 160" in words
    assert set(AttemptMade.objects.values_list("spot__first", "at", "bpm")) == {(0, 2, 160)}
    assert "1 of 2 clean" in words_of(undo(signed_in, page))
    assert SpotPlayed.objects.count() == 1


def test_what_is_counted_changes_the_next_spot_never_the_one_that_is_open(
    signed_in, teacher, owned, make_passage
):
    """Misses turn the route; the page that is open keeps its fingerings, and says that others are chosen."""
    high = make_passage(teacher, "Q:1/4=80\nL:1/4\nK:C\nc' e' g' e' |", owned=owned)
    asked = {"from": "n3", "to": "n4"}
    page = of_spot(signed_in, high, **asked)
    before, who = fingered(page), f"t{teacher.pk}"
    drawn = drawn_on(of_spot(signed_in, high, **asked, miss="n3"))
    assert "Another way would now be chosen" not in words_of(page)
    for _ in range(10):
        send(signed_in, *(press(drawn, "cracked", cracked_to="G5") for _ in range(2)), who=who)
        again = signed_in.get(address_of(page))
        assert fingered(again) == before
    assert SpotPlayed.objects.count() == 1
    assert "Another way would now be chosen" in words_of(again)
    assert fingered(of_spot(signed_in, high, **asked)) != before
    other = re.search(r'href="([^"]+)"\s+id="count-other"', again.content.decode())[1].replace("&amp;", "&")
    assert fingered(signed_in.get(other)) == fingered(of_spot(signed_in, high, **asked))


def test_a_pin_set_on_the_bench_is_offered_not_taken(signed_in, teacher, owned, make_passage):
    passage = make_passage(teacher, owned=owned)
    page = of_spot(signed_in, passage, **{"from": "n4", "to": "n5"})
    solution = opened(passage, passage.current).solution()
    other = next(e.id for e in solution.in_hand.at_hand(82) if e.id != solution.entries[4].id)
    pin(teacher, passage, passage.current, "n5", other)
    again = signed_in.get(address_of(page))
    assert fingered(again) == fingered(page)
    assert "Another way would now be chosen" in words_of(again)


def test_a_spot_whose_passage_changed_or_went_is_counted_as_it_was_drawn(
    signed_in, teacher, passage, make_passage
):
    page = of_spot(signed_in, passage, **{"from": "n1", "to": "n2"})
    assert f"/passages/{passage.pk}/?note=n2&amp;move=into" in page.content.decode()
    other = make_passage(teacher, "L:1/16\nK:C\ncdef|")
    change_notes(teacher, passage, read_passage(other.musicxml))
    again = signed_in.get(address_of(page))
    assert "has other notes there by now" in words_of(again)
    delete_passage(teacher, passage)
    again = signed_in.get(address_of(page))
    assert again.status_code == 200
    assert "was deleted" in words_of(again)
    assert "1 of 1 clean" in words_of(tap(signed_in, again))


def test_a_single_note_of_a_passage_leads_back_to_it(signed_in, passage):
    page = of_spot(signed_in, passage, note="n3")
    assert "B3, bar 1" in words_of(page)
    assert "Back to the passage" in words_of(page)
    assert f"/passages/{passage.pk}/?note=n3" in page.content.decode()
    tap(signed_in, page)
    assert AttemptMade.objects.get().spot is None


def test_a_passage_of_one_note_is_a_spot_of_one(signed_in, teacher, owned, make_passage):
    one = make_passage(teacher, "K:C\nc4|", owned=owned)
    assert "1 of 1 clean" in words_of(tap(signed_in, of_spot(signed_in, one)))


@pytest.mark.parametrize(
    "asked", ["from=x&to=y", "from=&to=n1&miss=%00", "tempo=9999999", "climb=1-2-3", "start=90&target=30"]
)
def test_an_address_that_names_no_note_opens_the_first(signed_in, passage, asked):
    page = signed_in.get(f"{reverse('counting:spot', args=[passage.pk])}?{asked}", follow=True)
    assert page.status_code == 200
    assert "B3, bar 1" in words_of(page)


@pytest.mark.parametrize(
    "asked", [{"note": "x" * 300}, {"note": "C2"}, {"entry": "Bb4-bis"}, {"place": "bath"}, {}]
)
def test_any_address_of_a_note_is_answered(signed_in, owned, asked):
    assert of_note(signed_in, owned, **asked).status_code in (200, 422)


@pytest.mark.parametrize(
    "spot",
    [
        *(
            "",
            "x",
            "G6",
            "G6:0:no-such",
            "G6:0:Bb4-bis",
            "C0:0:",
            "G6:0: A6:0:",
            "G6:nan:",
            "G6:0: A6:99999:",
        ),
        "G6:0: " * 65,
        "G6:0:" + "x" * 6000,
    ],
)
def test_a_spot_that_cannot_be_is_refused_in_words(signed_in, owned, spot):
    page = signed_in.get(reverse("counting:count"), {"on": f"i{owned.pk}", "spot": spot})
    assert page.status_code == 422


@pytest.mark.parametrize(
    "odd",
    [
        *({"at": "9"}, {"at": "-1"}, {"passage": "x"}, {"passage": "99999999"}, {"first": "77777"}),
        *({"climb": "60-80-99999999999"}, {"climb": "60-9000-1"}, {"climb": "x-y-z"}),
        *({"tempo": "5"}, {"state": "99"}, {"began": "kicked"}),
    ],
)
def test_odd_parts_of_an_address_fall_back(signed_in, owned, passage, odd):
    asked = {"on": f"i{owned.pk}", "spot": "G6:0.0: A6:0.5:", "passage": passage.pk, **odd}
    assert signed_in.get(reverse("counting:count"), asked).status_code == 200


def test_nobody_counts_on_anothers_instrument_or_passage(
    signed_in, teacher, owned, other_teacher, make_passage
):
    foreign, at_large = make_passage(other_teacher, RUN), make_passage(teacher, RUN)
    for one in (foreign, at_large):
        assert signed_in.get(reverse("counting:spot", args=[one.pk])).status_code == 404
    page = of_note(signed_in, owned)
    signed_in.force_login(other_teacher)
    for address in (address_of(page), reverse("counting:count") + f"?on=i{owned.pk}&note=G6"):
        assert signed_in.get(address).status_code == 404
    assert signed_in.post(address_of(page), {"result": "clean"}).status_code == 404


def test_a_press_of_a_form_that_cannot_be_is_refused_in_words(signed_in, owned):
    page = of_note(signed_in, owned)
    assert signed_in.post(address_of(page), {"result": "great"}).status_code == 422
    assert tap(signed_in, page, "great").status_code == 422
    assert not AttemptMade.objects.exists()


def test_a_ladder_of_tempi_goes_up_after_three_clean_ones_and_back_on_a_miss(signed_in, owned):
    page = of_note(signed_in, owned, "C6", start="60", target="80")
    assert "♩ = 60 of 80: 0 of 3 clean in a row, then it goes up" in words_of(page)
    for _ in range(4):
        page = tap(signed_in, page)
    assert "♩ = 70 of 80: 1 of 3" in words_of(page)
    page = tap(signed_in, page, "silent")
    assert "♩ = 60 of 80: 0 of 3" in words_of(page)
    assert 'data-step-bpm="60"' in page.content.decode()


def test_a_ladder_of_a_spot_climbs_and_the_week_goes_on_from_it(signed_in, owned, passage):
    page = of_spot(signed_in, passage, **{"from": "n1", "to": "n2"})
    start = int(re.search(r"Climb from ♩ = (\d+) to 160", words_of(page))[1])
    assert 20 < start < 160
    page = of_spot(signed_in, passage, **{"from": "n1", "to": "n2", "start": start, "target": 160})
    for _ in range(3):
        page = tap(signed_in, page)
    assert f"♩ = {start + 10} of 160" in words_of(page)
    assert set(AttemptMade.objects.values_list("bpm", flat=True)) == {start}
    week = words_of(signed_in.get(f"{reverse('students:week')}?on=i{owned.pk}"))
    assert f"B3 to C♯4 (bar 1, beat 1), ♩ = {start + 10} of 160" in week.replace("Bar", "bar")


@pytest.mark.parametrize(
    ("start", "target"), [("90", "60"), ("5", "60"), ("60", "900"), ("x", "60"), ("", "")]
)
def test_a_ladder_that_cannot_be_is_refused(signed_in, owned, start, target):
    page = of_note(signed_in, owned, "C6")
    refused = signed_in.get(address_of(page) + f"&start={start}&target={target}")
    assert refused.status_code == 422


def test_what_is_all_but_sure_is_not_said_to_be_sure(signed_in, teacher, owned):
    def words(midi):
        services.guess_reach(teacher, owned, of_instrument(owned), midi)
        return words_of(of_note(signed_in, owned))

    assert re.search(r"(hardly|about) one in a? ?\w+ may be expected clean", words(70))
    assert "of 10 may be expected clean" in words(91)
    keep(owned, times=80)
    assert "nearly every one may be expected clean" in words(91)


def test_the_page_asks_as_often_whatever_was_counted(signed_in, owned, passage):
    entry = of_instrument(owned).plainest(parse_pitch("G6")).id

    def asked():
        found = []
        for page in (of_note(signed_in, owned), of_spot(signed_in, passage, **{"from": "n1", "to": "n2"})):
            with CaptureQueriesContext(connection) as caught:
                signed_in.get(address_of(page))
            found.append(len(caught))
        return found

    keep(owned, times=10, entry=entry)
    asked()
    few = asked()
    for place in Place:
        keep(owned, times=150, place=place, entry=entry)
    asked()
    assert asked() == few
