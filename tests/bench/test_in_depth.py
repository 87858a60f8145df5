"""The pages beside the bench: tempo strip, moves, other ways, trouble, comparison, lesson."""

import json
import re
from dataclasses import replace

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from tests.pages import words_of

from bench import services
from bench.queries import opened, other_side, versions_of
from bench.screens.bench import bench_page, note_of_bench
from bench.screens.compare import compare_page
from bench.screens.lesson import lesson_page
from bench.screens.ossia import ossia_page
from bench.screens.tempo import tempo_strip
from bench.screens.trouble import trouble_page
from bench.screens.ways import ways_page
from bench.systems import SIZES
from core.music.pitch import parse_pitch
from core.words import in_100
from core_shapes import DATA
from passages.models import State
from passages.services import add_passage, change_notes, read_source

pytestmark = pytest.mark.django_db
NOTES = re.compile(r'data-notes="([^"]*)"')
PAGES = ["tempo", "ways", "trouble", "compare", "ossia", "lesson"]
RUN = "Q:1/4=132\nL:1/16\nK:D\n(_B2 =c2 _B2 =c2) | (d2_b2c'2_b2) | d'2 f'2 ^f'2 =g'2 |]"


@pytest.fixture
def passage(make_passage, teacher, make_instrument):
    return make_passage(teacher, RUN, owned=make_instrument(teacher))


@pytest.fixture
def suite(make_passage, teacher, make_instrument):
    score = (DATA / "demo" / "over-the-top-sluice.musicxml").read_text("utf-8")
    return make_passage(teacher, score, owned=make_instrument(teacher))


def at(passage):
    passage.refresh_from_db()
    return opened(passage, passage.current)


def get(client, name, passage, **asked):
    return client.get(reverse(f"bench:{name}", args=[passage.pk]), asked)


@pytest.mark.parametrize("name", PAGES)
def test_each_page_shows_its_passage_and_nobody_elses(signed_in, passage, other_teacher, name):
    assert get(signed_in, name, passage, state="99", note="nonsense").status_code == 200
    signed_in.force_login(other_teacher)
    assert get(signed_in, name, passage).status_code == 404


@pytest.mark.parametrize("name", PAGES)
def test_queries_do_not_grow_with_states(signed_in, teacher, passage, name):
    def asked():
        with CaptureQueriesContext(connection) as queries:
            assert get(signed_in, name, passage).status_code == 200
        return len(queries)

    for tempo in (60, 61, 62):
        services.set_tempo(teacher, passage, passage.current, tempo)
        passage.refresh_from_db()
    asked()  # what is worked out at the first visit is not asked for again
    few, now = asked(), passage.current
    more = [State(passage=passage, number=n, parent=now, settings=now.settings) for n in range(10, 40)]
    State.objects.bulk_create(more)
    assert asked() == few <= 26


def test_the_tempo_named_by_the_strip_is_where_the_bench_changes(teacher, suite):
    strip = tempo_strip(at(suite))
    assert strip.hold_from <= 116 <= strip.hold_to
    assert strip.switches
    before = at(suite).solution().chosen_ids
    beyond = next(one for one in strip.switches if abs(one.bpm - 116) > 2)
    services.set_tempo(teacher, suite, suite.current, beyond.bpm + (2 if beyond.faster else -2))
    assert at(suite).solution().chosen_ids != before


def test_a_link_says_what_each_finger_does_and_what_would_ease_it(passage):
    move = note_of_bench(at(passage), "n2", move=True).move
    assert move.notes == "B♭4 to C5"
    assert move.fingers
    assert int(move.needed) > 0
    assert move.available
    assert sum(int(ms) for _, ms in move.parts) == pytest.approx(int(move.needed), abs=len(move.parts))
    assert note_of_bench(at(passage), "n1", move=True).move is None


def test_a_way_taken_is_pinned_together_and_undone_together(signed_in, teacher, suite):
    way = next(
        one for strand in ways_page(at(suite)).strands for one in (*strand.gaining, *strand.paying)
    ).way
    data = {"action": "take", "state": suite.current.number, "note": "n1", "pins": way.pins}
    signed_in.post(reverse("bench:change", args=[suite.pk]), data)
    pins = at(suite).settings.pins
    assert pins == dict(pair.split("=") for pair in way.pins.split())
    assert {note.note_id for note in way.notes} == set(pins)
    services.undo(teacher, suite, suite.current)
    assert at(suite).settings.pins == {}


