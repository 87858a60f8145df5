"""docs/practice.md: what is said of reach, plan, ladder and stage, held against simulated students.

Run with `make practice`; some minutes. Seeds are fixed. No real player was heard.
"""

import math
import sys
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from core.practice import ladder as ladders  # noqa: E402
from core.practice.attempts import Place  # noqa: E402
from core.practice.learning import (  # noqa: E402
    HOLDS_LOG_ODDS,
    after,
    begin,
    on_day,
)
from core.practice.plan import OnNote, goes_on, next_note  # noqa: E402
from core.practice.player import even_player, odd_player  # noqa: E402
from core.practice.reach import reach, try_next  # noqa: E402
from core.practice.stage import still_to_come  # noqa: E402

KINDS = {"even": even_player, "odd": odd_player}
LOW, HIGH, GUESS = 58, 96, 80
SESSION, MARKS = 20, (20, 40, 80, 160)
INSIDE_SD = 1.2816  # eight of ten lie so near
AT_RANDOM = 0.15
# Slower than this a student is taken not to learn, where plans are compared.
LEARN_LEAST = {"even": 0.015, "odd": 0.15}


def students(kind, count, seed, off=0, *, learning=False):
    """Simulated students, each with its own random numbers.

    `off` is how far the teacher guesses wrong; `learning` leaves out those who hardly learn at all.
    """
    number = found = 0
    while found < count:
        random = np.random.default_rng([seed, number])
        player = KINDS[kind](random, LOW, HIGH, GUESS - off)
        number += 1
        if not learning or player.learns >= LEARN_LEAST[kind]:
            found += 1
            yield player, random


def chosen(learning, random):
    """The note that is tried next: that of which it is least sure, now and then any near the reach."""
    if random.random() >= AT_RANDOM:
        return try_next(learning)
    top = reach(learning).top or GUESS
    return int(np.clip(top + random.integers(-4, 5), LOW, HIGH))


def told(kind, count, seed, off=0):
    """How well chances, spreads and reaches are told over 160 attempts."""
    loss, truth, bins, inside = 0.0, 0.0, np.zeros((10, 3)), []
    errors, over = ({mark: [] for mark in MARKS} for _ in range(2))
    for player, random in students(kind, count, seed, off):
        learning, day = begin(LOW, HIGH, GUESS), 1
        for number in range(1, MARKS[-1] + 1):
            if number % SESSION == 1:
                day += int(random.choice([1, 1, 2, 3]))
                player.wakes(day)
                learning = on_day(learning, day)
            midi = chosen(learning, random)
            said, true = learning.chance(midi), player.chance(midi)
            attempt = player.plays(midi, day)
            loss -= math.log(said if attempt.clean else 1 - said)
            truth -= math.log(max(true if attempt.clean else 1 - true, 1e-9))
            bins[min(9, int(said * 10))] += (1, said, attempt.clean)
            learning = after(learning, [attempt])
            if number in errors:
                error = (reach(learning).top or LOW - 1) - player.reach()
                errors[number].append(abs(error))
                over[number].append(error >= 1)
        near = slice(max(0, GUESS - 6 - LOW), GUESS + 7 - LOW)
        away = np.abs(learning.odds - player.odds)[near] / learning.spread[near]
        inside.append(np.mean(away < INSIDE_SD))
    attempts = count * MARKS[-1]
    return {
        "log loss over the truth's": (loss - truth) / attempts,
        "calibration error": float(np.abs(bins[:, 1] - bins[:, 2]).sum() / attempts),
        "80 % intervals cover": float(np.mean(inside)),
        **{f"reach, mean error after {n}": float(np.mean(errors[n])) for n in MARKS},
        **{f"over-claimed after {n}": float(np.mean(over[n])) for n in MARKS},
    }


FURTHER, WEEKS_MOST, SESSION_DAYS, CHART = 4, 40, 5, 12


def planned(kind, count, seed, policy):
    """Weeks until four more semitones hold, by how the note of the week is chosen; moves made too early."""
    weeks, moves, early = [], 0, 0
    for player, random in students(kind, count, seed, learning=True):
        target = min(player.reach() + FURTHER, HIGH)
        notes = range(target - FURTHER + 1, target + 1)
        learning, at, begun, sessions = begin(LOW, HIGH, GUESS), 0, 1, 0
        took = math.inf
        for day in range(1, 7 * WEEKS_MOST + 1):
            if day % 7 >= SESSION_DAYS:
                continue
            sessions += 1
            note = notes[at % FURTHER]
            player.wakes(day)
            learning = on_day(learning, day)
            for number in range(SESSION):
                if policy == "all at once":
                    midi = min(notes[0] + int(random.integers(CHART)), HIGH)
                else:
                    midi = note if number % 2 == 0 else note - 1 - int(random.integers(0, 3))
                learning = after(learning, [player.plays(midi, day)])
            if all(player.holds(midi) for midi in notes):
                took = day / 7
                break
            on = OnNote(note, day - begun, sessions)
            if policy == "when it holds" and goes_on(learning, on):
                wanted = next_note(learning, target)
                new = (wanted - notes[0]) % FURTHER if wanted in notes else at
                moved = new != at
            else:
                moved = policy == "every week" and day - begun >= 7
                new = at + 1
            if moved:
                moves += 1
                early += player.chance(note) < 0.7
                at, begun, sessions = new, day, 0
        weeks.append(took)
    return {
        "median, weeks": float(np.median(weeks)),
        "ninth decile": float(np.quantile(weeks, 0.9, method="lower")),
        "missed": float(np.mean(np.isinf(weeks))),
        "moved on too early": early / max(moves, 1),
    }


