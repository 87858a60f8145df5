"""Time what must be fast, each against a stated baseline in the same run.

Every figure is the median of several runs. Nothing here is a test; equal results are checked all
the same, and a difference ends the run with an error.
"""

import argparse
import os
import statistics
import sys
import time
from dataclasses import replace
from pathlib import Path

SRC = Path(__file__).resolve().parent.parent / "src"
sys.path.insert(0, str(SRC))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")

import networkx as nx  # noqa: E402
import numpy as np  # noqa: E402
from core.routes.route import best_route, best_routes, make_problem  # noqa: E402

from catalogue import shipped  # noqa: E402
from core.acoustics.impedance import Pieces  # noqa: E402
from core.acoustics.states import every_state  # noqa: E402
from core.instruments.fingering import Fingering  # noqa: E402
from core.music.events import sounding_events  # noqa: E402
from core.music.notation.formats import read_score  # noqa: E402
from core.music.notation.musicxml_writer import write_musicxml  # noqa: E402
from core.music.pitch import spell  # noqa: E402
from core.routes.candidates import offers  # noqa: E402

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


def layered_graph(problem):
    """The same layered graph for a general library: an edge carries its link and the node it enters."""
    graph = nx.DiGraph()
    n_notes = len(problem.node_cost)
    slots = [np.flatnonzero(row).tolist() for row in problem.usable]
    graph.add_weighted_edges_from(("start", (0, s), problem.node_cost[0, s]) for s in slots[0])
    for place in range(1, n_notes):
        total = problem.link_cost[place - 1] + problem.node_cost[place][None, :]
        graph.add_weighted_edges_from(
            ((place - 1, a), (place, b), float(total[a, b])) for a in slots[place - 1] for b in slots[place]
        )
    graph.add_weighted_edges_from(((n_notes - 1, s), "end", 0.0) for s in slots[-1])
    return graph


def compare(name, problem, repeats):
    """Our best route against the library's shortest path; ends the run where the costs differ."""
    graph = layered_graph(problem)
    route_s, route = timed(lambda: best_route(problem), repeats)
    path_s, found = timed(lambda: nx.single_source_dijkstra(graph, "start", "end"), repeats)
    build_s, _ = timed(lambda: layered_graph(problem), repeats)
    if abs(route.cost - found[0]) > COST_TOLERANCE:
        sys.exit(f"the costs differ: {route.cost!r} here, {found[0]!r} by the graph library")
    nodes, links = problem.usable.sum(), graph.number_of_edges()
    print(f"Best route, {len(problem.usable)} notes, {name}: {nodes} candidates, {links} links")
    print(f"  this project               {1e3 * route_s:8.1f} ms   cost {route.cost:.9f}")
    for what, seconds in (("shortest path", path_s), ("with its graph", path_s + build_s)):
        times = seconds / route_s
        print(f"  networkx, {what:<16} {1e3 * seconds:8.1f} ms   cost {found[0]:.9f}   {times:.0f} times")


def compare_states(name):
    """Every hole state of an instrument for one note, together and one at a time (a sample, scaled up)."""
    model = shipped.model(name)
    geometry, tube = model.geometries[0], model.tubes[0]
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
    """A fingering that was never asked for, with the whole ensemble; and the matrices made before."""
    model = shipped.model(name)
    start = time.perf_counter()
    model.predict([(Fingering(), model.instrument.written_low)])
    first_s = time.perf_counter() - start
    fresh = iter(shipped.catalogue(name).entries)
    one_s, _ = timed(lambda: model.predict([((entry := next(fresh)).fingering, entry.note)]), 9)
    print(f"One fingering, {len(model.geometries)} geometries, {shipped.INSTRUMENTS[name]}")
    print(
        f"  predicted                  {1e3 * one_s:8.1f} ms   the first, with its matrices {first_s:.1f} s"
    )


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--notes", type=int, default=2000)
    parser.add_argument("--repeats", type=int, default=7)
    asked = parser.parse_args()
    catalogue, library = shipped.catalogue("alto-saxophone"), shipped.library("alto-saxophone")
    abc = "L:1/16\nQ:1/4=112\nK:C\n" + LINE * (asked.notes // 32 + 1)
    passage = read_score(abc.encode()).passage
    events = sounding_events(passage)[: asked.notes]
    offered = offers(events, catalogue, frozenset({"highF#"}), {}, {})
    problem = make_problem(library, catalogue.index, events, offered)
    compare("as the bench offers them", problem, asked.repeats)
    every = replace(problem, usable=np.isfinite(problem.node_cost))
    compare("colour and practice fingerings open too", every, asked.repeats)

    text = write_musicxml(passage, catalogue.instrument.to_sounding, "x")
    around = {
        "costs laid out": lambda: make_problem(library, catalogue.index, events, offered),
        "ten best routes": lambda: best_routes(problem, 10),
        "MusicXML read": lambda: read_score(text.encode()),
    }
    for name in BASES:
        predict_one(name)
        compare_states(name)
    print("Around it, same passage, no baseline")
    for name, run in around.items():
        print(f"  {name:<26} {1e3 * timed(run, 3)[0]:8.1f} ms")


if __name__ == "__main__":
    main()
