"""Random nest problems: holes, keep-outs, remnants, two sheet sizes, grain, groups, priorities, fill pieces.
One per seed.
"""

from __future__ import annotations

import math

import numpy as np

Rings = tuple[list, list]


def _shape(rng: np.random.Generator, size: float) -> Rings:
    k = rng.integers(0, 8)
    w, h = (float(v) for v in size * rng.uniform(0.5, 1.5, 2))
    if k == 0:
        return [[0, 0], [w, 0], [w, h], [0, h]], []
    if k == 1:
        return [[0, 0], [w, 0], [w, h * 0.4], [w * 0.4, h * 0.4], [w * 0.4, h], [0, h]], []
    if k == 2:
        return [[-w / 2, 0, 1], [w / 2, 0, 1]], []
    if k == 3:
        return [[-w / 2, 0, 1], [w / 2, 0, 1]], [[[-w * 0.35, 0, 1], [w * 0.35, 0, 1]]]
    if k == 4:
        return [
            [0, 0],
            [w, 0],
            [w, h],
            [w * 0.7, h],
            [w * 0.7, h * 0.3],
            [w * 0.3, h * 0.3],
            [w * 0.3, h],
            [0, h],
        ], []
    if k == 5:
        return [[0, 0], [w, 0], [w * 0.5, h]], []
    if k == 6:
        n = int(rng.integers(5, 11))
        r = size * rng.uniform(0.3, 0.8, n)
        return [
            [float(r[i]) * math.cos(2 * math.pi * i / n), float(r[i]) * math.sin(2 * math.pi * i / n)]
            for i in range(n)
        ], []
    return [[0, 0], [w, 0], [w, h], [0, h]], [
        [[w * 0.2, h * 0.2], [w * 0.8, h * 0.2], [w * 0.8, h * 0.8], [w * 0.2, h * 0.8]]
    ]


def problem(seed: int) -> dict:
    """The problem of a seed, as CONTRACT.md writes it."""
    rng = np.random.default_rng(seed)
    width, height = float(rng.uniform(600, 1500)), float(rng.uniform(400, 1000))
    parts = []
    for i in range(int(rng.integers(3, 14))):
        outline, holes = _shape(rng, float(rng.uniform(40, 300)))
        turns = [[0], [0, 180], [0, 90, 180, 270], "free", [0, 30, 200]][rng.integers(5)]
        parts.append(
            {
                "id": f"p{i}",
                "outline": outline,
                "holes": holes,
                "quantity": int(rng.integers(1, 9)),
                "rotations": turns,
                "mirror": bool(rng.random() < 0.3),
                "grain": [None, 0, 90][rng.integers(3)] if rng.random() < 0.2 else None,
                "fill": bool(rng.random() < 0.1),
                "priority": int(rng.integers(0, 3)) if rng.random() < 0.2 else 0,
                "group": "g" if rng.random() < 0.1 else None,
            }
        )
    spots = rng.uniform(20, 400, (int(rng.integers(0, 5)), 2)).tolist()
    keepouts: list = [
        (
            {
                "shape": [[x - 8, y], [x, y - 8], [x + 8, y], [x, y + 8]],
                "clearance": float(rng.uniform(0, 12)),
            }
            if rng.random() < 0.5
            else [[x, y], [x + 30, y], [x + 20, y + 25]]
        )
        for x, y in spots
    ]
    sheets = [
        {
            "id": "full",
            "width": width,
            "height": height,
            "quantity": int(rng.integers(1, 6)),
            "margin": float(rng.choice([0, 5, 10])),
            "grain": [None, 0, 90][rng.integers(3)],
            "keepouts": keepouts,
        }
    ]
    if rng.random() < 0.7:
        w, h = width * 0.7, height * 0.8
        corner = (
            [[0, 0], [w, 0], [w, h * 0.5], [w * 0.6, h * 0.5], [w * 0.5, h], [0, h]]
            if rng.random() < 0.6
            else None
        )
        sheets.append(
            {
                "id": "rem",
                "width": w,
                "height": h,
                "quantity": int(rng.integers(1, 3)),
                "margin": 5,
                "cost": 1000.0,
                "outline": corner,
            }
        )
    return {
        "sheets": sheets,
        "parts": parts,
        "spacing": float(rng.choice([0, 3, 6, 8])),
        "part_in_hole": bool(rng.random() < 0.8),
    }
