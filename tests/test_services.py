"""Every use case of every application takes the acting teacher first, and reaches nobody else's things."""

import importlib
import inspect
import threading
import uuid
from itertools import count

import pytest
from django.core.exceptions import ValidationError
from django.db import OperationalError, connection, transaction

from bench.services import set_tempo
from catalogue.models import HiddenFingering, OwnFingering
from catalogue.queries import of_instrument
from catalogue.services import save_own
from core.drills.material import Drill, DrillKind
from evidence import services as evidence
from evidence.models import AttemptMade, JudgementMade, Preference, Prepared, ReadingsTaken
from jobs.models import Job
from passages.models import KeptPassage, State
from practice.models import Plan
from students import services as students
from students.models import StudentPage
from studio import services as studio
from studio.models import OwnedInstrument, Setup, Student, Teaching

APPS = ("studio", "evidence", "catalogue", "passages", "bench", "practice", "counting", "students", "jobs")
STORED = (
    *(Student, OwnedInstrument, Setup, Teaching, OwnFingering, HiddenFingering),
    *(JudgementMade, ReadingsTaken, Preference, Prepared, KeptPassage, State, AttemptMade, Plan),
    *(StudentPage, Job),
)
# What a use case is asked, besides who acts, when it is about somebody else's things.
EVEN = dict.fromkeys(("pitch", "tone", "speaks", "hands"), 1)
DETAILS = {"name": "taken", "fitted": [], "a4_hz": 440}
CALLS = {
    "jobs.cancel": lambda t: ((t.job,), {}),
    "studio.save_student": lambda t: ((), {"name": "x", "level": "moving on", "student": t.student}),
    "studio.delete_student": lambda t: ((t.student,), {}),
    "studio.add_instrument": lambda t: ((t.student,), {"model": "oboe", **DETAILS}),
    "studio.change_instrument": lambda t: ((t.owned,), DETAILS),
    "studio.delete_instrument": lambda t: ((t.owned,), {}),
    "evidence.judge": lambda t: ((t.owned, t.in_hand, "Bb4-bis"), {"tone": "thin"}),
    "evidence.type_readings": lambda t: ((t.owned, t.in_hand, "Bb4-bis", "1 2"), {}),
    "evidence.take_readings": lambda t: ((t.owned, t.in_hand, "Bb4-bis", [1.0]), {"origin": "typed"}),
    "evidence.take_back": lambda t: ((t.owned, "measured", t.readings.pk), {}),
    "evidence.prefer": lambda t: ((t.owned, t.in_hand, "Bb4-bis"), {}),
    "evidence.log_attempts": lambda t: ((t.owned, []), {}),
    "evidence.take_back_attempts": lambda t: ((t.owned, []), {}),
    "evidence.guess_reach": lambda t: ((t.owned, t.in_hand, 80), {}),
    "practice.set_plan": lambda t: ((t.owned, t.in_hand), {"target_midi": 90}),
    "practice.log_attempts": lambda t: ((t.owned, t.in_hand, []), {}),
    "practice.bring_attempts": lambda t: ((t.owned, t.in_hand, []), {}),
    "practice.take_back_attempts": lambda t: ((t.owned, t.in_hand, []), {}),
    "practice.guess_reach": lambda t: ((t.owned, t.in_hand, 80), {}),
    "practice.tell": lambda t: ((t.owned, t.in_hand), {}),
    "practice.begin_note": lambda t: ((t.owned, t.in_hand, 80), {}),
    "evidence.log_prepared": lambda t: ((t.owned, t.in_hand, "voicing and overtones first"), {}),
    "catalogue.save_own": lambda t: (
        ("alto-saxophone",),
        {"note": "G6", "touches": "octave L1 L3 | R1", "row": t.own},
    ),
    "catalogue.delete_own": lambda t: ((t.own,), {}),
    "catalogue.hide": lambda t: (("alto-saxophone", "Bb4-bis", t.owned), {}),
    "catalogue.show_again": lambda t: (("alto-saxophone", "Bb4-bis", t.owned), {}),
    "passages.add_passage": lambda t: (
        (),
        {"title": "", "instrument": "alto-saxophone", "passage": t.score, "notices": [], "owned": t.owned},
    ),
    "passages.add_entered": lambda t: (
        (t.score,),
        {"title": "", "instrument": "alto-saxophone", "owned": t.owned},
    ),
    "passages.change_notes": lambda t: ((t.passage, t.score), {}),
    "passages.delete_passage": lambda t: ((t.passage,), {}),
    "practice.keep_drills": lambda t: (
        ([Drill(DrillKind.TRILL, "x", "For x.", t.score)],),
        {"model": "alto-saxophone", "owned": t.owned},
    ),
    "passages.keep_entered": lambda t: ((uuid.uuid4(), t.passage, {}, 1), {}),
    "passages.set_due": lambda t: ((t.passage, None), {}),
    "bench.pin": lambda t: ((t.passage, t.state, "n5", "Bb5-bis"), {}),
    "bench.ban": lambda t: ((t.passage, t.state, "n5", "Bb5-bis"), {}),
    "bench.pin_together": lambda t: ((t.passage, t.state, {"n5": "Bb5-bis"}), {}),
    "bench.keep_habit": lambda t: ((t.passage, t.state, ["Bb5-bis"]), {"always": False}),
    "passages.adopt": lambda t: ((t.passage,), {"semitones": 2, "owned": t.owned}),
    "bench.keep_ossia": lambda t: ((t.passage, t.state, {"n5": "D5"}), {}),
    "bench.name_version": lambda t: ((t.passage, t.state, "x"), {}),
    "bench.set_aim": lambda t: ((t.passage, t.state, "n5", "covered"), {"over": "its phrase"}),
    "bench.set_tempo": lambda t: ((t.passage, t.state, 80), {}),
    "bench.set_up": lambda t: (
        (t.passage, t.state),
        {"a4_hz": 440, "fitted": [], "weights": EVEN, "sources": ["taught"]},
    ),
    "counting.delete_counted": lambda t: ((t.owned, []), {}),
    "counting.move_counted": lambda t: ((t.owned, []), {}),
    "students.make_page": lambda t: ((t.owned,), {}),
    "students.revoke_page": lambda t: ((t.page,), {}),
    "bench.clear": lambda t: ((t.passage, t.state), {}),
    "bench.undo": lambda t: ((t.passage, t.state), {}),
    "bench.redo": lambda t: ((t.passage, t.state), {}),
    "bench.take_version": lambda t: ((t.passage, t.state, 1), {}),
}
WRITES_MOST = 60
# They touch nothing but what is the acting teacher's by its nature, or save nothing.
OWN_BY_NATURE = {"studio.take_positions", "studio.keep_zone", "catalogue.audit", "catalogue.import_rows"}
OWN_BY_NATURE |= {"jobs.work", "studio.add_student_with", "passages.add_first_passage"}
# They keep or take back what is theirs among many things, and answer for each: see the tests of counting.
OWN_BY_NATURE |= {"passages.forget_entered", "counting.keep_presses", "counting.take_back"}
SAVES_NOTHING = {"passages.read_source", "evidence.check_attempts"}
# Whoever has the address of a student's page acts for the teacher who made it; its tests say how far.
BY_LINK = {"students.log_on_page", "students.take_back_on_page"}


