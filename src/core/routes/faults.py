"""Expected faults a playing: the one quantity in which all four strands are counted.

A fault is something a listener in the room would notice: a note out of tune, a tone wanting, a
note that does not speak, a stumble of the hands. For each note and each move the chance of each
fault is estimated; their sum over a passage is what a route costs.

Notes
-----
The shapes follow what is known of hearing and moving; the sizes are our choice, stated below as
constants. The estimate is meant for comparing fingerings, not for predicting a performance.

References
----------
Moore (1973), Frequency difference limens for short-duration tones, Journal of the Acoustical
Society of America 54: short tones need a larger difference.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from core.charts.catalogue import Entry
from core.evidence.sources import Estimate, Evidence, evidence
from core.instruments.instrument import Instrument
from core.music.passage import Event
from core.routes.facility import FloatArray, jumps, move_effects, normal_cdf, stumble_risk, time_needed_s

STRANDS = ("pitch", "tone", "speaks", "hands")

# A held note is noticed from about 15 cents; a note of a tenth of a second from about 33.
NOTICED_CENTS, NOTICED_CENTS_S = 15.0, 1.8
# A poor tone is heard once a note lasts about half a second, and not everybody minds it.
TONE_HEARD_S, TONE_MINDED = 0.5, 0.45
NOT_SPEAKING = 0.45
# Soft entries and entries after a rest are the least sure, slurred ones the surest; crossing to
# another partial under a slur takes that away again.
AFTER_REST, SLURRED, ACROSS_PARTIALS = 1.5, 0.6, 1.6
# A fingering that is good only when coming from a certain neighbour, used elsewhere.
UNPREPARED = 0.5
# A finger that jumps between two touches breaks a slur, and it is heard about this often.
BROKEN_SLUR = 0.2
# Fingers of one hand moving against each other under a slur let a wrong note through now and then.
BLIP = 0.02
SOFT = 1.8
# A tongued note leaves the fingers a little longer: nothing sounds while they move.
TONGUED_TIME = 1.25
CHANCE_LIMIT = 0.95


@dataclass(frozen=True)
class Library:
    """A catalogue's entries with everything that does not depend on the passage, worked out once.

    Parameters
    ----------
    pitch, pitch_spread : np.ndarray [shape=(n_entries,)], cents
    thinness, silence : np.ndarray [shape=(n_entries,)], 0 to about 1
        Expected square of what is wanting in tone and in response.
    needed_s : np.ndarray [shape=(n_entries, n_entries)], seconds
        Time that the move from row to column needs.
    crosses : np.ndarray [shape=(n_entries, n_entries)], 0 or 1
        The move goes to another partial, or one of the two is not settled.
    jumps, contrary : np.ndarray [shape=(n_entries, n_entries)], 0 or 1
        A finger of the stack, or a thumb, jumps from one touch to another; fingers of one hand move against
        each other.
    particular : np.ndarray [shape=(n_entries,)], 0 or 1
        The fingering is good only when coming from certain others.
    unprepared : np.ndarray [shape=(n_entries, n_entries)], 0 or 1
        The move leads to such a one, and not from one of those.
    """

    entries: tuple[Entry, ...]
    pitch: FloatArray
    pitch_spread: FloatArray
    thinness: FloatArray
    silence: FloatArray
    needed_s: FloatArray
    crosses: FloatArray
    jumps: FloatArray
    contrary: FloatArray
    particular: FloatArray
    unprepared: FloatArray


def make_library(entries: Sequence[Entry], instrument: Instrument) -> Library:
    """Work out what the route needs to know of a catalogue's entries."""
    fingerings, partials = [e.fingering for e in entries], [e.partial for e in entries]
    effects = move_effects(instrument, fingerings, fingerings, partials, partials)
    needs = np.array(
        [[not e.only_from <= old.touches for e in entries] for old in fingerings], dtype=np.float64
    )
    bare = np.zeros(len(entries))
    library = Library(
        entries=tuple(entries),
        pitch=bare,
        pitch_spread=bare,
        thinness=bare,
        silence=bare,
        needed_s=time_needed_s(effects),
        crosses=(effects["partial"] > 0).astype(np.float64),
        jumps=jumps(instrument, fingerings, fingerings),
        contrary=(effects["contrary"] > 0).astype(np.float64),
        particular=np.array([bool(e.only_from) for e in entries], dtype=np.float64),
        unprepared=needs,
    )
    return with_evidence(library, [evidence(entry) for entry in entries])


