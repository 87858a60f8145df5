"""Fingering charts and dimensions that ship with the application, read once."""

import tomllib
from functools import cache, lru_cache

from django.conf import settings

from core.acoustics.geometry import Geometry, Plan, parse_ensemble, parse_plan
from core.acoustics.model import Model
from core.acoustics.trust import Table, parse_table
from core.charts.catalogue import Catalogue, parse_catalogue
from core.overtones.voicing import Guide, parse_guide
from core.routes.faults import Library, make_library
from studio.shipped import INSTRUMENTS, instrument

__all__ = ["INSTRUMENTS", "instrument"]  # passed on from the studio


@cache
def catalogue(name: str) -> Catalogue:
    model = instrument(name)
    folder = settings.DATA / "fingerings"
    return parse_catalogue([(folder / f"{chart}.csv").read_text("utf-8") for chart in model.charts], model)


@cache
def library(name: str) -> Library:
    return make_library(catalogue(name).entries, instrument(name))


@cache
def plan(name: str) -> Plan:
    """Plausible dimensions, from which a fit starts."""
    return parse_plan(_dimensions(name), _dimensions, instrument(name))


@cache
def split(name: str) -> dict[str, list[str]]:
    """Ids of the rows that a fit may see, and of those held out from it."""
    rows: dict[str, list[str]] = tomllib.loads(_acoustics("split.toml"))[name]
    return rows


@cache
def ensemble(name: str) -> tuple[Geometry, ...]:
    """The geometries that a fit has found."""
    return parse_ensemble(_acoustics(f"fitted/{name}.json"))


@lru_cache(maxsize=24)
def model(name: str, fitted: frozenset[str] | None = None) -> Model:
    """The ensemble at work, for what of the optional touches and fittings is there."""
    return Model(instrument(name), ensemble(name), fitted)


@cache
def trust(name: str) -> Table:
    """What the model of an instrument has earned; nothing where it was never tried."""
    return parse_table(_acoustics("trust.toml")).get(name, {})


@cache
def voicing() -> Guide:
    return parse_guide((settings.DATA / "voicing.toml").read_text("utf-8"))


def _acoustics(file: str) -> str:
    return (settings.DATA / "acoustics" / file).read_text("utf-8")


def _dimensions(name: str) -> str:
    return _acoustics(f"{name}.toml")
