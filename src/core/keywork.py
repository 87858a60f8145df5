"""From touches pressed to holes open, and what a hand can hold."""

from __future__ import annotations

from dataclasses import dataclass

from core.fingering import Fingering
from core.instrument import Instrument
from core.pitch import Pitch


@dataclass(frozen=True)
class Mechanism:
    """What the keywork says of a fingering.

    Parameters
    ----------
    open_holes : tuple of str
        Tone holes that are open, from the reed downward.
    open_vents : tuple of str
        Register vents that are open.
    plain : Pitch
        Written pitch of the first register: that of the first open tone hole, or of the bell.
    """

    open_holes: tuple[str, ...]
    open_vents: tuple[str, ...]
    plain: Pitch


def mechanism(instrument: Instrument, fingering: Fingering) -> Mechanism:
    """Follow the keywork from the touches of a fingering to its open holes.

    A half-holed touch counts as pressed, a momentary one does not: it is no part of the
    steady fingering.

    Notes
    -----
    `plain` is the rule of the first open hole: enough to check a chart of plain, forked and
    palm fingerings; split forms, where an open hole above closed ones serves as a vent, sound
    otherwise and are marked so in the catalogue.
    """
    touches = fingering.full | fingering.half
    open_ = [hole for hole in instrument.holes if hole.is_open(touches)]
    tones = [hole for hole in open_ if hole.sounds is not None]
    return Mechanism(
        open_holes=tuple(hole.name for hole in tones),
        open_vents=tuple(hole.name for hole in open_ if hole.sounds is None),
        plain=(tones[0].sounds if tones else None) or instrument.bell,
    )


def missing_touches(instrument: Instrument, fingering: Fingering, fitted: frozenset[str]) -> frozenset[str]:
    """Optional touches that a fingering needs and the instrument in hand lacks."""
    return (fingering.touches & instrument.optional_touches) - fitted


def unholdable(instrument: Instrument, fingering: Fingering) -> list[str]:
    """Say which fingers are asked for more than they can hold at once.

    Returns
    -------
    list of str
        One sentence for each such finger; empty if the hands can hold the fingering.
    """
    complaints = []
    for finger in instrument.fingers:
        held = frozenset(
            touch.name
            for touch in instrument.touches
            if touch.finger == finger.name and touch.name in fingering.touches
        )
        if not finger.can_hold(held):
            names = " and ".join(
                instrument.touch_by_name[touch.name].label
                for touch in instrument.touches
                if touch.name in held
            )
            complaints.append(f"{finger.name} cannot hold {names} at once")
    return complaints
