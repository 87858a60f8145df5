"""Resonances of the shipped charts, worked out once on a machine and kept on disk beside the data.

A file holds only for the dimensions, the keywork, the chart and the code that it was made from: its name is
made of them. One that is damaged, or cannot be written, costs the time to work it out again.
"""

import hashlib
import io
import os
import zipfile
from contextlib import suppress
from functools import cache
from pathlib import Path

import numpy as np
import scipy
from django.conf import settings

import core.acoustics
from core.acoustics.ensemble import Ensemble
from core.acoustics.model import Model
from core.errors import AcousticsError

FOLDER = "resonances"


def made_ready(ensemble: Ensemble, entries, made_from) -> Ensemble:
    """The ensemble with the resonances of a chart, from disk if they are there.

    `made_from` are the texts that dimensions, keywork and chart were read from.
    """
    folder = settings.VAR / FOLDER
    path = folder / f"{ensemble.instrument.name}-{_key(made_from)}.npz"
    try:
        with path.open("rb") as file, np.load(file) as kept:
            ensemble.remember(kept)
    except (OSError, EOFError, ValueError, KeyError, zipfile.BadZipFile, AcousticsError):
        model = Model(ensemble)
        fingerings = [f for entry in entries for f in (entry.fingering, entry.fingering.attack)]
        _write(path, ensemble.as_arrays(np.unique(model.states(fingerings), axis=0)))
    return ensemble


def _write(path, arrays):
    """Write whole or not at all; others of the same instrument are of no use any more."""
    made = io.BytesIO()
    np.savez_compressed(made, **arrays)
    part = path.with_suffix(f".{os.getpid()}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        old = set(path.parent.glob(f"{path.name.rsplit('-', 1)[0]}-*.npz")) - {path}
        part.write_bytes(made.getvalue())
        part.replace(path)
        for file in old:
            file.unlink(missing_ok=True)
    except OSError:  # a full disk, or a folder that is not ours: it is worked out again next time
        with suppress(OSError):
            part.unlink(missing_ok=True)


def _key(made_from):
    digest = hashlib.sha256(_code())
    for text in made_from:
        digest.update(text.encode())
    return digest.hexdigest()[:16]


@cache
def _code():
    """What the numbers come from besides: the acoustics, the keywork, and the libraries that reckon."""
    folder = Path(core.acoustics.__file__).parent
    files = [*sorted(folder.glob("*.py")), folder.parent / "instruments" / "keywork.py"]
    return f"{np.__version__} {scipy.__version__}".encode() + b"".join(file.read_bytes() for file in files)
