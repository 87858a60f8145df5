"""A fingering of a teacher's own, made an entry of the chart from the fields of a form or a row."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import TypeVar

from core.charts.chart_format import read_touches
from core.charts.entry import CENTS_LIMIT, OWN, Confidence, Entry, Speaks, Tendency, Tone
from core.errors import CatalogueError
from core.instruments.fingering import Fingering, Kind
from core.instruments.instrument import Instrument
from core.instruments.keywork import may_sound
from core.music.pitch import Pitch

T = TypeVar("T", bound=StrEnum)


def settle_partial(note: Pitch, fingering: Fingering, instrument: Instrument) -> int | None:
    """The lowest partial with which the keywork gives the note; None where it does not settle it.

    Parameters
    ----------
    note : Pitch
    fingering : Fingering
    instrument : Instrument

    Returns
    -------
    int or None, from 1
    """
    return min(may_sound(instrument, fingering).get(note.midi, ()), default=None)


def entry_of(
    values: Mapping[str, str], note: Pitch, fingering: Fingering, instrument: Instrument, entry_id: str = ""
) -> Entry:
    """Make an entry of a teacher's own from the fields of a row or a form; empty fields are unknown.

    Parameters
    ----------
    values : mapping of str to str
        Texts of the fields by their names.
    note : Pitch
    fingering : Fingering
    instrument : Instrument
    entry_id : str
        Empty for one that is not kept yet.

    Returns
    -------
    Entry

    Raises
    ------
    CatalogueError
        If a field holds what it cannot.
    """
    partial = settle_partial(note, fingering, instrument)
    return Entry(
        id=entry_id,
        note=note,
        kind=_word(Kind, values.get("kind", ""), "kind") or Kind.ALTERNATE,
        fingering=fingering,
        requires=fingering.touches & instrument.optional_touches,
        partial=partial,
        tendency=_tendency(values),
        tone=_word(Tone, values.get("tone", ""), "tone"),
        speaks=_word(Speaks, values.get("speaks", ""), "speaks"),
        good_for=values.get("good_for", ""),
        avoid_when=values.get("avoid_when", ""),
        only_from=_only_from(values.get("only_from", ""), instrument),
        school="",
        confidence=_confidence(values.get("confidence", "")),
        source=OWN,
        reason=""
        if partial
        else values.get("reason", "") or "kept by the teacher: the keywork does not settle it",
        form=instrument.form_of(fingering.touches, note),
    )


def _only_from(text: str, instrument: Instrument) -> frozenset[str]:
    """Touches that the fingering before must hold; none where the text is empty."""
    return read_touches(text, instrument).touches if text.strip() else frozenset()


def _word(scale: type[T], text: str, name: str) -> T | None:
    text = text.strip().lower()
    if not text:
        return None
    try:
        return scale(text)
    except ValueError:
        words = ", ".join(scale)
        raise CatalogueError(f"{name} must be one of {words}, got {text[:40]!r}") from None


def _confidence(text: str) -> Confidence:
    """A teacher's confidence in what they keep; to keep a lead is to speak for it, if hardly."""
    given = _word(Confidence, text, "confidence")
    return Confidence.LOW if given in (None, Confidence.LEAD) else given


def _tendency(values: Mapping[str, str]) -> Tendency | None:
    given = [values.get(name, "").replace("−", "-") for name in ("cents", "cents_low", "cents_high")]
    if not given[0]:
        return None
    try:
        cents = float(given[0])
        low, high = (
            float(text) if text else cents + way * 10 for text, way in zip(given[1:], (-1, 1), strict=True)
        )
    except ValueError:
        raise CatalogueError(f"cents must be numbers, got {' '.join(filter(None, given))[:40]!r}") from None
    if not all(-CENTS_LIMIT <= value <= CENTS_LIMIT for value in (cents, low, high)):
        raise CatalogueError(f"cents must lie from -{CENTS_LIMIT:.0f} to {CENTS_LIMIT:.0f}, got {given[0]}")
    return Tendency(cents, max(low, -CENTS_LIMIT), min(high, CENTS_LIMIT))
