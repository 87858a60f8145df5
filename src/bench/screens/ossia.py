"""What is played instead of notes beyond reach: ossias offered phrase by phrase, and those that are kept."""

from dataclasses import dataclass, replace

from bench.queries import Opened
from bench.screens.bench import At, note_at
from bench.solution import asked, ossia_pitches
from bench.systems import NOTE_GAP, ScoreLine, View
from core.errors import PitchError
from core.music.ossia import as_played, with_ossia
from core.music.passage import Passage
from core.music.phrases import phrases
from core.music.pitch import Pitch, parse_pitch
from core.routes.ossia import Departure, Ossia, kept, ossias
from core.words import counted
from drawing.compact import WIDTH, height, small_hands, symbol
from drawing.engraving import engrave, shared_glyphs
from drawing.score import UnderNote, printed
from drawing.svg import join

# Width at which the lines of an ossia are set, kept and offered, with room for each note; phrases shown.
WIDTH_PX, OFFER_PX, OFFER_ROOM, PHRASES_SHOWN = 840, 560, 18.0, 8
# A difference that is not worth a word.
SAME = 0.05


@dataclass(frozen=True)
class OssiaDrawn:
    """An ossia as music with its fingerings.

    Parameters
    ----------
    fingerings : tuple of (Pitch, str, str, str)
        Notes played instead, with the drawing, the kind and the touches of their fingering.
    pitches : str
        Notes and pitches as an action takes them; `none` takes them away.
    """

    says: str
    costs: str
    lines: tuple[ScoreLine, ...]
    fingerings: tuple[tuple[Pitch, str, str, str], ...]
    pitches: str
    none: str


@dataclass(frozen=True)
class PhraseShown:
    """A phrase, what of it is beyond reach, and what can be played instead."""

    where: str
    beyond: str
    query: str
    offers: tuple[OssiaDrawn, ...]


@dataclass(frozen=True)
class OssiaPage(At):
    """What is kept, and what is offered.

    Parameters
    ----------
    tops : tuple of (str, str)
        Notes that may be the highest, in plain letters and as they are said.
    left_out : int
        Phrases with notes beyond reach that are not shown.
    """

    top: str
    tops: tuple[tuple[str, str], ...]
    here: bool
    kept: tuple[OssiaDrawn, ...]
    phrases: tuple[PhraseShown, ...]
    left_out: int
    chords: bool
    glyphs: str
    symbols: str


class Drawing:
    """What the drawings of a page share."""

    def __init__(self, view: View) -> None:
        self.view, self.engravings, self.entries = view, [], {}

    def of(self, ossia: Ossia, *, drawn: bool) -> tuple[ScoreLine, ...]:
        """The bars of an ossia as they are played; `drawn` is with a drawing under each of its notes."""
        passage = _bars(self.view.solution.passage, ossia)
        width, room = (WIDTH_PX, WIDTH) if drawn else (OFFER_PX, OFFER_ROOM)
        engraving = engrave(passage, width, self.view.instrument.clefs, room)
        self.engravings.append(engraving)
        if not drawn:
            return tuple(self._line(system, {}) for system in engraving.systems)
        under = dict(zip((event.id for event in ossia.events), ossia.entries, strict=True))
        self.entries |= {entry.id: entry for entry in ossia.entries}
        return tuple(self._line(system, under) for system in engraving.systems)

    def _line(self, system, under):
        top, tall = system.height + NOTE_GAP, height(self.view.instrument) if under else 0.0
        notes = [
            UnderNote(
                note_id=note,
                x=x,
                left=x - WIDTH / 2,
                top=top,
                width=WIDTH,
                height=tall,
                symbol=f"f-{under[note].id}",
                label="",
                selected=False,
                pinned=False,
                changed=False,
                foreign=False,
                query="",
            )
            for note, x in system.notes.items()
            if note in under
        ]
        return ScoreLine(
            svg=system.svg,
            width=system.width,
            staff_height=system.height,
            height=top + tall,
            view_box=f"0 0 {system.units_width:g} {system.units_height:g}",
            labels=(),
            under=printed(notes),
        )

    @property
    def symbols(self):
        in_hand = self.view.opened.in_hand
        return join(symbol(entry.fingering, in_hand, f"f-{name}") for name, entry in self.entries.items())


def _bars(passage: Passage, ossia: Ossia) -> Passage:
    """The bars in which an ossia lies, as they are played."""
    played = as_played(with_ossia(passage, ossia.pitches))
    numbers = [placed.bar for event in ossia.events for placed in event.notes]
    first = min(numbers) - (0 if passage.has_upbeat else 1)
    return replace(played.from_bar(first, max(numbers) - min(numbers) + 1), title="", composer="")


def ossia_page(opened: Opened, note_id="", top="", *, here=False) -> OssiaPage:
    """Build the page.

    Parameters
    ----------
    top : str
        Highest note to be played, in plain letters; one that is none says nothing.
    here : bool
        Whether an ossia is wanted for the phrase of the note, whatever lies in it.
    """
    at = note_at(opened, note_id)
    name = "ossia", opened.state.pk, top, at.note_id if here else ""
    found = opened.solution().once(name, lambda: _found(opened, at, top, here))
    return OssiaPage(**vars(at), here=here, **found)