def services():
    found = {}
    for app in APPS:
        module = importlib.import_module(f"{app}.services")
        for name, function in inspect.getmembers(module, inspect.isfunction):
            if function.__module__ == module.__name__ and not name.startswith("_"):
                found[f"{app}.{name}"] = function
    return found


class Things:
    """One of everything, of one teacher."""

    def __init__(self, teacher, make_instrument, make_passage):
        self.owned = make_instrument(teacher)
        self.student = self.owned.student
        self.in_hand = of_instrument(self.owned)
        self.readings = evidence.type_readings(teacher, self.owned, self.in_hand, "Bb4-bis", "5 6")
        self.own = save_own(teacher, "alto-saxophone", note="G6", touches="octave 1 3 | side Bb 1 2")
        self.passage = make_passage(teacher, owned=self.owned)
        self.state = self.passage.current
        self.page = students.make_page(teacher, self.owned)
        self.job = Job.objects.create(key="x", teacher=teacher, kind="sheet", title="x", address="/")
        from core.music.notation.formats import read_score

        self.score = read_score(b"K:C\nabc|").passage


@pytest.fixture
def things(db, teacher, make_instrument, make_passage):
    return Things(teacher, make_instrument, make_passage)


def stored():
    return [list(model.objects.order_by("pk").values()) for model in STORED]


