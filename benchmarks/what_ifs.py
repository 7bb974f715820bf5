"""Eight what-if nests: in the process beside the server, over the same on a Dask cluster of two workers on
this machine, and over both at a time by hand. By steps, so that all find the same.

Usage: python -m benchmarks.what_ifs [--steps 40]
"""

import argparse
import time
from collections.abc import Sequence

from venzo.core.nesting.problem import NestProblem
from venzo.core.nesting.questions import Answer, NestAsked
from venzo.work.executor import DaskExecutor, Executor, LocalExecutor

PARTS = [
    {"id": "ell", "outline": [[0, 0], [300, 0], [300, 90], [110, 90], [110, 260], [0, 260]]},
    {"id": "tri", "outline": [[0, 0], [240, 30], [60, 210]]},
    {"id": "bow", "outline": [[0, 0, 0.3], [260, 0], [200, 150], [60, 150]]},
]
SHEETS = [
    {"id": "large", "width": 1220, "height": 800, "quantity": 12, "cost": 40, "margin": 8},
    {"id": "small", "width": 700, "height": 500, "quantity": 12, "cost": 13, "margin": 8},
]


def questions(steps: int) -> list[NestAsked]:
    """The same order eight times as large as it comes: 12, 14, ... pieces of each part."""
    return [
        NestAsked(
            problem=NestProblem.model_validate(
                {
                    "sheets": SHEETS,
                    "parts": [{**p, "quantity": 12 + 2 * k, "rotations": [0, 90, 180, 270]} for p in PARTS],
                    "spacing": 8,
                }
            ),
            seed=k,
            steps=steps,
        )
        for k in range(8)
    ]


def timed(executor: Executor, asked: Sequence[NestAsked]) -> tuple[float, list[Answer]]:
    """Seconds until all are answered, by an executor that has answered before."""
    executor.submit(asked[0].model_copy(update={"steps": 1})).over.wait()
    began = time.monotonic()
    tasks = [executor.submit(q) for q in asked]
    for t in tasks:
        t.over.wait()
    spent = time.monotonic() - began
    return spent, [t.answer.model_copy(update={"seconds": 0.0}) for t in tasks if t.answer]


def main() -> None:
    """Print the ratios."""
    from distributed import LocalCluster

    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--steps", type=int, default=40)
    asked = questions(parser.parse_args().steps)
    local = LocalExecutor()
    one, here = timed(local, asked)
    local.close()
    with LocalCluster(
        n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address=None, silence_logs=50
    ) as cluster:
        dask = DaskExecutor(cluster.scheduler_address)
        two, there = timed(dask, asked)
        dask.close()
    same = "the same answers" if here == there else "OTHER ANSWERS"
    print(f"eight what-ifs: cluster of two workers over one process: {two / one:.2f} of its time, {same}")


if __name__ == "__main__":
    main()