@pytest.mark.parametrize("pins", ["", "n1", "n1=nothing", "n99=Bb4-bis", "=", "n1=" + "x" * 5000])
def test_what_cannot_be_taken_is_refused_and_changes_nothing(signed_in, passage, pins):
    data = {"action": "take", "state": passage.current.number, "note": "n1", "pins": pins}
    answer = signed_in.post(reverse("bench:change", args=[passage.pk]), data)
    assert answer.status_code == 422
    assert passage.states.count() == 1


def test_a_habit_is_kept_wherever_there_is_another(signed_in, passage):
    habit = next(one for one in ways_page(at(passage)).habits if not one.always)
    data = {"action": "habit", "state": passage.current.number, "note": "n1", "entries": habit.entries}
    signed_in.post(reverse("bench:change", args=[passage.pk]), data)
    left_out = set(habit.entries.split())
    solution = at(passage).solution()
    for event, offer in zip(solution.events, solution.table.problem.given.offered, strict=True):
        if {c.entry.id for c in offer.candidates if not c.bar} - left_out:
            assert solution.chosen_ids[event.id] not in left_out
    again = signed_in.post(reverse("bench:change", args=[passage.pk]), data | {"state": "2"})
    assert again.status_code == 422


def test_what_changed_is_listed_with_what_it_saves(teacher, passage):
    services.set_tempo(teacher, passage, passage.current, 60)
    page = bench_page(at(passage))
    changed = {change.note_id for change in page.changes}
    before = opened(passage, passage.states.get(number=1)).solution().chosen_ids
    now = at(passage).solution().chosen_ids
    assert changed == {note for note in now if now[note] != before[note]}
    assert page.changed_words.startswith(f"{len(changed)} fingering")
    assert "faults" in page.changed_words


def test_trouble_is_sorted_by_what_is_asked(passage):
    for by in ("", "hands", "pitch"):
        rows = trouble_page(at(passage), "", by).rows
        values = [row.by_strand[by] if by else row.faults for row in rows if row.what != "beyond reach"]
        assert values == sorted(values, reverse=True)
    assert {"register break", "foreign to the key"} <= set(trouble_page(at(passage)).counts)


def test_a_note_beyond_reach_comes_first(make_passage, teacher):
    page = trouble_page(at(make_passage(teacher, "K:C\nC2 c'''2 d2|")))
    assert page.rows[0].what == "beyond reach"


def test_two_versions_are_compared_note_by_note(teacher, passage):
    services.set_tempo(teacher, passage, passage.current, 60)
    now = at(passage)
    before = opened(passage, passage.states.get(number=1))
    page = compare_page(now, before, "", {})
    ours, theirs = now.solution().chosen_ids, before.solution().chosen_ids
    assert [note.change.note_id for note in page.notes] == [n for n in ours if ours[n] != theirs[n]]
    for _, one, other, words in page.differences:
        assert ("fewer" in words) == (other < one - 0.005)


def test_another_school_and_another_instrument_are_compared(signed_in, teacher, passage, make_instrument):
    second = make_instrument(teacher)
    words = words_of(get(signed_in, "compare", passage, on=second.pk, at="80"))
    assert "♩ = 80" in words
    assert f"{second.student.name}, {second.name}" in words
    school = other_side(at(passage), passage.current, positions={"voicing and overtones first"})
    assert school.in_hand.positions == {"voicing and overtones first"}
    assert get(signed_in, "compare", passage, on="999999").status_code == 422
    assert get(signed_in, "compare", passage, at="9999").status_code == 422


def test_a_named_version_is_found_again(signed_in, teacher, passage):
    data = {"action": "name", "state": "1", "note": "n1", "version": "For the concert"}
    signed_in.post(reverse("bench:change", args=[passage.pk]), data)
    for tempo in range(60, 90):
        passage.refresh_from_db()
        services.set_tempo(teacher, passage, passage.current, tempo)
    passage.refresh_from_db()
    assert "For the concert" in [state.name for state in versions_of(passage)]
    assert "For the concert" in words_of(get(signed_in, "compare", passage))


