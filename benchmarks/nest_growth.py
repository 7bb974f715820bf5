"""How the nest grows with the number of pieces. Usage: python -m benchmarks.nest_growth [SECONDS]

For 50 to 1,000 pieces of twenty distinct parts on full sheets: seconds to the first layout, seconds to 95 %
of the final material yield, sheets, yield, memory. Each size runs in a process of its own, start-up left out.
"""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import time

SIZES = (50, 100, 200, 500, 1000)


def twenty(pieces: int) -> dict:
    """Twenty distinct trade-like parts, as many of each as make up ``pieces``, on 2440 x 1220 mm sheets."""
    import numpy as np

    from benchmarks.nest_problems import _shape

    rng = np.random.default_rng(20)
    parts = []
    for i in range(20):
        outline, holes = _shape(rng, float(rng.uniform(60, 280)))
        parts.append(
            {
                "id": f"p{i}",
                "outline": outline,
                "holes": holes,
                "quantity": pieces // 20 + (i < pieces % 20),
                "rotations": [0, 90, 180, 270],
            }
        )
    return {
        "sheets": [{"id": "full", "width": 2440, "height": 1220, "quantity": 200, "margin": 10}],
        "parts": parts,
        "spacing": 8,
    }


def one(pieces: int, seconds: float) -> dict:
    """Figures of one size."""
    from venzo.core.nesting.engine import Search
    from venzo.core.nesting.problem import NestProblem
    from venzo.work.warm import warm_nesting

    warm_nesting()
    began = time.time()
    search = Search(NestProblem.model_validate(twenty(pieces)), 1)
    curve: list[tuple[float, float]] = []
    key = None
    while time.time() - began < seconds and search.step(
        lambda: time.time() - began > seconds, (time.time() - began) / seconds
    ):
        if search.key != key:
            key = search.key
            assert search.best is not None
            placements = search._candidates[-1][0] if search._candidates else search.best.placements
            curve.append((time.time() - began, search.worth.material_yield(search.worth.uses(placements))))
    best = search.best
    assert best is not None
    final = search.worth.material_yield(best.sheets)
    return {
        "pieces": pieces,
        "first": round(curve[0][0], 2),
        "to_95": round(next(t for t, y in curve if y >= 0.95 * final), 2),
        "sheets": len(best.sheets),
        "bound": best.bound["sheets"],
        "yield": round(final, 4),
        "unplaced": len(best.unplaced),
        "MB": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024,
    }


def main(seconds: float) -> None:
    """Print the table."""
    print(
        "| pieces | first layout, s | 95 % of the final yield, s | sheets (bound) | material yield | memory,"
        " MB |\n| --- | --- | --- | --- | --- | --- |"
    )
    for n in SIZES:
        done = subprocess.run(
            [
                sys.executable,
                "-c",
                f"import json;from benchmarks.nest_growth import one;print(json.dumps(one({n},{seconds})))",
            ],
            capture_output=True,
            text=True,
            check=True,
        )
        r = json.loads(done.stdout.splitlines()[-1])
        print(
            f"| {r['pieces']} | {r['first']} | {r['to_95']} | {r['sheets']} ({r['bound']}) | {r['yield']:.1%}"
            f" | {r['MB']} |",
            flush=True,
        )


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 30.0)
