"""How teachers voice: cues by part of the range and school, and checks of whether the voicing is free."""

from __future__ import annotations

import tomllib
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

from core.errors import VoicingError
from core.evidence.in_hand import InstrumentInHand
from core.instruments.instrument import Instrument
from core.music.pitch import Pitch

ZONES = ("low", "middle", "high", "top")
ABOUT = ("tongue", "vowel", "mouthpiece", "reed", "lip")


@dataclass(frozen=True)
class Cue:
    """What to do: about tongue, vowel, mouthpiece, reed or lip; position is the school's, empty for all."""

    zones: tuple[str, ...]
    about: str
    text: str
    position: str = ""
    families: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.about not in ABOUT:
            raise VoicingError(f"a cue must be about one of {', '.join(ABOUT)}, got {self.about!r}")


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
    """Cues and checks for every family; `zones` says which part of the range a register belongs to."""

    caution: str
    zones: Mapping[str, Mapping[str, str]]
    cues: tuple[Cue, ...]
    checks: tuple[Check, ...]

    def zone_of(self, instrument: Instrument, note: Pitch) -> str:
        """The part of the range in which a written note lies; by its place among the registers if unsaid."""
        register = instrument.register_of(note)
        stated = self.zones.get(instrument.family, {}).get(register.name)
        place = instrument.registers.index(register)
        share = place / max(1, len(instrument.registers) - 1)
        return stated or ZONES[round(share * (len(ZONES) - 1))]

    def cues_for(self, in_hand: InstrumentInHand, note: Pitch) -> list[Cue]:
        """Cues for a written note, in the order of `ABOUT`.

        Where schools differ each stands by itself, unless the teacher follows one of them.
        """
        zone = self.zone_of(in_hand.instrument, note)
        here = [
            cue
            for cue in self.cues
            if zone in cue.zones
            and _for(cue, in_hand.instrument)
            and not in_hand.schools.set_aside(cue.position, in_hand.positions)
        ]
        return sorted(here, key=lambda cue: ABOUT.index(cue.about))

    def check_positions(self, known: Collection[str]) -> None:
        """Hold the positions of cues against those that there are.

        Raises
        ------
        VoicingError
            If a cue belongs to a position that is not among them.
        """
        unknown = sorted({cue.position for cue in self.cues if cue.position} - set(known))
        if unknown:
            raise VoicingError(f"a cue must belong to a position of a school, got {unknown}")

    def checks_for(self, instrument: Instrument) -> list[Check]:
        return [check for check in self.checks if _for(check, instrument)]


def _for(row: Cue | Check, instrument: Instrument) -> bool:
    return not row.families or instrument.family in row.families


def parse_guide(text: str) -> Guide:
    """Read a guide from TOML.

    Raises
    ------
    VoicingError
        If it cannot be read.
    """
    try:
        data = tomllib.loads(text)
        cues = tuple(Cue(**_tuples(row)) for row in data["cue"])
        checks = tuple(Check(**_tuples(row)) for row in data["check"])
        return Guide(data["caution"], data["zone"], cues, checks)
    except (tomllib.TOMLDecodeError, KeyError, TypeError) as error:
        raise VoicingError(f"the voicing guide cannot be read: {error}") from error


def _tuples(row: Mapping[str, Any]) -> dict[str, Any]:
    return {name: tuple(value) if isinstance(value, list) else value for name, value in row.items()}
