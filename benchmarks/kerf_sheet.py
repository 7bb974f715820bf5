"""What common lines save and what spreading the heat costs: a sheet of 100 plates, in one run.

python -m benchmarks.kerf_sheet
"""

from __future__ import annotations

import time

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_cuts import kerf_cuts
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.running import run

KERF, WIDTH, HEIGHT = 1.4, 90.0, 60.0


def plates(gap: float, across: int = 10) -> list[Body]:
    """Ten rows of plates with four holes, ``gap`` mm apart."""
    out = []
    for i in range(across):
        for j in range(10):
            x, y = i * (WIDTH + gap), j * (HEIGHT + gap)
            outline = Contour.of([(x, y), (x + WIDTH, y), (x + WIDTH, y + HEIGHT), (x, y + HEIGHT)])
            holes = tuple(Contour.circle(x + u, y + v, 5.0).reversed() for u in (15, 75) for v in (15, 45))
            out.append(Body(f"plate {i * 10 + j + 1}", Region(outline, holes)))
    return out


def main() -> None:
    """Print lengths, pierces, times and warmth, and their ratios to single cuts."""
    how = KerfHow(kerf=KERF, lead=2.54, feed=5600, lead_feed=1850, pierce=0.1)
    ways = {
        "single": (plates(how.lead + 2 * KERF), how, "insides first"),
        "common lines": (plates(KERF), how.model_copy(update={"common_line": True}), "insides first"),
        "bridges": (
            plates(how.lead + 2 * KERF),
            how.model_copy(update={"bridge": 3.0, "bridge_reach": 8.0, "bridge_most": 5}),
            "insides first",
        ),
        "heat spread": (plates(how.lead + 1.7 * KERF), how, "heat spread"),
        "200 plates": (plates(how.lead + 2 * KERF, 20), how, "insides first"),
        "400 plates": (plates(how.lead + 2 * KERF, 40), how, "insides first"),
    }
    first = None
    heads = ("pieces", "pierces", "cut m", "s", "warmest", "mean", "planned s")
    print(f"{'':14}" + "".join(f"{h:>11}" for h in heads))
    for name, (bodies, chosen, by) in ways.items():
        began = time.perf_counter()
        made = kerf_cuts(bodies, chosen)
        done = run(made.cuts, bodies, chosen, by=by, lift=1.5)  # type: ignore[arg-type]
        took = time.perf_counter() - began
        figures = (done.pierces, done.cut_length / 1000, done.time, done.heat.most, done.heat.mean)
        first = first or figures
        ratios = " ".join(f"{a / b:.2f}" for a, b in zip(figures, first, strict=True))
        print(
            f"{name:14}{len(bodies):11d}{figures[0]:11d}"
            + "".join(f"{v:11.2f}" for v in (*figures[1:], took))
            + f"   of single: {ratios}"
        )


if __name__ == "__main__":
    main()