def test_the_lesson_goes_from_note_to_note(signed_in, passage):
    here = at(passage)
    ids = [event.id for event in here.solution().events]
    walked, note = [], ids[0]
    while note:
        page = lesson_page(here, note)
        walked.append(page.note_id)
        note = (re.findall(r"note=(\w+)", page.next_query) or [""])[0]
    assert walked == ids
    times = json.loads(lesson_page(here).times)
    assert [note for note, _ in times[:-1]] == ids
    starts = [second for _, second in times]
    assert starts == sorted(starts)
    assert starts[1] == pytest.approx(here.solution().events[0].seconds, abs=0.001)
    part = signed_in.get(
        reverse("bench:lesson", args=[passage.pk]), {"note": "n2"}, headers={"HX-Target": "div#lesson"}
    )
    assert "<html" not in part.content.decode()


@pytest.mark.parametrize(
    ("faults", "words"),
    [(0.0, "hardly a fault"), (0.012, "1 fault in 100 playings"), (-0.5, "50 faults in 100 playings")],
)
def test_faults_in_words(faults, words):
    assert in_100(faults) == words


def test_an_ornament_and_grace_notes_are_said_at_their_note(signed_in, make_passage, teacher):
    passage = make_passage(teacher, "L:1/4\nK:C\nTB2 {AB}c2|")
    words = words_of(signed_in.get(reverse("bench:bench", args=[passage.pk]), {"note": "n1"}))
    assert "Trill with C5, from this fingering" in words
    assert "notes a second" in words
    graced = note_of_bench(at(passage), "n2").inspector
    assert [str(grace.note) for grace in graced.graces] == ["A4", "B4"]
    assert graced.alternations == ()
    assert note_of_bench(at(passage), "n2.g1").inspector.event.grace
    assert signed_in.get(reverse("bench:sheet", args=[passage.pk])).status_code == 200


def test_two_colours_are_put_on_a_run_note_by_note(signed_in, make_passage, teacher):
    passage = make_passage(teacher, "L:1/8\nK:C\n_b _b _b _b z2 a2|")
    pairs = note_of_bench(at(passage), "n2").inspector.colours
    assert pairs
    data = {"action": "take", "state": "1", "note": "n2", "pins": pairs[0].pins}
    assert signed_in.post(reverse("bench:change", args=[passage.pk]), data).status_code == 302
    chosen = at(passage).solution().chosen_ids
    assert chosen["n1"] == chosen["n3"] != chosen["n2"] == chosen["n4"]
    assert note_of_bench(at(passage), "n6").inspector.colours == ()


def test_held_notes_are_tuned_to_what_the_set_up_says(signed_in, make_passage, teacher, make_instrument):
    passage = make_passage(teacher, "L:1/1\nQ:1/4=60\nK:G\nB|D|^c|", owned=make_instrument(teacher))
    data = {"action": "set-up", "state": "1", "note": "n1", "sources": ["taught", "modelled"]}
    data |= {f"weight_{strand}": "1" for strand in ("pitch", "tone", "speaks", "hands")}
    before = at(passage).solution().table.problem.by_note.pitch.tolist()
    address = reverse("bench:change", args=[passage.pk])
    assert signed_in.post(address, data | {"tuned_to": "key"}).status_code == 302
    assert at(passage).settings.tuned_to == "key"
    assert at(passage).solution().table.problem.by_note.pitch.tolist() != before
    refused = signed_in.post(address, data | {"tuned_to": "13"})
    assert refused.status_code == 422


@pytest.mark.parametrize("size", SIZES)
def test_every_size_has_every_note_and_is_kept(signed_in, suite, size):
    address = reverse("bench:bench", args=[suite.pk])
    page = signed_in.get(address, {"size": size})
    assert page.content.decode().count('data-note="n') >= len(at(suite).solution().events)
    assert page.cookies["size"].value == size
    assert bench_page(at(suite), size=size).size == size
    assert bench_page(at(suite), size="nonsense").size == "usual"


def test_at_a_glance_all_fits_in_a_few_lines_with_trouble_marked(suite):
    glance, usual = (bench_page(at(suite), size=size) for size in ("glance", "usual"))
    assert len(glance.lines) < len(usual.lines) / 2
    for page in (glance, usual):
        assert sum(line.under.count('class="link hard"') for line in page.lines) > 0


def test_music_elsewhere_is_ranked_and_adopted(signed_in, suite):
    words = words_of(get(signed_in, "elsewhere", suite))
    assert "As it is now" in words
    assert "Up an octave" in words
    address = reverse("bench:adopt", args=[suite.pk])
    made = signed_in.post(address, {"semitones": "-1", "on": ""})
    assert made.status_code == 302
    newest = type(suite).objects.order_by("-pk").first()
    assert newest.title.endswith("down a half step")
    assert newest.notes == suite.notes
    assert signed_in.post(address, {"semitones": "5000"}).status_code == 422


