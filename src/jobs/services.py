"""Work asked for, waited for, cancelled: one function a use case, for the acting teacher."""

import hashlib
from collections import OrderedDict
from concurrent.futures import Future, TimeoutError
from functools import partial
from threading import Lock
from uuid import uuid4

from django.core.exceptions import ValidationError
from django.db import connection, transaction
from django.utils import timezone

from jobs import pool
from jobs.models import Job
from studio.access import of, own

# So long a page waits for its work before it says that it goes on without it, in seconds.
PATIENCE = 2.0
# Work that a teacher may have under way; what was worked out and not yet fetched, in all, in bytes.
OPEN_MOST, RESULTS_BYTES = 4, 60_000_000
_futures: OrderedDict[str, Future] = OrderedDict()
_lock = Lock()


def work(teacher, kind, *args, title, address):
    """Have a piece of work done: what comes of it, or the `Job` where it takes longer than a page waits.

    Parameters
    ----------
    kind : str
        Of `jobs.kinds.KINDS`.
    args
        What its function is asked: plain values, that the process which works can read.
    title : str
        What it is, in the teacher's words.
    address : str
        Where the result is shown, asked for again when it is done.

    Raises
    ------
    ValidationError
        If it cannot be done within its bounds, or too much is under way already.
    """
    asked = hashlib.sha256(repr((kind, args)).encode()).hexdigest()
    mine = of(teacher, Job)
    for job in mine.filter(kind=kind, asked=asked, state__in=[*Job.OPEN, Job.State.DONE, Job.State.FAILED]):
        with _lock:
            future = _futures.get(job.key)
        if future is None:
            continue
        if not future.done():
            return job
        _forget(job)
        return pool.result_of(kind, future)
    if mine.filter(state__in=Job.OPEN).count() >= OPEN_MOST:
        raise ValidationError("So much is under way already; wait for it, or cancel some of it.", code="many")
    key = uuid4().hex
    future = pool.begin(kind, args, key)
    try:
        return pool.result_of(kind, future, PATIENCE)
    except TimeoutError:
        job = Job.objects.create(
            key=key, teacher=teacher, kind=kind, title=title[:200], asked=asked, address=address
        )
        with _lock:
            _futures[key] = future
        future.add_done_callback(partial(_ended, key, kind))
        return job


@transaction.atomic
def cancel(teacher, job):
    """Break off a piece of work; what is done already stays done."""
    job = own(teacher, job)
    with _lock:
        future = _futures.pop(job.key, None) if job.is_open else None
    if job.is_open:
        job.state, job.ended = Job.State.CANCELLED, timezone.now()
        job.save(update_fields=["state", "ended"])
    if future is not None:
        transaction.on_commit(future.cancel)
    return job


def _forget(job):
    """The result is handed out: nothing of the work is kept."""
    with _lock:
        _futures.pop(job.key, None)
    Job.objects.filter(pk=job.pk).delete()


def _ended(key, kind, future):
    """Keep how a piece of work ended; called in a thread of the pool."""
    error = None if future.cancelled() else future.exception()
    state = Job.State.CANCELLED if future.cancelled() else Job.State.FAILED if error else Job.State.DONE
    refusal = pool.refusal_of(kind, error)
    why = " ".join(refusal.messages) if refusal else ""  # what its function says is told when it is asked for
    if refusal:  # that is told on its page: asked for again, it is tried again
        with _lock:
            _futures.pop(key, None)
    row = Job.objects.filter(key=key, state__in=Job.OPEN)
    row.update(state=state, why=why[:300], ended=timezone.now())
    for gone in _dropped():
        Job.objects.filter(key=gone).update(state=Job.State.LOST)
    if not connection.in_atomic_block:  # the threads of the pool keep no connection
        connection.close()


def _dropped():
    """Keys of results that are given up, the oldest first, so that what waits to be fetched stays bounded."""
    with _lock:
        done = [key for key, future in _futures.items() if _is_kept(future)]
        size = {key: len(_futures[key].result()) for key in done}
        gone = []
        while done and sum(size[key] for key in done) > RESULTS_BYTES:
            gone.append(done.pop(0))
            del _futures[gone[-1]]
    return gone


def _is_kept(future):
    """Whether a result waits to be fetched."""
    return future.done() and not future.cancelled() and future.exception() is None
