"""Real processes at work: what takes too long, too much or dies costs only itself, and is told."""

import os
import signal
import time
from pathlib import Path

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse

from core.music.notation.abc import read_abc
from core.music.notation.musicxml_writer import write_musicxml
from core.music.notation.score import DEFAULT
from core.music.pitch import Interval
from jobs import pool, services
from jobs.kinds import KINDS, WorkKind
from jobs.models import Job

LONG = "L:1/16\nK:C\n" + "CDEF GABc dcBA GFED |\n" * 60
SECONDS = {"sleep": 1.5}  # the others end by themselves, on a busy machine later
PLAIN = {"sleep": "time.sleep", "fill": "builtins.bytearray", "die": "os.abort", "add": "operator.add"}


@pytest.fixture(scope="module")
def workers(django_db_setup):
    """One process that works, for all tests here."""
    from django.conf import settings

    before, settings.WORKERS = settings.WORKERS, 1
    yield
    pool.stop()
    settings.WORKERS = before


@pytest.fixture
def plain(workers, monkeypatch):
    """Kinds of work that need nothing of the application."""
    for name, function in PLAIN.items():
        monkeypatch.setitem(
            KINDS, name, WorkKind(f"work of {name}", function, SECONDS.get(name, 60), megabytes=100)
        )


def working():
    """Processes that were forked to work, by their numbers."""
    parents = {}
    for status in Path("/proc").glob("[0-9]*/stat"):
        try:
            pid, _, rest = status.read_text().partition(" (")
        except OSError:
            continue
        parents[int(pid)] = int(rest.rpartition(")")[2].split()[1])
    return [
        pid
        for pid, parent in parents.items()
        if parents.get(parent) == os.getpid() and b"forkserver" in Path(f"/proc/{pid}/cmdline").read_bytes()
    ]


def test_what_is_worked_out_comes_back(plain):
    assert pool.call("add", 3, 4) == 7


@pytest.mark.parametrize(
    ("kind", "args", "says"),
    [("sleep", [30], "took more than 1.5 seconds"), ("fill", [10**9], "100 MB"), ("die", [], "broken off")],
)
def test_too_long_too_much_and_a_death_are_told_and_the_next_piece_is_done(plain, kind, args, says):
    with pytest.raises(ValidationError, match=says):
        pool.call(kind, *args)
    assert pool.call("add", 3, 4) == 7


def test_what_the_work_itself_refuses_is_refused_as_here(workers):
    from core.errors import CoreError

    with pytest.raises(CoreError, match="nothing to read"):
        pool.call("score", b" ", DEFAULT)


def arguments():
    """What each kind is asked that takes a moment, as the application asks it."""
    from passages.models import KeptPassage

    suite = KeptPassage.objects.get(title__contains="Over the Top Sluice")
    passage = read_abc(LONG).passage
    score = write_musicxml(passage, Interval(0, 0), "x").encode()
    return {
        "score": (score, DEFAULT),
        "engraving": (passage, 840, ("treble",), 20.0),
        "drills": (suite.teacher_id, suite.pk, "", "n1", "n12", ""),
        "sheet": (suite.teacher_id, f"on=i{suite.owned_id}", {}),
    }


def test_a_worker_killed_in_the_middle_of_any_kind_of_work_costs_only_that_piece(demo, plain):
    asked = arguments()
    assert set(asked) == set(KINDS) - set(PLAIN)
    for kind, args in asked.items():
        assert pool.call(kind, *args)
        future = pool.begin(kind, args)
        while not future.running():
            time.sleep(0.005)
        for pid in working():
            os.kill(pid, signal.SIGKILL)
        with pytest.raises(ValidationError, match=f"^\\['{KINDS[kind].words.capitalize()} was broken off"):
            pool.result_of(kind, future)
        assert pool.call("add", 3, 4) == 7


