"""How teachers voice: cues by part of the range and school, and checks of whether the voicing is free."""

from __future__ import annotations

import tomllib
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

from core.charts.schools import Position
from core.errors import PitchError, VoicingError
from core.evidence.in_hand import InstrumentInHand
from core.instruments.instrument import Instrument
from core.music.pitch import Pitch, parse_pitch

ZONES = ("low", "middle", "high", "top")
ABOUT = ("tongue", "vowel", "attack", "mouthpiece", "reed", "lip")


@dataclass(frozen=True)
class Cue:
    """What to do with tongue, vowel, attack, mouthpiece, reed or lip.

    Parameters
    ----------
    position : str
        The school's; empty where all agree. What a school calls a fault is never said without one.
    zones : tuple of str
        Parts of the range for which it is said.
    low, high : Pitch or None
        Written notes from which and up to which it is said, whatever their zone.
    """

    about: str
    text: str
    position: str = ""
    zones: tuple[str, ...] = ()
    low: Pitch | None = None
    high: Pitch | None = None
    families: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.about not in ABOUT:
            raise VoicingError(f"a cue must be about one of {', '.join(ABOUT)}, got {self.about!r}")
        if not self.zones and self.low is None:
            raise VoicingError(f"a cue must have zones, or a note from which it is said, got {self.text!r}")

    def is_for(self, zone: str, note: Pitch) -> bool:
        """Whether it is said of a written note in a zone.

        Parameters
        ----------
        zone : str
            Name of a zone.
        note : Pitch

        Returns
        -------
        bool
        """
        if self.low is None:
            return zone in self.zones
        return self.low.midi <= note.midi and (self.high is None or note.midi <= self.high.midi)


@dataclass(frozen=True)
class Check:
    """A test of the voicing: how it goes, what it tells, and the caution with it."""

    name: str
    how: str
    tells: str
    caution: str
    families: tuple[str, ...] = ()


@dataclass(frozen=True)
class Guide:
    """Cues and checks for every family.

    Parameters
    ----------
    zones : mapping of family to mapping of register to zone
    begins : mapping of family to mapping of zone to Pitch
        Written notes with which a zone begins within a register.
    """

    caution: str
    zones: Mapping[str, Mapping[str, str]]
    begins: Mapping[str, Mapping[str, Pitch]]
    cues: tuple[Cue, ...]
    checks: tuple[Check, ...]

    def zone_of(self, instrument: Instrument, note: Pitch) -> str:
        """The part of the range in which a written note lies; by its place among the registers if unsaid.

        Parameters
        ----------
        instrument : Instrument
        note : Pitch

        Returns
        -------
        str
        """
        register = instrument.register_of(note)
        stated = self.zones.get(instrument.family, {}).get(register.name)
        place = instrument.registers.index(register)
        share = place / max(1, len(instrument.registers) - 1)
        zone = stated or ZONES[round(share * (len(ZONES) - 1))]
        begun = self.begins.get(instrument.family, {})
        return max([zone, *(name for name, low in begun.items() if low.midi <= note.midi)], key=ZONES.index)

    def cues_for(self, in_hand: InstrumentInHand, note: Pitch) -> list[Cue]:
        """Cues for a written note, in the order of `ABOUT`.

        Where schools differ each stands by itself, unless the teacher follows one of them.

        Parameters
        ----------
        in_hand : InstrumentInHand
        note : Pitch

        Returns
        -------
        list of Cue
        """
        zone = self.zone_of(in_hand.instrument, note)
        here = [
            cue
            for cue in self.cues
            if cue.is_for(zone, note)
            and _for(cue, in_hand.instrument)
            and not in_hand.schools.set_aside(cue.position, in_hand.positions)
        ]
        return sorted(here, key=lambda cue: ABOUT.index(cue.about))

    def before(self, in_hand: InstrumentInHand, note: Pitch) -> list[Position]:
        """Positions that ask something of the student before the top of the range is begun, done or not.

        Where schools differ each stands by itself, unless the teacher follows one of them.

        Parameters
        ----------
        in_hand : InstrumentInHand
        note : Pitch

        Returns
        -------
        list of Position
        """
        if self.zone_of(in_hand.instrument, note) != "top":
            return []
        return [
            position
            for question in in_hand.schools.for_family(in_hand.instrument.family)
            for position in question.positions_for(in_hand.instrument.family)
            if position.before and not in_hand.schools.set_aside(position.name, in_hand.positions)
        ]

    def check_positions(self, known: Collection[str]) -> None:
        """Hold the positions of cues against those that there are.

        Parameters
        ----------
        known : collection of str
            Names of positions.

        Raises
        ------
        VoicingError
            If a cue belongs to a position that is not among them.
        """
        unknown = sorted({cue.position for cue in self.cues if cue.position} - set(known))
        if unknown:
            raise VoicingError(f"a cue must belong to a position of a school, got {unknown}")

    def checks_for(self, instrument: Instrument) -> list[Check]:
        """What to check before the high notes of an instrument.

        Parameters
        ----------
        instrument : Instrument

        Returns
        -------
        list of Check
        """
        return [check for check in self.checks if _for(check, instrument)]


def _for(row: Cue | Check, instrument: Instrument) -> bool:
    return not row.families or instrument.family in row.families


def parse_guide(text: str) -> Guide:
    """Read a guide from TOML.

    Parameters
    ----------
    text : str

    Returns
    -------
    Guide

    Raises
    ------
    VoicingError
        If it cannot be read.
    """
    try:
        data = tomllib.loads(text)
        cues = tuple(Cue(**_tuples(row)) for row in data["cue"])
        checks = tuple(Check(**_tuples(row)) for row in data["check"])
        begins = {
            family: {zone: parse_pitch(low) for zone, low in row.items()}
            for family, row in data.get("from", {}).items()
        }
        return Guide(data["caution"], data["zone"], begins, cues, checks)
    except (tomllib.TOMLDecodeError, KeyError, TypeError, PitchError) as error:
        raise VoicingError(f"the voicing guide cannot be read: {error}") from error


def _tuples(row: Mapping[str, Any]) -> dict[str, Any]:
    made = {name: tuple(value) if isinstance(value, list) else value for name, value in row.items()}
    return made | {name: parse_pitch(row[name]) for name in ("low", "high") if name in row}
