"""Fingering charts and acoustic models that ship with the application, read once."""

import threading
import tomllib
from functools import cache, lru_cache

from django.conf import settings

from catalogue.resonances import made_ready
from core.acoustics.ensemble import Ensemble
from core.acoustics.geometry import Dimensions, Geometry, parse_ensemble, parse_plan
from core.acoustics.model import Model
from core.acoustics.trust import Limits, TriedModel, parse_limits, parse_table
from core.charts.catalogue import Catalogue, parse_catalogue
from core.charts.held import with_held
from core.charts.one_finger import with_one_finger
from core.overtones.voicing import Guide, parse_guide
from studio.shipped import INSTRUMENTS, instrument, instrument_texts, schools

__all__ = ["INSTRUMENTS", "instrument"]  # passed on from the studio


@cache
def catalogue(name: str) -> Catalogue:
    model = instrument(name)
    charts = [_chart(file) for file in model.charts]
    return with_one_finger(with_held(parse_catalogue(charts, model, schools().position)))


@cache
def plan(name: str) -> Dimensions:
    """Plausible dimensions, from which a fit starts."""
    return parse_plan(_dimensions(name), _dimensions, instrument(name))


@cache
def split(name: str) -> dict[str, list[str]]:
    """Ids of the rows that a fit may see, and of those held out from it."""
    rows: dict[str, list[str]] = tomllib.loads(_acoustics("split.toml"))[name]
    return rows


@cache
def geometries(name: str) -> tuple[Geometry, ...]:
    """The geometries that a fit has found."""
    return parse_ensemble(_acoustics(f"fitted/{name}.json"))


def ensemble(name: str) -> Ensemble:
    """The geometries at work; asked for by several at once, they are got ready once."""
    with _getting_ready[name]:
        return _ensemble(name)


# One for each instrument, so that none waits for another.
_getting_ready = {name: threading.Lock() for name in INSTRUMENTS}


@cache
def _ensemble(name):
    chart = (_chart(file) for file in instrument(name).charts)
    made_from = [_acoustics(f"fitted/{name}.json"), *instrument_texts(), *chart]
    return made_ready(Ensemble(instrument(name), geometries(name)), catalogue(name).entries, made_from)


@lru_cache(maxsize=24)
def model(name: str, fitted: frozenset[str] | None = None) -> Model:
    """The ensemble at work, for what of the optional touches and fittings is there."""
    return Model(ensemble(name), fitted)


@cache
def _trust():
    return parse_table(_acoustics("trust.toml"))


@cache
def _limits():
    return parse_limits(_acoustics("families.toml"))


@lru_cache(maxsize=24)
def _tried(name, fitted):
    by_id = catalogue(name).by_id
    return TriedModel(
        model(name, fitted),
        _trust().get(instrument(name).family, {}) | _trust().get(name, {}),
        _limits().get(instrument(name).family, Limits()),
        tuple(by_id[row] for row in split(name)["anchors"]),
    )


def tried(name: str, fitted: frozenset[str]) -> TriedModel:
    """The model with what it has earned, for what is fitted; nothing earned where it was never tried.

    Only fittings bear on what stands open; a touch that is not there is not pressed.
    """
    return _tried(name, fitted & {fitting.name for fitting in instrument(name).fittings})


@cache
def voicing() -> Guide:
    guide = parse_guide((settings.DATA / "voicing.toml").read_text("utf-8"))
    guide.check_positions(schools().position)
    return guide


def _chart(file: str) -> str:
    return (settings.DATA / "fingerings" / f"{file}.csv").read_text("utf-8")


@cache
def searched(family: str) -> dict[str, int]:
    """How many taught fingerings of a family were hidden from the search, and how many of them it showed."""
    return tomllib.loads((settings.DATA / "search.toml").read_text("utf-8"))[family]


def _acoustics(file: str) -> str:
    return (settings.DATA / "acoustics" / file).read_text("utf-8")


def _dimensions(name: str) -> str:
    return _acoustics(f"{name}.toml")
