"""Further part sets for the strip benchmark: trade-like shapes, drawn by rule, and letters of the bundled
fonts.

Usage: python -m benchmarks.strip_sets FOLDER writes one problem per set (benchmarks/nest_peer.py takes them).
"""

from __future__ import annotations

import json
import math
import sys
from pathlib import Path

import numpy as np
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont
from shapely.geometry import Polygon, box
from shapely.ops import unary_union

Points = list[list[float]]


def _ring(polygon: Polygon, tolerance: float = 0.3) -> Points:
    polygon = Polygon(polygon.exterior).simplify(tolerance)
    return [[round(x, 3), round(y, 3)] for x, y in list(polygon.exterior.coords)[:-1]]


def _arc(r: float, a: float, b: float, n: int, cx: float = 0, cy: float = 0) -> list[tuple[float, float]]:
    return [
        (
            cx + r * math.cos(math.radians(a + (b - a) * i / n)),
            cy + r * math.sin(math.radians(a + (b - a) * i / n)),
        )
        for i in range(n + 1)
    ]


def _part(name: str, points: Points, quantity: int, rotations: list[int] | str) -> dict:
    return {
        "id": name,
        "outline": points,
        "holes": [],
        "quantity": quantity,
        "rotations": rotations,
        "mirror": False,
    }


def _strip(parts: list[dict], height: float, spacing: float, length: float) -> dict:
    return {
        "sheets": [
            {"id": "strip", "width": length, "height": height, "quantity": 1, "margin": 0, "keepouts": []}
        ],
        "parts": parts,
        "spacing": spacing,
    }


def ribs() -> dict:
    """Curved ribs and knees of a small boat, grain kept: 0 and 180 degrees."""
    parts = []
    for i, (r, sweep, wide, n) in enumerate(
        [(500, 60, 70, 8), (420, 75, 60, 8), (350, 80, 55, 8), (620, 40, 80, 6), (260, 90, 50, 8)]
    ):
        parts.append(
            _part(
                f"rib{i}", _ring(Polygon(_arc(r, 0, sweep, 20) + _arc(r - wide, sweep, 0, 20))), n, [0, 180]
            )
        )
    for i, (a, b) in enumerate([(180, 120), (140, 140), (220, 90)]):
        knee = Polygon(
            [
                (0, 0),
                (a, 0),
                (a, 25),
                *_arc(min(a, b) - 35, 270, 180, 10, min(a, b), min(a, b)),
                (25, b),
                (0, b),
            ]
        )
        parts.append(_part(f"knee{i}", _ring(knee.buffer(0)), 10, [0, 180]))
    return _strip(parts, 1220, 6, 8000)


def chairs() -> dict:
    """Flat-pack chair sides, backs, rails and wedges at right angles."""
    side = unary_union(
        [box(0, 0, 60, 820), box(340, 0, 400, 430), box(0, 370, 400, 430), box(0, 100, 400, 140)]
    )
    back = Polygon([(0, 0), (380, 0), (400, 120), (330, 220), (300, 120), (100, 120), (70, 220), (-20, 120)])
    seat = Polygon([(0, 0), (420, 0), (400, 390), *_arc(200, 60, 120, 10, 210, 230), (20, 390)]).convex_hull
    rail = Polygon([(0, 0), (460, 0), (460, 30), (440, 30), (440, 70), (20, 70), (20, 30), (0, 30)])
    wedge = Polygon([(0, 0), (90, 0), (20, 60)])
    foot = Polygon([(0, 0), (160, 0), (130, 50), (100, 30), (60, 30), (30, 50)])
    shapes = [
        ("side", side, 8),
        ("back", back, 8),
        ("seat", seat, 4),
        ("rail", rail, 12),
        ("wedge", wedge, 24),
        ("foot", foot, 16),
    ]
    return _strip([_part(n, _ring(s), q, [0, 90, 180, 270]) for n, s, q in shapes], 1500, 8, 9000)


