"""An instrument that is half made is told by Django's own check, before a page asks for what is not there."""

import shutil

import pytest
from django.conf import settings

from catalogue import checks, shipped
from studio import shipped as listed

CACHED = (
    *(listed.instrument, shipped.catalogue, shipped.plan, shipped.geometries, shipped.split),
    *(shipped._trust, shipped._limits),
)


@pytest.fixture
def data(tmp_path, monkeypatch):
    """Data of its own for one test, with one more instrument: the oboe by another name."""
    shutil.copytree(settings.DATA, tmp_path / "data")
    monkeypatch.setattr(settings, "DATA", tmp_path / "data")
    here = tmp_path / "data" / "instruments"
    (here / "musette.toml").write_text((here / "oboe.toml").read_text())
    monkeypatch.setitem(shipped.INSTRUMENTS, "musette", shipped.INSTRUMENTS["oboe"])
    for kept in CACHED:
        kept.cache_clear()
    yield tmp_path / "data"
    for kept in CACHED:
        kept.cache_clear()


def errors():
    return [f"{error.msg} {error.hint}" for error in checks.shipped_instruments_are_whole()]


def test_what_is_missing_of_an_instrument_is_named_until_all_is_there(data):
    acoustics = data / "acoustics"
    (found,) = errors()
    assert "musette.toml" in found
    (acoustics / "musette.toml").write_text((acoustics / "oboe.toml").read_text())
    (found,) = errors()
    assert "musette.json" in found
    shutil.copy(acoustics / "fitted" / "oboe.json", acoustics / "fitted" / "musette.json")
    (found,) = errors()
    assert "Mend the data of musette" in found
    split = (acoustics / "split.toml").read_text()
    (acoustics / "split.toml").write_text(split + '\n[musette]\nanchors = ["no-such-row"]\nfit = []\n')
    shipped.split.cache_clear()
    (found,) = errors()
    assert "no-such-row" in found
    (acoustics / "split.toml").write_text(split + "\n[musette]\nanchors = []\nfit = []\n")
    shipped.split.cache_clear()
    assert errors() == []
