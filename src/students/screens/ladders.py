"""The hard moves that a student has to practise, each with the step of its ladder."""

from dataclasses import dataclass

from core.music.events import where
from core.practice.attempts import Place
from core.practice.ladder import begin, resumed, steps_to
from core.routes.hard_moves import hardest, move_into, safe_bpm
from studio.address import Address

# Moves named, and those among which they are found.
MOVES, LOOKED_AT = 3, 24


@dataclass(frozen=True)
class MoveDue:
    """A hard move, the step of its ladder that is played next, and the address at which it is counted."""

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


def moves_due(music, playings):
    """The hardest moves, each of two notes once, where it is hardest."""
    found, solution = {}, music.solution()
    for move in hardest(solution.table, LOOKED_AT):
        found.setdefault((move.before.written_pitch, move.after.written_pitch), move)
    return [_move_due(music, solution, playings, move) for move in list(found.values())[:MOVES]]


def move_at(music, playings, place) -> MoveDue | None:
    """The move into a note of a passage by its place; None beside a gap."""
    move = move_into(music.solution().table, place)
    return move and _move_due(music, music.solution(), playings, move)


def _move_due(music, solution, playings, move):
    """Where its ladder stands: it goes on from what was counted, and begins at the tempo that is safe."""
    n = solution.note_at[move.after.id]
    pair = move.before.written_pitch.midi, move.after.written_pitch.midi
    target = round(music.settings.tempo_bpm)
    steps = begin(safe_bpm(solution.table, n - 1, n, target), target)
    steps = resumed(steps, [*_played_at(playings, n, pair)])
    at = Address(music.passage.pk, state=str(music.state.number), first=move.before.id, last=move.after.id)
    ladder = {} if steps.done else {"start": round(steps.bpm), "target": max(target, round(steps.bpm))}
    return MoveDue(
        before_id=move.before.id,
        after_id=move.after.id,
        notes=f"{move.before.written_pitch} to {move.after.written_pitch}",
        where=where(move.before),
        move=music.in_hand.move(*move.fingerings).sentence,
        bpm=round(steps.bpm),
        target=target,
        done=steps.done,
        address=at.to("counting:spot", **ladder),
    )


def _played_at(playings, n, pair):
    """At which tempi a move was played off the stage, and whether it was clean."""
    for one in playings:
        at = n - one.first
        if one.bpm and one.place != Place.STAGE and at > 0 and one.midis[at - 1 : at + 1] == pair:
            for place, clean in one.places():
                if place == n:
                    yield float(one.bpm), clean
