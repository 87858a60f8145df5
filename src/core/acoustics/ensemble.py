"""The geometries of an instrument at work: their matrices made once, the resonances of hole states kept.

What a state of the holes answers does not depend on what is fitted: instruments of one model share all of it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from core.acoustics.bore import ComplexArray, FloatArray
from core.acoustics.geometry import Geometry
from core.acoustics.impedance import Pieces, StateArray, Tube
from core.acoustics.peaks import Peak, frequencies, peaks_of_all
from core.errors import AcousticsError
from core.instruments.instrument import Instrument
from core.music.pitch import Pitch, frequency_hz

# The curve reaches from this share of the lowest note to this multiple of the highest, but to this many Hz.
BELOW, ABOVE, TOP_HZ = 0.7, 1.6, 3300.0
# A quick look at a note: so many steps to either side, of so many cents.
LOOK, LOOK_STEP = 16, 8.0
# So many hole states are kept in mind.
STATES_KEPT = 6000


class Ensemble:
    """Geometries of one instrument.

    Parameters
    ----------
    instrument : Instrument
    geometries : sequence of Geometry
    """

    def __init__(self, instrument: Instrument, geometries: Sequence[Geometry]) -> None:
        self.instrument = instrument
        self.geometries = tuple(geometries)
        self._names = tuple(hole.name for hole in instrument.holes)
        self._known: dict[bytes, tuple[list[Peak], ...]] = {}

    @cached_property
    def frequency(self) -> FloatArray:
        """Frequencies of the curves, in Hz."""
        low, high = (
            self.sounding_hz(pitch) for pitch in (self.instrument.bell, self.instrument.written_high)
        )
        return frequencies(BELOW * low, min(ABOVE * high, TOP_HZ))

    @cached_property
    def tubes(self) -> tuple[Tube, ...]:
        """A tube for each geometry."""
        return tuple(geometry.tube() for geometry in self.geometries)

    @cached_property
    def order(self) -> tuple[list[int], ...]:
        """For each tube, where its holes stand among those of the keywork."""
        return tuple([self._names.index(name) for name in tube.hole_names] for tube in self.tubes)

    @cached_property
    def _pieces(self) -> tuple[Pieces, ...]:
        omega = 2 * np.pi * self.frequency
        return tuple(Pieces(t, g.air, omega) for t, g in zip(self.tubes, self.geometries, strict=True))

    def get_ready(self) -> None:
        """Make what the first new fingering would wait for: the matrices of every geometry, 10 to 20 MB."""
        _ = self._pieces

    def sounding_hz(self, pitch: Pitch) -> float:
        """Equal-tempered sounding frequency of a written note.

        Parameters
        ----------
        pitch : Pitch

        Returns
        -------
        float, Hz
        """
        return frequency_hz(self.instrument.to_sounding.apply(pitch))

    def curves(self, state: StateArray) -> ComplexArray:
        """Input impedance in every geometry.

        Parameters
        ----------
        state : np.ndarray of int [shape=(n_holes,)]
            In the order of the keywork.

        Returns
        -------
        np.ndarray of complex [shape=(n_geometries, n_freq)], Pa s/m³
        """
        together = zip(self._pieces, self.order, strict=True)
        return np.stack([pieces.all(state[None, order])[0] for pieces, order in together])

    def resonances(self, states: StateArray) -> list[tuple[list[Peak], ...]]:
        """Resonances of states of the holes in every geometry, from the lowest up.

        Parameters
        ----------
        states : np.ndarray of int [shape=(n_states, n_holes)]
            In the order of the keywork.

        Returns
        -------
        list of tuple of list of Peak
            For each state, for each geometry.
        """
        keys = [row.tobytes() for row in states]
        known = self._known  # other threads may put another in its place meanwhile
        new = {key: row for key, row in zip(keys, states, strict=True) if key not in known}
        if len(known) + len(new) > STATES_KEPT:
            known, new = {}, dict(zip(keys, states, strict=True))
        if new:
            rows = np.stack(list(new.values()))
            found = [
                peaks_of_all(self.frequency, pieces.all(rows[:, order]))
                for pieces, order in zip(self._pieces, self.order, strict=True)
            ]
            known = self._known = known | dict(zip(new, zip(*found, strict=True), strict=True))
        return [known[key] for key in keys]

    def quick_look(self, states: StateArray, pitch: Pitch) -> FloatArray:
        """Where the nearest resonance to a written note lies: in one geometry of each family.

        Parameters
        ----------
        states : np.ndarray of int [shape=(n_states, n_holes)]
            In the order of the keywork.
        pitch : Pitch

        Returns
        -------
        np.ndarray [shape=(n_states,)], cents
            The mean over the families; 999 where one has no resonance within the look.
        """
        around = self.sounding_hz(pitch) * 2 ** (np.arange(-LOOK, LOOK + 1) * LOOK_STEP / 1200.0)
        families = {geometry.mouthpiece.family: n for n, geometry in enumerate(self.geometries)}
        found = []
        for n in families.values():
            pieces = Pieces(self.tubes[n], self.geometries[n].air, np.asarray(2 * np.pi * around))
            level = np.abs(pieces.all(states[:, self.order[n]]))
            top = level.argmax(axis=1)
            inside = (top > 0) & (top < 2 * LOOK)
            found.append(np.where(inside, (top - LOOK) * LOOK_STEP, 999.0))
        return np.asarray(np.mean(found, axis=0))

    def as_arrays(self, states: StateArray) -> dict[str, npt.NDArray[Any]]:
        """Resonances of states, to be kept on disk.

        Parameters
        ----------
        states : np.ndarray of int [shape=(n_states, n_holes)]
            In the order of the keywork; each once.

        Returns
        -------
        dict of str to np.ndarray
            `states` as given; `counts`, how many resonances each has, of shape (n_states, n_geometries);
            `peaks`, all of them one after the other, of shape (n_peaks, 3).
        """
        found = self.resonances(states)
        counts = np.array([[len(peaks) for peaks in each] for each in found], dtype=np.int64)
        rows = [(p.frequency, p.height, p.q) for each in found for peaks in each for p in peaks]
        peaks = np.array(rows, dtype=np.float64).reshape(-1, 3)
        return {"states": states, "counts": counts.reshape(-1, len(self.geometries)), "peaks": peaks}

    def remember(self, kept: Mapping[str, npt.NDArray[Any]]) -> None:
        """Take over what `as_arrays` gave.

        Parameters
        ----------
        kept : mapping of str to np.ndarray, of the shapes there

        Raises
        ------
        AcousticsError
            If it is not of this ensemble.
        """
        states, counts, peaks = (np.asarray(kept[name]) for name in ("states", "counts", "peaks"))
        shapes = (len(states), len(self._names)), (len(states), len(self.geometries)), (int(counts.sum()), 3)
        if (states.shape, counts.shape, peaks.shape) != shapes:
            raise AcousticsError("what is kept of resonances is of another instrument")
        made = iter([Peak(*row) for row in peaks.tolist()])
        self._known = self._known | {
            state.tobytes(): tuple([next(made) for _ in range(n)] for n in each)
            for state, each in zip(states, counts.tolist(), strict=True)
        }
