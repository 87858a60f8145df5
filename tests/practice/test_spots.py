"""Spots of a passage that are counted: kept, taken back, told to the bench, the week and the log."""

import re
import uuid
from dataclasses import replace

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse
from django.utils import timezone
from tests.pages import words_of

from bench.queries import opened
from bench.services import pin
from catalogue.queries import of_instrument
from core.evidence.sources import Basis
from core.practice.attempt_format import Logged, read_attempts, write_csv
from core.practice.attempts import Attempt, Began, Place, Result, Spot, SpotNote
from core.practice.ladder import begin, resumed
from core.routes.hard_moves import stumble
from evidence import told
from evidence.models import AttemptMade, SpotPlayed
from passages.services import delete_passage
from practice import queries, services
from practice.portable import taken_away

pytestmark = pytest.mark.django_db
RUN = "Q:1/4=160\nL:1/16\nK:C\nB,^CB,^C DEFG|"


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


@pytest.fixture
def passage(teacher, owned, make_passage):
    return make_passage(teacher, RUN, owned=owned, title="Sluice Run")


def events_of(passage):
    return opened(passage, passage.current).solution()


def spot_of(passage, first=0, last=1):
    """A spot of a passage as its route fingers it."""
    solution = events_of(passage)
    steps = tuple(
        SpotNote(event.written_pitch.midi, entry.id, 0.25 * (n > 0))
        for n, (event, entry) in enumerate(
            zip(solution.events[first : last + 1], solution.entries[first : last + 1], strict=True)
        )
    )
    return Spot(steps, passage.pk, first)


def play(teacher, owned, spot, result=Result.CLEAN, at=1, times=1, bpm=160, **more):
    step = spot.steps[at]
    attempt = Attempt(step.midi, result, 1, fingering=step.fingering, spot=spot, at=at, bpm=bpm, **more)
    logged = [Logged(attempt, uuid.uuid4(), timezone.now()) for _ in range(times)]
    return services.log_attempts(teacher, owned, of_instrument(owned), logged)


def address(name, passage, **asked):
    notes = [event.id for event in events_of(passage).events]
    query = "&".join(f"{key}={notes[n] if key in ('from', 'to', 'miss') else n}" for key, n in asked.items())
    return f"{reverse(name, args=[passage.pk])}?{query}"


def test_stumbles_slow_the_hands_of_that_student_where_attempts_count(
    signed_in, teacher, owned, passage, make_instrument, make_passage
):
    before = stumble(events_of(passage).table, 1)
    spot = spot_of(passage)
    play(teacher, owned, spot, times=2, bpm=100)
    play(teacher, owned, spot, Result.STUMBLED, times=6, bpm=100)
    solution = events_of(passage)
    pair = [step.fingering for step in spot.steps]
    if [entry.id for entry in solution.entries[:2]] == pair:
        assert stumble(solution.table, 1) > before
    now = opened(passage, passage.current)
    settings = now.settings.pinned(solution.events[0].id, pair[0]).pinned(solution.events[1].id, pair[1])
    assert stumble(now.solution_of(settings).table, 1) > before
    without = replace(settings, sources=tuple(s for s in settings.sources if s != Basis.COUNTED))
    assert stumble(now.solution_of(without).table, 1) == pytest.approx(before)
    other = make_passage(teacher, RUN, owned=make_instrument(teacher))
    assert stumble(events_of(other).table, 1) == pytest.approx(before)
    for place in (0, 1):
        passage.refresh_from_db()
        pin(teacher, passage, passage.current, solution.events[place].id, pair[place])
    passage.refresh_from_db()
    link = signed_in.get(f"{address('bench:bench', passage, note=0)}&note={solution.events[1].id}&move=into")
    assert re.search(r"stumbled 6 of 8 times; by that these hands take 1\.\d times as long", words_of(link))


def test_every_note_up_to_a_miss_tells_how_its_fingering_speaks(teacher, owned, passage):
    spot = spot_of(passage, 0, 7)
    play(teacher, owned, spot, Result.CRACKED, at=5, times=3, cracked_to=72)
    play(teacher, owned, spot, Result.STUMBLED, at=7, times=2)
    play(teacher, owned, spot, place=Place.STAGE)
    heard = of_instrument(owned).heard

    def hits(place):
        some = heard.get(spot.steps[place].fingering)
        return [(one.clean, one.total, one.cracked) for one in some.hits] if some else []

    assert hits(4) == [(5, 5, ())]
    assert hits(5) == [(2, 5, ((72, 3),))]
    assert hits(6) == [(2, 2, ())]
    assert hits(7) == []
    moved = of_instrument(owned).moved
    assert [(one.clean, one.stumbled) for one in moved[tuple(s.fingering for s in spot.steps[6:])]] == [
        (0, 2)
    ]
    # a crack is none of the hands: the move into the note came clean; and it is a move that way, not back
    into = tuple(step.fingering for step in spot.steps[4:6])
    assert [(one.clean, one.stumbled) for one in moved[into]] == [(5, 0)]
    assert into[::-1] not in moved
    # a stumble of the hands tells nothing of how surely the note comes
    learning = told.learning_on(owned, of_instrument(owned), told.guess_on(owned, of_instrument(owned)))
    assert learning.day is not None


