"""A student's week: the routine of each day, with what is due in it, on screen and on paper."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bench.queries import Opened
from catalogue.high_notes import taught_first
from core.music.pitch import Pitch, spell
from core.music.scale import major_tonic, tonic_name
from core.practice.plan import by_turns, next_note
from core.practice.reach import reach
from core.practice.routine import Block, Due, Sort, routine
from core.words import counted
from students.screens.ladders import moves_due
from studio.address import Address

DAYS = 7
OVERTONES_ON = ("saxophone", "clarinet")
REEDS_ALONE = ("oboe", "bassoon")
CAUTION = "Keep high notes short, rest often and mind the ears; biting is no remedy."
STOP = (
    "Stop at pain, numbness, ringing in the ears or light-headedness, and rest. If it comes back, ask the "
    "teacher and a physician. Where local rules ask for it, protect the ears."
)


@dataclass(frozen=True)
class WeekTask:
    """What a block asks for; `says` holds on every day, the key of the scale by the day."""

    sort: Sort
    name: str
    says: str
    address: str
    high: bool


@dataclass(frozen=True)
class DayBlock:
    """Minutes of a task on a day; `detail` is the key of the scale, or the long tones in their order."""

    task: WeekTask
    minutes: int
    detail: str


@dataclass(frozen=True)
class Day:
    """One day; without blocks it is off."""

    date: date
    blocks: tuple[DayBlock, ...]

    @property
    def minutes(self) -> int:
        return sum(block.minutes for block in self.blocks)

    def of(self, task: WeekTask) -> DayBlock | None:
        """Its block of a task, the minutes of several added up."""
        some = [block for block in self.blocks if block.task == task]
        return DayBlock(task, sum(block.minutes for block in some), some[0].detail) if some else None


@dataclass(frozen=True)
class WeekPage:
    """Seven days from today on.

    Parameters
    ----------
    note : Pitch or None
        The note of the week; None where none is begun.
    rows : tuple of (WeekTask, tuple of (DayBlock or None))
        Each task with its minutes on each day.
    caution, stop : str
        What to mind, and when to stop.
    """

    note: Pitch | None
    days: tuple[Day, ...]
    rows: tuple[tuple[WeekTask, tuple[DayBlock | None, ...]], ...]
    minutes: int
    high_minutes: int
    passage: str
    due: date | None
    caution: str
    stop: str

    @property
    def today(self) -> Day:
        return self.days[0]


def week_page(in_hand, plan, learning, music: Opened | None, playings, days: Sequence[date], off) -> WeekPage:
    """Build the page.

    Parameters
    ----------
    plan : practice.models.Plan
    learning : core.practice.learning.Learning
    music : bench.queries.Opened or None
        The passage that is practised.
    playings : sequence of practice.queries.SpotPlaying
        Of spots of the passage.
    days : sequence of date
        The first one is today.
    off : set of int
        Days off.
    """
    shown, rows = [], {}
    moves = moves_due(music, playings) if music else []
    for day in days:
        tasks, due = _tasks(in_hand, plan, learning, music, moves, day)
        if day.toordinal() in off:
            shown.append(Day(day, ()))
            continue
        blocks = routine(due, plan.minutes, plan.high_minutes, day.toordinal())
        shown.append(Day(day, tuple(_of_day(block, tasks) for block in blocks)))
        rows |= {block.task: None for block in shown[-1].blocks}
    order = sorted(rows, key=lambda task: list(Sort).index(task.sort))
    return WeekPage(
        note=spell(plan.note_midi) if plan.note_midi is not None and not plan.whole else None,
        days=tuple(shown),
        rows=tuple((task, tuple(day.of(task) for day in shown)) for task in order),
        minutes=plan.minutes,
        high_minutes=plan.high_minutes,
        passage=music.passage.title if music else "",
        due=plan.due,
        caution=CAUTION,
        stop=STOP,
    )


def week_from(today: date) -> list[date]:
    """Seven days from one on."""
    return [today + timedelta(days=n) for n in range(DAYS)]


def _tasks(in_hand, plan, learning, music, moves, day):
    """What each sort of block asks for on this instrument, and what the routine is made from."""
    instrument, found = in_hand.instrument, reach(learning)
    if plan.whole:
        new = by_turns(learning, plan.target_midi, day.toordinal())
    else:
        new = plan.note_midi if plan.note_midi is not None else next_note(learning, plan.target_midi)
    top = found.top if found.top is not None else instrument.middle.midi
    accepted = instrument.accepted
    low = next((midi for midi in accepted if in_hand.at_hand(midi)), accepted[0])
    loud = (midi for midi in accepted if instrument.is_loud(spell(midi)))
    due = Due(
        low=low,
        middle=(low + top) // 2,
        top=top,
        new_note=new,
        high_from=next(loud, accepted[-1] + 1),
        overtones=instrument.family in OVERTONES_ON,
        moves=bool(moves),
        passage=music is not None,
    )
    on = Address(on=in_hand.name)
    note = spell(new) if new is not None else None

    def to(name, **more):
        return on.to(name, **more)

    alone = "Reed alone" if instrument.family in REEDS_ALONE else "Mouthpiece alone"
    about = {Sort.ALONE: (alone, "One steady pitch, soft to loud and back.", "")}
    about[Sort.LONG_TONES] = "Long tones", "", ""
    about[Sort.OVERTONES] = (
        "Overtones",
        "From a low fingering up, as far as they speak without force.",
        to("overtones:overtones"),
    )
    about[Sort.REST] = "Rest", "The instrument down, shoulders and jaw loose.", ""
    if note is not None:
        about[Sort.NEW_NOTE] = _new_note(in_hand, note, plan, to)
    if music is not None:
        bench = Address(music.passage.pk, state=str(music.state.number)).to("bench:bench")
        named = "; ".join(move.says for move in moves)
        address = moves[0].address if moves else bench
        about[Sort.MOVES] = "Hard links", f"Three clean in a row, then faster: {named}.", address
        about[Sort.PASSAGE] = music.passage.title, "Slowly first; the whole of it once at the end.", bench
    high = {Sort.OVERTONES} | ({Sort.NEW_NOTE} if new is not None and new >= due.high_from else set())
    return {sort: WeekTask(sort, *words, sort in high) for sort, words in about.items()}, due


def _new_note(in_hand, note, plan, to):
    """What is asked for on the way to a note: what is taught to come first, as long as it is not logged."""
    first = "; ".join(taught_first(in_hand, note))
    if first and plan.note_midi != note.midi:
        return f"Before {note}", f"First, as you teach it: {first}", to("catalogue:note", note=note.ascii)
    says = f"Scale and arpeggio up to {note}, slowly; then {note} by heart, counted."
    name = f"The note of {'the day' if plan.whole else 'the week'}: {note}"
    return name, says, to("counting:count", note=note.ascii)


def _of_day(block: Block, tasks):
    task = tasks[block.sort]
    if block.sort is Sort.LONG_TONES:
        lowest = block.notes.index(min(block.notes)) + 1
        down, up = (
            ", ".join(str(spell(midi)) for midi in part)
            for part in (block.notes[:lowest], block.notes[lowest:])
        )
        return DayBlock(task, block.minutes, f"down {down}; up {up}" if up else down)
    key = f"{tonic_name(major_tonic(block.fifths))} major" if block.fifths is not None else ""
    return DayBlock(task, block.minutes, key)


def day_says(day: Day) -> str:
    """A day in a line for each block, as a calendar shows it."""
    return "\n".join(
        f"{counted(block.minutes, 'minute')}: {block.task.name}{f', {block.detail}' if block.detail else ''}"
        for block in day.blocks
    )
