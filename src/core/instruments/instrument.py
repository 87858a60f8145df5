"""Instruments as data: fingers, the touches each can reach, tone holes and what moves them.

The data is TOML text (`core.instruments.instrument_format`); every object checks itself when made, so that an
`Instrument` in hand is one that does not contradict itself.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from core.errors import InstrumentError
from core.instruments.parts import Finger, Fitting, Form, Outline, Register, Rest, ToneHole, Touch
from core.music.pitch import Interval, Pitch, spell

CLEFS = ("treble", "tenor", "bass")
# Fingerings and music are accepted so many semitones above the notes that charts reach.
ACCEPTED_ABOVE = 12

PLAIN_OUTLINE = Outline()


@dataclass(frozen=True)
class Instrument:
    """One model of instrument: what hands reach, what opens, how it transposes.

    Parameters
    ----------
    family : str
        Name of the instrument's family, such as ``saxophone``.
    partials : {'all', 'odd'}
        Which partials its tube has: a cone all, a cylinder closed at one end the odd ones.
    clefs : tuple of str
        Clefs in which it is written, the usual one first.
    charts : tuple of str
        Names of the charts that make up its catalogue, from the general to the particular.
    written_low, written_high : Pitch
        Range of written pitches in which every note has fingerings, or at least leads.
    to_sounding : Interval
        From written to sounding pitch.
    bell : Pitch
        Written pitch with every tone hole closed.
    holes : tuple of ToneHole
        From the reed downward; the order decides which open hole is the first.
    registers : tuple of Register
        From the lowest up; what lies below the first belongs to it.
    loud_above : Pitch or None
        Above this written note it is loud at close range and asks much of the lip; None: above the first
        note of its highest register.
    rests : tuple of Rest
        Touches that may stay down on fingerings that do not need them.
    forms : tuple of Form
        How fingerings of its top register are built; the first that fits counts.
    between : str
        What stands between reed and bore, as teachers call it.
    in_text : str
        How it is called within a sentence; by default its label with a small first letter.
    """

    name: str
    label: str
    family: str
    written_low: Pitch
    written_high: Pitch
    to_sounding: Interval
    bell: Pitch
    partials: str
    clefs: tuple[str, ...]
    charts: tuple[str, ...]
    fingers: tuple[Finger, ...]
    touches: tuple[Touch, ...]
    holes: tuple[ToneHole, ...]
    fittings: tuple[Fitting, ...] = ()
    registers: tuple[Register, ...] = ()
    loud_above: Pitch | None = None
    outline: Outline = PLAIN_OUTLINE
    forms: tuple[Form, ...] = ()
    rests: tuple[Rest, ...] = ()
    between: str = "mouthpiece"
    in_text: str = ""

    def __post_init__(self) -> None:
        for kind, names in {
            "finger": [finger.name for finger in self.fingers],
            "touch": [touch.name for touch in self.touches],
            "tone hole": [hole.name for hole in self.holes],
        }.items():
            if len(set(names)) != len(names) or not names:
                raise InstrumentError(f"{self.name}: each {kind} must be named once, got {names}")
        finger_names = {finger.name for finger in self.fingers}
        for touch in self.touches:
            if touch.finger not in finger_names:
                raise InstrumentError(f"touch {touch.name!r} must have a finger, got {touch.finger!r}")
        known = set(self.touch_by_name)
        for hole in self.holes:
            named = {*hole.moved_by, *hole.only_with, *hole.unless, *hole.half}
            named |= {touch for more in hole.added for touch in (*more.moved_by, *more.unless)}
            self._check_known(hole.name, named, known)
            for fitting in (hole.fitting, *(more.fitting for more in hole.added)):
                if fitting and fitting not in self.optional:
                    raise InstrumentError(f"{hole.name!r} names a fitting it does not have: {fitting!r}")
        self._check_named(known)
        self._check_range()

    def _check_named(self, known: set[str]) -> None:
        for rest in self.rests:
            self._check_known("rest", rest.touches, known)
            self._check_known("rest", {rest.register} - {""}, {register.name for register in self.registers})
        for form in self.forms:
            self._check_known(form.name, {*form.pressed, *form.lifted, *form.one_of}, known)
        for register in self.registers:
            self._check_known(register.name, register.stays, known)
        for finger in self.fingers:
            reach = {touch.name for touch in self.touches if touch.finger == finger.name}
            for group in (*finger.together, *finger.rolls):
                self._check_known(finger.name, group, reach)

    def _check_range(self) -> None:
        if self.written_low.midi >= self.written_high.midi:
            raise InstrumentError(f"{self.name}: written_low must lie below written_high")
        if self.partials not in ("all", "odd"):
            raise InstrumentError(f"{self.name}: partials must be all or odd, got {self.partials!r}")
        lows = [register.low.midi for register in self.registers]
        if lows != sorted(set(lows)) or not lows:
            raise InstrumentError(f"{self.name}: registers must be given from the lowest up")
        if not self.clefs or not set(self.clefs) <= set(CLEFS):
            raise InstrumentError(f"{self.name}: clefs must be of {', '.join(CLEFS)}, got {self.clefs}")

    @staticmethod
    def _check_known(where: str, names: Iterable[str], known: set[str]) -> None:
        unknown = sorted(set(names) - known)
        if unknown:
            raise InstrumentError(f"{where!r} names touches it does not have: {unknown}")

    @cached_property
    def touch_by_name(self) -> Mapping[str, Touch]:
        """Touches by their names, in the order of the hands."""
        return {touch.name: touch for touch in self.touches}

    @cached_property
    def _finger_by_name(self) -> Mapping[str, Finger]:
        return {finger.name: finger for finger in self.fingers}

    @cached_property
    def lanes(self) -> npt.NDArray[np.float32]:
        """Which finger each touch belongs to, 0 or 1; shape (n_touches, n_fingers)."""
        lane = [[touch.finger == finger.name for finger in self.fingers] for touch in self.touches]
        return np.array(lane, dtype=np.float32)

    @cached_property
    def beside(self) -> npt.NDArray[np.float32]:
        """Which touches lie beside each other: a finger can hold both, or rolls; shape (n_touches,) * 2."""

        def near(one: Touch, other: Touch) -> bool:
            alike = one is not other and one.finger == other.finger
            return alike and not self.finger(one.finger).jumps(one.name, other.name)

        return np.array(
            [[near(one, other) for other in self.touches] for one in self.touches], dtype=np.float32
        )

    def finger(self, name: str) -> Finger:
        """A finger by its name.

        Parameters
        ----------
        name : str
            As ``left index``.

        Returns
        -------
        Finger
        """
        return self._finger_by_name[name]

    def reach(self, finger: Finger) -> tuple[Touch, ...]:
        """The touches of one finger, in the order of the data.

        Parameters
        ----------
        finger : Finger

        Returns
        -------
        tuple of Touch
        """
        return self._reach[finger.name]

    @cached_property
    def _reach(self) -> Mapping[str, tuple[Touch, ...]]:
        return {
            finger.name: tuple(touch for touch in self.touches if touch.finger == finger.name)
            for finger in self.fingers
        }

    @cached_property
    def optional_touches(self) -> frozenset[str]:
        """Names of the touches that an instrument of this model may lack."""
        return frozenset(touch.name for touch in self.touches if touch.optional)

    @cached_property
    def optional(self) -> Mapping[str, str]:
        """What may be missing, touches and fittings: its label by its name."""
        touches = {touch.name: touch.label for touch in self.touches if touch.optional}
        return touches | {fitting.name: fitting.label for fitting in self.fittings}

    def holes_as_fitted(self, fitted: Collection[str] | None = None) -> tuple[ToneHole, ...]:
        """The tone holes with the keywork that fittings give them; by default those usually fitted.

        Parameters
        ----------
        fitted : collection of str, optional
            Names of fittings.

        Returns
        -------
        tuple of ToneHole
        """
        key = self._fitting_names & (self.usually_fitted if fitted is None else set(fitted))
        found = self._holes_fitted.get(key)
        if found is None:
            found = self._holes_fitted[key] = tuple(hole.as_fitted(key) for hole in self.holes)
        return found

    @cached_property
    def _fitting_names(self) -> frozenset[str]:
        return frozenset(fitting.name for fitting in self.fittings)

    @cached_property
    def _holes_fitted(self) -> dict[frozenset[str], tuple[ToneHole, ...]]:
        return {}

    def labels(self, names: Iterable[str]) -> str:
        """What may be missing, as it is said: "high E and resonance vent"; empty for none.

        Parameters
        ----------
        names : iterable of str
            Names of touches and fittings.

        Returns
        -------
        str
        """
        return " and ".join(sorted(self.optional[name] for name in names))

    @cached_property
    def unmodelled(self) -> frozenset[str]:
        """Fittings of which the tone holes do not show what they do."""
        return frozenset(fitting.name for fitting in self.fittings if not fitting.modelled)

    @cached_property
    def usually_fitted(self) -> frozenset[str]:
        """What of it is fitted more often than not."""
        touches = {touch.name for touch in self.touches if touch.optional and touch.usual}
        return frozenset(touches | {fitting.name for fitting in self.fittings if fitting.usual})

    @property
    def noun(self) -> str:
        """How it is called within a sentence: "clarinet in B-flat"."""
        return self.in_text or self.label[:1].lower() + self.label[1:]

    @property
    def semitones(self) -> range:
        """Every written semitone of its range, from low to high."""
        return range(self.written_low.midi, self.written_high.midi + 1)

    @property
    def span(self) -> str:
        """Its written range in words."""
        return f"{self.written_low} to {self.written_high}"

    @property
    def accepted(self) -> range:
        """Every written semitone that is accepted: players go farther up than charts do."""
        return range(self.written_low.midi, self.written_high.midi + ACCEPTED_ABOVE + 1)

    @property
    def accepted_span(self) -> str:
        """The written range that is accepted, in words."""
        return f"{self.written_low} to {spell(self.accepted[-1])}"

    @property
    def middle(self) -> Pitch:
        """The note in the middle of its written range."""
        return spell((self.written_low.midi + self.written_high.midi) // 2)

    def is_loud(self, written_pitch: Pitch) -> bool:
        """Whether a written note is among the high ones that want care of ears and lip.

        Parameters
        ----------
        written_pitch : Pitch

        Returns
        -------
        bool
        """
        return written_pitch.midi > (self.loud_above or self.registers[-1].low).midi

    def accepts(self, written_pitch: Pitch) -> bool:
        """Whether music and fingerings of a written note are taken.

        Parameters
        ----------
        written_pitch : Pitch

        Returns
        -------
        bool
        """
        return written_pitch.midi in self.accepted

    def form_of(self, touches: frozenset[str], written_pitch: Pitch) -> str:
        """How touches for a written note are built; empty where the instrument tells no forms apart.

        Parameters
        ----------
        touches : frozenset of str
            Names of the touches pressed.
        written_pitch : Pitch

        Returns
        -------
        str
        """
        return next((form.name for form in self.forms if form.fits(touches, written_pitch)), "")

    def register_of(self, written_pitch: Pitch) -> Register:
        """The register in which a written pitch lies.

        Parameters
        ----------
        written_pitch : Pitch

        Returns
        -------
        Register
        """
        begun = [register for register in self.registers if register.low.midi <= written_pitch.midi]
        return begun[-1] if begun else self.registers[0]
