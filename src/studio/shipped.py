"""Models of instruments that ship with the application, read once."""

from functools import cache

from django.conf import settings

from core.instruments.instrument import Instrument
from core.instruments.instrument_format import parse_instrument

INSTRUMENTS = {
    "soprano-saxophone": "Soprano saxophone",
    "alto-saxophone": "Alto saxophone",
    "tenor-saxophone": "Tenor saxophone",
    "baritone-saxophone": "Baritone saxophone",
    "b-flat-clarinet": "Clarinet in B-flat",
    "a-clarinet": "Clarinet in A",
    "e-flat-clarinet": "Clarinet in E-flat",
    "bass-clarinet": "Bass clarinet",
    "oboe": "Oboe",
    "english-horn": "English horn",
    "bassoon": "Bassoon",
}


def _text(name):
    return (settings.DATA / "instruments" / f"{name}.toml").read_text("utf-8")


@cache
def instrument(name: str) -> Instrument:
    return parse_instrument(_text(name), _text)
