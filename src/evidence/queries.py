"""Reads of what is known on one student's instrument, which the caller has found for a teacher."""

from collections import Counter, defaultdict

from django.db.models import Count
from django.shortcuts import get_object_or_404

from core.practice.attempts import Place, Result
from evidence.models import AttemptMade, JudgementMade, Preference, Prepared, ReadingsTaken, Trial


def heard_on(owned, without=None):
    """Everything judged, read and counted, as plain values: (entry, judgements, readings, hits), by entry.

    A judgement is (set-up, pitch, tone, speaks, hands); readings are (set-up, cents); hits are (set-up,
    clean, total, ((note, times), ...)). What was heard in the trial `without` is left out.
    """
    judged, taken, hits = defaultdict(list), defaultdict(list), _hits_on(owned)
    of_it = {"instrument": owned}
    columns = ("entry", "setup", "pitch", "tone", "speaks", "hands")
    left_out = {"trial": without.pk} if without else {"pk": None}
    for entry, *judgement in JudgementMade.objects.filter(**of_it).exclude(**left_out).values_list(*columns):
        judged[entry].append(tuple(judgement))
    readings = ReadingsTaken.objects.filter(**of_it).exclude(**left_out)
    for entry, setup, cents in readings.values_list("entry", "setup", "cents"):
        taken[entry].append((setup, tuple(cents)))
    return tuple(
        (entry, tuple(judged[entry]), tuple(taken[entry]), hits.get(entry, ()))
        for entry in sorted({*judged, *taken, *hits})
    )


def _hits_on(owned):
    """Attempts off the stage with each fingering, by set-up; stumbles of the hands are left out."""
    rows = AttemptMade.objects.filter(instrument=owned).exclude(entry="").order_by()
    rows = rows.exclude(place=Place.STAGE).exclude(result=Result.STUMBLED)
    counts = rows.values_list("entry", "setup", "result", "cracked_to").annotate(Count("pk"))
    found = defaultdict(lambda: defaultdict(lambda: [0, 0, Counter()]))
    for entry, setup, result, cracked, times in counts:
        here = found[entry][setup]
        here[0] += times * (result == Result.CLEAN)
        here[1] += times
        here[2].update({cracked: times} if cracked is not None else {})
    return {
        entry: tuple(
            (setup, clean, total, tuple(sorted(cracks.items(), key=lambda pair: (-pair[1], pair[0]))))
            for setup, (clean, total, cracks) in sorted(by_setup.items())
        )
        for entry, by_setup in found.items()
    }


def preferred_on(owned):
    """Ids of the entries preferred."""
    return frozenset(Preference.objects.filter(instrument=owned).values_list("entry", flat=True))


def prepared_on(owned):
    """Names of the positions whose first asking is logged as done."""
    return frozenset(Prepared.objects.filter(instrument=owned).values_list("position", flat=True))


def log_of(owned, entry_id):
    """Judgements and readings of one fingering, newest first."""
    of_it = {"instrument": owned, "entry": entry_id}
    judged = [("judged", row) for row in JudgementMade.objects.filter(**of_it)]
    taken = [("measured", row) for row in ReadingsTaken.objects.filter(**of_it)]
    return sorted(judged + taken, key=lambda pair: (pair[1].made, pair[1].pk), reverse=True)


def trial_of(teacher, pk):
    """A trial on one of the teacher's instruments; 404 for any other."""
    found = Trial.objects.select_related("instrument", "instrument__student")
    return get_object_or_404(found, pk=pk, instrument__teacher=teacher)
