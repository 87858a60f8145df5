"""Instruments and fingering charts that ship with the application, read once."""

from functools import cache

from django.conf import settings

from core.catalogue import Catalogue, parse_catalogue
from core.faults import Library, make_library
from core.instrument import Instrument, parse_instrument

INSTRUMENTS = {"alto-saxophone": "Alto saxophone"}


@cache
def instrument(name: str) -> Instrument:
    return parse_instrument((settings.DATA / "instruments" / f"{name}.toml").read_text("utf-8"))


@cache
def catalogue(name: str) -> Catalogue:
    text = (settings.DATA / "fingerings" / f"{name}.csv").read_text("utf-8")
    return parse_catalogue(text, instrument(name))


@cache
def library(name: str) -> Library:
    return make_library(catalogue(name).entries, instrument(name))
