"""What was worked out of passages, kept by how much memory it takes: solutions and engravings."""

import numpy as np
from cachetools import cached
from cachetools.keys import hashkey

from core.music.passage import Passage
from core.routes.demands import Demands
from core.routes.faults import Faults, Qualities
from core.routes.timing import Timing
from drawing.engraving import Engraving, engrave, kept, kept_lock
from jobs import pool

# With the engravings (`drawing.engraving.KEPT_BYTES`) at most 150 MB.
SOLUTIONS_BYTES = 110_000_000
# From so many bars on another process sets the music, so that nobody else waits for it.
BARS_HERE = 32
# Of a solution, by note, about: events and candidates with all that refers to them.
NOTE_BYTES = 6_000


def array_bytes(things) -> int:
    """Bytes of all arrays in fields and collections, each counted once; what is shared by all is left out."""
    found, waiting = {}, list(things)
    while waiting:
        thing = waiting.pop()
        if isinstance(thing, np.ndarray):
            base = thing if thing.base is None else thing.base
            found[id(base)] = getattr(base, "nbytes", thing.nbytes)
        elif isinstance(thing, (tuple, list)):
            waiting += thing
        elif isinstance(thing, dict):
            waiting += thing.values()
        elif isinstance(thing, (Faults, Qualities, Demands, Timing)):
            waiting.append(vars(thing))
    return sum(found.values())


def solution_bytes(solution) -> int:
    """How much memory a solution takes, about."""
    problem = solution.table.problem
    return array_bytes([vars(solution.table), vars(problem)]) + NOTE_BYTES * len(problem.events)


def engraving_of(
    passage: Passage,
    width_px: int,
    clefs: tuple[str, ...] = ("treble",),
    drawing_px: float = 0.0,
    most: int | None = None,
) -> Engraving:
    """An engraving, kept with those of `drawing.engraving.engrave`; a long one by another process."""
    asked = passage, width_px, clefs, drawing_px, most
    if len(passage.bars) <= BARS_HERE:
        return engrave(*asked)
    return _by_another(*asked)


@cached(kept, key=hashkey, lock=kept_lock)
def _by_another(*asked):
    return pool.call("engraving", *asked)
