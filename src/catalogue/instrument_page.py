"""One student's instrument: what is fitted, what it is played with, and how it tends."""

from html import escape

from catalogue.hand import Hand
from catalogue.strands import cents_words
from core.evidence.sources import Basis
from core.instruments.fingering import format_fingering
from core.music.pitch import spell

WIDTH, HEIGHT, LEFT, RIGHT = 900.0, 260.0, 60.0, 890.0
TOP, BOTTOM = 16.0, 226.0
CENTS_SHOWN = 50.0


class InstrumentPage:
    """How an instrument tends, from its readings under the present set-up."""

    def __init__(self, hand: Hand, owned):
        self.hand, self.owned = hand, owned

    @property
    def measured(self):
        """Every fingering with readings, and what the readings alone come to; low notes first."""
        found = []
        for entry in self.hand.catalogue.entries:
            sources = self.hand.evidence(entry).pitch.sources
            read = next((source for source in sources if source.basis is Basis.MEASURED), None)
            if read is not None:
                found.append((entry, read))
        return sorted(found, key=lambda pair: (pair[0].note.midi, pair[0].id))

    @property
    def rows(self):
        return [
            {
                "note": str(entry.note),
                "kind": entry.kind.value,
                "touches": format_fingering(entry.fingering, self.hand.instrument),
                "cents": cents_words(read.value),
                "spread": f"{read.spread:.0f}",
                "count": read.count,
                "query": f"?on={self.hand.on}&note={entry.note.ascii.replace('#', '%23')}",
            }
            for entry, read in self.measured
        ]

    @property
    def earlier(self):
        """Judgements and readings made under earlier set-ups."""
        return sum(self.hand.evidence(entry).earlier for entry in self.hand.catalogue.entries)

    @property
    def chart(self):
        """Readings along the range: a filled disc with its spread for every fingering."""
        low, high = self.hand.instrument.written_low.midi, self.hand.instrument.written_high.midi

        def x(midi):
            return LEFT + (RIGHT - LEFT) * (midi - low + 0.5) / (high - low + 1)

        def y(cents):
            cut = max(-CENTS_SHOWN, min(CENTS_SHOWN, cents))
            return TOP + (BOTTOM - TOP) * (CENTS_SHOWN - cut) / (2 * CENTS_SHOWN)

        parts = []
        for cents, label in ((40, "+40"), (20, "+20"), (0, "in tune"), (-20, "−20"), (-40, "−40")):
            name = "zero" if cents == 0 else "axis"
            parts.append(f'<path class="{name}" d="M{LEFT:g} {y(cents):g}H{RIGHT:g}"/>')
            parts.append(f'<text x="{LEFT - 8:g}" y="{y(cents) + 5:g}" text-anchor="end">{label}</text>')
        for midi in range(low, high + 1):
            if midi % 12 in (0, 4, 7):
                parts.append(
                    f'<text x="{x(midi):g}" y="{HEIGHT - 6:g}" text-anchor="middle">{spell(midi)}</text>'
                )
        for entry, read in self.measured:
            said = f"{entry.note} {entry.kind.value}: {cents_words(read.value)}, {read.count} read"
            at, ends = x(entry.note.midi), (y(read.value - read.spread), y(read.value + read.spread))
            parts.append(
                f"<g><title>{escape(said)}</title>"
                f'<path class="whisker" d="M{at:g} {ends[0]:g}V{ends[1]:g}"/>'
                f'<circle class="mark" cx="{at:g}" cy="{y(read.value):g}" r="5"/></g>'
            )
        title = f"How {self.owned.name} tends: {len(self.measured)} fingerings measured"
        return (
            f'<svg class="tendency" viewBox="0 0 {WIDTH:g} {HEIGHT:g}" role="img">'
            f"<title>{escape(title)}</title>{''.join(parts)}</svg>"
        )
