"""Attempts go out of one studio and into another: all, equal, attached where the music is the same."""

import re

import pytest
from django.core.exceptions import ValidationError
from tests.counts import keep

from catalogue.queries import of_instrument
from catalogue.services import save_own
from core.practice.attempt_format import read_attempts, write_csv, write_json
from evidence.models import AttemptMade, SpotPlayed
from passages.models import KeptPassage
from passages.music import read_passage
from passages.services import add_passage
from practice import queries
from practice.portable import taken_away
from practice.services import bring_attempts
from studio.models import OwnedInstrument
from studio.services import add_instrument, change_instrument, save_student


def out(owned, write=write_json):
    in_hand = of_instrument(owned)
    return write(taken_away(owned, in_hand, queries.logged_on(owned)))


def bring(owned, text):
    return bring_attempts(owned.teacher, owned, of_instrument(owned), read_attempts(text.encode()))


def like(teacher, owned):
    """Another teacher's instrument of the same make, with as many set-ups."""
    student = save_student(teacher, name="Elsewhere", level="moving on")
    fresh = add_instrument(teacher, student, model=owned.model, name="x", fitted=owned.fitted, reed="1")
    for number in range(2, owned.setup + 1):
        told = {"name": "x", "fitted": owned.fitted, "a4_hz": 440, "reed": f"{number}"}
        fresh = change_instrument(teacher, fresh, **told)
    return fresh


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("write", [write_csv, write_json])
def test_what_the_demo_counted_is_equal_after_out_and_in_and_twice_adds_nothing(demo, other_teacher, write):
    assert AttemptMade.objects.exclude(spot=None).count() > 50
    for owned in list(OwnedInstrument.objects.exclude(teacher=other_teacher)):
        text, count = out(owned, write), owned.attempts.count()
        assert count > 400
        fresh = like(other_teacher, owned)
        spots = owned.attempts.exclude(spot=None).count()
        new, said = bring(fresh, text)
        assert new == count
        alone = re.findall(r"is not here: ([\d,]+) stand", " ".join(said))
        assert sum(int(one.replace(",", "")) for one in alone) == spots
        there = fresh.attempts.exclude(spot=None)
        assert set(there.values_list("spot__passage", flat=True)) <= {None}
        assert out(fresh, write).count("\n") == text.count("\n")
        assert bring(fresh, text) == (0, [])
        assert AttemptMade.objects.filter(instrument=fresh).count() == count
        _with_the_music(other_teacher, owned, text, write)


def _with_the_music(teacher, owned, text, write):
    """Where the same music is, under the same title, all of it comes back equal."""
    fresh = like(teacher, owned)
    for row in KeptPassage.objects.filter(owned=owned).order_by("pk"):
        add_passage(
            teacher,
            title=row.title,
            instrument=owned.model,
            passage=read_passage(row.musicxml),
            notices=[],
            owned=fresh,
        )
    assert bring(fresh, text)[1] == []
    assert out(fresh, write) == text


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


@pytest.mark.django_db
def test_a_passage_of_the_same_title_with_other_notes_is_not_the_same(
    teacher, owned, make_passage, make_instrument
):
    from tests.practice.test_spots import play, spot_of

    run = make_passage(teacher, "L:1/16\nK:C\nB,^CB,^C DEFG|", owned=owned, title="Sluice Run")
    play(teacher, owned, spot_of(run, 2, 4), times=3)
    text, other = out(owned), make_instrument(teacher)
    make_passage(teacher, "L:1/16\nK:C\ncdef|", owned=other, title="Sluice Run")
    make_passage(teacher, "L:1/16\nK:C\nB,^CB,^C DEFG|", owned=other, title="Another Run")
    assert bring(other, text) == (3, ["Sluice Run is not here: 3 stand by themselves."])
    assert SpotPlayed.objects.get(instrument=other).passage is None
    third = make_instrument(teacher)
    same = make_passage(teacher, "L:1/16\nK:C\nB,^CB,^C DEFG|", owned=third, title="Sluice Run")
    assert bring(third, text) == (3, [])
    assert SpotPlayed.objects.get(instrument=third).passage == same
    assert '"bar": "1"' in text
    assert '"beat": "3/2"' in text


@pytest.mark.django_db
def test_own_fingerings_go_by_their_touches_and_strangers_lose_their_names(teacher, owned, other_teacher):
    first = save_own(teacher, owned.model, note="A6", touches="octave 1 3", reason="x")
    mine = save_own(teacher, owned.model, note="G6", touches="octave 1 3 | side Bb 1 2", reason="x")
    keep(owned, "G6", times=2, entry=f"own-{mine.pk}")
    text = out(owned)
    assert f"own-{mine.pk}" not in text
    there = like(other_teacher, owned)
    assert bring(there, text) == (2, ["2 had a fingering that is not kept here, and are kept without it."])
    known = like(other_teacher, owned)
    theirs = save_own(other_teacher, owned.model, note="G6", touches="octave 1 3 | side Bb 1 2", reason="y")
    assert bring(known, text) == (2, [])
    assert set(known.attempts.values_list("entry", flat=True)) == {f"own-{theirs.pk}"}
    assert theirs.pk not in (first.pk, mine.pk)
    old = text.replace(text.split('"fingering": "')[1].split('"')[0], f"own-{theirs.pk}")
    assert bring(like(other_teacher, owned), old)[1]


@pytest.mark.django_db
def test_attempts_on_another_model_are_refused(teacher, owned, make_instrument):
    keep(owned, "G5")
    with pytest.raises(ValidationError, match="another instrument: alto-saxophone"):
        bring(make_instrument(teacher, "oboe"), out(owned))
    assert not OwnedInstrument.objects.get(model="oboe").attempts.exists()
