"""What can go wrong in the core, by meaning.

::

    CoreError
    ├── NumberError         what was typed is no number, or may be two
    ├── PitchError          a pitch or tuning reference that cannot be
    ├── InstrumentError     an instrument's data contradicts itself
    ├── FingeringError      touches that the instrument or the hand does not have
    ├── CatalogueError      a fingering chart that cannot be trusted as it stands
    ├── EvidenceError       a reading or judgement that cannot be
    ├── AcousticsError      dimensions that cannot be, or no chain of playable steps
    ├── VoicingError        a voicing guide that cannot be read
    ├── PassageError        a passage beyond the stated limits
    ├── NotationError       a score that cannot be read; says bar and beat where there is one
    ├── RouteError          a choice that was asked for and cannot be had
    ├── PracticeError       an attempt or a plan that cannot be
    └── ArchiveError        data that cannot be read, or cannot be told without loss

A note without a usable fingering is not an error: it is a gap in the route.
"""

from __future__ import annotations

from fractions import Fraction


class CoreError(ValueError):
    """Base of all errors of the core; its text is fit to be shown to a teacher."""


class NumberError(CoreError):
    """What was typed is no number, or can be read in two ways."""


class PitchError(CoreError):
    """A pitch or tuning reference outside what can be."""


class InstrumentError(CoreError):
    """An instrument's data contradicts itself."""


class FingeringError(CoreError):
    """Touches that the instrument does not have or the hand cannot hold."""


class CatalogueError(CoreError):
    """A row of a fingering chart that cannot be read or is contradicted."""


class EvidenceError(CoreError):
    """A reading or judgement that cannot be."""


class AcousticsError(CoreError):
    """Dimensions that contradict themselves or the keywork, or no chain of playable steps."""


class VoicingError(CoreError):
    """A voicing guide that cannot be read."""


class PassageError(CoreError):
    """A passage beyond the stated limits."""


class RouteError(CoreError):
    """A pinned fingering that the note does not have."""


class PracticeError(CoreError):
    """An attempt, or a plan, that cannot be."""


class ArchiveError(CoreError):
    """Data of a file that cannot be read, or that a file cannot hold."""


class NotationError(CoreError):
    """A score that cannot be read.

    Parameters
    ----------
    message : str
        What is wrong and what to do.
    bar : int or None
        Bar, counted from 1.
    beat : Fraction or None
        Beat within the bar, counted from 1 in units of the time signature.
    """

    def __init__(self, message: str, bar: int | None = None, beat: Fraction | None = None) -> None:
        self.bar, self.beat = bar, beat
        super().__init__(f"{bar_and_beat(bar, beat)}: {message}" if bar is not None else message)


def bar_and_beat(bar: int | None, beat: Fraction | None) -> str:
    """Name a place in a score the way it is said in a rehearsal.

    Parameters
    ----------
    bar : int or None, from 1
        None for the whole score.
    beat : Fraction or None

    Returns
    -------
    str

    Examples
    --------
    >>> bar_and_beat(7, Fraction(5, 2))
    'Bar 7, beat 2½'
    """
    if beat is None:
        return f"Bar {bar}"
    whole, rest = divmod(beat, 1)
    glyphs = {Fraction(1, 2): "½", Fraction(1, 4): "¼", Fraction(3, 4): "¾", Fraction(1, 3): "⅓"}
    glyphs[Fraction(2, 3)] = "⅔"
    tail = glyphs.get(rest, f" {rest}" if rest else "")
    return f"Bar {bar}, beat {whole}{tail}"
