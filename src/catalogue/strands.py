"""The four strands of a fingering, always in the same order: Pitch, Tone, Speaks, Hands.

One compact drawing wherever a fingering appears. What a strand rests on has a mark of its own,
by form: taught a diamond, modelled an open ring, judged a triangle, measured a filled disc,
unknown a dashed line from end to end without a mark. The bar is the spread.
"""

from dataclasses import dataclass
from html import escape

from core.catalogue import Entry
from core.evidence import Basis, Estimate, pitch_estimate, speaks_estimate, tone_estimate

WIDTH, ROW, LEFT, RIGHT = 166.0, 22.0, 56.0, 159.0
CENTS_SHOWN = 50.0
STUMBLES_SHOWN = 0.5


@dataclass(frozen=True)
class Strand:
    """One strand: its name, words for it, and where its mark and bar stand from 0 to 1."""

    name: str
    words: str
    basis: Basis
    at: float
    low: float
    high: float


def strands_of(entry: Entry, into: float | None, out_of: float | None) -> list[Strand]:
    """The four strands of an entry; `into` and `out_of` are chances of a stumble, None at an end."""
    return [_pitch(entry), _tone(entry), _speaks(entry), _hands(into, out_of)]


def _place(value, spread, low, high):
    scale = high - low
    cut = [min(1.0, max(0.0, (v - low) / scale)) for v in (value, value - spread, value + spread)]
    return {"at": cut[0], "low": cut[1], "high": cut[2]}


def _unknown(name):
    return Strand(name, "unknown", Basis.UNKNOWN, 0.5, 0.0, 1.0)


def _pitch(entry):
    estimate = pitch_estimate(entry)
    if estimate.basis is Basis.UNKNOWN:
        return _unknown("Pitch")
    tendency = entry.tendency
    words = f"{cents_words(estimate.value)} ({tendency.low:+.0f} to {tendency.high:+.0f})".replace("-", "−")
    return Strand(
        "Pitch", words, estimate.basis, **_place(estimate.value, estimate.spread, -CENTS_SHOWN, CENTS_SHOWN)
    )


def cents_words(cents: float) -> str:
    """Cents as a teacher says them."""
    if round(cents) == 0:
        return "in tune"
    return f"{abs(cents):.0f} cents {'sharp' if cents > 0 else 'flat'}"


def _worded(name, word, estimate: Estimate):
    if estimate.basis is Basis.UNKNOWN:
        return _unknown(name)
    return Strand(name, str(word), estimate.basis, **_place(estimate.value, estimate.spread, 0.0, 1.0))


def _tone(entry):
    return _worded("Tone", entry.tone, tone_estimate(entry))


def _speaks(entry):
    return _worded("Speaks", entry.speaks, speaks_estimate(entry))


def _hands(into, out_of):
    said = [
        f"{name} {per_hundred(chance)}"
        for name, chance in (("in", into), ("out", out_of))
        if chance is not None
    ]
    chances = [chance for chance in (into, out_of) if chance is not None]
    if not chances:
        return _unknown("Hands")
    ends = sorted(1.0 - min(chance, STUMBLES_SHOWN) / STUMBLES_SHOWN for chance in chances)
    words = ", ".join(said) + " in 100 stumble"
    return Strand("Hands", words, Basis.MODELLED, ends[0], ends[0], ends[-1])


def per_hundred(chance: float) -> str:
    """A chance as a count in a hundred playings."""
    count = 100 * chance
    return "<1" if 0 < count < 0.95 else f"{count:.0f}"


def sentence(strands: list[Strand]) -> str:
    """The strands in words, for screen readers and for people who read words."""
    return "; ".join(
        f"{strand.name}: {strand.words}" + ("" if strand.basis is Basis.UNKNOWN else f", {strand.basis}")
        for strand in strands
    )


def strands_svg(strands: list[Strand]) -> str:
    """The compact drawing of four strands."""
    rows = "".join(_row(strand, place) for place, strand in enumerate(strands))
    return (
        f'<svg class="strands" viewBox="0 0 {WIDTH:g} {4 * ROW:g}" role="img">'
        f"<title>{escape(sentence(strands))}</title>{rows}</svg>"
    )


def _row(strand, place):
    y = (place + 0.5) * ROW
    unknown = strand.basis is Basis.UNKNOWN
    x, low, high = (LEFT + (RIGHT - LEFT) * part for part in (strand.at, strand.low, strand.high))
    parts = [f'<text class="strand-name" x="0" y="{y + 4.5:g}">{strand.name}</text>']
    parts.append(f'<path class="axis{" dashed" if unknown else ""}" d="M{LEFT:g} {y:g}H{RIGHT:g}"/>')
    if strand.name == "Pitch":
        middle = (LEFT + RIGHT) / 2
        parts.append(f'<path class="zero" d="M{middle:g} {y - 7:g}V{y + 7:g}"/>')
    if not unknown:
        parts.append(f'<path class="spread" d="M{low:g} {y:g}H{high:g}"/>{_basis_mark(strand, x, high, y)}')
    return "".join(parts)


def _basis_mark(strand, x, high, y):
    match strand.basis:
        case Basis.TAUGHT:
            return f'<path class="mark" d="M{x - 6:g} {y:g}l6 -6l6 6l-6 6z"/>'
        case Basis.MODELLED if strand.name == "Hands":
            return "".join(f'<circle class="mark ring" cx="{end:g}" cy="{y:g}" r="5"/>' for end in (x, high))
        case Basis.MODELLED:
            return f'<circle class="mark ring" cx="{x:g}" cy="{y:g}" r="5"/>'
        case Basis.JUDGED:
            return f'<path class="mark" d="M{x - 6:g} {y + 5:g}h12l-6 -11z"/>'
        case _:
            return f'<circle class="mark" cx="{x:g}" cy="{y:g}" r="5"/>'
