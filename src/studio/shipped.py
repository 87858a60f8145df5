"""What ships with the application and every part of it needs: instruments, and where teachers disagree."""

import tomllib
from functools import cache

from django.conf import settings

from core.charts.schools import Schools, parse_schools
from core.instruments.instrument import Instrument
from core.instruments.instrument_format import parse_instrument


def _text(name):
    return (settings.DATA / "instruments" / f"{name}.toml").read_text("utf-8")


def _listed():
    lines = (settings.DATA / "instruments" / "instruments.txt").read_text("utf-8").splitlines()
    names = [line.strip() for line in lines if line.strip() and not line.startswith("#")]
    return {name: tomllib.loads(_text(name))["label"] for name in names}


def instrument_texts() -> list[str]:
    """All that instruments are read from: one may be said by what sets it apart from another."""
    return [path.read_text("utf-8") for path in sorted((settings.DATA / "instruments").glob("*.toml"))]


# Every instrument that is offered: its label by its name.
INSTRUMENTS: dict[str, str] = _listed()


def instrument_choices():
    """The same for a form or a model; asked anew, so that an instrument more is no migration."""
    return list(INSTRUMENTS.items())


@cache
def instrument(name: str) -> Instrument:
    return parse_instrument(_text(name), _text)


@cache
def schools() -> Schools:
    return parse_schools((settings.DATA / "schools.toml").read_text("utf-8"))


@cache
def family_of(name: str) -> tuple[str, ...]:
    """The models of an instrument's family, itself among them, in the order of all."""
    family = instrument(name).family
    return tuple(other for other in INSTRUMENTS if instrument(other).family == family)
