"""Fingering charts that ship with the application, read once."""

from functools import cache

from django.conf import settings

from core.catalogue import Catalogue, parse_catalogue
from core.faults import Library, make_library
from studio.shipped import INSTRUMENTS, instrument

__all__ = ["INSTRUMENTS", "catalogue", "instrument", "library"]


@cache
def catalogue(name: str) -> Catalogue:
    model = instrument(name)
    folder = settings.DATA / "fingerings"
    return parse_catalogue([(folder / f"{chart}.csv").read_text("utf-8") for chart in model.charts], model)


@cache
def library(name: str) -> Library:
    return make_library(catalogue(name).entries, instrument(name))
