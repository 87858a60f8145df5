"""Resonances kept on disk are those that are worked out, and a file that is not whole is no harm."""

import numpy as np
import pytest

from catalogue import shipped
from catalogue.resonances import FOLDER, made_ready
from core.acoustics.ensemble import Ensemble

NAME = "english-horn"


@pytest.fixture
def folder(settings, tmp_path):
    shipped.model(NAME)  # whose own file would take the place of those here
    settings.VAR = tmp_path
    return tmp_path / FOLDER


def ready(*made_from):
    """A fresh ensemble of two geometries, and the states of five fingerings."""
    ensemble = Ensemble(shipped.instrument(NAME), shipped.geometries(NAME)[:2])
    entries = shipped.catalogue(NAME).entries[:5]
    return made_ready(ensemble, entries, made_from), shipped.model(NAME).states(
        [e.fingering for e in entries]
    )


def peaks(ensemble, states):
    return [
        [(p.frequency, p.height, p.q) for p in each] for one in ensemble.resonances(states) for each in one
    ]


def worked_out(ensemble, monkeypatch):
    """How many states are worked out when they are asked for."""
    found = []
    monkeypatch.setattr("core.acoustics.ensemble.Pieces", lambda *given: found.append(given))
    return found


def test_what_is_read_again_is_what_was_worked_out(folder, monkeypatch):
    first, states = ready("chart")
    again, _ = ready("chart")
    asked = worked_out(again, monkeypatch)
    assert peaks(again, states) == peaks(first, states)
    assert asked == []  # nothing was worked out
    assert len(list(folder.iterdir())) == 1


def test_another_chart_is_another_file_and_the_old_one_goes(folder):
    ready("chart")
    (old,) = folder.iterdir()
    ready("another chart")
    (new,) = folder.iterdir()
    assert new != old


@pytest.mark.parametrize("damaged", [b"", b"PK\x03\x04 no archive", None])
def test_a_damaged_file_is_made_anew(folder, damaged):
    first, states = ready("chart")
    (file,) = folder.iterdir()
    if damaged is None:  # of fewer geometries
        with np.load(file) as kept:
            np.savez(file, **{**kept, "counts": kept["counts"][:, :1]})
    else:
        file.write_bytes(damaged)
    again, _ = ready("chart")
    assert peaks(again, states) == peaks(first, states)
    with np.load(file) as kept:
        assert kept["counts"].shape[1] == 2


def test_where_nothing_can_be_written_it_is_worked_out(settings, tmp_path):
    settings.VAR = tmp_path / "a file"
    settings.VAR.write_text("no folder")
    ensemble, states = ready("chart")
    assert all(peaks(ensemble, states))