def test_how_a_note_begins_bears_on_what_an_attempt_tells(teacher, owned):
    in_hand = of_instrument(owned)
    entry = in_hand.plainest(in_hand.instrument.middle)

    def speaks(began, result):
        AttemptMade.objects.all().delete()
        attempt = Attempt(entry.note.midi, result, 1, fingering=entry.id, began=began)
        logged = [Logged(attempt, uuid.uuid4(), timezone.now()) for _ in range(6)]
        services.log_attempts(teacher, owned, in_hand, logged)
        (known,) = of_instrument(owned).evidence([entry])
        return next(one for one in known.speaks.sources if one.basis is Basis.COUNTED).value

    clean = [speaks(began, Result.CLEAN) for began in (Began.SLURRED, Began.TONGUED, Began.SOFT)]
    missed = [speaks(began, Result.SILENT) for began in (Began.SLURRED, Began.TONGUED, Began.SOFT)]
    assert clean == sorted(clean)
    assert missed == sorted(missed)
    assert max(missed) < 0.5 < min(clean)


def test_what_cannot_be_is_refused_whole(
    teacher, owned, passage, other_teacher, make_passage, make_instrument
):
    good = spot_of(passage)
    for spot, said in (
        (Spot((good.steps[0], SpotNote(61, "Bb4-bis", 1.0)), passage.pk), "no fingering"),
        (Spot((good.steps[0], SpotNote(20, "", 1.0)), passage.pk), "outside the range"),
    ):
        with pytest.raises(ValidationError, match=said):
            play(teacher, owned, spot, at=len(spot.steps) - 1)
    assert not AttemptMade.objects.exists()
    assert not SpotPlayed.objects.exists()


def test_a_spot_of_a_passage_for_another_instrument_is_kept_by_itself(
    teacher, owned, make_passage, make_instrument
):
    foreign = make_passage(teacher, RUN, owned=make_instrument(teacher))
    play(teacher, owned, spot_of(foreign))
    assert SpotPlayed.objects.get().passage is None


def test_attempts_outlive_their_passage_and_are_taken_away_without_loss(teacher, owned, passage):
    play(teacher, owned, spot_of(passage, 0, 7), Result.CRACKED, at=5, cracked_to=72)
    kept = queries.logged_on(owned)
    again = read_attempts(write_csv(taken_away(owned, of_instrument(owned), kept)).encode())
    assert [(one.attempt.spot.steps, one.attempt.at, one.attempt.bpm) for one in again] == [
        (one.attempt.spot.steps, one.attempt.at, one.attempt.bpm) for one in kept
    ]
    assert services.bring_attempts(teacher, owned, of_instrument(owned), again) == (0, [])
    assert SpotPlayed.objects.count() == 1
    delete_passage(teacher, passage)
    (left,) = queries.logged_on(owned)
    assert left.attempt.spot.passage is None
    assert left.attempt.spot.steps == kept[0].attempt.spot.steps


def test_misses_stand_where_they_were_until_the_notes_are_others(signed_in, teacher, owned, passage):
    play(teacher, owned, spot_of(passage, 0, 3), Result.CRACKED, at=3, times=4)
    where = f"{reverse('students:log')}?on=i{owned.pk}"
    assert "Under each note of a spot that was counted" in words_of(signed_in.get(where))
    SpotPlayed.objects.update(first=1)
    words = words_of(signed_in.get(where))
    assert "by note, wherever it was counted" in words
    assert "4 playings of spots that the passage no longer has are not shown" in words


def test_another_tempo_begins_a_step_of_its_own():
    steps = resumed(begin(60, 100), [(60.0, True)] * 3 + [(80.0, True)] * 3)
    assert (steps.bpm, steps.clean) == (90, 0)
    assert resumed(steps, [(90.0, False)]).bpm == 80
    assert resumed(steps, [(70.0, True)]).steps == (60, 70)


def test_by_when_a_passage_is_played_is_said_on_its_students_page(signed_in, owned, passage):
    student = reverse("students:student", args=[owned.student_id])
    due, today = reverse("passages:due", args=[passage.pk]), timezone.localdate()
    assert signed_in.post(due, {"due": today.isoformat()}).url == student
    assert "Sluice Run · due today" in words_of(signed_in.get(student))
    assert signed_in.post(due, {"due": "2001-01-01"}).status_code == 422
    assert signed_in.post(due, {"due": "soon"}).status_code == 422
    signed_in.post(due, {"due": ""})
    assert "due today" not in words_of(signed_in.get(student))


def test_what_is_counted_comes_on_top_of_the_level_and_not_twice(teacher, owned, passage):
    """Of two who stumbled alike the advanced one is told to be further behind others of that level."""
    told = {}
    for level in ("beginning", "advanced"):
        owned.student.level = level
        owned.student.save()
        AttemptMade.objects.all().delete()
        before = events_of(passage).table.problem.given.demands.needed_s.copy()
        spot = spot_of(passage)
        play(teacher, owned, spot, Result.STUMBLED, times=6, bpm=100)
        after = events_of(passage).table.problem.given.demands.needed_s
        told[level] = float((after / before).max()), float(before.max())
    assert told["advanced"][0] > told["beginning"][0] > 1
    assert told["advanced"][1] < told["beginning"][1] / 1.5