def test_a_student_without_half_holes_is_said_on_the_bench(signed_in, suite):
    student = suite.owned.student
    student.hand = {"half_holes": False, "stiff": ["left ring"]}
    student.save()
    words = words_of(signed_in.get(reverse("bench:bench", args=[suite.pk])))
    assert "stiff left ring finger · half-hole not learned" in words


def test_an_ossia_is_kept_shown_and_taken_away(signed_in, suite):
    shown = ossia_page(at(suite), top="E6")
    assert [phrase.where for phrase in shown.phrases] == ["Bars 7 to 8", "Bar 15", "Bar 16", "Bars 17 to 20"]
    chord = shown.phrases[3].offers[0]
    assert "chord tone" in chord.says
    asked = {"action": "ossia", "state": at(suite).state.number, "ossia": chord.pitches}
    signed_in.post(reverse("bench:change", args=[suite.pk]), asked)
    now = at(suite)
    assert "n136" in now.settings.ossia
    (kept,) = ossia_page(now).kept
    assert kept.says.startswith("Bars 17 to 19: 4 notes")
    assert b"ossia-n" in get(signed_in, "bench", suite).content
    assert "as on the small staff above" in words_of(get(signed_in, "sheet", suite))
    note, pitch = next(iter(now.settings.ossia.items()))
    assert f"Until then {pitch}" in words_of(get(signed_in, "lesson", suite, note=note))
    assert "Until then" not in words_of(get(signed_in, "lesson", suite, note="n1"))
    assert [n for n, e in now.solution().chosen_ids.items()] == [e.id for e in now.solution().events]
    asked = {"action": "ossia", "state": now.state.number, "ossia": kept.none}
    signed_in.post(reverse("bench:change", args=[suite.pk]), asked)
    assert at(suite).settings.ossia == {}


def test_an_ossia_leaves_and_comes_back_in_musicxml(signed_in, teacher, suite):
    services.keep_ossia(teacher, suite, suite.current, {"n133": "D6", "n134": "E6"})
    suite.refresh_from_db()
    score = signed_in.get(reverse("bench:download", args=[suite.pk, "musicxml"])).content
    music, notices, _ = read_source(score, suite.instrument, "written")
    again = add_passage(
        teacher, title="", instrument=suite.instrument, passage=music, notices=notices, owned=suite.owned
    )
    assert again.current.settings["ossia"] == {"n133": "D6", "n134": "E6"}
    assert "ossia" not in again.musicxml


def test_an_ossia_goes_along_with_notes_that_stay(teacher, suite):
    services.keep_ossia(teacher, suite, suite.current, {"n133": "D6", "n134": "E6"})
    music = at(suite).solution().passage
    first, *bars = music.bars
    shorter = replace(music, bars=(replace(first, notes=first.notes[1:]), *bars))
    shorter = replace_pitch(shorter, "n134", "F5")
    change_notes(teacher, suite, shorter)
    assert at(suite).settings.ossia == {"n132": "D6"}


def replace_pitch(passage, note_id, pitch):
    bars = tuple(
        replace(
            bar,
            notes=tuple(
                replace(note, written_pitch=parse_pitch(pitch)) if note.id == note_id else note
                for note in bar.notes
            ),
        )
        for bar in passage.bars
    )
    return replace(passage, bars=bars)


@pytest.mark.parametrize(
    "ossia", ["", "n1", "n9999=C5", "n1=", "n1=nonsense", "n1=C9", "n1=C2", "=C5", "n18=C5 n999=C5"]
)
def test_what_cannot_be_an_ossia_is_refused_or_changes_nothing(signed_in, suite, ossia):
    before = at(suite)
    asked = {"action": "ossia", "state": before.state.number, "ossia": ossia}
    response = signed_in.post(reverse("bench:change", args=[suite.pk]), asked)
    assert response.status_code in (302, 422)
    assert at(suite).settings == before.settings


@pytest.mark.parametrize("top", ["", "nonsense", "C9", "Bb3", "A6", "E" * 400])
def test_any_highest_note_is_answered(signed_in, suite, top):
    assert get(signed_in, "ossia", suite, top=top, phrase="here", note="n50").status_code == 200


