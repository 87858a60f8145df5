"""The four strands of a fingering, always in the same order: Pitch, Tone, Speaks, Hands.

One compact drawing wherever a fingering appears. What a strand rests on has a mark of its own,
by form: taught a diamond, modelled an open ring, judged a triangle, measured a filled disc, counted
a square, unknown a dashed line from end to end without a mark. Each mark has its own spread as a line; the
broad bar is what the sources come to together, dashed where its width is only assumed.
"""

from dataclasses import dataclass, replace

from core.charts.entry import Entry, Speaks, Tone
from core.evidence.sources import HANDLING_VALUE, SPEAKS_VALUE, TONE_VALUE, Basis, Estimate, nearest_word
from core.evidence.weigh import Evidence, Weighed
from core.words import cents_words, counted
from drawing.svg import join, tag

WIDTH, ROW, LEFT, RIGHT = 166.0, 22.0, 56.0, 159.0
CENTS_SHOWN = 50.0
SHOWN = (-CENTS_SHOWN, CENTS_SHOWN)
STUMBLES_SHOWN = 0.5
COUNTED = {Basis.JUDGED: "judgement", Basis.MEASURED: "reading", Basis.COUNTED: "attempt"}


@dataclass(frozen=True)
class Mark:
    """One source: where its mark stands from 0 to 1, and its spread."""

    basis: Basis
    at: float
    low: float
    high: float


@dataclass(frozen=True)
class DrawnStrand:
    """One strand: its name, words for it, what it rests on, its sources, and what they come to.

    `assumed` where the width of what they come to is nobody's, only ours.
    """

    name: str
    words: str
    rests_on: str
    marks: tuple[Mark, ...]
    low: float
    high: float
    assumed: bool = False


@dataclass(frozen=True)
class Stumbles:
    """Chances of a stumble of the hands, least and most, and how they are said."""

    chances: tuple[float, ...]
    words: str


def strands_of(entry: Entry, known: Evidence, stumbles: Stumbles | None = None) -> list[DrawnStrand]:
    """The four strands of an entry under what is known of it, and of the moves into and out of it."""
    return [
        _pitch(entry, known.pitch),
        _worded("Tone", known.tone, entry.tone, TONE_VALUE),
        _worded("Speaks", known.speaks, entry.speaks, SPEAKS_VALUE),
        _hands(known.hands, stumbles),
    ]


def in_and_out(into: float | None, out_of: float | None) -> Stumbles | None:
    """Stumbles on the way into and out of a note of a passage; None at an end."""
    named = [(name, chance) for name, chance in (("in", into), ("out", out_of)) if chance is not None]
    if not named:
        return None
    words = ", ".join(f"{name} {per_hundred(chance)}" for name, chance in named)
    return Stumbles(tuple(chance for _, chance in named), f"{words} in 100 stumble")


def _mark(estimate: Estimate, low: float, high: float) -> Mark:
    values = (estimate.value, estimate.value - estimate.spread, estimate.value + estimate.spread)
    return Mark(estimate.basis, *(min(1.0, max(0.0, (v - low) / (high - low))) for v in values))


def _strand(name, words, sources: Weighed, low=0.0, high=1.0):
    if not sources.sources:
        return DrawnStrand(name, "unknown", "", (), 0.0, 1.0)
    whole = _mark(sources.combined, low, high)
    marks = tuple(_mark(source, low, high) for source in sources.sources)
    return DrawnStrand(name, words, ", ".join(map(_rests_on, sources.sources)), marks, whole.low, whole.high)


def _rests_on(source: Estimate) -> str:
    if not source.count:
        return str(source.basis)
    if source.basis is Basis.MODELLED:
        return f"modelled, from {counted(source.count, 'time')} its twin was heard"
    return counted(source.count, COUNTED[source.basis])


def _pitch(entry, sources):
    combined, tendency = sources.combined, entry.tendency
    if entry.width_assumed and [source.basis for source in sources.sources] == [Basis.TAUGHT]:
        drawn = _strand("Pitch", f"in tune, width assumed (±{tendency.high:.0f})", sources, *SHOWN)
        return replace(drawn, assumed=True)
    if [source.basis for source in sources.sources] == [Basis.TAUGHT]:
        words = f"{cents_words(combined.value)} ({tendency.low:+.0f} to {tendency.high:+.0f})"
    else:
        words = f"{cents_words(combined.value)}, give or take {combined.spread:.0f}"
    return _strand("Pitch", words.replace("-", "−"), sources, *SHOWN)


