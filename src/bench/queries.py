"""Reads: a passage as it stands on the bench, always for one teacher."""

from dataclasses import dataclass, replace

from django.db.models import Q

from bench.solution import Solution, solve
from catalogue.in_hand import of_usual
from catalogue.queries import of_instrument
from core.errors import CoreError
from core.evidence.in_hand import InstrumentInHand
from core.music.pitch import spell
from evidence.told import reach_counted
from passages.models import KeptPassage, State
from passages.queries import in_hand_for, state_of, stored_settings
from passages.settings import BenchSettings, possible
from studio.models import OwnedInstrument
from studio.refusals import refuse
from studio.shipped import family_of

VERSIONS, VERSIONS_MOST, CHANGES_SAID = 20, 60, 3


@dataclass(frozen=True)
class Opened:
    """A passage under one state of its bench, on the instrument in hand.

    Parameters
    ----------
    owned : OwnedInstrument or None
        The student's instrument, if it is one.
    """

    passage: KeptPassage
    state: State
    in_hand: InstrumentInHand
    settings: BenchSettings
    owned: OwnedInstrument | None = None

    @property
    def played_on(self) -> str:
        """Whose instrument, or which model."""
        if self.owned:
            return f"{self.owned.student.name}, {self.owned.name}"
        return self.in_hand.instrument.label

    @property
    def parent_settings(self):
        """Settings of the state before, as they hold on the same instrument; None for the first state."""
        parent = self.state.parent
        return parent and possible(self.in_hand, stored_settings(self.passage, parent))

    def solution(self) -> Solution:
        """Solved under its settings."""
        return self.solution_of(self.settings, after=self.parent_settings)

    def solution_of(self, settings, after=None) -> Solution:
        """Solved under other settings, which may follow some that are solved already.

        Raises
        ------
        ValidationError
            If the settings, or the passage on this instrument, ask for what cannot be.
        """
        try:
            return solve(self.in_hand, self.passage.musicxml, settings, before=after)
        except CoreError as error:
            raise refuse(error, "route") from error


def other_version(passage, state, number):
    """The state looked at by turns with one: by its number, else the one before, or the current one."""
    asked = state_of(passage, number) if number else None
    if asked is not None and asked.number != state.number:
        return asked
    return state.parent if state.number == passage.current.number else passage.current


def opened(passage, state, in_hand=None) -> Opened:
    """A passage under a state; `in_hand` is the student's instrument where it is at hand already."""
    settings = stored_settings(passage, state)
    in_hand = in_hand or in_hand_for(passage, settings.fitted)
    return Opened(passage, state, in_hand, possible(in_hand, settings), passage.owned)


def reach_on(opened):
    """The reach of the student by what was counted; None where nothing was, or it is for nobody."""
    return reach_counted(opened.owned, opened.in_hand) if opened.owned else None


def named(midi):
    """A written note in plain letters."""
    return spell(midi).ascii


def versions_of(passage):
    """States to choose from: those that were named, and the last ones; the newest first."""
    named = Q(name__gt="") | Q(number__gt=passage.current.number - VERSIONS)
    told = passage.states.filter(named).only("passage", "number", "what", "name")
    return told.order_by("-number")[:VERSIONS_MOST]


def since(passage, base) -> list[str]:
    """What was chosen since a state on the way to the current one, the first first."""
    whats, state = [], passage.current
    while state is not None and state.pk != base.pk and len(whats) < CHANGES_SAID:
        whats.append(state.what)
        state = state.parent
    return whats[::-1]


def other_side(opened, state, *, tempo_bpm=None, owned=None, positions=None) -> Opened:
    """A state as it would be at another tempo, on another instrument of the model, or as others teach."""
    settings = stored_settings(opened.passage, state)
    in_hand = of_instrument(owned) if owned else in_hand_for(opened.passage, settings.fitted)
    if positions is not None:
        in_hand = replace(in_hand, positions=frozenset(positions))
    if tempo_bpm is not None:
        settings = replace(settings, tempo_bpm=tempo_bpm)
    return Opened(opened.passage, state, in_hand, possible(in_hand, settings), owned or opened.owned)


def usual_of_family(in_hand):
    """The models of an instrument's family as they ship, with what is usually fitted."""
    return [of_usual(name) for name in family_of(in_hand.instrument.name)]
