"""Fingering charts and dimensions that ship with the application, read once."""

import tomllib
from functools import cache

from django.conf import settings

from core.acoustics.geometry import Plan, parse_plan
from core.catalogue import Catalogue, parse_catalogue
from core.faults import Library, make_library
from studio.shipped import INSTRUMENTS, instrument

__all__ = ["INSTRUMENTS", "catalogue", "instrument", "library", "plan", "split"]


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


def _acoustics(file: str) -> str:
    return (settings.DATA / "acoustics" / file).read_text("utf-8")


def _dimensions(name: str) -> str:
    return _acoustics(f"{name}.toml")
