"""Signs of a MusicXML part: key, time, transposition, and what stands above and below the notes."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction
from xml.etree.ElementTree import Element

from core.errors import NotationError, PassageError
from core.music.chords import CHORD_KINDS, NO_CHORD, chord_text
from core.music.events import LOUDNESS, check_tempo
from core.music.notation.musicxml_bars import NUMBER_LENGTH, OSSIA, Above, Cursor
from core.music.notation.mxl import tag
from core.music.passage import HAIRPINS, WORDS_LIMIT
from core.music.pitch import Interval

# Semitones by which an instrument may transpose, and steps by which its staff may depart from them.
TRANSPOSE_LIMIT, STEPS_APART = 48, 3
DOTS_LIMIT, TIMES_LIMIT, STAVES_LIMIT = 4, 20, 9
TYPE_QUARTERS = {"breve": Fraction(8), "whole": Fraction(4), "half": Fraction(2), "quarter": Fraction(1)}
TYPE_QUARTERS |= {"eighth": Fraction(1, 2), "16th": Fraction(1, 4), "32nd": Fraction(1, 8)}
TYPE_QUARTERS |= {"64th": Fraction(1, 16), "128th": Fraction(1, 32), "256th": Fraction(1, 64)}
# Tones that may be added to a chord, and how many of one are looked at.
DEGREES, DEGREES_LIMIT = {"2", "4", "5", "6", "7", "9", "11", "13"}, 6
BEAT_TYPES = (1, 2, 4, 8, 16, 32, 64)


@dataclass
class SignReader(Cursor):
    """Reads all of a bar but its notes."""

    to_sounding: Interval | None = None
    staves: int = 1
    ossias: set[str] = field(default_factory=set)
    endings: frozenset[int] = frozenset()

    def attributes(self, element: Element) -> None:
        """Read key, time, clef and the like, which hold from here on.

        Parameters
        ----------
        element : Element
        """
        if (text := element.findtext("divisions")) is not None:
            divisions = self.number(text, "divisions")
            if divisions is not None and 0 < divisions <= 1_000_000:
                self.divisions = divisions
            else:
                self.lose("Divisions of a quarter that cannot be")
        self.staves = max(
            self.staves, min(self.whole(element.findtext("staves") or "1", "staves") or 1, STAVES_LIMIT)
        )
        for details in element.iterfind("staff-details"):
            if (details.findtext("staff-type") or "").strip() == OSSIA:
                self.ossias.add(details.get("number", "1").strip()[:2])
        if (transpose := element.find("transpose")) is not None:
            self._transpose(transpose)
        key, time = self._key(element), self._time(element)
        if self.at == 0:
            self.here.key_fifths = self.here.key_fifths if key is None else key
            self.here.time = time or self.here.time
        elif key is not None or time is not None:
            self.lose("A key or time signature inside a bar")

    def _key(self, element: Element) -> int | None:
        if (text := element.findtext("key/fifths")) is None:
            return None
        fifths = self.whole(text, "key")
        if fifths is not None and -7 <= fifths <= 7:
            return fifths
        self.lose("A key signature of more than seven signs")
        return None

    def _transpose(self, transpose: Element) -> None:
        octaves, semitones = (
            self.whole(transpose.findtext(name) or "0", name) or 0 for name in ("octave-change", "chromatic")
        )
        semitones += 12 * octaves
        diatonic = (
            self.whole(transpose.findtext("diatonic"), "diatonic") if transpose.findtext("diatonic") else None
        )
        steps = round(Fraction(semitones * 7, 12)) if diatonic is None else diatonic + 7 * octaves
        if abs(semitones) > TRANSPOSE_LIMIT or abs(12 * steps - 7 * semitones) > 12 * STEPS_APART:
            self.lose("A transposition that no instrument has")
        elif self.to_sounding is None:
            self.to_sounding = Interval(steps, semitones)
        elif self.to_sounding != Interval(steps, semitones):
            self.lose("A change of instrument: what follows is read as for the first")

    def _time(self, element: Element) -> tuple[int, int] | None:
        beats, beat_type = element.findtext("time/beats"), element.findtext("time/beat-type")
        if beats is None or beat_type is None:
            return None
        parts = [
            int(part) for part in beats.replace(" ", "").split("+")[:64] if re.fullmatch(r"\d{1,3}", part)
        ]
        kind = int(beat_type) if re.fullmatch(r"\s*\d{1,3}\s*", beat_type) else 0
        if 1 <= sum(parts) <= 64 and kind in BEAT_TYPES:
            self.beat_type = kind
            return sum(parts), kind
        self.lose("A time signature that cannot be")
        return None

    def direction(self, element: Element) -> None:
        """Read dynamics, words and tempi that stand above or below.

        Parameters
        ----------
        element : Element
        """
        staff = (element.findtext("staff") or "").strip()[:2] if self.staves > 1 else ""
        stands = Above(self.at, staff)
        words: list[str] = []
        for kind in element.iterfind("direction-type/*"):
            match tag(kind):
                case "dynamics":
                    marks = [tag(mark) for mark in kind if tag(mark) in LOUDNESS]
                    stands = replace(stands, dynamic=marks[0]) if marks else stands
                case "wedge":
                    self._wedge(kind.get("type", ""), staff)
                case "words" | "rehearsal":
                    words.append(" ".join((kind.text or "").split()))
                case "metronome":
                    stands = replace(stands, tempo_bpm=self._metronome(kind))
                case "segno":
                    self.here.signs.segno = True
                case "coda":
                    self.here.signs.coda = True
                case _:
                    pass  # pedals, lines, brackets: nothing that bears on a fingering
        text = " ".join(filter(None, words))
        self._jump(text)
        self.here.above.append(replace(stands, words=text[:WORDS_LIMIT]))
        for sound in element.iterfind("sound"):
            self.sound(sound, staff)

    def harmony(self, element: Element) -> None:
        """Read a chord symbol.

        Parameters
        ----------
        element : Element
        """
        kind = element.find("kind")
        name = (kind.text or "").strip() if kind is not None else ""
        staff = (element.findtext("staff") or "").strip()[:2] if self.staves > 1 else ""
        root, bass = (self._letter(element.find(part), part) for part in ("root", "bass"))
        written = kind.get("text") if kind is not None else None
        added = "".join(self._degree(one) for one in element.findall("degree")[:DEGREES_LIMIT])
        over = f"/{bass}" if bass else ""
        named = CHORD_KINDS.get(name, "")
        for words in dict.fromkeys(((named if written is None else written) + added, named + added)):
            try:
                text = NO_CHORD if name == "none" else chord_text(f"{root}{words}{over}")
            except NotationError as error:
                wrong = error
                continue
            self.here.above.append(Above(self.at, staff, chord=text))
            return
        self.lose(f"Not understood, a chord symbol: {wrong}")

    def _degree(self, element: Element) -> str:
        """A tone that is added or altered, as it is written after a chord; empty where one is left out."""
        value, alter = ((element.findtext(f"degree-{part}") or "0").strip() for part in ("value", "alter"))
        sign = {"0": "add", "1": "#", "-1": "b"}.get(alter, "")
        kept = element.findtext("degree-type") != "subtract" and value in DEGREES and sign
        return f"{sign}{value}" if kept else ""

    def _letter(self, element: Element | None, part: str) -> str:
        """A root or bass in plain letters; empty where there is none."""
        if element is None:
            return ""
        alter = self.whole(element.findtext(f"{part}-alter") or "0", "alter") or 0
        sign = "#" * alter if alter >= 0 else "b" * -alter
        return f"{(element.findtext(f'{part}-step') or '').strip()[:1]}{sign[:4]}"

    def _wedge(self, kind: str, staff: str) -> None:
        if kind in HAIRPINS:
            self.here.above.append(Above(self.at, staff, hairpin=kind))
        elif kind == "stop":
            self.here.above.append(Above(self.at, staff, hairpin_stop=True))

    def _jump(self, text: str) -> None:
        """What words ask of the order of playing."""
        plain, signs = re.sub(r"[\s.]+", "", text.lower()), self.here.signs
        signs.da_capo = signs.da_capo or bool(re.match(r"d(a)?c(apo)?(al|$)", plain))
        signs.dal_segno = signs.dal_segno or bool(re.match(r"d(al)?s(egno)?(al|$)", plain))
        signs.to_coda = signs.to_coda or plain in ("tocoda", "alcoda")
        signs.fine = signs.fine or plain == "fine"

    def sound(self, sound: Element, staff: str) -> None:
        """Read what is said for playback: tempo and dynamics.

        Parameters
        ----------
        sound : Element
        staff : str
            Number of the staff that it is for; empty for all.
        """
        signs = self.here.signs
        signs.da_capo = signs.da_capo or sound.get("dacapo") == "yes"
        for name, mark in (("dal_segno", "dalsegno"), ("to_coda", "tocoda"), ("fine", "fine")):
            setattr(signs, name, getattr(signs, name) or sound.get(mark) is not None)
        signs.segno, signs.coda = signs.segno or "segno" in sound.attrib, signs.coda or "coda" in sound.attrib
        if (tempo := sound.get("tempo")) is not None:
            self.here.above.append(Above(self.at, staff, tempo_bpm=self._tempo(tempo, Fraction(1))))

    def _metronome(self, element: Element) -> float | None:
        per_minute = element.findtext("per-minute")
        if per_minute is None or len(per_minute) > NUMBER_LENGTH:
            return None
        found = re.search(r"\d{1,4}([.,]\d{1,3})?", per_minute)
        unit = TYPE_QUARTERS.get((element.findtext("beat-unit") or "").strip(), Fraction(1))
        dots = min(len(element.findall("beat-unit-dot")), DOTS_LIMIT)
        text = found[0].replace(",", ".") if found else per_minute
        return self._tempo(text, unit * (2 - Fraction(1, 2**dots)))

    def _tempo(self, text: str, unit: Fraction) -> float | None:
        number = self.number(text, "tempo")
        try:
            return None if number is None else check_tempo(float(number * unit))
        except PassageError:
            self.lose(f"A tempo that cannot be played ({text.strip()[:20]})")
            return None

    def barline(self, element: Element) -> None:
        """Read repeats and endings.

        Parameters
        ----------
        element : Element
        """
        signs = self.here.signs
        if (repeat := element.find("repeat")) is not None:
            if repeat.get("direction") == "forward":
                signs.repeat_from = True
            else:
                signs.repeat_to = True
                times = repeat.get("times", "2")
                signs.times = min(int(times), TIMES_LIMIT) if re.fullmatch("[0-9]{1,4}", times) else 2
        if (ending := element.find("ending")) is not None:
            numbers = frozenset(
                min(int(n), TIMES_LIMIT) for n in re.findall("[0-9]{1,3}", ending.get("number", ""))[:20]
            )
            if ending.get("type") == "start":
                self.endings = signs.endings = numbers - {0}
            else:
                signs.endings = signs.endings or self.endings
                self.endings = frozenset()
        signs.segno = signs.segno or element.find("segno") is not None
        signs.coda = signs.coda or element.find("coda") is not None
