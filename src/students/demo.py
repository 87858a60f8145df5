"""The demo: a youth wind band, four of its students, and a passage each from the suite that it prepares."""

import tomllib
import uuid
from datetime import timedelta

import numpy as np
from django.conf import settings
from django.utils import timezone

from bench.queries import opened
from catalogue.in_hand import moves_on
from catalogue.queries import of_instrument
from core.drills.kinds import drills
from core.practice.attempt_format import Logged
from core.practice.attempts import Attempt, Result
from core.practice.ladder import begin, played
from core.practice.player import Hands
from core.routes.hard_moves import hardest, safe_bpm
from core.routes.practised import asked_of
from counting.asked import spot_asked
from evidence import services as evidence
from evidence.told import reach_counted
from passages import services
from practice import demo as practice
from practice import drilling
from practice.services import keep_drills, log_attempts
from studio.services import add_instrument, change_instrument, save_student
from studio.shipped import instrument

DEMO = settings.DATA / "demo"
# Of the simulated hands: moves, those among which they are found, days before today with a session on each,
# playings in it, and how far a student is slower or quicker than is usual, as a spread of the logarithm.
MOVES, LOOKED_AT, DAYS_AGO, A_SESSION, SLOWER = 3, 12, (12, 9, 6, 4, 2), 10, 0.15


def load(teacher):
    """Make the students, their instruments, what was judged and read on them, and a passage each.

    The newest passage stands first in the list; so the first movement is made last, and drills after it.
    """
    band = tomllib.loads((DEMO / "band.toml").read_text("utf-8"))
    served = {}
    for desk in reversed(band["student"]):
        student = save_student(teacher, name=desk["name"], level=desk["level"], notes=desk["notes"])
        owned = _instrument(teacher, student, desk)
        in_hand = of_instrument(owned)
        for entry, cents in desk["readings"].items():
            evidence.type_readings(teacher, owned, in_hand, entry, cents)
        for entry, words in desk["judged"].items():
            evidence.judge(teacher, owned, in_hand, entry, **words)
        practice.load(teacher, owned, desk["practice"])
        model, score = owned.model, (DEMO / desk["score"]).read_bytes()
        passage, notices, _ = services.read_source(score, model, desk["pitch_is"])
        added = services.add_passage(
            teacher, title="", instrument=model, passage=passage, notices=notices, owned=owned
        )
        services.set_due(teacher, added, owned.plan.due)
        climb_moves(teacher, added, seed=desk["practice"]["seed"])
        served[desk["name"]] = added
    for name, kinds in band["drills"].items():
        _some_drills(teacher, served[name], kinds)


def _instrument(teacher, student, desk):
    """A student's instrument as it is played now, after what was read with another reed."""
    now, before = details(**desk["instrument"]), desk.get("before")
    if not before:
        return add_instrument(teacher, student, **now)
    readings = before.pop("readings")
    owned = add_instrument(teacher, student, **now | before)
    for entry, cents in readings.items():
        evidence.type_readings(teacher, owned, of_instrument(owned), entry, cents)
    change = {name: value for name, value in now.items() if name != "model"}
    return change_instrument(teacher, owned, **change)


def _some_drills(teacher, passage, kinds):
    """A drill of each kind for the hardest move of a passage."""
    at = opened(passage, passage.current)
    (move,) = hardest(at.solution().table, 1)
    spot = drilling.spot_between(at, move.before.id, move.after.id)
    material = drilling.material_of_spot(at, spot, drilling.top_on(at.owned, at.in_hand))
    made = drills(material)
    some = [next(drill for drill in made if drill.kind == kind) for kind in kinds]
    keep_drills(teacher, some, model=passage.instrument, owned=at.owned, serves=at)


def climb_moves(teacher, passage, seed):
    """Sessions of simulated hands on the hardest moves of a passage, each up its own ladder of tempi.

    They play within the reach: what hands do there is not lost where a note does not speak.
    """
    at = opened(passage, passage.current)
    table, random = at.solution().table, np.random.default_rng(seed)
    notes, top = at.solution().note_at, reach_counted(at.owned, at.in_hand).top or 0
    events, moves = at.solution().events, moves_on(at.in_hand)
    chart = moves.chart
    hard = [notes[move.after.id] for move in hardest(table, LOOKED_AT)]
    logged = []
    within = [n for n in hard if max(e.written_pitch.midi for e in events[max(n - 2, 0) : n + 1]) <= top]
    for n in within[:MOVES]:
        pair = (chart.index[entry.id] for entry in at.solution().entries[n - 1 : n + 1])
        player = Hands(asked_of(moves, *pair) * float(np.exp(random.normal(0, SLOWER))), random)
        target = round(at.settings.tempo_bpm)
        climb = begin(safe_bpm(table, n - 1, n, target), target)
        drawn = spot_asked(at, events[max(n - 2, 0)].id, events[n].id).drawn
        spot, first = drawn.spot, drawn.first
        for days_ago in DAYS_AGO:
            begins = timezone.now() - timedelta(days=days_ago)
            for minute in range(A_SESSION):
                if climb.done:
                    break
                bpm = round(climb.bpm)
                clean = player.plays(spot.steps[n - first].quarters * 60 / bpm)
                logged.append(_played(spot, n - first, clean, bpm, begins + timedelta(minutes=minute)))
                climb = played(climb, clean=clean)
    log_attempts(teacher, at.owned, at.in_hand, logged)


def _played(spot, at, clean, bpm, made):
    step, result = spot.steps[at], Result.CLEAN if clean else Result.STUMBLED
    attempt = Attempt(
        step.midi, result, made.toordinal(), fingering=step.fingering, spot=spot, at=at, bpm=bpm
    )
    return Logged(attempt, uuid.uuid4(), made)


def details(*, model, lacks, **others):
    """An instrument as the services ask for it: what is fitted, instead of what it lacks."""
    return {"model": model, "fitted": set(instrument(model).usually_fitted) - set(lacks), **others}