def test_a_death_before_the_work_was_begun_costs_only_that_piece(plain):
    assert pool.call("add", 3, 4) == 7
    for stopped in (signal.SIGSTOP, signal.SIGKILL):
        for pid in working():
            os.kill(pid, stopped)
        if stopped == signal.SIGSTOP:
            future = pool.begin("add", (1, 2))
            time.sleep(0.05)
    with pytest.raises(ValidationError, match="broken off"):
        pool.result_of("add", future)
    assert pool.call("add", 3, 4) == 7


def until(job, *states):
    for _ in range(400):
        job.refresh_from_db()
        if job.state in states:
            return job
        time.sleep(0.02)
    raise AssertionError(f"the work is {job.state}")


@pytest.fixture
def asks(plain, teacher, monkeypatch):
    """Ask for work that a page does not wait for."""
    monkeypatch.setattr(services, "PATIENCE", 0.02)
    return lambda kind, *args, by=teacher: services.work(
        by, kind, *args, title=f"To {kind}", address="/help/"
    )


@pytest.mark.django_db(transaction=True)
def test_long_work_is_left_come_back_to_and_handed_out_once(asks, signed_in):
    job = asks("sleep", 0.4)
    assert asks("sleep", 0.4) == job  # the same question is not asked twice
    page = signed_in.get(job.get_absolute_url())
    assert b"To sleep" in page.content
    assert b"Cancel" in page.content
    until(job, Job.State.DONE)
    assert signed_in.get(job.get_absolute_url())["Location"] == "/help/"
    part = signed_in.get(job.get_absolute_url(), headers={"HX-Target": "div#job"})
    assert part["HX-Redirect"] == "/help/"
    assert asks("sleep", 0.4) is None  # what sleeping gives
    assert not Job.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_it_is_cancelled_by_the_one_who_asked_alone(asks, client, signed_in, teacher, other_teacher):
    job = asks("sleep", 1.2)
    with pytest.raises(ValidationError, match="another teacher"):
        services.cancel(other_teacher, job)
    client.force_login(other_teacher)
    for name in ("jobs:job", "jobs:cancel"):
        assert client.post(reverse(name, args=[job.pk])).status_code in (404, 405)
    client.force_login(teacher)
    client.post(reverse("jobs:cancel", args=[job.pk]))
    job.refresh_from_db()
    assert job.state == Job.State.CANCELLED
    assert "Cancelled" in client.get(job.get_absolute_url()).content.decode()
    begun = time.monotonic()
    assert pool.call("add", 1, 1) == 2
    assert time.monotonic() - begun < 1.1  # it did not wait for what was cancelled


@pytest.mark.django_db(transaction=True)
def test_a_death_is_told_on_the_page_of_the_work(asks, signed_in):
    job = asks("sleep", 1.3)
    while not services._futures[job.key].running():
        time.sleep(0.005)
    for pid in working():
        os.kill(pid, signal.SIGKILL)
    until(job, Job.State.FAILED)
    assert asks("sleep", 1.3) != job  # asked for again, it is tried again
    assert "was broken off" in signed_in.get(job.get_absolute_url()).content.decode()


@pytest.mark.django_db(transaction=True)
def test_so_much_is_under_way_at_once_and_no_more(asks, teacher):
    for seconds in range(services.OPEN_MOST):
        asks("sleep", 1.0 + seconds / 100)
    with pytest.raises(ValidationError, match="So much is under way"):
        asks("sleep", 1.4)
    for job in Job.objects.all():
        services.cancel(teacher, job)


@pytest.mark.django_db
def test_at_a_start_what_was_under_way_is_lost_and_says_so(signed_in, teacher):
    for state in Job.State:
        Job.objects.create(key=state, teacher=teacher, kind="sheet", title="x", address="/help/", state=state)
    Job.lose_open()
    found = dict(Job.objects.values_list("key", "state"))
    assert {key for key, state in found.items() if state == Job.State.LOST} == {
        *("waiting", "running", "done", "lost")
    }
    page = signed_in.get(Job.objects.get(key="running").get_absolute_url()).content.decode()
    assert "Lost, since the application was started anew" in page
    assert "Ask for it again" in page