def with_evidence(library: Library, known: Sequence[Evidence]) -> Library:
    """The same library with other evidence, one for each of its entries in their order.

    The hands' factors of the two fingerings of a move share its time: each enters by its root.
    """
    factor = np.sqrt([e.hands_factor for e in known])
    return replace(
        library,
        pitch=np.array([e.pitch.combined.value for e in known]),
        pitch_spread=np.array([e.pitch.combined.spread for e in known]),
        thinness=_wanting([e.tone.combined for e in known]),
        silence=_wanting([e.speaks.combined for e in known]),
        needed_s=library.needed_s * np.outer(factor, factor),
    )


def _wanting(estimates: Sequence[Estimate]) -> FloatArray:
    """Expected square of what is wanting to a value of 1."""
    return np.array([(1 - e.value) ** 2 + e.spread**2 for e in estimates])


def note_faults(library: Library, events: Sequence[Event], rows: np.ndarray) -> FloatArray:
    """Chance of each fault that a note has by itself.

    Parameters
    ----------
    rows : np.ndarray of int [shape=(n_notes, n_candidates)]
        Places in `library.entries`.

    Returns
    -------
    np.ndarray [shape=(n_notes, n_candidates, 3)]
        Pitch, tone, speaks; each from 0 to 0.95.
    """
    seconds = np.array([event.seconds for event in events])[:, None]
    loud = np.array([event.loudness for event in events])[:, None]
    threshold = NOTICED_CENTS + NOTICED_CENTS_S / np.maximum(seconds, 1e-3)
    mean, spread = library.pitch[rows], library.pitch_spread[rows]
    pitch = normal_cdf((-threshold - mean) / spread) + 1.0 - normal_cdf((threshold - mean) / spread)
    tone = TONE_MINDED * library.thinness[rows] * (1.0 - np.exp(-seconds / TONE_HEARD_S)) * (0.6 + 0.7 * loud)
    speaks = NOT_SPEAKING * library.silence[rows] * _attack(events)[:, None]
    fresh = np.array([place == 0 or event.after_rest for place, event in enumerate(events)])[:, None]
    speaks = speaks + UNPREPARED * fresh * library.particular[rows]
    return np.asarray(np.clip(np.stack([pitch, tone, speaks], axis=-1), 0.0, CHANCE_LIMIT))


def link_faults(library: Library, events: Sequence[Event], rows: np.ndarray) -> FloatArray:
    """Chance of each fault that arises between two adjacent notes.

    Returns
    -------
    np.ndarray [shape=(n_notes - 1, n_candidates, n_candidates, 2)]
        Speaks and hands, for every pair of a candidate and the next note's candidate.
    """
    tongued = np.array([not event.slurred for event in events[1:]], dtype=np.bool_)
    available = np.array([event.available_s for event in events[1:]], dtype=np.float64)
    available = np.where(tongued, TONGUED_TIME, 1.0) * available
    pair = (rows[:-1, :, None], rows[1:, None, :])
    hands = stumble_risk(library.needed_s[pair], available[:, None, None])
    broken = BROKEN_SLUR * library.jumps[pair] + BLIP * library.contrary[pair]
    hands = hands + ~tongued[:, None, None] * broken
    extra = NOT_SPEAKING * (ACROSS_PARTIALS - 1.0) * SLURRED * ~tongued
    speaks = extra[:, None, None] * library.silence[rows[1:, None, :]] * library.crosses[pair]
    joined = np.array([not event.after_rest for event in events[1:]], dtype=np.bool_)[:, None, None]
    speaks = speaks + UNPREPARED * joined * library.unprepared[pair]
    return np.stack([speaks, hands], axis=-1)


def _attack(events: Sequence[Event]) -> FloatArray:
    """How much less surely a note speaks for the way it begins; 1 for a tongued mezzo-forte."""
    kind = np.array([SLURRED if e.slurred else AFTER_REST if e.after_rest else 1.0 for e in events])
    loud = np.array([event.loudness for event in events])
    return np.asarray(kind * (1.0 + (SOFT - 1.0) * np.clip(1.0 - loud / 0.55, 0.0, 1.0)))
