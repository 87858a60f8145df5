"""The parts of an instrument: fingers, touches, what is fitted, tone holes and what moves them."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

from core.errors import InstrumentError
from core.music.pitch import Pitch

HANDS = ("left", "right")
DIGITS = ("thumb", "palm", "index", "middle", "ring", "little", "side", "lever")
# Digits with a place of their own in the stack; digits that roll onto further touches and keep the first.
STACK_DIGITS = ("index", "middle", "ring")
ROLLING_DIGITS = ("palm", "side")
# What is set once for a stretch of music, and stays by itself: no finger holds it.
LEVER = "lever"


@dataclass(frozen=True)
class Finger:
    """A finger, thumb, palm or side of a hand, in the order the drawing shows them.

    Parameters
    ----------
    name : str
        Short name, such as ``L1``'s finger ``left index``.
    hand : {'left', 'right'}
    digit : one of `DIGITS`
    together : tuple of frozenset of str
        Touches that it can hold at once; of any two touches not in one of these it holds one.
    rolls : tuple of tuple of str
        Touches between which it rolls without breaking a slur, as they lie; between others it has to jump.
    """

    name: str
    hand: str
    digit: str
    together: tuple[frozenset[str], ...] = ()
    rolls: tuple[tuple[str, ...], ...] = ()

    def __post_init__(self) -> None:
        if self.hand not in HANDS or self.digit not in DIGITS:
            raise InstrumentError(f"finger {self.name!r} must have a hand and a digit, got {self}")

    def jumps(self, one: str, other: str) -> bool:
        """Whether the way from one of its touches to another breaks a slur.

        Parameters
        ----------
        one : str
            Name of a touch.
        other : str
            Name of another of its touches.

        Returns
        -------
        bool
        """
        return not any({one, other} <= set(group) for group in (*self.together, *self.rolls))

    def can_hold(self, touches: frozenset[str]) -> bool:
        """Whether it can hold these of its touches at the same time.

        Parameters
        ----------
        touches : frozenset of str
            Names of the touches pressed.

        Returns
        -------
        bool
        """
        return len(touches) <= 1 or any(touches <= group for group in self.together)


@dataclass(frozen=True)
class Touch:
    """What a finger presses.

    Parameters
    ----------
    name : str
        Name used in fingerings; no spaces.
    finger : str
        Name of the finger that holds it.
    label : str
        How a teacher says it: "side B-flat".
    short : str
        At most three characters, for the drawing.
    column : int, -2 to 3
        Place along the finger's lane in the order the finger meets them; 0 is its home.
    row : int, 0 or 1
        Second row of the lane, for a thumb with more touches than one row holds.
    at : (float, float)
        Place on the drawing of the instrument: 0 at the reed to 100 at the bell, and across from
        -2 (left hand's side) to 2 (right hand's side); 3 is the back, where the thumbs are.
    optional : bool
        Not fitted on every instrument of this model.
    usual : bool
        Whether an optional touch is fitted more often than not.
    half : bool
        Whether it can be half-holed.
    heavy : bool
        Whether it works a large pad, or several, against a stiff spring.
    spelled : tuple of str
        Other ways in which charts name it.
    """

    name: str
    finger: str
    label: str
    short: str
    column: int
    row: int = 0
    at: tuple[float, float] = (0.0, 0.0)
    optional: bool = False
    usual: bool = True
    half: bool = False
    heavy: bool = False
    spelled: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.name or set(self.name) & set(" |/!"):
            raise InstrumentError(f"a touch's name must have no space, bar or mark, got {self.name!r}")
        if not -2 <= self.column <= 3:
            raise InstrumentError(f"column of touch {self.name!r} must be from -2 to 3, got {self.column}")
        if self.row not in (0, 1):
            raise InstrumentError(f"row of touch {self.name!r} must be 0 or 1, got {self.row}")
        if len(self.at) != 2 or not (0 <= self.at[0] <= 100 and -2 <= self.at[1] <= 3):
            raise InstrumentError(f"touch {self.name!r} must lie on the instrument, got {self.at}")


@dataclass(frozen=True)
class Fitting:
    """A mechanism without a touch of its own that not every instrument has.

    Parameters
    ----------
    modelled : bool
        Whether the tone holes of the data show what it does.
    """

    name: str
    label: str
    usual: bool = True
    modelled: bool = True


@dataclass(frozen=True)
class Added:
    """What a fitting adds to the keywork of a hole: more touches that move it, or that keep it at rest."""

    fitting: str
    moved_by: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()


@dataclass(frozen=True)
class ToneHole:
    """A tone hole or vent and the keywork that moves its pad.

    Parameters
    ----------
    name : str
    rest : {'open', 'closed'}
        Its state when no touch is pressed.
    moved_by : tuple of str
        Any of these touches moves it from rest.
    only_with, unless : tuple of str
        The move happens only with, or not with, any of these touches pressed.
    sounds : Pitch or None
        Written pitch of the first register when this is the first open tone hole; None for a vent.
    half : tuple of str
        Touches that leave it half open when they are half-holed.
    vents : bool
        Open above closed holes it may serve as a vent for the third partial and higher.
    fitting : str
        Fitting without which it stays at rest; empty for none.
    added : tuple of Added
        What fittings add to its keywork.
    spares : bool
        A vent so small that the first register sounds with it open, only less safely.
    """

    name: str
    rest: str
    moved_by: tuple[str, ...]
    only_with: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()
    sounds: Pitch | None = None
    half: tuple[str, ...] = ()
    vents: bool = False
    fitting: str = ""
    added: tuple[Added, ...] = ()
    spares: bool = False

    def __post_init__(self) -> None:
        if self.rest not in ("open", "closed"):
            raise InstrumentError(f"tone hole {self.name!r} must rest open or closed, got {self.rest!r}")

    def as_fitted(self, fitted: Collection[str]) -> ToneHole:
        """The hole with the keywork that these fittings give it.

        Parameters
        ----------
        fitted : collection of str
            Optional touches and fittings that are there.

        Returns
        -------
        ToneHole
        """
        if self.fitting and self.fitting not in fitted:
            return replace(self, moved_by=(), half=(), added=())
        here = [more for more in self.added if more.fitting in fitted]
        if not here:
            return self
        moved_by, unless = self.moved_by, self.unless
        for more in here:
            moved_by, unless = moved_by + more.moved_by, unless + more.unless
        return replace(self, moved_by=moved_by, unless=unless, added=())

    def is_open(self, touches: frozenset[str]) -> bool:
        """Whether the hole is open with these touches pressed.

        Parameters
        ----------
        touches : frozenset of str
            Names of the touches pressed.

        Returns
        -------
        bool
        """
        moved = not touches.isdisjoint(self.moved_by)
        if self.only_with and touches.isdisjoint(self.only_with):
            moved = False
        if not touches.isdisjoint(self.unless):
            moved = False
        return moved != (self.rest == "open")


@dataclass(frozen=True)
class Register:
    """A part of the range as teachers name it, from its lowest written pitch up to the next.

    Parameters
    ----------
    stays : tuple of str
        Touches that alter its notes little: those of a hand stay down throughout, or up.
    """

    name: str
    low: Pitch
    stays: tuple[str, ...] = ()


@dataclass(frozen=True)
class Rest:
    """Touches that may stay down, together, on fingerings that do not need them.

    Parameters
    ----------
    touches : tuple of str
        None: it is `instead` alone that is let go.
    says : str
        What stays down, in a teacher's words.
    register : str
        The only register whose notes may have them though a hole further down is moved by them; empty: they
        rest only where they move nothing.
    beside : tuple of str
        Touches of which one must be down already: fingers that stand on both.
    instead : tuple of str
        Touches that are let go for it: those of which it does the work.
    needs : tuple of str
        Fittings without which it does not rest there.
    """

    touches: tuple[str, ...]
    says: str
    register: str = ""
    beside: tuple[str, ...] = ()
    instead: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()

    @property
    def mark(self) -> str:
        """What ids of rows with it end in."""
        return "+".join(self.touches) or f"no-{'-'.join(self.instead)}"


@dataclass(frozen=True)
class Form:
    """A way in which fingerings of the top register are built: front, split, open, palm, overblown.

    Parameters
    ----------
    low, high : Pitch or None
        Written notes from which and up to which it is told apart; None: without a bound.
    pressed, lifted : tuple of str
        Touches that are all down, and that are all up.
    one_of : tuple of str
        Touches of which at least one is down; no condition if empty.
    """

    name: str
    low: Pitch | None = None
    high: Pitch | None = None
    pressed: tuple[str, ...] = ()
    lifted: tuple[str, ...] = ()
    one_of: tuple[str, ...] = ()

    def fits(self, touches: frozenset[str], written_pitch: Pitch) -> bool:
        """Whether touches pressed for a written note are built so.

        Parameters
        ----------
        touches : frozenset of str
            Names of the touches pressed.
        written_pitch : Pitch

        Returns
        -------
        bool
        """
        if (self.low and written_pitch.midi < self.low.midi) or (
            self.high and written_pitch.midi > self.high.midi
        ):
            return False
        return (
            touches >= set(self.pressed)
            and touches.isdisjoint(self.lifted)
            and (not self.one_of or not touches.isdisjoint(self.one_of))
        )


@dataclass(frozen=True)
class Outline:
    """How the drawing of the body shows the tube: half widths in the units of that drawing.

    Parameters
    ----------
    bore : (float, float)
        Below the reed and above the bell.
    bell : float
    """

    bore: tuple[float, float] = (8.0, 12.0)
    bell: float = 20.0
