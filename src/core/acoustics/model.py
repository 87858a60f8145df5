"""An instrument's ensemble at work: what each fingering answers when a note is asked of it.

Each geometry of the ensemble answers on its own; what is told is their median, with their spread.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from statistics import median, median_low

import numpy as np

from core.acoustics.bore import ComplexArray, FloatArray
from core.acoustics.ensemble import Ensemble
from core.acoustics.geometry import standing
from core.acoustics.impedance import StateArray
from core.acoustics.peaks import Peak
from core.acoustics.prediction import Prediction, Rung, SoundsAs
from core.acoustics.response import CENTS, Response, cutoff_of, respond, support
from core.instruments.fingering import Fingering
from core.instruments.keywork import Mechanism, mechanism
from core.music.pitch import Pitch, spell

# Farther apart, in cents, resonances of two geometries are not the same.
SAME_RUNG = 120.0
# Cents of spread from which geometries are at odds; so many decibels below a lower resonance none holds.
AT_ODDS, LOST_DB = 75.0, 24.0
# So many fingerings are kept in mind.
FINGERINGS_KEPT = 6000


class Model:
    """What an ensemble says of fingerings, with the keywork as it is fitted.

    Parameters
    ----------
    ensemble : Ensemble
    fitted : collection of str, optional
        Optional touches and fittings of the instrument in hand. Default: what is usually fitted.
    """

    def __init__(self, ensemble: Ensemble, fitted: Collection[str] | None = None) -> None:
        self.ensemble = ensemble
        self.instrument, self.geometries = ensemble.instrument, ensemble.geometries
        self._fitted = fitted
        self._reads: dict[Fingering, Mechanism] = {}
        self._predictions: dict[tuple[Fingering, int], Prediction | None] = {}

    def read(self, fingering: Fingering) -> Mechanism:
        """What the keywork says of a fingering, kept for the next time.

        Parameters
        ----------
        fingering : Fingering

        Returns
        -------
        Mechanism
        """
        found = self._reads.get(fingering)
        if found is None:
            if len(self._reads) >= FINGERINGS_KEPT:
                self._reads = {}
            found = self._reads[fingering] = mechanism(self.instrument, fingering, self._fitted)
        return found

    @property
    def frequency(self) -> FloatArray:
        """Frequencies of the curves, in Hz."""
        return self.ensemble.frequency

    def states(self, fingerings: Sequence[Fingering]) -> StateArray:
        """State of every hole, in the order of the keywork.

        Parameters
        ----------
        fingerings : sequence of Fingering

        Returns
        -------
        np.ndarray of int [shape=(n_fingerings, n_holes)]
        """
        rows = standing(self.ensemble.tubes[0], [self.read(fingering) for fingering in fingerings])
        return rows[:, np.argsort(self.ensemble.order[0])]

    def curves(self, fingering: Fingering) -> ComplexArray:
        """Input impedance in every geometry.

        Parameters
        ----------
        fingering : Fingering

        Returns
        -------
        np.ndarray of complex [shape=(n_geometries, n_freq)], Pa s/m³
        """
        (state,) = self.states([fingering])
        return self.ensemble.curves(state)

    def resonances(self, fingerings: Sequence[Fingering]) -> list[tuple[list[Peak], ...]]:
        """Resonances of each fingering in every geometry, from the lowest up.

        Parameters
        ----------
        fingerings : sequence of Fingering

        Returns
        -------
        list of tuple of list of Peak
        """
        return self.ensemble.resonances(self.states(fingerings)) if fingerings else []

    def quick_look(self, fingerings: Sequence[Fingering], pitch: Pitch) -> FloatArray:
        """Where the nearest resonance to a written note lies, in cents: in one geometry of each family.

        Parameters
        ----------
        fingerings : sequence of Fingering
        pitch : Pitch

        Returns
        -------
        np.ndarray [shape=(n_fingerings,)]
            The mean over the families; 999 where one has no resonance within the look.
        """
        return self.ensemble.quick_look(self.states(fingerings), pitch)

    def predict(self, asked: Sequence[tuple[Fingering, Pitch]]) -> list[Prediction | None]:
        """What the ensemble says of fingerings for written notes.

        Parameters
        ----------
        asked : sequence of (Fingering, Pitch)

        Returns
        -------
        list of Prediction or None
            None where fewer than half of the geometries have a resonance within 150 cents.
        """
        keys = [(fingering, pitch.midi) for fingering, pitch in asked]
        kept = self._predictions  # other threads may put another in its place meanwhile
        new = {key: None for key in keys if key not in kept}
        if len(kept) + len(new) > FINGERINGS_KEPT:
            kept, new = {}, dict.fromkeys(keys)
        steady = self.resonances([fingering for fingering, _ in new])
        attack = self.resonances([fingering.attack for fingering, _ in new])
        found = {}
        for (fingering, midi), *pair in zip(new, steady, attack, strict=True):
            sounding = self.sounding_hz(spell(midi))
            answers = ([respond(peaks, sounding) for peaks in each] for each in pair)
            found[fingering, midi] = self._predicted(fingering, *answers)
        kept = self._predictions = kept | found
        return [kept[key] for key in keys]

    def _predicted(
        self, fingering: Fingering, answers: Sequence[Response | None], attack: Sequence[Response | None]
    ) -> Prediction | None:
        found = [answer for answer in answers if answer]
        if 2 * len(found) < len(answers) or not found:
            return None
        place = median_low(answer.partial for answer in found)
        cents = [answer.cents for answer in found]
        read = self.read(fingering)
        begun = [answer for answer in attack if answer] or found
        rivals = [answer.cracks_to for answer in begun if answer.cracks_to]
        return Prediction(
            cents=median(cents),
            spread=float(np.std(cents)),
            partial=self._partial(place),
            sounds_as=self._sounds_as(fingering, place),
            base=read.plain,
            forked=read.forked,
            margin=median(answer.margin for answer in begun),
            cracks_to=median_low(rivals) if rivals else None,
            each=tuple(answer.cents if answer else None for answer in answers),
        )

    def would_sound(self, asked: Sequence[tuple[Fingering, Pitch]]) -> list[float | None]:
        """How far off written notes fingerings would sound, in cents; None where nothing near would.

        Nor where the geometries are at odds, or the note would not hold against a lower one. The lowest
        resonance under an open vent counts only if it is still the strongest: a vent is there to let a
        higher one sound.

        Parameters
        ----------
        asked : sequence of (Fingering, Pitch)

        Returns
        -------
        list of float or None, cents, sharp positive
            One for each asked.
        """
        found: list[float | None] = []
        for (fingering, _), prediction in zip(asked, self.predict(asked), strict=True):
            if prediction is None or prediction.spread > AT_ODDS or prediction.margin < -LOST_DB:
                found.append(None)
                continue
            sounds = True
            if prediction.sounds_as is SoundsAs.FIRST and self.read(fingering).open_vents:
                heights = [rung.height for rung in self.rungs(fingering)]
                sounds = bool(heights) and heights[0] == max(heights)
            found.append(prediction.cents if sounds else None)
        return found

    def rungs(self, fingering: Fingering) -> list[Rung]:
        """The ladder of a fingering: resonances that at least half of the geometries have.

        Counted along one geometry, that with a middling number of them; of the others each gives the nearest,
        since high up one may have a resonance more than another.

        Parameters
        ----------
        fingering : Fingering

        Returns
        -------
        list of Rung
        """
        (each,) = self.resonances([fingering])
        along = sorted(each, key=len)[len(each) // 2]
        found = []
        for place, middle_peak in enumerate(along):
            peaks = [peak for peak in (_nearest(peaks, middle_peak) for peaks in each) if peak]
            if 2 * len(peaks) < len(each):
                continue
            middle = median(peak.frequency for peak in peaks)
            away = [CENTS * math.log2(peak.frequency / middle) for peak in peaks]
            heights, widths = ([getattr(peak, what) for peak in peaks] for what in ("height", "q"))
            found.append(
                Rung(
                    self._partial(place + 1),
                    self._sounds_as(fingering, place + 1),
                    middle,
                    float(np.std(away)),
                    median(heights),
                    median(widths),
                )
            )
        return found

    def support(self, fingering: Fingering, pitch: Pitch) -> dict[int, float] | None:
        """How the bore backs twice and three times a note: decibels over the note itself, the median.

        Parameters
        ----------
        fingering : Fingering
        pitch : Pitch

        Returns
        -------
        dict of int to float, or None
            Only multiples below the cutoff of the open holes; None where no open holes set one.
        """
        sounding = self.sounding_hz(pitch)
        row = self.read(fingering).open_holes
        together = zip(self.ensemble.tubes, self.geometries, strict=True)
        cutoffs = [cutoff_of(tube, row, geometry.air) for tube, geometry in together]
        known = [cutoff for cutoff in cutoffs if cutoff]
        if not known:
            return None
        cutoff = median(known)
        curves = [support(self.frequency, curve, sounding, cutoff) for curve in self.curves(fingering)]
        return {n: median(curve[n] for curve in curves) for n in curves[0]}

    def _partial(self, place: int) -> int:
        return place if self.instrument.partials == "all" else 2 * place - 1

    def _sounds_as(self, fingering: Fingering, place: int) -> SoundsAs:
        if place == 1:
            return SoundsAs.FIRST
        read = self.read(fingering)
        return SoundsAs.VENTED if read.open_vents or read.tube != read.plain else SoundsAs.OVERTONE

    def sounding_hz(self, pitch: Pitch) -> float:
        """Equal-tempered sounding frequency of a written note, in Hz.

        Parameters
        ----------
        pitch : Pitch

        Returns
        -------
        float, Hz
        """
        return self.ensemble.sounding_hz(pitch)


def _nearest(peaks: Sequence[Peak], wanted: Peak) -> Peak | None:
    """The peak next to another geometry's; None where it lies too far off to be the same."""
    found = min(peaks, key=lambda peak: abs(math.log(peak.frequency / wanted.frequency)), default=None)
    if found is None or abs(CENTS * math.log2(found.frequency / wanted.frequency)) > SAME_RUNG:
        return None
    return found