def _found(opened, at, top, here):
    solution = opened.solution()
    view = View(opened, solution, None, frozenset())
    question = asked(solution, opened.settings)
    highest = _top(top, view)
    place = solution.note_at[at.note_id]
    within = next(one for one in phrases(solution.events) if place in one) if here else None
    found = ossias(question, highest, within)
    drawing = Drawing(view)
    held = kept_with(view, drawing)
    shown = tuple(_phrase(view, drawing, one) for one in found[:PHRASES_SHOWN])
    return {
        "top": highest.ascii if highest else "",
        "tops": tuple((pitch.ascii, str(pitch)) for pitch in _tops(view, highest)),
        "kept": held,
        "phrases": shown,
        "left_out": max(0, len(found) - PHRASES_SHOWN),
        "chords": any(solution.passage.harmony.values()),
        "glyphs": shared_glyphs(drawing.engravings),
        "symbols": drawing.symbols,
    }


def kept_with(view: View, drawing: Drawing) -> tuple[OssiaDrawn, ...]:
    """The ossia that is kept with a passage, phrase by phrase."""
    settings = view.opened.settings
    parts = kept(asked(view.solution, settings), ossia_pitches(settings)) if settings.ossia else []
    return tuple(_kept(view, drawing, one) for one in parts)


def _spelled(view):
    """The notes of the passage, each once, by semitone."""
    return {event.written_pitch.midi: event.written_pitch for event in view.solution.events}


def _tops(view, highest):
    """Notes that may be made the highest: those of the passage but its own highest, and the one asked for."""
    named = _spelled(view)
    tops = {midi: named[midi] for midi in sorted(named)[:-1]}
    tops |= {highest.midi: highest} if highest else {}
    return [tops[midi] for midi in sorted(tops, reverse=True)]


def _top(text, view):
    try:
        pitch = parse_pitch(text[:8])
    except PitchError:
        return None
    return _spelled(view).get(pitch.midi, pitch) if view.instrument.accepts(pitch) else None


def _phrase(view, drawing, phrase):
    events = view.solution.events
    first, last = events[phrase.notes[0]], events[phrase.notes[-1]]
    names = dict.fromkeys(str(events[n].written_pitch) for n in phrase.beyond)
    return PhraseShown(
        where=bars_words(first.notes[0].bar, last.notes[-1].bar),
        beyond=f"{counted(len(phrase.beyond), 'note')} beyond reach: {', '.join(names)}" if names else "",
        query=view.query(first.id),
        offers=tuple(_offer(view, drawing, one) for one in phrase.offers),
    )


def bars_words(first: int, last: int) -> str:
    """Bars as they are said."""
    return f"Bar {first}" if first == last else f"Bars {first} to {last}"


def _offer(view, drawing, offered):
    ossia = offered.ossia
    fewer = ossia.written_faults - ossia.faults
    beyond = sum(view.solution.entries[n] is None for n in range(ossia.first, ossia.last + 1))
    costs = _faults(ossia)
    if not beyond and abs(fewer) >= SAME:
        costs += f", {abs(fewer):.1f} {'fewer' if fewer > 0 else 'more'} than as written"
    return _drawn(view, drawing.of(ossia, drawn=False), ossia, _says(view, offered), costs)


def _faults(ossia):
    return f"{ossia.faults:.1f} faults here" if ossia.faults >= SAME else "hardly a fault here"


def _kept(view, drawing, ossia):
    events = view.solution.events
    bars = bars_words(events[ossia.first].notes[0].bar, events[ossia.last].notes[-1].bar)
    changed = sum(event.id in ossia.pitches for event in events)
    says = f"{bars}: {counted(changed, 'note')} played otherwise"
    lines = drawing.of(ossia, drawn=True)
    return _drawn(view, lines, ossia, says, _faults(ossia))


def _says(view, offered):
    """What is changed, in words."""
    notes = counted(offered.changed, "note")
    first = next(event for event in view.solution.events if event.id in offered.ossia.pitches)
    up = offered.ossia.pitches[first.id].midi > first.written_pitch.midi
    octave = f"an octave {'higher' if up else 'lower'}"
    match offered.way:
        case Departure.CHORD:
            return f"{notes} on the nearest chord tone"
        case Departure.PHRASE:
            return f"The whole phrase, {notes}, {octave}"
        case _:
            return f"{notes} {octave}"


def _drawn(view, lines, ossia, says, costs):
    played = zip(ossia.events, ossia.entries, strict=True)
    changed = [(event.written_pitch, entry) for event, entry in played if event.id in ossia.pitches]
    in_hand = view.opened.in_hand
    said = {
        (pitch, entry.id): (
            pitch,
            small_hands(entry.fingering, in_hand),
            entry.kind_words,
            in_hand.said(entry.fingering),
        )
        for pitch, entry in changed
    }
    return OssiaDrawn(
        says=says,
        costs=costs,
        lines=lines,
        fingerings=tuple(said.values()),
        pitches=" ".join(f"{note}={pitch.ascii}" for note, pitch in ossia.pitches.items()),
        none=" ".join(f"{note}=" for note in ossia.pitches),
    )
