"""The processes that work for the application: few, each replaced if it dies, each piece of work bounded.

Without any (tests, commands) work is done where it is asked for, with no bounds.
"""

import os
import pickle
from concurrent.futures import CancelledError, Future, TimeoutError
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
        if _pools or not settings.WORKERS:
            return
        # They find the application as this process did.
        os.environ["PYTHONPATH"] = os.pathsep.join([str(settings.SRC), os.environ.get("PYTHONPATH", "")])
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
        for pool in _pools:
            pool.stop()
            pool.join()
        _pools.clear()


def begin(kind, args, job=None) -> Future:
    """Begin a piece of work; what comes of it, see `result_of`."""
    asked = KINDS[kind]
    start()
    if _pools:
        return _pools[0].schedule(
            worker.work, args=[asked.function, asked.megabytes, args, job], timeout=asked.seconds
        )
    future: Future = Future()
    try:
        future.set_result(worker.work_here(asked.function, args))
    except Exception as error:
        future.set_exception(error)
    return future


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
    except TimeoutError:
        if not future.done():
            raise
        raise _not_done(kind, f"took more than {KINDS[kind].seconds:g} seconds", "time") from None
    except MemoryError:
        raise _not_done(kind, f"took more than {KINDS[kind].megabytes} MB", "memory") from None
    except ProcessExpired:
        raise _not_done(kind, "was broken off", "lost") from None
    except CancelledError:
        raise _not_done(kind, "was cancelled", "cancelled") from None


def call(kind, *args):
    """Have a piece of work done and wait for it: the interpreter is free meanwhile."""
    return result_of(kind, begin(kind, args))


def _not_done(kind, what, code):
    return ValidationError(
        f"{KINDS[kind].words.capitalize()} {what}; try again, or with a part of the music.", code=code
    )
