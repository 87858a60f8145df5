"""What each finger does between two fingerings, as data and as a teacher would say it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from core.instruments.actions import ACTIONS, Action, finger_actions, grips
from core.instruments.fingering import Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.naming import Naming, labelled
from core.instruments.parts import HANDS, STACK_DIGITS, Finger

PLURAL = {Action.LIFTS: "lift", Action.PRESSES: "press"}


@dataclass(frozen=True)
class FingerMove:
    """The move of one finger.

    Parameters
    ----------
    kept, left, taken : tuple of str
        Touches held throughout, let go, and newly pressed. A touch whose hold changes between
        full and half is both left and taken.
    held : Held or None
        How the touch newly taken is held.
    """

    finger: Finger
    action: Action
    kept: tuple[str, ...]
    left: tuple[str, ...]
    taken: tuple[str, ...]
    held: Held | None = None


@dataclass(frozen=True)
class Move:
    """What happens between two fingerings, finger by finger, resting fingers left out."""

    fingers: tuple[FingerMove, ...]
    sentence: str

    @property
    def touches(self) -> dict[str, str]:
        """For each touch concerned: stays, lifts, presses, slides-from, slides-to, rolls or flicks."""
        marks: dict[str, str] = {}
        for move in self.fingers:
            crosses = move.action in (Action.SLIDES, Action.ROLLS)
            marks |= dict.fromkeys(move.kept, "stays")
            marks |= dict.fromkeys(move.left, "slides-from" if crosses else "lifts")
            marks |= dict.fromkeys(move.taken, "slides-to" if crosses else "presses")
            if move.action in (Action.TILTS, Action.FLICKS):
                marks |= dict.fromkeys(move.taken, "rolls" if move.action is Action.TILTS else "flicks")
        return marks


def move_between(
    before: Fingering, after: Fingering, instrument: Instrument, naming: Naming = Naming.EACH_HAND
) -> Move:
    """Describe the move from one fingering to another.

    A momentary touch of the first has long been let go; one of the second is flicked.

    Parameters
    ----------
    before, after : Fingering
    instrument : Instrument
    naming : Naming

    Returns
    -------
    Move
        Fingers in the order of the instrument's lanes.
    """
    held = grips(instrument, (before, after), (None, None))
    did = finger_actions(instrument, held[0], held[1]).did
    moves = tuple(
        move
        for finger, action in zip(instrument.fingers, did.tolist(), strict=True)
        if (move := _finger_move(finger, ACTIONS[action], before, after, instrument)) is not None
    )
    return Move(moves, _sentence(moves, instrument, naming))


def _finger_move(
    finger: Finger, action: Action, before: Fingering, after: Fingering, instrument: Instrument
) -> FingerMove | None:
    reach = [touch.name for touch in instrument.reach(finger)]
    held = {name: (_steady(before.held(name)), after.held(name)) for name in reach}
    kept = tuple(name for name, (old, new) in held.items() if old is not None and old == new)
    left = tuple(name for name, (old, new) in held.items() if old is not None and old != new)
    taken = tuple(name for name, (old, new) in held.items() if new is not None and old != new)
    if not (kept or left or taken):
        return None
    how = after.held(next((name for name in taken if name in left), taken[0])) if taken else None
    return FingerMove(finger, action, kept, left, taken, how)


def _steady(held: Held | None) -> Held | None:
    return None if held is Held.MOMENTARY else held


def _sentence(moves: tuple[FingerMove, ...], instrument: Instrument, naming: Naming) -> str:
    if all(move.action is Action.STAYS for move in moves):
        return "Nothing moves."
    parts = []
    for hand in HANDS:
        here = [move for move in moves if move.finger.hand == hand]
        moving = [move for move in here if move.action is not Action.STAYS]
        if moving:
            parts.append(f"{hand.capitalize()} hand: {', '.join(_phrases(moving, instrument, naming))}")
        elif here:
            parts.append(f"{hand.capitalize()} hand stays")
    return ". ".join(parts) + "."


def _phrases(moving: list[FingerMove], instrument: Instrument, naming: Naming) -> list[str]:
    """One phrase a finger; fingers that do the same on their own touches share one."""
    phrases: list[str] = []
    together: dict[Action, list[str]] = {}
    for move in moving:
        if move.action in (Action.LIFTS, Action.PRESSES) and _at_home(move, instrument):
            together.setdefault(move.action, []).append(move.finger.digit)
    for move in moving:
        digits = together.get(move.action, [])
        if move.finger.digit not in digits or not _at_home(move, instrument):
            phrases.append(_phrase(move, instrument, naming))
        elif move.finger.digit == digits[0]:
            phrases.append(_shared(digits, move.action))
    return phrases


def _shared(digits: list[str], action: Action) -> str:
    if len(digits) == 1:
        return f"{digits[0]} finger {action}"
    return f"{', '.join(digits[:-1])} and {digits[-1]} fingers {PLURAL[action]}"


def _at_home(move: FingerMove, instrument: Instrument) -> bool:
    """Whether a stack finger moves on the one touch that needs no name."""
    names = move.left + move.taken
    return (
        move.finger.digit in STACK_DIGITS
        and not move.kept
        and all(instrument.touch_by_name[name].column == 0 for name in names)
    )


def _phrase(move: FingerMove, instrument: Instrument, naming: Naming) -> str:
    name = {"palm": "palm", "side": "side of the hand", "thumb": "thumb"}.get(
        move.finger.digit, f"{move.finger.digit} finger"
    )
    return f"{name} {does(move, instrument, naming)}"


def does(move: FingerMove, instrument: Instrument, naming: Naming = Naming.EACH_HAND) -> str:
    """What a finger does, in a teacher's words: "rolls from whisper to A vent".

    Parameters
    ----------
    move : FingerMove
    instrument : Instrument
    naming : Naming

    Returns
    -------
    str
    """

    def labels(names: Iterable[str]) -> str:
        *most, last = [labelled(instrument.touch_by_name[name], instrument, naming) for name in names] or [""]
        return f"{', '.join(most)} and {last}" if most else last

    left, taken = labels(move.left), labels(move.taken)
    match move.action:
        case Action.STAYS:
            return "stays"
        case Action.TILTS:
            return _tilted(move)
        case Action.FINDS:
            return "comes down on half of the hole"
        case Action.FLICKS:
            lets_go = f"lifts {left} and " if move.left else ""
            return f"{lets_go}flicks {taken} at the attack"
        case Action.SLIDES | Action.ROLLS:
            # on its rollers, too, a little finger is said to slide
            goes = Action.SLIDES if move.finger.digit == "little" else move.action
            return f"{goes} from {left} to {taken}"
        case Action.ADDS:
            tilts = f"{_tilted(move)} and " if move.left else ""
            return f"{tilts}adds {labels(touch for touch in move.taken if touch not in move.left)}"
        case Action.LETS_GO:
            return f"lets go of {labels(touch for touch in move.left if touch not in move.taken)}"
        case _:
            words = [f"lifts {left}"] if move.left else []
            return " and ".join([*words, f"presses {taken}"] if move.taken else words)


def _tilted(move: FingerMove) -> str:
    return f"rolls to {'a half hole' if move.held is Held.HALF else 'the full hole'}"
