"""Part sets on full sheets, drawn by rule: rectangles, mostly rectangles, curved parts, sheets of several
kinds and prices, sheets cut into pieces by straight lines.

Usage: python -m benchmarks.sheet_sets FOLDER writes one nesting problem per set.
       python -m benchmarks.sheet_sets --run SECONDS [NAME ...] nests them and prints the sheets used (the
       last one as far as it is used), the cost where kinds differ, or the share of the pieces put together.
"""

from __future__ import annotations

import json
import math
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from shapely.geometry import LineString, Polygon, box
from shapely.ops import split

Problem = dict[str, Any]
FULL = {"id": "full", "width": 2440, "height": 1220, "quantity": 14, "margin": 10}
SQUARE_TURNS = [0, 90, 180, 270]


def _rect(w: float, h: float) -> list[list[float]]:
    return [[0, 0], [w, 0], [w, h], [0, h]]


def _ell(a: float, b: float, t: float) -> list[list[float]]:
    return [[0, 0], [a, 0], [a, t], [t, t], [t, b], [0, b]]


def _bow(length: float, height: float, rise: float, n: int = 12) -> list[list[float]]:
    top = [
        [round(length - length * i / n, 3), round(height + rise * math.sin(math.pi * i / n), 3)]
        for i in range(1, n)
    ]
    return [[0, 0], [length, 0], [length, height], *top, [0, height]]


def _part(name: str, outline: list[list[float]], quantity: int, turns: list[int]) -> dict[str, Any]:
    return {"id": name, "outline": outline, "holes": [], "quantity": quantity, "rotations": turns}


def _problem(sheets: list[dict], parts: list[dict], spacing: float) -> Problem:
    return {"sheets": sheets, "parts": parts, "spacing": spacing, "objective": "sheets-then-remnant"}


def kitchen() -> Problem:
    """Carcass panels with grain along the sheet."""
    r = np.random.default_rng(11)
    parts = [
        _part(
            f"p{i}",
            _rect(int(r.integers(280, 820)), int(r.integers(240, 620))),
            int(r.integers(3, 8)),
            [0, 180],
        )
        for i in range(12)
    ]
    parts += [
        _part(f"rail{i}", _rect(int(r.integers(380, 900)), int(r.integers(60, 120))), 8, [0, 180])
        for i in range(3)
    ]
    return _problem([FULL], parts, 8)


def boxes() -> Problem:
    """Box sides, bottoms and dividers, turned as they fit."""
    r = np.random.default_rng(12)
    parts = [
        _part(
            f"b{i}",
            _rect(int(r.integers(90, 460)), int(r.integers(80, 330))),
            int(r.integers(8, 18)),
            SQUARE_TURNS,
        )
        for i in range(14)
    ]
    return _problem([FULL], parts, 6)


def panels_with_odd_ones() -> Problem:
    """Mostly panels, a few brackets and arched rails among them."""
    r = np.random.default_rng(13)
    parts = [
        _part(
            f"p{i}",
            _rect(int(r.integers(240, 760)), int(r.integers(200, 560))),
            int(r.integers(3, 7)),
            SQUARE_TURNS,
        )
        for i in range(11)
    ]
    parts += [
        _part("bracket", _ell(320, 260, 80), 6, SQUARE_TURNS),
        _part("arch", _bow(780, 90, 120), 5, [0, 180]),
    ]
    return _problem([FULL], parts, 8)


def boats() -> Problem:
    """Curved ribs of many lengths."""
    r = np.random.default_rng(14)
    parts = [
        _part(
            f"rib{i}",
            _bow(int(r.integers(380, 1300)), int(r.integers(50, 110)), int(r.integers(60, 260))),
            int(r.integers(3, 8)),
            SQUARE_TURNS,
        )
        for i in range(10)
    ]
    return _problem([FULL], parts, 8)


def fittings() -> Problem:
    """Many small angles and arches."""
    r = np.random.default_rng(15)
    parts = []
    for i in range(24):
        ring = (
            _ell(int(r.integers(100, 260)), int(r.integers(90, 260)), 40)
            if i % 2
            else _bow(int(r.integers(150, 400)), 50, int(r.integers(20, 120)))
        )
        parts.append(_part(f"f{i}", ring, int(r.integers(6, 14)), SQUARE_TURNS))
    return _problem([FULL], parts, 8)


