"""Intake beside bare readers of the same file, and how it grows. Usage: python -m benchmarks.intake

Ratios of medians in one run (machines are noisy); the growth exponent is the slope of log time over log
entities.
"""

from __future__ import annotations

import io
import math
import statistics
import time
from functools import partial

import ezdxf
import numpy as np

from venzo.core.parts.intake import take_in
from venzo.formats.drawing_file import read_file


def drawing(entities: int) -> bytes:
    """Panels of four loose lines, a hole, a slot of lines and arcs: 13 entities each, scattered on a grid,
    drawn in shuffled order.
    """
    rng = np.random.default_rng(3)
    doc = ezdxf.new("R2010")
    doc.header["$INSUNITS"] = 4
    m = doc.modelspace()
    calls = []
    for k in range(math.ceil(entities / 13)):
        x, y = 400.0 * (k % 60), 300.0 * (k // 60)
        w, h = 300 + rng.integers(0, 60), 200 + rng.integers(0, 60)
        corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        calls += [(m.add_line, (a, b)) for a, b in zip(corners, corners[1:] + corners[:1], strict=True)]
        calls += [(m.add_circle, ((x + 40 * (j + 1), y + 40), 8.0)) for j in range(3)]
        calls += [
            (m.add_line, ((x + 60, y + 100), (x + 120, y + 100))),
            (m.add_arc, ((x + 120, y + 110), 10, 270, 90)),
            (m.add_line, ((x + 120, y + 120), (x + 60, y + 120))),
            (m.add_arc, ((x + 60, y + 110), 10, 90, 270)),
            (
                m.add_lwpolyline,
                ([(x + 150, y + 90), (x + 180, y + 90), (x + 180, y + 130), (x + 150, y + 130)],),
                {"close": True},
            ),
            (
                m.add_lwpolyline,
                ([(x + 200, y + 90, 0, 0, 0.3), (x + 230, y + 90), (x + 230, y + 130), (x + 200, y + 130)],),
                {"close": True},
            ),
        ]
    for i in rng.permutation(len(calls)):
        call = calls[i]
        call[0](*call[1], **(call[2] if len(call) > 2 else {}))
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode()


def svg(shapes: int) -> bytes:
    """Paths of curves and lines on a grid."""
    body = "".join(
        f'<path d="M{30 * (k % 100)} {30 * (k // 100)}h20c5 0 5 10 0 10h-{20 - k % 7}z"/>'
        for k in range(shapes)
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 3100 {30 * (shapes // 100 + 1)}"'
        f' width="3100mm">{body}</svg>'.encode()
    )


def median(run, rounds: int = 3) -> float:
    """Median seconds of a call."""
    out = []
    for _ in range(rounds):
        began = time.perf_counter()
        run()
        out.append(time.perf_counter() - began)
    return statistics.median(out)


def bare_dxf(data: bytes) -> None:
    """What the drawing library alone takes to read the file, audit it and visit every entity; damaged files
    would take its recovery, twice as long.
    """
    doc = ezdxf.read(io.StringIO(data.decode()))
    doc.audit()
    for e in doc.modelspace():
        e.dxftype()


def bare_svg(data: bytes) -> None:
    """What the SVG library alone takes to parse the file and visit every element."""
    import svgelements

    for e in svgelements.SVG.parse(io.StringIO(data.decode()), reify=False).elements():
        repr(type(e))


def taken(data: bytes, name: str) -> object:
    """A file read and taken in."""
    return take_in(read_file(data, name), name)


def main() -> dict[str, float]:
    """Print and return the figures."""
    figures: dict[str, float] = {}
    for kind, make, bare in (("dxf", drawing, bare_dxf), ("svg", svg, bare_svg)):
        data, name = make(10_000), f"bench.{kind}"
        pairs = [median(partial(taken, data, name), 1) / median(partial(bare, data), 1) for _ in range(5)]
        figures[f"{kind} ratio"] = statistics.median(pairs)
        print(
            f"{kind}, 10,000 entities: intake / bare reader = {statistics.median(pairs):.2f}"
            f" ({min(pairs):.2f} to {max(pairs):.2f})",
            flush=True,
        )
        sizes = [1000, 3000, 10_000, 30_000, 100_000]
        times = []
        for n in sizes:
            data = make(n)
            times.append(median(partial(taken, data, name), 3 if n <= 10_000 else 1))
        slope = float(np.polyfit(np.log(sizes), np.log(times), 1)[0])
        figures[f"{kind} growth"] = slope
        print(
            f"{kind}, growth from 1,000 to 100,000 entities: exponent {slope:.2f}; relative times "
            + ", ".join(f"{t / times[0]:.1f}" for t in times)
        )
    return figures


if __name__ == "__main__":
    main()
