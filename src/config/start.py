"""What is done once, when the application begins to serve, before it has threads."""

import gc
import threading
import time

from django.conf import settings
from django.template.loader import get_template
from django.urls import get_resolver

from catalogue.warm import PAUSE_S, instruments
from core.music.notation.abc import read_abc
from drawing.engraving import engrave
from jobs import pool
from jobs.models import Job


def begin():
    """Make the pool of workers, say of earlier work that it is lost, and get ready for what will be asked."""
    pool.start()
    Job.lose_open()
    _ = get_resolver().url_patterns  # every view, with all that it stands on
    gc.collect()
    gc.freeze()  # what was loaded stays for good: it is not looked through again and again
    _getting_ready.start()


def wait_until_ready():
    """Wait until what can be got ready is there: for those who measure."""
    _getting_ready.join()


def _get_ready():
    note = read_abc("K:C\nC|").passage
    for future in [pool.begin("engraving", (note, 400)) for _ in range(settings.WORKERS)]:
        future.result()  # each process has set its first note
    engrave(note, 400)
    instruments()
    for folder in settings.TEMPLATES[0]["DIRS"][:1]:
        for path in sorted(folder.rglob("*.html")):
            get_template(str(path.relative_to(folder)))
            time.sleep(PAUSE_S / 10)


_getting_ready = threading.Thread(target=_get_ready, name="getting ready", daemon=True)
