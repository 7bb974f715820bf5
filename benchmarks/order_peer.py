"""Travel of cutting orders beside a general-purpose solver: routing of OR-Tools, guided local search, on the
same stops.

    python -m pip install ortools        # from the registry; only this benchmark needs it
    python -m benchmarks.order_peer [SECONDS]

Prints for random stops on a sheet of 2400 x 1200 mm: our length and seconds, the solver's length in SECONDS
(default 20), and the ratio (below 1: ours is shorter). The last lines: a thousand contours with and without
precedences, seconds of our search in this run.
"""

from __future__ import annotations

import math
import sys
import time

import numpy as np

from venzo.core.order import sequence_kernel
from venzo.core.order.sequence import Task, sequence, travel


def tasks_of(n: int, seed: int, waiting: float = 0.0) -> list[Task]:
    """n stops; a share ``waiting`` of them wait for an earlier one near by, as an outline waits for its
    hole.
    """
    rng = np.random.default_rng(seed)
    spots = (rng.uniform(0, 1, (n, 2)) * [2400, 1200]).round(1)
    out = []
    for i, p in enumerate(spots.tolist()):
        near = int(np.argmin(np.hypot(*(spots[:i] - p).T))) if i and rng.random() < waiting else None
        out.append(
            Task(tuple(p), tuple(p), "a", False, frozenset([near]) if near is not None else frozenset())
        )
    return out


def peer(tasks: list[Task], seconds: int) -> float:
    """The solver's shortest open way from X0 Y0, mm."""
    from ortools.constraint_solver import pywrapcp, routing_enums_pb2

    points = [(0.0, 0.0), *(t.start for t in tasks)]
    n = len(points)
    table = [[round(100 * math.dist(a, b)) for b in points] + [0] for a in points] + [[0] * (n + 1)]
    index = pywrapcp.RoutingIndexManager(n + 1, 1, [0], [n])
    model = pywrapcp.RoutingModel(index)
    model.SetArcCostEvaluatorOfAllVehicles(
        model.RegisterTransitCallback(lambda i, j: table[index.IndexToNode(i)][index.IndexToNode(j)])
    )
    how = pywrapcp.DefaultRoutingSearchParameters()
    how.first_solution_strategy = routing_enums_pb2.FirstSolutionStrategy.PATH_CHEAPEST_ARC
    how.local_search_metaheuristic = routing_enums_pb2.LocalSearchMetaheuristic.GUIDED_LOCAL_SEARCH
    how.time_limit.seconds = seconds
    return model.SolveWithParameters(how).ObjectiveValue() / 100


def main() -> None:
    """Run and print."""
    seconds = int(sys.argv[1]) if len(sys.argv) > 1 else 20
    sequence_kernel.warm()
    sequence(tasks_of(50, 0), {"a": 1})
    for n in (20, 50, 100, 200, 500, 1000):
        tasks = tasks_of(n, 7 + n)
        began = time.perf_counter()
        ours = travel(tasks, sequence(tasks, {"a": 1}))
        took = time.perf_counter() - began
        try:
            theirs = peer(tasks, seconds)
            print(
                f"{n:5d} stops  ours {ours:9.0f} mm in {took:6.3f} s   solver {theirs:9.0f} mm in {seconds} s"
                f"   ratio {ours / theirs:.3f}"
            )
        except ImportError:
            print(f"{n:5d} stops  ours {ours:9.0f} mm in {took:6.3f} s   (no ortools here)")
    for waiting in (0.0, 0.5):
        tasks = tasks_of(1000, 3, waiting)
        began = time.perf_counter()
        length = travel(tasks, sequence(tasks, {"a": 1}))
        print(
            f" 1000 contours, {waiting:.0%} waiting for a neighbour: {length:.0f} mm in"
            f" {time.perf_counter() - began:.2f} s"
        )


if __name__ == "__main__":
    main()