def priced() -> Problem:
    """Full sheets, halves and a remnant, each at its price."""
    r = np.random.default_rng(16)
    sheets = [
        {**FULL, "cost": 92.0},
        {"id": "half", "width": 1220, "height": 1220, "quantity": 3, "margin": 10, "cost": 44.0},
        {"id": "long", "width": 3050, "height": 1220, "quantity": 4, "margin": 10, "cost": 121.0},
        {
            "id": "remnant",
            "width": 1600,
            "height": 800,
            "quantity": 1,
            "margin": 10,
            "cost": 15.0,
            "outline": [[0, 0], [1600, 0], [1600, 500], [900, 500], [900, 800], [0, 800]],
        },
    ]
    parts = []
    for i in range(12):
        ring = (
            _ell(int(r.integers(180, 460)), int(r.integers(160, 340)), 75)
            if i % 3
            else _bow(int(r.integers(380, 900)), 70, int(r.integers(50, 160)))
        )
        parts.append(_part(f"q{i}", ring, int(r.integers(3, 8)), SQUARE_TURNS))
    return _problem(sheets, parts, 8)


def priced_panels() -> Problem:
    """Rectangles on three sizes of sheet at their prices."""
    r = np.random.default_rng(17)
    sheets = [
        {**FULL, "cost": 80.0},
        {"id": "small", "width": 1525, "height": 1525, "quantity": 5, "margin": 10, "cost": 64.0},
        {"id": "offcut", "width": 1200, "height": 700, "quantity": 2, "margin": 10, "cost": 12.0},
    ]
    parts = [
        _part(
            f"p{i}",
            _rect(int(r.integers(220, 780)), int(r.integers(180, 580))),
            int(r.integers(2, 6)),
            SQUARE_TURNS,
        )
        for i in range(12)
    ]
    return _problem(sheets, parts, 8)


def jigsaw(seed: int, pieces: int = 20) -> Problem:
    """A sheet cut by straight lines into as many pieces, each turned by a quarter at random; no kerf."""
    r = np.random.default_rng(900 + seed)
    found = [box(0, 0, 1200, 900)]
    while len(found) < pieces:
        found.sort(key=lambda q: -q.area)
        k = int(r.integers(0, min(3, len(found))))
        p = found.pop(k)
        cx, cy = p.centroid.x, p.centroid.y
        a = r.uniform(0, math.pi)
        dx, dy = math.cos(a) * 3000, math.sin(a) * 3000
        found += list(split(p, LineString([(cx - dx, cy - dy), (cx + dx, cy + dy)])).geoms)
    parts = []
    for i, p in enumerate(found):
        t = int(r.integers(0, 4))
        c, s = round(math.cos(t * math.pi / 2)), round(math.sin(t * math.pi / 2))
        ring = np.array(Polygon(p).exterior.coords)[:-1] @ np.array([[c, s], [-s, c]])
        ring -= ring.min(0)
        parts.append(_part(f"j{i}", ring.tolist(), 1, SQUARE_TURNS))
    sheet = {"id": "s", "width": 1200, "height": 900, "quantity": 1, "margin": 0}
    return _problem([sheet], parts, 0)


SETS: dict[str, Callable[[], Problem]] = {
    f.__name__: f for f in (kitchen, boxes, panels_with_odd_ones, boats, fittings, priced, priced_panels)
}
SETS |= {f"jigsaw{k}": (lambda k=k: jigsaw(k)) for k in range(6)}


def figure(problem: Problem, result: Problem) -> float:
    """Sheets used with the last one as far as it is used; the cost where kinds differ; of a jigsaw the share
    of the pieces that lie.
    """
    by = {s["id"]: s for s in problem["sheets"]}
    pieces = sum(p["quantity"] for p in problem["parts"])
    if problem["spacing"] == 0:
        return len(result["placements"]) / pieces
    if result["unplaced"]:
        return math.inf
    if any("cost" in s for s in problem["sheets"]):
        return float(sum(by[s["sheet"]]["cost"] for s in result["sheets"]))
    last = min(s["used_length"] / by[s["sheet"]]["width"] for s in result["sheets"])
    return len(result["sheets"]) - 1 + float(last)


def run(names: list[str], seconds: float) -> None:
    """Nest the sets and print their figures."""
    with tempfile.TemporaryDirectory() as folder:
        for name in names:
            given, out = Path(folder, "p.json"), Path(folder, "r.json")
            given.write_text(json.dumps(SETS[name]()))
            subprocess.run(
                [
                    str(Path(sys.executable).with_name("venzo")),
                    "nest",
                    str(given),
                    "--seconds",
                    str(seconds),
                    "-o",
                    str(out),
                ],
                capture_output=True,
                check=False,
            )
            print(f"{name}: {figure(SETS[name](), json.loads(out.read_text())):.3f}", flush=True)


if __name__ == "__main__":
    if sys.argv[1] == "--run":
        run(sys.argv[3:] or list(SETS), float(sys.argv[2]))
    else:
        Path(sys.argv[1]).mkdir(parents=True, exist_ok=True)
        for set_name, make in SETS.items():
            Path(sys.argv[1], f"{set_name}.json").write_text(json.dumps(make()))