def climbing(count, seed, *, plain=False):
    """Repetitions until a ladder says done, misses among them, and how many then hold at the target."""
    repetitions, misses, holds = [], 0, []
    for number in range(count):
        random = np.random.default_rng([seed, number])
        wall, learns = 60 * math.exp(random.normal(0, 0.2)), abs(random.normal(0.02, 0.008))
        bpm = target = 120.0
        ladder, row, steps, repetition = ladders.begin(60.0, target), 0, [60.0], 0
        for _ in range(1500):
            bpm = steps[-1] if plain else ladder.bpm
            chance = 0.98 / (1 + math.exp(-(2.0 + 9.0 * math.log(wall / bpm))))
            clean = bool(random.random() < chance)
            wall *= math.exp(learns * 4 * chance * (1 - chance) + 0.002)
            misses += not clean
            repetition += 1
            if plain:
                row = row + 1 if clean else 0
                if not clean:
                    steps = steps[:-1] or steps
                if row == 3 and steps[-1] < target:
                    steps, row = [*steps, min(steps[-1] + 10, target)], 0
                done = row == 3 and steps[-1] >= target
            else:
                ladder = ladders.played(ladder, clean=clean)
                done = ladder.done
            if done:
                break
        repetitions.append(repetition)
        holds.append(0.98 / (1 + math.exp(-(2.0 + 9.0 * math.log(wall / target)))) >= 0.8)
    return {
        "repetitions": float(np.mean(repetitions)),
        "misses": misses / sum(repetitions),
        "hold at the target": float(np.mean(holds)),
    }


def staged(kind, count, seed):
    """How often the range of stage attempts still to come holds the true number, after some of them."""
    inside = {0: [], 5: [], 10: []}
    for player, _ in students(kind, count, seed):
        learning, midi, day = begin(LOW, HIGH, GUESS), GUESS - 5, 1
        attempts = []
        for day in range(1, 9):
            player.wakes(day)
            attempts += [player.plays(midi, day) for _ in range(5)]
        learning = after(learning, attempts)
        on_stage = 0
        for wanted in inside:
            while on_stage < wanted:
                day += 1
                learning = after(learning, [player.plays(midi, day, Place.STAGE)])
                on_stage += 1
            player.mood = player.today = 0
            inside[wanted].append(_holds_true(player, midi, still_to_come(learning, midi)))
    return {f"after {n}": float(np.mean(found)) for n, found in inside.items()}


def _holds_true(player, midi, said):
    base, stage = player.odds[midi - LOW] - 0.2, player.stage
    fades = 20 if player.odd else 30
    room = base - math.log(9)
    if room <= 0:
        return said.most is None
    true = 0 if -stage <= room else math.ceil(fades * math.log(-stage / room))
    return (said.fewest or 0) - 1 <= true <= (math.inf if said.most is None else said.most + 1)


def fingered(kind, count, seed):
    """How often the better of two fingerings of a note is preferred after so many attempts with each."""
    found = {6: [], 12: [], 24: []}
    for player, _ in students(kind, count, seed):
        midi = GUESS
        player.odds[midi - LOW] = HOLDS_LOG_ODDS
        player.fingerings = {"one": 0.0, "other": -1.5}
        learning, day = begin(LOW, HIGH, GUESS), 1
        for number in range(1, 25):
            day += number % 4 == 0
            for name in ("other", "one"):
                player.wakes(day)
                learning = after(learning, [player.plays(midi, day, fingering=name)])
            if number in found:
                said = learning.fingered(midi)
                found[number].append(said["one"][0] > said["other"][0])
    return {f"after {n} each": float(np.mean(better)) for n, better in found.items()}


def lost(kind, count, seed):
    """How far off the reach is after six weeks without practice, and after so many attempts since."""
    found = {0: [], 10: [], 20: []}
    for player, random in students(kind, count, seed):
        learning = begin(LOW, HIGH, GUESS)
        for day in range(1, 9):
            player.wakes(day)
            learning = on_day(learning, day)
            for _ in range(SESSION):
                learning = after(learning, [player.plays(chosen(learning, random), day)])
        day = 8 + 42
        player.wakes(day)
        learning = on_day(learning, day)
        for number in range(21):
            if number in found:
                found[number].append(abs((reach(learning).top or LOW - 1) - player.reach()))
            learning = after(learning, [player.plays(chosen(learning, random), day)])
    return {f"after {n}": float(np.mean(error)) for n, error in found.items()}


