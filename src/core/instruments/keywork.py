"""From touches pressed to holes open, what may sound then, and what a hand can hold."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument
from core.instruments.parts import ToneHole
from core.music.pitch import Pitch, spell

PARTIALS = range(1, 9)


@dataclass(frozen=True)
class Mechanism:
    """What the keywork says of a fingering.

    Parameters
    ----------
    open_holes, half_holes : tuple of str
        Tone holes that are open or half open, from the reed downward.
    open_vents : tuple of str
        Register vents that are open, a half-open hole among them.
    plain : Pitch
        Written pitch of the first register: that of the first open tone hole, or of the bell.
    tube : Pitch
        The same where open holes above closed ones serve as vents: the pitch whose third and
        higher partials the fingering then gives. `plain` where no hole serves so.
    forked : bool
        Whether the next hole below the first open one, that rests open, is closed.
    """

    open_holes: tuple[str, ...]
    half_holes: tuple[str, ...]
    open_vents: tuple[str, ...]
    plain: Pitch
    tube: Pitch
    forked: bool


def partial_semitones(partial: int) -> int:
    """Nearest semitones of a partial above its fundamental.

    Parameters
    ----------
    partial : int, from 1

    Returns
    -------
    int, semitones

    Examples
    --------
    >>> [partial_semitones(n) for n in (1, 2, 3, 4, 5, 6, 7)]
    [0, 12, 19, 24, 28, 31, 34]
    """
    return round(12 * math.log2(partial))


def mechanism(
    instrument: Instrument, fingering: Fingering, fitted: Collection[str] | None = None
) -> Mechanism:
    """Follow the keywork from the touches of a fingering to its open holes.

    A momentary touch does not count: it is no part of the steady fingering. A half-holed touch
    counts as pressed, but for the holes that it leaves half open.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering
    fitted : collection of str, optional
        Optional touches and fittings of the instrument in hand. Default: what is usually fitted.

    Returns
    -------
    Mechanism

    Notes
    -----
    `plain` is the rule of the first open hole: enough to check a chart of plain, forked and
    palm fingerings; split forms, where an open hole above closed ones serves as a vent, sound
    otherwise and are marked so in the catalogue.
    """
    touches = fingering.full | fingering.half
    holes = instrument.holes_as_fitted(fitted)
    open_, half = [], []
    for hole in holes:
        if not fingering.half.isdisjoint(hole.half) and touches.isdisjoint(
            set(hole.moved_by) - set(hole.half)
        ):
            half.append(hole)
        elif hole.is_open(touches):
            open_.append(hole)
    tones = [hole for hole in open_ if hole.sounds is not None]
    below = [hole for hole in tones if not (hole.vents and _closed_below(holes, hole, open_))]
    return Mechanism(
        open_holes=tuple(hole.name for hole in tones),
        half_holes=tuple(hole.name for hole in half),
        open_vents=tuple(hole.name for hole in holes if hole in half or (hole in open_ and not hole.sounds)),
        plain=(tones[0].sounds if tones else None) or instrument.bell,
        tube=(below[0].sounds if below else None) or instrument.bell,
        forked=bool(tones) and _closed_below(holes, tones[0], open_),
    )


def _closed_below(holes: Sequence[ToneHole], vent: ToneHole, open_: list[ToneHole]) -> bool:
    """Whether the next hole below that rests open is closed: only then is an open hole a vent."""
    below = holes[holes.index(vent) + 1 :]
    following = next((hole for hole in below if hole.rest == "open"), None)
    return following is not None and following not in open_


def partials_of(instrument: Instrument) -> list[int]:
    """Partials that the instrument's tube has, up to the eighth.

    Parameters
    ----------
    instrument : Instrument

    Returns
    -------
    list of int, 1 to 8
    """
    return [partial for partial in PARTIALS if instrument.partials == "all" or partial % 2]


def may_sound(instrument: Instrument, fingering: Fingering) -> dict[int, list[int]]:
    """Written semitones that a fingering may give, with the partials that give them.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering

    Returns
    -------
    dict of semitone number to list of int
        The first partial only where no vent is open; from the third partial on also those of the
        tube whose open upper holes serve as vents. Rounded to the nearest semitone.
    """
    read = mechanism(instrument, fingering)
    found: dict[int, list[int]] = {}
    for partial in partials_of(instrument):
        if partial == 1 and first_register_vents(instrument, read):
            continue
        for base in {read.plain.midi, read.tube.midi} if partial >= 3 else {read.plain.midi}:
            found.setdefault(base + partial_semitones(partial), []).append(partial)
    return found


def first_register_vents(instrument: Instrument, read: Mechanism) -> tuple[str, ...]:
    """Vents that stand open and do not let the first register sound.

    Parameters
    ----------
    instrument : Instrument
    read : Mechanism

    Returns
    -------
    tuple of str
        Names of holes.
    """
    spared = {hole.name for hole in instrument.holes if hole.spares}
    return tuple(name for name in read.open_vents if name not in spared)


def usual_note(instrument: Instrument, fingering: Fingering) -> Pitch:
    """The note that the keywork gives a fingering: the first register, or the next with an open vent.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering

    Returns
    -------
    Pitch
    """
    read = mechanism(instrument, fingering)
    partial = partials_of(instrument)[1] if read.open_vents else 1
    return spell(read.plain.midi + partial_semitones(partial))


def missing(
    instrument: Instrument, fingering: Fingering, requires: frozenset[str], fitted: frozenset[str]
) -> frozenset[str]:
    """What a fingering needs and the instrument in hand lacks: optional touches and fittings.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering
    requires : frozenset of str
        Touches and fittings that its row names.
    fitted : frozenset of str
        Optional touches and fittings that are there.

    Returns
    -------
    frozenset of str
    """
    return ((fingering.touches & instrument.optional_touches) | requires) - fitted


def unholdable(instrument: Instrument, fingering: Fingering) -> list[str]:
    """Say which fingers are asked for more than they can hold at once.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering

    Returns
    -------
    list of str
        One sentence for each such finger; empty if the hands can hold the fingering.
    """
    complaints = []
    for finger in instrument.fingers:
        held = [touch for touch in instrument.reach(finger) if touch.name in fingering.touches]
        if not finger.can_hold(frozenset(touch.name for touch in held)):
            names = " and ".join(touch.label for touch in held)
            complaints.append(f"{finger.name} cannot hold {names} at once")
        complaints += [
            f"{touch.label} cannot be half-holed"
            for touch in held
            if touch.name in fingering.half and not touch.half
        ]
    return complaints
