"""A part of a MusicXML document laid out in time: what sounds when, in every voice, and what stands above it.

Nothing here refuses a score: what cannot be understood is left out and listed.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction
from xml.etree.ElementTree import Element

from core.errors import PitchError
from core.music.events import LOUDNESS
from core.music.notation.musicxml_above import DOTS_LIMIT, TYPE_QUARTERS, SignReader
from core.music.notation.musicxml_bars import Above, Head, Measure, Timed
from core.music.notation.mxl import tag
from core.music.passage import ARTICULATIONS, ORNAMENTS, WORDS_LIMIT
from core.music.pitch import Pitch

FINGERING_LYRIC = "fingering"
QUARTERS_LIMIT, TUPLET_LIMIT = 64, 32
# Signs over a trill.
ALTERS = {"sharp": 1, "natural": 0, "flat": -1, "double-sharp": 2, "flat-flat": -2}


@dataclass
class Timeline(SignReader):
    """Reads the bars of a part one after the other."""

    read_notes: int = 0
    _grace: dict[str, list[Pitch]] = field(default_factory=dict)

    def read(self, element: Element) -> None:
        """Read the next bar.

        Parameters
        ----------
        element : Element
        """
        text = element.get("number", "")
        number = int(text) if re.fullmatch("[0-9]{1,5}", text) else len(self.measures) + 1
        self.measures.append(Measure(number))
        self.at = Fraction(0)
        last: Timed | None = None
        for child in element:
            match tag(child):
                case "attributes":
                    self.attributes(child)
                case "harmony":
                    self.harmony(child)
                case "direction":
                    self.direction(child)
                case "sound":
                    self.sound(child, "")
                case "barline":
                    self.barline(child)
                case "backup":
                    self.at = max(Fraction(0), self.at - self._quarters(child))
                case "forward":
                    self.at += self._quarters(child)
                case "note":
                    self.read_notes += 1
                    last = self._note(child, last)
            self.here.length = max(self.here.length, self.at)
        self.here.signs.endings = self.here.signs.endings or self.endings

    def _voice(self, element: Element) -> str:
        """Key of the voice; on several staves the staff is part of it."""
        voice = (element.findtext("voice") or "1").strip()[:8]
        return f"{(element.findtext('staff') or '1').strip()[:2]}.{voice}" if self.staves > 1 else voice

    def _note(self, element: Element, last: Timed | None) -> Timed | None:
        if element.find("grace") is not None:
            self._take_grace(element)
            return last
        if element.find("chord") is not None and last is not None:
            self._take_head(element, last)
            return last
        quarters = self._quarters(element)
        timed = Timed(self.at, quarters)
        voice = self._voice(element)
        if element.find("cue") is not None:
            self.lose("Cue notes")
        elif quarters == 0:
            self.lose("A note without a length")
        else:
            timed.tuplet = self._tuplet(element)
            timed.grace = self._grace.pop(voice, [])
            if voice.partition(".")[0] in self.ossias and self.staves > 1:
                self.here.ossia.append(timed)
            else:
                self.here.voices.setdefault(voice, []).append(timed)
            if element.find("rest") is None:
                self._take_head(element, timed)
            self._take_marks(element, timed)
        self.at += quarters
        return timed

    def _take_grace(self, element: Element) -> None:
        if (pitch := self._pitch(element)) is not None:
            graces = self._grace.setdefault(self._voice(element), [])
            if element.find("chord") is None and len(graces) < TUPLET_LIMIT:
                graces.append(pitch)

    def _take_head(self, element: Element, timed: Timed) -> None:
        if element.find("unpitched") is not None:
            self.lose("Notes without pitch")
        elif (pitch := self._pitch(element)) is not None:
            ties = [*element.findall("tie"), *element.findall("notations/tied")]
            timed.heads.append(Head(pitch, any(tie.get("type") == "start" for tie in ties)))
        if element.find("chord") is not None:
            self._take_marks(element, timed)

    def _take_marks(self, element: Element, timed: Timed) -> None:
        articulations, ornaments = set(timed.articulations), set(timed.ornaments)
        for notations in element.iterfind("notations"):
            for mark in notations:
                match tag(mark):
                    case "slur":
                        timed.slurs.append((mark.get("number", "1"), mark.get("type", "")))
                    case "articulations":
                        articulations |= {tag(one) for one in mark} & set(ARTICULATIONS)
                    case "ornaments":
                        ornaments |= {tag(one) for one in mark} & set(ORNAMENTS)
                        self._take_other_note(mark, timed)
                    case "fermata":
                        timed.fermata = True
                    case "dynamics":
                        marks = [tag(one) for one in mark if tag(one) in LOUDNESS]
                        staff = (element.findtext("staff") or "1").strip()[:2] if self.staves > 1 else ""
                        self.here.above += [Above(timed.onset, staff, dynamic=one) for one in marks[:1]]
                    case _:
                        pass
        timed.articulations, timed.ornaments = frozenset(articulations), frozenset(ornaments)
        for lyric in element.iterfind("lyric"):
            text = " ".join((lyric.findtext("text") or "").split())
            if lyric.get("name") == FINGERING_LYRIC:
                timed.fingering = timed.fingering or text[:200]
            elif not timed.lyric:
                hyphen = "-" if lyric.findtext("syllabic") in ("begin", "middle") else ""
                timed.lyric = text[:WORDS_LIMIT] + hyphen if text else ""

    @staticmethod
    def _take_other_note(ornaments: Element, timed: Timed) -> None:
        """What is said of the other note of a trill or tremolo."""
        for one in ornaments:
            if tag(one) == "tremolo" and one.get("type") in ("start", "stop"):
                timed.tremolo = one.get("type", "")
            elif tag(one) == "accidental-mark":
                timed.trill_alter = ALTERS.get((one.text or "").strip(), timed.trill_alter)

    def _pitch(self, element: Element) -> Pitch | None:
        pitch = element.find("pitch")
        if pitch is None:
            self.lose("A note with neither pitch nor rest")
            return None
        alter = self.number(pitch.findtext("alter") or "0", "alter")
        octave = self.whole(pitch.findtext("octave"), "octave")
        if alter is not None and alter.denominator != 1:
            self.lose("The quarter tones of signs, rounded down")
        try:
            if alter is not None and octave is not None:
                return Pitch(
                    (pitch.findtext("step") or "").strip(), alter.numerator // alter.denominator, octave
                )
        except PitchError:
            self.lose("A pitch that cannot be")
        return None

    def _quarters(self, element: Element) -> Fraction:
        """How long something lasts; 0 where it cannot be told."""
        text = element.findtext("duration")
        quarters = None if text is None else self.number(text, "duration")
        if quarters is not None:
            quarters /= self.divisions
        elif (kind := TYPE_QUARTERS.get((element.findtext("type") or "").strip())) is not None:
            played, into = self._tuplet(element)
            quarters = (
                kind * (2 - Fraction(1, 2 ** min(len(element.findall("dot")), DOTS_LIMIT))) * into / played
            )
        if quarters is None or not 0 <= quarters <= QUARTERS_LIMIT:
            self.lose(f"A length that is not from 0 to {QUARTERS_LIMIT} quarters")
            return Fraction(0)
        return quarters

    def _tuplet(self, element: Element) -> tuple[int, int]:
        """Notes played, and in the time of how many; (1, 1) outside tuplets, and for those that cannot be."""
        modification = element.find("time-modification")
        if modification is None:
            return (1, 1)
        played, into = (
            self.whole(modification.findtext(name), name) or 0 for name in ("actual-notes", "normal-notes")
        )
        return (played, into) if 1 <= played <= TUPLET_LIMIT and 1 <= into <= TUPLET_LIMIT else (1, 1)