POLICIES = ("when it holds", "every week", "all at once")
# What is to be reached: the bounds of the table, for either kind.
BOUNDS = {
    "log loss over the truth's": ((0, 0.040), (0, 0.060)),
    "calibration error": ((0, 0.03), (0, 0.04)),
    "80 % intervals cover": ((0.80, 0.94), (0.72, 0.92)),
    "reach, mean error after 20": ((0, 1.05), (0, 1.3)),
    "reach, mean error after 40": ((0, 0.95), (0, 1.2)),
    "reach, mean error after 80": ((0, 0.85), (0, 1.05)),
    "reach, mean error after 160": ((0, 0.60), (0, 1.05)),
    "over-claimed after 20": ((0, 0.20), (0, 0.20)),
    "over-claimed after 40": ((0, 0.16), (0, 0.20)),
    "over-claimed after 80": ((0, 0.14), (0, 0.20)),
    "over-claimed after 160": ((0, 0.13), (0, 0.20)),
}
COUNT = 400


def table(title, columns, rows):
    """Lines of a table in Markdown."""
    head = [f"| {title} | " + " | ".join(columns) + " |", "|---" * (len(columns) + 1) + "|"]
    return [*head, *(f"| {name} | " + " | ".join(cells) + " |" for name, cells in rows), ""]


def figure(value):
    return "never" if math.isinf(value) else f"{value:.3f}".rstrip("0").rstrip(".") or "0"


def with_bounds(name, values):
    """Cells with the figure, and the bound it is held to; what misses it is said."""
    cells = []
    for value, (low, high) in zip(values, BOUNDS[name], strict=True):
        bound = f"{low:g} to {high:g}" if low else f"at most {high:g}"
        cells.append(f"{figure(value)} ({bound}{'' if low <= value <= high else ': **missed**'})")
    return cells


def side_by_side(title, found):
    """A table of what is measured for every kind alike."""
    names = list(next(iter(found.values())))
    rows = [(name, [figure(values[name]) for values in found.values()]) for name in names]
    return table(title, list(found), rows)


def main():
    lines = [HEAD]
    by_kind = {kind: told(kind, COUNT, 7) for kind in KINDS}
    rows = [(name, with_bounds(name, [values[name] for values in by_kind.values()])) for name in BOUNDS]
    lines += table(f"{COUNT} students of each kind", list(KINDS), rows)
    lines += ["## A guess four semitones wrong", ""]
    wrong = {kind: told(kind, COUNT // 2, 23, off=4) for kind in KINDS}
    kept = [name for name in BOUNDS if "reach" in name or "over" in name]
    lines += side_by_side("guessed too high", {k: {n: v[n] for n in kept} for k, v in wrong.items()})
    lines += ["## The week", "", WEEK_SAID, ""]
    for kind in KINDS:
        plans = {policy: planned(kind, COUNT // 2, 11, policy) for policy in POLICIES}
        lines += side_by_side(f"the {kind} kind", plans)
    lines += ["## The ladder of tempi", ""]
    climbs = {
        "as built": climbing(COUNT, 5),
        "ten up, ten down, done at three": climbing(COUNT, 5, plain=True),
    }
    lines += side_by_side("simulated hands", climbs)
    lines += [
        "## The stage",
        "",
        "How often the range told holds the true number, or rightly says never.",
        "",
    ]
    lines += side_by_side("attempts on stage", {kind: staged(kind, COUNT, 13) for kind in KINDS})
    lines += [
        "## Two fingerings of a note",
        "",
        "One adds nothing, the other takes 1.5 off the log odds.",
        "",
    ]
    lines += side_by_side("the better one is preferred", {kind: fingered(kind, COUNT, 17) for kind in KINDS})
    lines += ["## Notes lost again", "", "Mean error of the reach in semitones after six weeks off.", ""]
    lines += side_by_side("attempts since", {kind: lost(kind, COUNT // 2, 19) for kind in KINDS})
    (ROOT / "docs" / "practice.md").write_text("\n".join(lines).rstrip() + "\n", "utf-8")


HEAD = """# What practice says, held against simulated students

Made by `make practice`; seeds are fixed. No real player was heard. Two kinds of simulated student
(`core/practice/player.py`): the *even* one learns by the law that is supposed, the *odd* one otherwise.
Each makes 160 attempts in sessions of twenty, at the note of which it is least sure whether it holds, one
in seven anywhere near the reach. A note holds if it is hit four times of five; the reach is the highest
that holds with at most one lower one that is missed more than once in four.
"""
WEEK_SAID = """Weeks until four more semitones hold, five sessions of twenty a week, over students who learn
at all. *When it holds*: on to the next note when it likely holds, after three days and two sessions at
least. *Every week*: whatever happens. *All at once*: anywhere on the next twelve notes. Moved on too early:
the note is hit less than seven times of ten."""


if __name__ == "__main__":
    main()
