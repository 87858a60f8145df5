"""Time what must be fast, each against a stated baseline in the same run.

Every figure is the median of several runs. Nothing here is a test; equal results are checked all
the same, and a difference ends the run with an error.
"""

import argparse
import itertools
import os
import statistics
import sys
import time
from dataclasses import replace
from pathlib import Path

SRC = Path(__file__).resolve().parent.parent / "src"
sys.path.insert(0, str(SRC))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

import django  # noqa: E402
import networkx as nx  # noqa: E402
import numpy as np  # noqa: E402

django.setup()

from catalogue import in_hand as making  # noqa: E402
from catalogue import shipped  # noqa: E402
from core.acoustics.ensemble import Ensemble  # noqa: E402
from core.acoustics.impedance import Pieces  # noqa: E402
from core.acoustics.model import Model  # noqa: E402
from core.acoustics.states import every_state  # noqa: E402
from core.charts.verdict import judge  # noqa: E402
from core.evidence.sources import ALL_SOURCES  # noqa: E402
from core.instruments.fingering import Fingering  # noqa: E402
from core.instruments.variants import Variants  # noqa: E402
from core.music.events import sounding_events  # noqa: E402
from core.music.notation.formats import read_score  # noqa: E402
from core.music.notation.musicxml_writer import write_musicxml  # noqa: E402
from core.music.pitch import spell  # noqa: E402
from core.overtones import near_search  # noqa: E402
from core.routes.alternatives import by_habit, by_stretch, families  # noqa: E402
from core.routes.candidates import offer_for, offers  # noqa: E402
from core.routes.k_best import best_routes  # noqa: E402
from core.routes.most_worth import most_worth  # noqa: E402
from core.routes.problem import make_problem  # noqa: E402
from core.routes.solve import known_of, solve  # noqa: E402
from core.routes.sureness import founded  # noqa: E402
from core.routes.table import make_table  # noqa: E402
from core.routes.tempo_map import grid_of, tempo_map  # noqa: E402
from core.routes.trade_offs import exchanges  # noqa: E402

COST_TOLERANCE = 1e-9
IMPEDANCE_TOLERANCE = 1e-9  # relative
N_FREQ, N_SINGLE = 49, 48
BASES = ("alto-saxophone", "tenor-saxophone", "b-flat-clarinet", "oboe", "bassoon")
LINE = "(CBcd edcB) _B=B_BA FAcf|(ab^c'd' e'^f'g'a') (g'^f'e'd' c'bag)|"


def timed(run, repeats):
    """Median seconds of a call, and its last result."""
    seconds = []
    for _ in range(repeats):
        start = time.perf_counter()
        result = run()
        seconds.append(time.perf_counter() - start)
    return statistics.median(seconds), result


def blocks(problem):
    """The problem note by note: usable slots, their costs, and the moves between them."""
    slots = [
        np.flatnonzero(problem.trellis.usable[a:b]) for a, b in itertools.pairwise(problem.trellis.first)
    ]
    nodes = [problem.node[first + s] for first, s in zip(problem.trellis.first, slots, strict=False)]
    moves = []
    for n, (old, new) in enumerate(itertools.pairwise(slots)):
        whole = problem.move[problem.trellis.first_move[n] : problem.trellis.first_move[n + 1]]
        moves.append(whole.reshape(problem.trellis.count[n], problem.trellis.count[n + 1])[np.ix_(old, new)])
    return slots, nodes, moves


def plain_sweep(nodes, moves):
    """The textbook's way: note after note there, and back for what each candidate costs."""
    cost, back = nodes[0], []
    arriving = [np.zeros_like(nodes[0])]
    for node, move in zip(nodes[1:], moves, strict=True):
        total = cost[:, None] + move
        back.append(total.argmin(axis=0))
        arriving.append(total.min(axis=0))
        cost = arriving[-1] + node
    leaving = [np.zeros_like(nodes[-1])]
    for node, move in zip(nodes[:0:-1], moves[::-1], strict=True):
        leaving.append((move + (node + leaving[-1])[None, :]).min(axis=1))
    path = [int(cost.argmin())]
    for step in back[::-1]:
        path.append(int(step[path[-1]]))
    return float(cost.min()), arriving, leaving[::-1], path[::-1]


