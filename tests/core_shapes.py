"""Shared by the tests of the core: where the data lies, Hypothesis strategies, small scores."""

from fractions import Fraction
from pathlib import Path

from hypothesis import strategies as st

from core.music.events import DYNAMICS
from core.music.passage import ARTICULATIONS, HAIRPINS, NOMINAL, ORNAMENTS, Bar, Note, Passage
from core.music.pitch import Pitch, spell

DATA = Path(__file__).resolve().parent.parent / "src" / "data"

LENGTHS = sorted(length for length in NOMINAL if Fraction(1, 16) <= length <= 4)


@st.composite
def pitches(draw):
    return Pitch(draw(st.sampled_from("CDEFGAB")), draw(st.integers(-2, 2)), draw(st.integers(3, 7)))


@st.composite
def notes(draw):
    rest = draw(st.integers(0, 4)) == 0
    tuplet = draw(st.sampled_from([(1, 1), (1, 1), (3, 2), (5, 4)]))
    pitch = draw(pitches())
    return Note(
        id="",
        written_pitch=None if rest else pitch,
        quarters=draw(st.sampled_from(LENGTHS)) * tuplet[1] / tuplet[0],
        tuplet=tuplet,
        tied=not rest and draw(st.booleans()),
        articulations=frozenset() if rest else draw(st.frozensets(st.sampled_from(ARTICULATIONS))),
        dynamic=draw(st.sampled_from(["", "", *DYNAMICS, "sfz"])),
        tempo_bpm=draw(st.none() | st.floats(20, 400)),
        fingering="" if rest else draw(st.sampled_from(["", "open", "L1 L2/2 | R1", "vent! L1"])),
        hairpin=draw(st.sampled_from(["", "", *HAIRPINS])),
        hairpin_stop=draw(st.booleans()),
        grace=() if rest else tuple(draw(st.lists(pitches(), max_size=2))),
        ornaments=frozenset() if rest else draw(st.frozensets(st.sampled_from(ORNAMENTS), max_size=2)),
        fermata=draw(st.booleans()),
        words=draw(st.sampled_from(["", "", "A", "Flowing"])),
        chord=draw(st.sampled_from(["", "", "Bbm7/F", "F#", "N.C."])),
        lyric="" if rest else draw(st.sampled_from(["", "la", "wa-", "ter"])),
    )


@st.composite
def passages(draw):
    bars = draw(st.lists(st.lists(notes(), min_size=1, max_size=6), min_size=1, max_size=4))
    first = Note("", Pitch("C", 0, 5), Fraction(1))
    made = []
    for place, bar in enumerate(bars):
        key = draw(st.integers(-7, 7)) if place == 0 else draw(st.none() | st.integers(-7, 7))
        time = (4, 4) if place == 0 else draw(st.sampled_from([None, (3, 4), (6, 8), (5, 16)]))
        made.append(Bar(tuple([first, *bar] if place == 0 else bar), key, time))
    return Passage(
        tuple(made), draw(st.sampled_from(["", "Weir & <Sluice>"])), draw(st.sampled_from(["", "N. N."]))
    ).numbered()


def score(
    measures, head="", part='<part-list><score-part id="P1"><part-name>A</part-name></score-part></part-list>'
):
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
        '"http://www.musicxml.org/dtds/partwise.dtd">\n'
        f'<score-partwise version="4.0">{head}{part}<part id="P1">{measures}</part></score-partwise>'
    ).encode()


def note(step="C", octave=5, duration=1, more="", rest=False):
    what = "<rest/>" if rest else f"<pitch><step>{step}</step><octave>{octave}</octave></pitch>"
    return f"<note>{what}<duration>{duration}</duration>{more}</note>"


def bar(*content, number=1, attributes="<divisions>1</divisions>"):
    return f'<measure number="{number}"><attributes>{attributes}</attributes>{"".join(content)}</measure>'


def in_hand_of(model, own=(), hidden=frozenset(), fitted=None, **more):
    """A shipped model as the instrument in hand; everything that is usually fitted, unless it is said."""
    from catalogue import in_hand, shipped

    usual = shipped.instrument(model).usually_fitted
    here = usual if fitted is None else fitted
    return in_hand.make(in_hand.Stored(model, model, own=own, hidden=hidden, fitted=here, **more))


def own_row(pk, note, touches, reason="x"):
    """An own fingering as it is stored."""
    from catalogue.in_hand import OwnStored

    return OwnStored(pk, note, touches, kind="alternate", confidence="low", reason=reason)


def abc_of(midis, slur=True):
    """Sixteenths at these written pitches, in one bar."""
    letters = []
    for midi in midis:
        pitch = spell(midi)
        octave = "'" * (pitch.octave - 4) if pitch.octave >= 4 else "," * (4 - pitch.octave)
        letters.append({-1: "_", 0: "=", 1: "^"}[pitch.alter] + pitch.step + octave)
    line = " ".join(letters)
    return f"L:1/16\nK:C\n{'(' + line + ')' if slur else line} |"


def solved(model, source, tempo_bpm=None, **more):
    """A text in ABC, or a score that ships with the demo, solved on a shipped model."""
    from catalogue.in_hand import moves_of
    from core.music.events import sounding_events
    from core.music.notation.formats import read_score
    from core.routes.solve import solve

    data = source.encode() if "\n" in source else (DATA / "demo" / source).read_bytes()
    in_hand = in_hand_of(model)
    events = sounding_events(read_score(data).passage, tempo_bpm)
    return solve(events, in_hand, moves_of(in_hand.catalogue), **more)


DEMO = {
    "b-flat-clarinet": "mill-race.abc",
    "oboe": "eel-ladder.abc",
    "alto-saxophone": "over-the-top-sluice.musicxml",
    "bassoon": "below-the-lock.abc",
}
