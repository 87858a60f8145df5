"""The same music elsewhere: other keys and octaves, the family, other students' instruments."""

from dataclasses import dataclass

from bench.queries import Opened
from bench.screens.bench import At, note_at
from catalogue.in_hand import moves_on
from core.errors import CoreError
from core.evidence.in_hand import InstrumentInHand
from core.music.events import moved_events
from core.routes import solve as routes
from core.routes.elsewhere import SEMITONES, Measures, interval_for, key_words, measures
from core.words import counted

# Faults by which two places have to differ to be told apart.
SAME = 0.1
HARD_MOVES = ("hard", "hard link", "")


@dataclass(frozen=True)
class Elsewhere:
    """One place where the music could be played, and in a sentence what is gained and lost there."""

    words: str
    instrument: str
    semitones: int
    measures: Measures
    says: str
    here: bool


@dataclass(frozen=True)
class ElsewherePage(At):
    """The places in the order of how much they ask; what is out of every range is left out."""

    instrument: str
    rows: tuple[Elsewhere, ...]
    family: tuple[Elsewhere, ...]


def elsewhere_page(
    opened: Opened, there: InstrumentInHand, family: list[InstrumentInHand], note_id=""
) -> ElsewherePage:
    """Build the page.

    Parameters
    ----------
    there : InstrumentInHand
        On which other keys are tried.
    family : list of InstrumentInHand
        On which the music is tried as it is written.
    """
    name = "elsewhere", opened.settings.tempo_bpm, there
    rows, others = opened.solution().once(name, lambda: _tried(opened, there, family))
    return ElsewherePage(
        **vars(note_at(opened, note_id)), instrument=there.instrument.label, rows=rows, family=others
    )


def _tried(opened, there, family):
    now = measures(opened.solution().table)
    tried = [(there, semitones) for semitones in sorted((*SEMITONES, 0))]
    rows = [_row(opened, one, semitones, now) for one, semitones in tried]
    return _ranked(rows), _ranked([_row(opened, one, 0, now) for one in family])


def _ranked(rows):
    return tuple(sorted(filter(None, rows), key=lambda row: row.measures.rank))


def _row(opened, in_hand, semitones, now):
    """A row; None where the notes lie outside what can be written."""
    try:
        solution = opened.solution()
        interval = interval_for(solution.passage, semitones)
        events = moved_events(solution.passage, solution.events, interval)
        table = routes.solve(events, in_hand, moves_on(in_hand), weights=opened.settings.weights)
    except CoreError:
        return None
    found = measures(table)
    here = semitones == 0 and in_hand is opened.in_hand
    return Elsewhere(
        words=key_words(semitones),
        instrument=in_hand.instrument.label,
        semitones=semitones,
        measures=found,
        says="as it is now" if here else _says(found, now),
        here=here,
    )


def _says(found, now):
    """In one sentence what is gained and lost against where the music is now."""
    gains, losses = [], []
    for name, one, after in (("beyond", "note", "beyond reach"), ("edge", "note", "on the edge"), HARD_MOVES):
        more = getattr(found, name) - getattr(now, name)
        if more:
            (losses if more > 0 else gains).append(f"{counted(abs(more), one)} {after}".strip())
    gained = f"saves {', '.join(gains)}" if gains else ""
    lost = f"adds {', '.join(losses)}" if losses else ""
    if not gains and not losses:
        more = found.faults - now.faults
        words = f"{abs(more):.1f} faults {'more' if more > 0 else 'fewer'}"
        return words if abs(more) >= SAME else "about the same"
    return "; ".join(filter(None, (gained, lost)))