def layered_graph(slots, nodes, moves):
    """The same layered graph for a general library: an edge carries its move and the node it enters."""
    graph = nx.DiGraph()
    for n, (node, move) in enumerate(zip(nodes[1:], moves, strict=True)):
        total = move + node[None, :]
        graph.add_weighted_edges_from(
            ((n, a), (n + 1, b), float(total[a, b])) for a, b in itertools.product(*map(range, total.shape))
        )
    return graph, (0, 0), (len(slots) - 1, 0)


def compare(name, problem, repeats):
    """Our table against a plain sweep and a library's shortest path; ends the run where costs differ."""
    parts = blocks(problem)
    table_s, table = timed(lambda: make_table(problem), repeats)
    sweep_s, swept = timed(lambda: plain_sweep(*parts[1:]), repeats)
    build_s, (graph, start, end) = timed(lambda: layered_graph(*parts), 1)
    path_s, found = timed(lambda: nx.single_source_dijkstra(graph, start, end), 3)
    for what, cost in (("the plain sweep", swept[0]), ("the graph library", found[0])):
        if abs(table.route.cost - cost) > COST_TOLERANCE:
            sys.exit(f"the costs differ: {table.route.cost!r} here, {cost!r} by {what}")
    choice = sum(len(slots) > 1 for slots in parts[0])
    print(f"Table of a route, {len(problem.events)} notes, {choice} with a choice, {name}")
    print(f"  this project               {1e3 * table_s:8.1f} ms   cost {table.route.cost:.9f}")
    for what, seconds in (
        ("plain sweep, both ways", sweep_s),
        ("networkx, shortest path", path_s),
        ("so, with its graph", path_s + build_s),
    ):
        print(f"  {what:<26} {1e3 * seconds:8.1f} ms   {seconds / table_s:.1f} times")
    return table


def every_slot_open(problem):
    """Fingerings for colour and practice may be taken too."""
    trellis = problem.trellis
    row = np.repeat(np.arange(len(trellis.count)), trellis.count)
    return replace(problem, trellis=replace(trellis, usable=trellis.usable | ~trellis.gap[row]))


def change_one_note(table, in_hand, repeats):
    """Another fingering pinned in the middle: what lies beside it against the whole."""
    problem = table.problem
    middle = len(problem.events) // 2
    n = next(
        n
        for n in range(middle, len(problem.events))
        if sum(not c.bar for c in problem.given.offered[n].candidates) > 1
    )
    usable = [c.entry.id for c in problem.given.offered[n].candidates if not c.bar]
    offer = offer_for(in_hand, problem.events[n].written_pitch, usable[-1], frozenset())
    one_s, changed = timed(lambda: table.with_offer(n, offer), repeats)
    whole_s, again = timed(lambda: make_table(changed.problem), repeats)
    if abs(changed.route.cost - again.route.cost) > COST_TOLERANCE:
        sys.exit("the costs differ after a change")
    print("One note changed, same passage")
    print(f"  beside it only             {1e3 * one_s:8.1f} ms")
    print(f"  the whole table            {1e3 * whole_s:8.1f} ms   {whole_s / one_s:.1f} times")