def _worded(name, sources, taught: Tone | Speaks | None, scale):
    only_taught = [source.basis for source in sources.sources] == [Basis.TAUGHT]
    return _strand(name, str(taught if only_taught else nearest_word(scale, sources.combined.value)), sources)


def _hands(sources, stumbles):
    if stumbles is None:
        words = str(nearest_word(HANDLING_VALUE, sources.combined.value)) if sources.sources else ""
        return _strand("Hands", words, sources)
    ends = sorted(1.0 - min(chance, STUMBLES_SHOWN) / STUMBLES_SHOWN for chance in stumbles.chances)
    rings = tuple(Mark(Basis.MODELLED, end, end, end) for end in dict.fromkeys((ends[0], ends[-1])))
    judged = tuple(_mark(source, 0.0, 1.0) for source in sources.sources)
    rests_on = ", ".join([str(Basis.MODELLED), *map(_rests_on, sources.sources)])
    return DrawnStrand("Hands", stumbles.words, rests_on, (*rings, *judged), ends[0], ends[-1])


def per_hundred(chance: float) -> str:
    """A chance as a count in a hundred playings."""
    count = 100 * chance
    return "<1" if 0 < count < 0.95 else f"{count:.0f}"


def sentence(strands: list[DrawnStrand]) -> str:
    """The strands in words, for screen readers and for people who read words."""
    return "; ".join(
        f"{strand.name}: {strand.words}" + (f", {strand.rests_on}" if strand.rests_on else "")
        for strand in strands
    )


def strands_svg(strands: list[DrawnStrand]) -> str:
    """The compact drawing of four strands."""
    return tag(
        "svg",
        tag("title", sentence(strands)),
        *(_row(strand, (place + 0.5) * ROW) for place, strand in enumerate(strands)),
        class_="strands",
        viewBox=f"0 0 {WIDTH:g} {4 * ROW:g}",
        role="img",
    )


def _x(part):
    return LEFT + (RIGHT - LEFT) * part


def _row(strand, y):
    axis = f"axis{'' if strand.marks else ' dashed'}"
    parts = [
        tag("text", strand.name, class_="strand-name", x=0, y=y + 4.5),
        tag("path", class_=axis, d=f"M{LEFT:g} {y:g}H{RIGHT:g}"),
    ]
    if strand.name == "Pitch":
        parts.append(tag("path", class_="zero", d=f"M{(LEFT + RIGHT) / 2:g} {y - 7:g}V{y + 7:g}"))
    if strand.marks:
        kind = f"spread{' assumed' if strand.assumed else ''}"
        parts.append(tag("path", class_=kind, d=f"M{_x(strand.low):.1f} {y:g}H{_x(strand.high):.1f}"))
    several = len({mark.basis for mark in strand.marks}) > 1
    for mark in strand.marks:
        lift = {Basis.TAUGHT: 5.0, Basis.MODELLED: 5.0, Basis.JUDGED: -5.0}.get(mark.basis, 0.0) * several
        parts.append(_basis_mark(mark, y + lift, 4.2 if several else 6.0, whisker=several))
    return join(parts)


def _basis_mark(mark, y, r, *, whisker):
    x = round(_x(mark.at), 1)
    match mark.basis:
        case Basis.TAUGHT:
            diamond = f"M{x - r:g} {y:g}l{r:g} {-r:g}l{r:g} {r:g}l{-r:g} {r:g}z"
            drawn = tag("path", class_="mark", d=diamond)
        case Basis.JUDGED:
            triangle = f"M{x - r:g} {y + r * 0.83:g}h{2 * r:g}l{-r:g} {-r * 1.8:g}z"
            drawn = tag("path", class_="mark", d=triangle)
        case Basis.MODELLED:
            drawn = tag("circle", class_="mark ring", cx=x, cy=y, r=r * 0.83)
        case Basis.MEASURED:
            drawn = tag("circle", class_="mark", cx=x, cy=y, r=r * 0.83)
        case Basis.COUNTED:
            side = 1.5 * r
            drawn = tag("rect", class_="mark", x=x - side / 2, y=y - side / 2, width=side, height=side)
        case _:  # never a mark that says something else
            raise ValueError(f"{mark.basis} has no mark of its own")
    if not whisker:
        return drawn
    line = f"M{_x(mark.low):.1f} {y:g}H{_x(mark.high):.1f}"
    return join([tag("path", class_="whisker", d=line), drawn])
