"""The hard links that a student has to practise, each with the step of its ladder."""

from dataclasses import dataclass

from django.urls import reverse

from core.music.events import where
from core.practice.attempts import Place
from core.practice.ladder import begin, resumed, steps_to
from core.routes.links import hardest, safe_bpm

# Links named, and those among which they are found.
LINKS, LOOKED_AT = 3, 24


@dataclass(frozen=True)
class LinkDue:
    """A hard link, the step of its ladder that is played next, and the address at which it is counted."""

    before_id: str
    after_id: str
    notes: str
    where: str
    move: str
    bpm: int
    target: int
    done: bool
    address: str

    @property
    def step(self) -> str:
        return f"♩ = {self.target} holds" if self.done else f"♩ = {self.bpm} of {self.target}"

    @property
    def steps(self) -> list[int]:
        """The steps that are left, where nothing goes wrong."""
        return [round(bpm) for bpm in steps_to(self.bpm, self.target)]

    @property
    def says(self) -> str:
        return f"{self.notes} ({self.where}), {self.step}"


def links_due(music, playings):
    """The hardest links, each of two notes once, where it is hardest."""
    found, solution = {}, music.solution()
    for link in hardest(solution.table, LOOKED_AT):
        found.setdefault((link.before.written_pitch, link.after.written_pitch), link)
    return [_link_due(music, solution, playings, link) for link in list(found.values())[:LINKS]]


def _link_due(music, solution, playings, link):
    """Where its ladder stands: it goes on from what was counted, and begins at the tempo that is safe."""
    n = solution.note_at[link.after.id]
    pair = link.before.written_pitch.midi, link.after.written_pitch.midi
    target = round(music.settings.tempo_bpm)
    steps = begin(safe_bpm(solution.table, n - 1, n, target), target)
    steps = resumed(steps, [*_played_at(playings, n, pair)])
    asked = {"state": music.state.number, "from": link.before.id, "to": link.after.id}
    asked |= {} if steps.done else {"start": round(steps.bpm), "target": max(target, round(steps.bpm))}
    return LinkDue(
        before_id=link.before.id,
        after_id=link.after.id,
        notes=f"{link.before.written_pitch} to {link.after.written_pitch}",
        where=where(link.before),
        move=music.in_hand.move(*link.fingerings).sentence,
        bpm=round(steps.bpm),
        target=target,
        done=steps.done,
        address=reverse("practice:count-spot", args=[music.passage.pk], query=asked),
    )


def _played_at(playings, n, pair):
    """At which tempi a link was played off the stage, and whether it was clean."""
    for one in playings:
        at = n - one.first
        if one.bpm and one.place != Place.STAGE and at > 0 and one.midis[at - 1 : at + 1] == pair:
            for place, clean in one.places():
                if place == n:
                    yield float(one.bpm), clean