def test_lines_far_away_keep_their_room_and_are_fetched(signed_in, make_passage, teacher):
    long = make_passage(teacher, "L:1/4\nK:C\n" + "C D E F | G F E D |\n" * 60)
    whole = get(signed_in, "bench", long).content.decode()
    signed_in.cookies["lines"] = "wide"
    near = get(signed_in, "bench", long, note="n200").content.decode()
    room = re.compile(r'viewBox="([^"]*)"\s+role="group"')
    assert room.findall(near) == room.findall(whole)
    assert near.count('class="slot') < whole.count('class="slot') / 3
    assert get(signed_in, "bench", long, all="on").content.decode().count('class="slot') == 480
    fetched = get(signed_in, "lines", long, first="3", last="5").content.decode()
    assert re.findall(r'data-line="(\d+)"', fetched) == ["3", "4", "5"]
    assert fetched.count('class="slot') == sum(map(len, (line.split() for line in NOTES.findall(fetched))))


@pytest.mark.parametrize(
    "asked", [{}, {"first": "9" * 99}, {"first": "5", "last": "2"}, {"first": "-1", "last": "x"}]
)
def test_lines_that_are_not_there_are_none(signed_in, passage, asked):
    response = get(signed_in, "lines", passage, **asked)
    assert response.status_code == 200
    assert response.content.count(b"data-line") <= 1


TRILLED = "L:1/1\nQ:1/4=60\nK:C\nTB | TA | c |"


def test_the_other_note_of_a_trill_is_pinned_and_let_go(signed_in, make_passage, teacher):
    passage = make_passage(teacher, TRILLED)
    (trill,) = note_of_bench(at(passage), "n1").inspector.alternations
    first, second = trill.ways[:2]
    data = {"action": "pin", "state": at(passage).state.number, "note": "n1", "pinned": trill.note}
    answer = signed_in.post(reverse("bench:change", args=[passage.pk]), data | {"entry": second.entry})
    assert answer.status_code == 302
    now = at(passage)
    (again,) = note_of_bench(now, "n1").inspector.alternations
    assert (again.ways[0].entry, again.ways[0].pinned) == (second.entry, True)
    costs = [
        opened(passage, state).solution().table.route.cost for state in passage.states.order_by("number")
    ]
    assert costs[0] < costs[1]
    data |= {"state": now.state.number, "entry": second.entry}
    signed_in.post(reverse("bench:change", args=[passage.pk]), data)
    assert at(passage).settings.pins == {}
    assert first.entry != second.entry


@pytest.mark.parametrize("named", ["n1.trill", "n3.trill", "n9.trill", ".trill"])
def test_what_no_trill_goes_to_cannot_be_pinned(signed_in, make_passage, teacher, named):
    passage = make_passage(teacher, TRILLED)
    data = {"action": "pin", "state": at(passage).state.number, "pinned": named, "entry": "Bb4-bis"}
    assert signed_in.post(reverse("bench:change", args=[passage.pk]), data).status_code == 422
    assert at(passage).settings.pins == {}


def test_the_speed_of_trills_is_set_and_said(signed_in, make_passage, teacher, make_instrument):
    passage = make_passage(teacher, TRILLED, owned=make_instrument(teacher))
    before = at(passage).solution().table.route.cost
    data = {"action": "set-up", "state": "1", "sources": ["taught"], "trills_per_s": "14"}
    data |= {f"weight_{strand}": "1" for strand in ("pitch", "tone", "speaks", "hands")}
    signed_in.post(reverse("bench:change", args=[passage.pk]), data)
    assert at(passage).settings.trills_per_s == 14
    assert at(passage).solution().table.route.cost > before
    assert "where 14 are wanted" in words_of(get(signed_in, "bench", passage, note="n2"))
    refused = signed_in.post(reverse("bench:change", args=[passage.pk]), data | {"trills_per_s": "99"})
    assert refused.status_code == 422


def test_the_other_version_is_one_key_away(signed_in, teacher, passage):
    assert "by-turns" not in get(signed_in, "bench", passage).content.decode()
    services.set_tempo(teacher, passage, passage.current, 60)
    page = get(signed_in, "bench", passage).content.decode()
    assert "?state=1&amp;other=2" in page
    assert "?state=2&amp;other=1" in get(signed_in, "bench", passage, state="1").content.decode()
    services.set_tempo(teacher, passage, at(passage).state, 70)
    asked = {"state": "3", "other": "1"}
    assert "?state=1&amp;other=3" in get(signed_in, "bench", passage, **asked).content.decode()
    assert get(signed_in, "bench", passage, state="3", other="x" * 99).status_code == 200