def compare_states(name):
    """Every hole state of an instrument for one note, together and one at a time (a sample, scaled up)."""
    model = shipped.model(name)
    geometry, tube = model.geometries[0], model.ensemble.tubes[0]
    low, high = model.instrument.written_low.midi, model.instrument.written_high.midi
    note = model.sounding_hz(spell((low + high) // 2))
    omega = 2 * np.pi * np.linspace(0.95 * note, 1.05 * note, N_FREQ)
    order = [[hole.name for hole in model.instrument.holes].index(name) for name in tube.hole_names]
    states = every_state(model.instrument)[:, order]
    sample = states[:: max(1, len(states) // N_SINGLE)]
    together_s, found = timed(lambda: Pieces(tube, geometry.air, omega).all(states), 3)
    single_s, direct = timed(
        lambda: [Pieces(tube, geometry.air, omega).all(row[None, :])[0] for row in sample], 3
    )
    if not np.allclose(found[:: max(1, len(states) // N_SINGLE)], direct, rtol=IMPEDANCE_TOLERANCE, atol=0):
        sys.exit("the impedances differ")
    pieces = Pieces(tube, geometry.air, omega)
    shared_s, _ = timed(lambda: [pieces.all(row[None, :]) for row in sample], 3)
    single_s, shared_s = (seconds * len(states) / len(sample) for seconds in (single_s, shared_s))
    print(f"Every hole state of the {shipped.INSTRUMENTS[name]}, {len(states)}, at {N_FREQ} frequencies")
    print(f"  together                   {1e3 * together_s:8.1f} ms")
    for what, seconds in (("one at a time", single_s), ("so, matrices kept", shared_s)):
        times = f"{seconds / together_s:.0f} times, {len(sample)} of them scaled up"
        print(f"  {what:<26} {1e3 * seconds:8.1f} ms   {times}")


def predict_one(name):
    """A fingering that was never asked for, with the whole ensemble; and the matrices made before.

    Of an ensemble of its own: that which pages ask knows the fingerings of the chart from the disk.
    """
    model = Model(Ensemble(shipped.instrument(name), shipped.geometries(name)))
    start = time.perf_counter()
    model.predict([(Fingering(), model.instrument.written_low)])
    first_s = time.perf_counter() - start
    fresh = iter(shipped.catalogue(name).entries)
    one_s, _ = timed(lambda: model.predict([((entry := next(fresh)).fingering, entry.note)]), 9)
    print(f"One fingering, {len(model.geometries)} geometries, {shipped.INSTRUMENTS[name]}")
    print(
        f"  predicted                  {1e3 * one_s:8.1f} ms   the first, with its matrices {first_s:.1f} s"
    )


def in_depth(alto, notes):
    """What the bench tells beside the route; the map against solving every tempo by itself."""
    abc = "L:1/16\nQ:1/4=112\nK:C\n" + LINE * (notes // 32 + 1)
    events, moves = sounding_events(read_score(abc.encode()).passage)[:notes], making.moves_of(alto.catalogue)
    table = solve(events, alto, moves)
    table.problem.quicker(1.1)  # what is alike is found once
    family = dict(enumerate(families(table.problem.given.chart)))
    n = next(
        n
        for n, offer in enumerate(table.problem.given.offered)
        if n > notes // 2 and sum(not candidate.bar for candidate in offer.candidates) > 1
    )
    usable = [c.entry.id for c in table.problem.given.offered[n].candidates if not c.bar]
    pinned = offer_for(alto, events[n].written_pitch, usable[-1], frozenset())
    runs = {
        "solved anew": lambda: solve(events, alto, moves),
        "another tempo": lambda: make_table(table.problem.quicker(1.1)),
        "other weights": lambda: make_table(table.problem.weighing({"hands": 2.0})),
        "a pin": lambda: table.with_offer(n, pinned),
        "tempo map": lambda: tempo_map(table, 112.0),
        "ways by place": lambda: by_stretch(table),
        "ways by habit": lambda: by_habit(table, family),
        "exchanges of all strands": lambda: exchanges(table),
        "how well founded": lambda: founded(table),
        "most worth a reading": lambda: most_worth(table),
    }
    print(f"In depth, {notes} notes")
    found = {}
    for name, run in runs.items():
        found[name] = timed(run, 3)
        print(f"  {name:<26} {1e3 * found[name][0]:8.1f} ms")
    tempi = grid_of(112.0)
    every_s, costs = timed(
        lambda: [make_table(table.problem.quicker(bpm / 112.0)).route.cost for bpm in tempi.tolist()], 1
    )
    if not np.allclose(costs, found["tempo map"][1].faults, rtol=0, atol=1e-6):
        sys.exit("the map differs from the routes")
    map_s = found["tempo map"][0]
    print(f"  {'every tempo by itself':<26} {1e3 * every_s:8.1f} ms   {every_s / map_s:.1f} times the map")


def search_and_verdict(alto):
    """Untried fingerings of a note, and verdicts; the keywork of all candidates at once, and one by one."""
    rows, note = making.family_rows(alto), spell(alto.instrument.written_high.midi - 5)
    model, fitted = alto.acoustics.model, alto.fitted
    variants = Variants(alto.instrument, fitted)
    bases = variants.rows([e.fingering for e in near_search.bearing(rows, note, alto.instrument)])
    pool = variants.changed(bases, near_search.TOUCHES)
    fingerings = [variants.fingering(row) for row in pool]
    at_once_s, states = timed(lambda: variants.states(pool), 5)
    single_s, each = timed(lambda: Model(model.ensemble, fitted).states(fingerings), 1)
    if not np.array_equal(states, each):
        sys.exit("the states of the holes differ")
    whole_s, _ = timed(lambda: near_search.near_search(model, rows, alto.catalogue, note, fitted), 5)
    asked = [(entry.fingering, entry.note) for entry in alto.catalogue.entries]
    verdict_s, _ = timed(lambda: judge(alto.catalogue, asked, alto.acoustics), 3)
    print(f"Untried for {note}: {len(pool)} candidates; verdicts on {len(asked)} rows")
    print(f"  {'keywork, all at once':<26} {1e3 * at_once_s:8.1f} ms")
    print(f"  {'keywork, one by one':<26} {1e3 * single_s:8.1f} ms   {single_s / at_once_s:.0f} times")
    print(f"  {'the whole search':<26} {1e3 * whole_s:8.1f} ms")
    print(f"  {'verdicts':<26} {1e3 * verdict_s:8.1f} ms")


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--notes", type=int, default=2000)
    parser.add_argument("--repeats", type=int, default=7)
    asked = parser.parse_args()
    alto = making.of_usual("alto-saxophone")
    abc = "L:1/16\nQ:1/4=112\nK:C\n" + LINE * (asked.notes // 32 + 1)
    passage = read_score(abc.encode()).passage
    events, moves = sounding_events(passage)[: asked.notes], making.moves_of(alto.catalogue)
    offered = offers(events, alto)
    known = known_of(offered, alto, ALL_SOURCES)
    problem = make_problem(events, offered, moves, known)
    table = compare("as the bench offers them", problem, asked.repeats)
    change_one_note(table, alto, asked.repeats)
    several = [n for n, offer in enumerate(offered) if len(offer.candidates) > 1]
    hard = make_problem([events[n] for n in several], [offered[n] for n in several], moves, known)
    compare("each with all its fingerings: one long stretch", every_slot_open(hard), asked.repeats)

    text = write_musicxml(passage, alto.instrument.to_sounding, "x")
    around = {
        "candidates found": lambda: offers(events, alto),
        "evidence weighed": lambda: known_of(offered, alto, ALL_SOURCES),
        "costs laid out": lambda: make_problem(events, offered, moves, known),
        "ten best routes": lambda: best_routes(table, 10),
        "MusicXML read": lambda: read_score(text.encode()),
    }
    print("Around it, same passage, no baseline")
    for name, run in around.items():
        print(f"  {name:<26} {1e3 * timed(run, 3)[0]:8.1f} ms")
    for notes in (1024, 3000):
        in_depth(alto, notes)
    search_and_verdict(alto)
    for name in BASES:
        predict_one(name)
        compare_states(name)


if __name__ == "__main__":
    main()
