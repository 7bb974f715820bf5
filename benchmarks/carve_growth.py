"""How does carving grow, and how much of it is the bare Voronoi diagram? Ratios and an exponent from one run.

Usage: python -m benchmarks.carve_growth [letters ...]

Every letter of a board is drawn a hair differently, so that nothing is remembered from another; the
100-letter board at the end is a real one, where like letters are reckoned once.
"""

import sys
import time

import numpy as np
import shapely
from shapely.affinity import scale

from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import carve
from venzo.core.carving.medial import CHORD, boundary, clean
from venzo.core.carving.toolpath import bit_moves
from venzo.core.geometry.regions import regions
from venzo.core.geometry.voronoi import diagram
from venzo.core.memo import forget
from venzo.formats.fonts import bundled

TEXT = "Sandling hide, estuary of the Marr; boats & birds at the shore. Quiet please: avocets breed here. "


def polygons(text: str, cap: float = 40.0):
    return [r.polygon(CHORD).buffer(0) for r in regions(bundled("serif").outlines(text, cap)[0])]


def main() -> None:
    sizes = [int(a) for a in sys.argv[1:]] or [50, 100, 200, 400, 800]
    carve(polygons("Warm"), Bit(60, 30))  # compiled kernels loaded
    seconds, segments = [], []
    print("letters  corners   carve s   bare diagram s   ratio")
    for n in sizes:
        area = polygons((TEXT * (n // len(TEXT) + 1))[:n])
        area = [scale(p, 1 + 1e-4 * k, 1 - 1e-4 * k, origin=p.centroid) for k, p in enumerate(area)]
        forget("medial")
        t = time.perf_counter()
        c = carve(area, Bit(60, 30))
        bit_moves(c, 3, 3000, 1000)
        took = time.perf_counter() - t
        t = time.perf_counter()
        for p in clean(area):
            diagram(
                boundary(
                    [
                        shapely.orient_polygons(
                            shapely.set_precision(shapely.transform(p, lambda q, o=p.bounds[:2]: q - o), 1e-3)
                        )
                    ]
                )
            )
        bare = time.perf_counter() - t
        corners = sum(len(boundary([p])) for p in area)
        seconds.append(took)
        segments.append(corners)
        print(f"{n:7d} {corners:8d} {took:9.2f} {bare:16.2f} {took / bare:7.2f}")
    exponent = float(np.polyfit(np.log(segments), np.log(seconds), 1)[0])
    print(f"fitted growth exponent over corners: {exponent:.2f}")
    forget("medial")
    text = (TEXT * 2)[:100]
    t = time.perf_counter()
    c = carve(polygons(text), Bit(60, 30))
    bit_moves(c, 3, 3000, 1000)
    board = time.perf_counter() - t
    t = time.perf_counter()
    for _ in range(40):
        np.sort(np.random.default_rng(1).random(1_000_000))
    yard = time.perf_counter() - t
    print(
        f"a board of 100 letters: {board:.2f} s, {board / yard:.2f} of the time that sorting forty million"
        " numbers takes here"
    )


if __name__ == "__main__":
    main()
