"""The Fingerings view: the whole chart along the range, filtered by kind, searched by note."""

from collections import Counter, defaultdict
from dataclasses import dataclass
from itertools import groupby

from core.charts.entry import Confidence, Entry
from core.errors import PitchError
from core.evidence.in_hand import InstrumentInHand
from core.instruments.fingering import Kind, format_fingering
from core.music.pitch import Pitch, both_names, parse_pitch, spell
from drawing.compact import small_hands
from drawing.strands import sentence, strands_of
from studio.address import Address

OCTAVE = 12
SEARCH_LIMIT = 20
OWN, HIDDEN, LEADS = "own", "hidden", "leads"


@dataclass(frozen=True)
class Tile:
    """One fingering of a note."""

    entry: Entry
    drawing: str
    touches: str
    sentence: str
    lacking: str
    preferred: bool
    hidden: bool
    own: bool
    query: str


@dataclass(frozen=True)
class NoteRow:
    """One semitone of the range with its fingerings."""

    pitch: Pitch
    other: str
    sounding: Pitch
    tiles: tuple[Tile, ...]
    gap: bool
    all_hidden: bool
    closely: str


@dataclass(frozen=True)
class LibraryPage:
    """The chart of the instrument in hand.

    Parameters
    ----------
    kinds : tuple of (kind, count, address)
        Kinds that the chart has, with the address that filters by each.
    counts : tuple of (confidence, count)
    stretches : tuple of (without a fingering, all hidden by the teacher, rows)
        The range from the top down, notes without a fingering gathered where they lie together.
    jumps : tuple of (register, note)
        Registers from the top down, each with its highest note shown.
    """

    kind: str
    search: str
    problems: tuple[str, ...]
    total: int
    counts: tuple[tuple[str, int], ...]
    leads: int
    kinds: tuple[tuple[str, int, str], ...]
    all_kinds: str
    stretches: tuple[tuple[bool, bool, list[NoteRow]], ...]
    jumps: tuple[tuple[str, str], ...]


def library_page(in_hand: InstrumentInHand, kind="", search="") -> LibraryPage:
    """Build the Fingerings view.

    Parameters
    ----------
    kind : str
        Only fingerings of this kind; all if empty. ``own`` and ``hidden`` are the teacher's; ``leads`` are
        those that nobody vouches for.
    search : str
        A note by either name, with or without octave: ``Bb``, ``A#4``.
    """
    search, problems = search.strip()[:SEARCH_LIMIT], []
    wanted = _wanted(in_hand, search, problems)
    rows = [row for row in _rows(in_hand, kind, wanted) if row.tiles or (row.gap and not kind)]
    parted = groupby(rows, lambda row: (not row.tiles, row.all_hidden))
    entries = in_hand.catalogue.entries
    levels = Counter(entry.confidence for entry in entries)
    jumps = {}
    for row in rows:
        jumps.setdefault(in_hand.instrument.register_of(row.pitch).name, row.pitch.ascii)
    return LibraryPage(
        kind=kind,
        search=search,
        problems=tuple(problems),
        total=len(entries),
        counts=tuple(
            (level.value, levels[level]) for level in reversed(Confidence) if level is not Confidence.LEAD
        ),
        leads=levels[Confidence.LEAD],
        kinds=_kinds(in_hand, search),
        all_kinds=_query(in_hand, "", search),
        stretches=tuple((*which, list(stretch)) for which, stretch in parted),
        jumps=tuple(jumps.items()),
    )


def _wanted(in_hand, search, problems):
    """Semitones asked for, from the top down: those of the range, and what lies above it in the chart."""
    instrument = in_hand.instrument
    every = sorted({*instrument.semitones, *in_hand.catalogue.by_midi}, reverse=True)
    text = search.replace(" ", "")
    if not text:
        return every
    try:
        if text[-1].isdigit():
            pitch = parse_pitch(text)
            if not instrument.accepts(pitch):
                problems.append(f"Written {pitch} lies outside {instrument.accepted_span}.")
            return [midi for midi in every if midi == pitch.midi]
        pitch = parse_pitch(text + "4")
        return [midi for midi in every if (midi - pitch.midi) % OCTAVE == 0]
    except PitchError:
        problems.append(f"“{search}” is no note. Type one like B♭, A#4 or Eb.")
        return every


def _kinds(in_hand, search):
    counts = Counter(entry.kind for entry in in_hand.catalogue.entries)
    listed = [(kind.value, counts[kind]) for kind in Kind if counts[kind]]
    leads = sum(entry.is_lead for entry in in_hand.catalogue.entries)
    listed += [(LEADS, leads)] if leads else []
    listed += [(OWN, len(in_hand.own))] if in_hand.own else []
    listed += [(HIDDEN, len(in_hand.hidden))] if in_hand.hidden else []
    return tuple((kind, count, _query(in_hand, kind, search)) for kind, count in listed)


def _query(in_hand, kind, search):
    return Address(on=in_hand.name).query(kind=kind, search=search)


def _rows(in_hand, kind, wanted):
    whole = in_hand.shipped.by_midi  # with what is hidden, so that it can be shown again
    own = defaultdict(list)
    for entry in in_hand.own:
        own[entry.note.midi].append(entry)
    shown = {
        midi: [entry for entry in (*whole.get(midi, ()), *own[midi]) if _shows(in_hand, kind, entry)]
        for midi in wanted
    }
    entries = [entry for listed in shown.values() for entry in listed]
    known = dict(zip((entry.id for entry in entries), in_hand.evidence(entries), strict=True))
    found = []
    for midi in wanted:
        pitch, gap = spell(midi), midi not in in_hand.catalogue.by_midi
        tiles = [_tile(in_hand, entry, known[entry.id]) for entry in sorted(shown[midi], key=in_hand.rank)]
        found.append(
            NoteRow(
                pitch=pitch,
                other=next((name for name in both_names(midi) if name != str(pitch)), ""),
                sounding=spell(in_hand.instrument.to_sounding.apply(pitch).midi),
                tiles=tuple(tiles),
                gap=gap,
                all_hidden=gap and midi in whole,
                closely=_closely(in_hand, note=pitch.ascii),
            )
        )
    return found


def _shows(in_hand, kind, entry):
    hidden = entry.id in in_hand.hidden
    if kind == HIDDEN or hidden:
        return hidden and kind == HIDDEN
    if kind == OWN:
        return entry.id in in_hand.own_ids
    if kind == LEADS:
        return entry.is_lead
    return not kind or entry.kind.value == kind


def _closely(in_hand, **shown):
    return Address(on=in_hand.name, **shown).to("catalogue:note")


def _tile(in_hand, entry, known):
    touches = format_fingering(entry.fingering, in_hand.instrument)
    return Tile(
        entry=entry,
        drawing=small_hands(entry.fingering, in_hand),
        touches=in_hand.said(entry.fingering),
        sentence=sentence(strands_of(entry, known)),
        lacking=in_hand.lacking(entry),
        preferred=entry.id in in_hand.preferred,
        hidden=entry.id in in_hand.hidden,
        own=entry.id in in_hand.own_ids,
        query=_closely(in_hand, note=entry.note.ascii, touches=touches),
    )
