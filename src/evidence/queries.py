"""Reads of what is known on one student's instrument, which the caller has found for a teacher."""

from collections import Counter, defaultdict
from dataclasses import dataclass, field

from django.db.models import Count
from django.shortcuts import get_object_or_404

from core.charts.entry import Colour, Speaks, Tone
from core.evidence.sources import (
    SLURRED,
    SOFT,
    Handling,
    Heard,
    Hits,
    Judgement,
    Moved,
    Readings,
    Tuning,
    read_estimate,
    worth_of,
)
from core.practice.attempts import Began, Place, Result, SpotNote, sounded
from evidence.models import (
    AttemptMade,
    JudgementMade,
    Preference,
    Prepared,
    ReadingsTaken,
    SpotPlayed,
    Trial,
)
from studio.access import of

# What is judged, and on which scale.
JUDGED = {"pitch": Tuning, "tone": Tone, "colour": Colour, "speaks": Speaks, "hands": Handling}
# What the way a note begins asks of its fingering.
ASKS = {Began.TONGUED: 1.0, Began.SLURRED: SLURRED, Began.SOFT: SOFT}


def heard_on(owned, spots=(), without=None) -> tuple[tuple[str, Heard], ...]:
    """Everything judged, read and counted of each fingering on an instrument, by its entry.

    `spots` are as `spots_on` gives them; what was heard in the trial `without` is left out.
    """
    judged, taken, hits = defaultdict(list), defaultdict(list), _hits_on(owned, spots)
    of_it = {"instrument": owned}
    left_out = {"trial": without.pk} if without else {"pk": None}
    rows = JudgementMade.objects.filter(**of_it).exclude(**left_out)
    for entry, setup, *words in rows.values_list("entry", "setup", *JUDGED):
        said = {name: scale(word) for (name, scale), word in zip(JUDGED.items(), words, strict=True) if word}
        judged[entry].append(Judgement(setup, **said))
    readings = ReadingsTaken.objects.filter(**of_it).exclude(**left_out)
    for entry, setup, cents in readings.values_list("entry", "setup", "cents"):
        taken[entry].append(Readings(setup, tuple(cents)))
    return tuple(
        (entry, Heard(tuple(judged[entry]), tuple(taken[entry]), hits.get(entry, ())))
        for entry in sorted({*judged, *taken, *hits})
    )


def read_by_setup(instruments):
    """What readings come to on each of some instruments, by set-up and by the entry of the fingering."""
    taken = defaultdict(list)
    rows = ReadingsTaken.objects.filter(instrument__in=instruments)
    for *key, cents in rows.values_list("instrument", "setup", "entry", "cents"):
        taken[tuple(key)] += cents
    found = {}
    for (instrument, setup, entry), cents in taken.items():
        found.setdefault(instrument, {}).setdefault(setup, {})[entry] = read_estimate(cents)
    return found


@dataclass(frozen=True)
class SpotCounts:
    """Attempts at a spot that were alike, off the stage."""

    steps: tuple[SpotNote, ...]
    at: int
    setup: int
    result: Result
    cracked_to: int | None
    bpm: int | None
    began: str
    times: int


def spots_on(owned) -> list[SpotCounts]:
    """Attempts at spots on an instrument, those that are alike together."""
    rows = AttemptMade.objects.filter(instrument=owned, spot__isnull=False).exclude(place=Place.STAGE)
    alike = rows.order_by().values_list("spot", "at", "setup", "result", "cracked_to", "bpm", "began")
    counts = list(alike.annotate(Count("pk")))
    kept = SpotPlayed.objects.filter(instrument=owned).values_list("pk", "notes") if counts else ()
    steps = {key: tuple(SpotNote(*note) for note in notes) for key, notes in kept}
    return [
        SpotCounts(steps[spot], at, setup, Result(result), *more) for spot, at, setup, result, *more in counts
    ]


