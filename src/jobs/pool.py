"""The processes that work for the application: few, each replaced if it dies, each piece of work bounded.

Without any (tests, commands) work is done where it is asked for, with no bounds.
"""

from __future__ import annotations

import os
import pickle
from concurrent.futures import CancelledError, Future, TimeoutError
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing import get_context
from threading import Lock

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import connections
from pebble import ProcessExpired, ProcessPool

from jobs import worker
from jobs.kinds import KINDS

# A process is made anew after so many pieces of work: what libraries keep does not pile up.
PIECES_EACH = 500
_lock = Lock()
_pools: list[ProcessPool] = []


def start():
    """Make the pool; before the application has threads, so that nothing is forked from between them."""
    with _lock:
        if _pools and not _pools[0].active:  # broken beyond the loss of a process: another takes its place
            _end()
        if _pools or not settings.WORKERS:
            return
        # They find the application as this process did.
        path = [str(settings.SRC), os.environ.get("PYTHONPATH", "")]
        os.environ["PYTHONPATH"] = os.pathsep.join(filter(None, path))
        context = get_context("forkserver")
        context.set_forkserver_preload(["jobs.worker"])
        pool = ProcessPool(
            max_workers=settings.WORKERS,
            max_tasks=PIECES_EACH,
            initializer=worker.begin,
            initargs=(str(connections["default"].settings_dict["NAME"]),),
            context=context,
        )
        _pools.append(pool)


def stop():
    """End the processes and whatever they are at."""
    with _lock:
        _end()


def _end():
    for pool in _pools:
        pool.stop()
        pool.join()
    _pools.clear()


def begin(kind, args, job=None) -> Future | _Here:
    """Begin a piece of work; what comes of it, see `result_of`."""
    asked = KINDS[kind]
    start()
    if _pools:
        return _pools[0].schedule(
            worker.work, args=[asked.function, asked.megabytes, args, job], timeout=asked.seconds
        )
    return _Here(asked.function, args)


@dataclass(frozen=True)
class _Here:
    """Work that is done in this process, where its result is asked for."""

    function: str
    args: tuple

    def result(self, _timeout=None):
        return worker.work_here(self.function, self.args)


def result_of(kind, future, timeout=None):
    """What came of a piece of work.

    Raises
    ------
    concurrent.futures.TimeoutError
        If it is not done within `timeout` seconds.
    ValidationError
        If it took more than its kind may, was cancelled, or its process died.
    Exception
        Whatever its function raised.
    """
    try:
        return pickle.loads(future.result(timeout))  # noqa: S301 -- written by our own process just now
    except TimeoutError as error:
        if not future.done():
            raise
        raise refusal_of(kind, error) from None
    except (MemoryError, ProcessExpired, BrokenProcessPool, CancelledError) as error:
        raise refusal_of(kind, error) from None


def refusal_of(kind, error):
    """Why a piece of work was not done, in a teacher's words; None where its function says that itself."""
    what, limits = KINDS[kind].words.capitalize(), KINDS[kind]
    match error:
        case TimeoutError():
            why, code = f"took more than {limits.seconds:g} seconds", "time"
        case MemoryError():
            why, code = f"took more than {limits.megabytes} MB", "memory"
        case ProcessExpired() | BrokenProcessPool():  # the second where it died before it had begun
            why, code = "was broken off", "lost"
        case CancelledError():
            why, code = "was cancelled", "cancelled"
        case _:
            return None
    return ValidationError(f"{what} {why}; try again, or with a part of the music.", code=code)


def call(kind, *args):
    """Have a piece of work done and wait for it: the interpreter is free meanwhile."""
    return result_of(kind, begin(kind, args))
