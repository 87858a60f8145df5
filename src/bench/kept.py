"""What was worked out of passages, kept by how much memory it takes: solutions and engravings."""

import sys
from threading import RLock

import numpy as np
from cachetools import LRUCache, cached

from core.music.passage import Passage
from core.routes.demands import Demands
from core.routes.faults import Faults, Qualities
from core.routes.timing import Timing
from drawing.engraving import Engraving, engrave
from jobs import pool

# All together at most 150 MB.
SOLUTIONS_BYTES, ENGRAVINGS_BYTES = 110_000_000, 40_000_000
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


def _engraving_bytes(engraving: Engraving) -> int:
    texts = [*engraving.glyphs.values(), *(system.svg for system in engraving.systems)]
    return sum(map(sys.getsizeof, texts)) + 200 * sum(len(system.notes) for system in engraving.systems)


engravings: LRUCache = LRUCache(ENGRAVINGS_BYTES, getsizeof=_engraving_bytes)


@cached(engravings, lock=RLock())
def engraving_of(
    passage: Passage, width_px: int, clefs: tuple[str, ...] = ("treble",), drawing_px: float = 0.0
) -> Engraving:
    """An engraving as `drawing.engraving.engrave` makes it; the same question is answered from memory."""
    asked = passage, width_px, clefs, drawing_px
    return pool.call("engraving", *asked) if len(passage.bars) > BARS_HERE else engrave(*asked)