def letters() -> dict:
    """Shop sign letters of a bundled open font, counters left out."""
    path = sorted((Path(__file__).parent.parent / "venzo").rglob("*.ttf"))[0]
    font = TTFont(path)
    glyphs, cmap = font.getGlyphSet(), font.getBestCmap()
    scale = 260 / font["head"].unitsPerEm
    parts = []
    for letter, count in zip("MARSHWKETLOCN", [4, 5, 5, 4, 4, 3, 3, 6, 5, 4, 5, 3, 4], strict=True):
        pen = DecomposingRecordingPen(glyphs)
        glyphs[cmap[ord(letter)]].draw(pen)
        rings: list[list[tuple[float, float]]] = []
        for kind, args in pen.value:
            if kind == "moveTo":
                rings.append([args[0]])
            elif kind == "lineTo":
                rings[-1].append(args[0])
            elif kind == "qCurveTo":
                points = list(args)
                for i, c in enumerate(points[:-1]):
                    end = (
                        points[-1]
                        if i == len(points) - 2
                        else ((c[0] + points[i + 1][0]) / 2, (c[1] + points[i + 1][1]) / 2)
                    )
                    start = rings[-1][-1]
                    rings[-1] += [
                        tuple(
                            (1 - t) ** 2 * start[k] + 2 * t * (1 - t) * c[k] + t * t * end[k] for k in (0, 1)
                        )
                        for t in (0.25, 0.5, 0.75, 1)
                    ]  # type: ignore[misc]
            elif kind == "curveTo":
                a, b, c = args
                start = rings[-1][-1]
                rings[-1] += [
                    tuple(
                        (1 - t) ** 3 * start[k]
                        + 3 * t * (1 - t) ** 2 * a[k]
                        + 3 * t * t * (1 - t) * b[k]
                        + t**3 * c[k]
                        for k in (0, 1)
                    )  # type: ignore[misc]
                    for t in np.linspace(0.125, 1, 8)
                ]
        outer = max((Polygon(r).buffer(0) for r in rings if len(r) > 2), key=lambda p: p.area)
        outer = outer if outer.geom_type == "Polygon" else max(outer.geoms, key=lambda p: p.area)
        parts.append(
            _part(
                letter,
                [[round(x * scale, 3), round(y * scale, 3)] for x, y in _ring(outer, 2 / scale * 0.2)],
                count,
                [0, 90, 180, 270],
            )
        )
    return _strip(parts, 900, 5, 6000)


def brackets() -> dict:
    """Small sheet-metal brackets, many of few kinds, eight turns."""
    ell = Polygon([(0, 0), (90, 0), (90, 30), (30, 30), (30, 90), (0, 90)])
    zed = Polygon([(0, 0), (70, 0), (70, 60), (120, 60), (120, 90), (40, 90), (40, 30), (0, 30)])
    cee = Polygon([(0, 0), (100, 0), (100, 25), (25, 25), (25, 75), (100, 75), (100, 100), (0, 100)])
    eye = Polygon(_arc(35, 30, 330, 24) + [(95, -17), (95, 17)])
    tee = Polygon([(0, 60), (110, 60), (110, 90), (0, 90)]).union(box(40, 0, 70, 70))
    tri = Polygon([(0, 0), (80, 0), (0, 80)])
    shapes = [
        ("ell", ell, 20),
        ("zed", zed, 15),
        ("cee", cee, 15),
        ("eye", eye, 20),
        ("tee", tee, 15),
        ("tri", tri, 20),
    ]
    return _strip(
        [_part(n, _ring(s), q, [0, 45, 90, 135, 180, 225, 270, 315]) for n, s, q in shapes], 600, 4, 5000
    )


def sixty() -> dict:
    """Sixty distinct shapes, two of each, at right angles."""
    rng = np.random.default_rng(60)
    parts = []
    for i in range(60):
        size = float(rng.uniform(60, 260))
        w, h = size * rng.uniform(0.6, 1.4), size * rng.uniform(0.6, 1.4)
        k = i % 6
        if k == 0:
            n = int(rng.integers(5, 12))
            r = size * rng.uniform(0.35, 0.75, n)
            s = Polygon(
                [
                    (r[j] * math.cos(2 * math.pi * j / n), r[j] * math.sin(2 * math.pi * j / n))
                    for j in range(n)
                ]
            )
        elif k == 1:
            s = box(0, 0, w, h).difference(
                box(w * rng.uniform(0.3, 0.6), h * rng.uniform(0.3, 0.6), w + 1, h + 1)
            )
        elif k == 2:
            s = box(0, 0, w, h).difference(box(w * 0.3, h * rng.uniform(0.3, 0.6), w * 0.7, h + 1))
        elif k == 3:
            s = Polygon([(0, 0), (w, 0), (w * rng.uniform(0, 1), h)])
        elif k == 4:
            s = Polygon(
                _arc(size * 0.8, 0, float(rng.uniform(60, 160)), 16)
                + _arc(size * 0.8 * float(rng.uniform(0.5, 0.75)), 0, 0, 1)[:1]
            ).convex_hull
        else:
            s = box(0, 0, w, h * 0.5).buffer(size * 0.08, quad_segs=4)
        parts.append(_part(f"part{i:02d}", _ring(s), 2, [0, 90, 180, 270]))
    return _strip(parts, 1200, 6, 9000)


def free(problem: dict) -> dict:
    """The same set with free rotation."""
    return {**problem, "parts": [{**p, "rotations": "free"} for p in problem["parts"]]}


SETS = {"ribs": ribs, "chairs": chairs, "letters": letters, "brackets": brackets, "sixty": sixty}

if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for name, make in SETS.items():
        (folder / f"{name}.json").write_text(json.dumps(make()))
    mixed = json.loads((Path(__file__).parent / "mixed_strip.json").read_text())
    (folder / "mixed_free.json").write_text(json.dumps(free(mixed)))
    (folder / "brackets_free.json").write_text(json.dumps(free(brackets())))