def test_every_service_takes_the_teacher_first_and_is_walked_below():
    found = services()
    for name, function in found.items():
        first = next(iter(inspect.signature(function).parameters))
        assert first == "teacher" or name in SAVES_NOTHING | BY_LINK, name
    assert set(found) == set(CALLS) | OWN_BY_NATURE | SAVES_NOTHING | BY_LINK


@pytest.mark.parametrize("name", CALLS)
def test_nobody_reaches_anothers_things(things, other_teacher, name):
    before = stored()
    positional, named = CALLS[name](things)
    with pytest.raises(ValidationError, match="another teacher"):
        services()[name](other_teacher, *positional, **named)
    assert stored() == before


@pytest.mark.parametrize("name", [name for name in CALLS if name != "passages.add_passage"])
def test_what_was_deleted_meanwhile_is_not_brought_back(things, teacher, name):
    positional, named = CALLS[name](things)
    studio.delete_student(teacher, Student.objects.get(pk=things.student.pk))
    KeptPassage.objects.all().delete()
    OwnFingering.objects.all().delete()
    Job.objects.all().delete()
    before = stored()
    with pytest.raises(ValidationError, match="deleted meanwhile"):
        services()[name](teacher, *positional, **named)
    assert stored() == before


MORE_CALLS = {
    "studio.take_positions": lambda t: (({"naming of touches": "each hand"},), {}),
    "studio.add_student_with": lambda t: (("New", "oboe"), {}),
    "passages.add_first_passage": lambda t: (
        ("New",),
        {"title": "", "instrument": "oboe", "passage": t.score, "notices": []},
    ),
    "passages.add_entered": lambda t: ((t.score,), {"title": "", "instrument": "oboe"}),
    "catalogue.import_rows": lambda t: (
        ("alto-saxophone", t.owned.fitted, b"note,touches,kind\nG6,octave 1 2,alternate\n", {2}),
        {},
    ),
}


@pytest.mark.parametrize("name", CALLS | MORE_CALLS)
def test_a_failure_at_any_write_leaves_everything_as_it_was(things, teacher, name):
    """Each write in turn fails: what was written before it is not there afterwards."""
    positional, named = (CALLS | MORE_CALLS)[name](things)
    before = stored()
    for nth in range(WRITES_MOST):
        writes = count()

        def fail(execute, sql, params, many, context, nth=nth, writes=writes):
            if sql.startswith(("INSERT", "UPDATE", "DELETE")) and next(writes) == nth:
                raise OperationalError("the disk is full")
            return execute(sql, params, many, context)

        point = transaction.savepoint()
        try:
            with connection.execute_wrapper(fail):
                services()[name](teacher, *positional, **named)
        except OperationalError:
            assert stored() == before, f"write {nth + 1}"
        except ValidationError:
            break  # refused before it wrote
        else:
            break
        finally:
            transaction.savepoint_rollback(point)
    else:
        pytest.fail("so many writes")


def test_readings_are_taken_back_from_the_instrument_that_they_are_of(things, teacher, make_instrument):
    other = make_instrument(teacher)
    evidence.take_back(teacher, other, "measured", things.readings.pk)
    assert ReadingsTaken.objects.count() == 1
    with pytest.raises(ValidationError, match="not known here"):
        evidence.take_back(teacher, None, "measured", things.readings.pk)
    evidence.take_back(teacher, things.owned, "measured", things.readings.pk)
    assert not ReadingsTaken.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_a_deletion_while_a_change_waits_wins(teacher, make_instrument, make_passage):
    """The change has read its passage; before it may write, the passage is deleted."""
    passage = make_passage(teacher)
    failed = []

    def change():
        try:
            set_tempo(teacher, passage, passage.current, 80)
        except ValidationError as error:
            failed.append(error.code)
        finally:
            connection.close()

    with transaction.atomic():
        KeptPassage.objects.filter(pk=passage.pk).delete()
        waiting = threading.Thread(target=change)
        waiting.start()
        waiting.join(0.3)
        assert waiting.is_alive()
    waiting.join(20)
    assert failed == ["gone"]
    assert not KeptPassage.objects.exists()
    assert not State.objects.exists()