@dataclass
class _Tally:
    """Attempts with a fingering under a set-up, while they are counted; worth as tongued ones."""

    clean: int = 0
    total: int = 0
    clean_worth: float = 0.0
    missed_worth: float = 0.0
    cracked: Counter = field(default_factory=Counter)

    def add(self, result, cracked_to, began, times):
        clean = result == Result.CLEAN
        worth = times * worth_of(ASKS[began], clean=clean)
        self.total += times
        if clean:
            self.clean, self.clean_worth = self.clean + times, self.clean_worth + worth
        else:
            self.missed_worth += worth
        if cracked_to is not None:
            self.cracked[cracked_to] += times

    def hits(self, setup):
        cracked = sorted(self.cracked.items(), key=lambda pair: (-pair[1], pair[0]))
        return Hits(setup, self.clean, self.total, tuple(cracked), (self.clean_worth, self.missed_worth))


def _hits_on(owned, spots) -> dict[str, tuple[Hits, ...]]:
    """Attempts off the stage with each fingering, by set-up; stumbles of the hands are left out."""
    rows = AttemptMade.objects.filter(instrument=owned, spot=None).exclude(entry="").order_by()
    rows = rows.exclude(place=Place.STAGE).exclude(result=Result.STUMBLED)
    found = defaultdict(lambda: defaultdict(_Tally))
    alike = rows.values_list("entry", "setup", "result", "cracked_to", "began").annotate(Count("pk"))
    for entry, setup, *attempt in alike:
        found[entry][setup].add(*attempt)
    for one in spots:
        for place, result in sounded(one.steps, one.at, one.result):
            if (entry := one.steps[place].fingering) and result is not Result.STUMBLED:
                cracked_to = one.cracked_to if place == one.at else None
                # how the other notes of a spot began is not kept
                began = one.began if place == one.at else Began.TONGUED
                found[entry][one.setup].add(result, cracked_to, began, one.times)
    return {
        entry: tuple(tally.hits(setup) for setup, tally in sorted(by_setup.items()))
        for entry, by_setup in found.items()
    }


def moved_on(spots) -> tuple[tuple[tuple[str, str], tuple[Moved, ...]], ...]:
    """What was counted of moves, by the entries from which and to which they lead.

    A move comes clean where the note after it was played, whether or not that spoke.
    """
    found = defaultdict(lambda: defaultdict(Counter))
    for one in spots:
        for place, result in sounded(one.steps, one.at, one.result) if one.bpm else ():
            after = one.steps[place]
            before = one.steps[place - 1] if place else None
            if before and before.fingering and after.fingering:
                seconds = round(after.quarters * 60 / one.bpm, 3)
                found[before.fingering, after.fingering][seconds][result is Result.STUMBLED] += one.times
    return tuple(
        (pair, tuple(Moved(s, tally[False], tally[True]) for s, tally in sorted(by_time.items()) if s))
        for pair, by_time in sorted(found.items())
    )


def preferred_on(owned):
    """Ids of the entries preferred."""
    return frozenset(Preference.objects.filter(instrument=owned).values_list("entry", flat=True))


def prepared_on(owned):
    """Names of the positions whose first asking is logged as done."""
    return frozenset(Prepared.objects.filter(instrument=owned).values_list("position", flat=True))


def log_of(owned, entry_id):
    """Judgements and readings of one fingering, newest first, and in words what of each does not count."""
    of_it, setups = {"instrument": owned, "entry": entry_id}, owned.setups_in_force
    judged = [("judged", row) for row in JudgementMade.objects.filter(**of_it)]
    taken = [("measured", row) for row in ReadingsTaken.objects.filter(**of_it)]
    found = sorted(judged + taken, key=lambda pair: (pair[1].made, pair[1].pk), reverse=True)
    return [(kind, row, _apart(row, setups)) for kind, row in found]


def _apart(row, setups):
    apart = setups.without(row.setup, row.tells)
    if not apart:
        return ""
    what = "" if len(apart) == len(row.tells) else f"{' and '.join(apart)} "
    return f"another set-up: {what}{'do' if len(apart) > 1 and what else 'does'} not count"


def trial_of(teacher, pk):
    """A trial on one of the teacher's instruments; 404 for any other."""
    found = Trial.objects.select_related("instrument", "instrument__student")
    return get_object_or_404(of(teacher, found), pk=pk)
