"""What is known of a student as bytes, so that it need not be worked out anew from all attempts."""

import io
import json
import zipfile
from types import MappingProxyType

import numpy as np

from core.errors import PracticeError
from core.practice.learning import NOTES_MOST, Learning

VERSION = 1
# Notes and fingerings together: a state is as large as its square.
SIZE_MOST = 600


def to_bytes(learning: Learning) -> bytes:
    """A state with everything that the next attempt goes on from.

    Parameters
    ----------
    learning : Learning

    Returns
    -------
    bytes
    """
    about = {
        "version": VERSION,
        "low": learning.low,
        "n_notes": learning.n_notes,
        "day": learning.day,
        "today": learning.today,
        "first": list(learning.first.items()),
        "others": [[*name, at] for name, at in learning.others.items()],
    }
    file = io.BytesIO()
    np.savez(file, about=np.array(json.dumps(about)), mean=learning.mean, cov=learning.cov)
    return file.getvalue()


def from_bytes(data: bytes) -> Learning:
    """Read a state again.

    Parameters
    ----------
    data : bytes
        As `to_bytes` gives it.

    Returns
    -------
    Learning

    Raises
    ------
    PracticeError
        If it is none, or of an earlier form.
    """
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as stored:
            about, mean, cov = json.loads(str(stored["about"])), stored["mean"], stored["cov"]
        n, size = about["n_notes"], len(mean)
        if about["version"] != VERSION or not n <= min(size, NOTES_MOST) or size > SIZE_MOST:
            raise PracticeError("what was known is in a form that is not read any more")
        if cov.shape != (size, size):
            raise PracticeError("what was known is torn")
        first = dict(about["first"])
        others = {(midi, name): at for midi, name, at in about["others"]}
        kept = MappingProxyType(first), MappingProxyType(others)
        return Learning(about["low"], n, mean, cov, about["day"], about["today"], *kept)
    except (ValueError, KeyError, TypeError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise PracticeError("what was known cannot be read") from error
