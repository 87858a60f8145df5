"""What runs in a process that works: it begins with the application loaded, and does one thing at a time.

Imported by the process from which all others are forked, so that each begins with everything loaded.
"""

import os
import pickle
import resource
from importlib import import_module

import django
from django.apps import apps

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
if not apps.ready:
    django.setup()

from django.conf import settings
from django.db import connection, connections

PAGE = resource.getpagesize()
MB = 1_000_000
_job = None


def work_here(function, args):
    """Call a function in this process, with no bounds; its result as bytes, as from another."""
    return pickle.dumps(_named(function)(*args), protocol=pickle.HIGHEST_PROTOCOL)


def begin(database):
    """The database that the process reads, said by the one that made it."""
    settings.DATABASES["default"]["NAME"] = connections["default"].settings_dict["NAME"] = database


def work(function, megabytes, args, job=None):
    """Call a function within so much memory beyond what the process has now; its result as bytes.

    Raises
    ------
    MemoryError
        If it would take more.
    """
    global _job
    _job = job
    _, hard = resource.getrlimit(resource.RLIMIT_AS)
    try:
        resource.setrlimit(resource.RLIMIT_AS, (_virtual_bytes() + megabytes * MB, hard))
        return pickle.dumps(_named(function)(*args), protocol=pickle.HIGHEST_PROTOCOL)
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (resource.RLIM_INFINITY, hard))
        _job = None
        connection.close()


def progress(done, of):
    """Tell how much of the work at hand is done; nothing where nobody is shown it."""
    if _job is not None:
        from jobs.models import Job

        Job.objects.filter(key=_job, state__in=Job.OPEN).update(state=Job.State.RUNNING, done=done, of=of)


def _named(name):
    module, _, function = name.rpartition(".")
    return getattr(import_module(module), function)


def _virtual_bytes():
    with open("/proc/self/statm", encoding="ascii") as file:  # noqa: PTH123 -- no file of ours
        return int(file.read().split()[0]) * PAGE
