"""Cases for the screen's own tests, made by the core they are held against: how lengths are said, what the
server's judge finds of pieces that lie near one another, and answers that carry what changed.

    python -m tests.support.for_screen FILE.json
"""

from __future__ import annotations

import json
import random
import sys
import tempfile
from pathlib import Path

import shapely
from shapely.affinity import affine_transform

from tests.support.library_shop import library_shop
from venzo.api.documents.job import RING, path_of
from venzo.core.geometry.contour import Contour, rotation_matrix
from venzo.core.nesting.problem import NestProblem, Placement
from venzo.core.nesting.verify import faults_between
from venzo.core.parts.corners import rounded
from venzo.core.units import show_length
from venzo.core.voice import in_unit

TEXTS = [
    "a web {:.2f} mm wide, sheet {:.0f} x {:.0f} mm, {:.1f} to {:.1f} mm left",
    "{:.1f} mm2 uncut, feed {:.2f} m/min",
    "{:.0f} cm2 stay uncut, the largest at {:.1f}, -{:.1f} mm",
    "a cutter of {:.1f} mm ran {:.1f} m since it was new",
    "{:.1f} mm over the margin",
    "piece 3 of 12, 4 flutes, {:.0f} rpm, plunge {:.0f} mm/min",
    "{:.3f} mm/min at ({:.1f}, {:.1f} mm)",
]
SHAPES = {
    "plate": [[(0, 0), (80, 0), (80, 50), (0, 50)]],
    "frame": [[(0, 0), (160, 0), (160, 120), (0, 120)], [(30, 30), (30, 90), (130, 90), (130, 30)]],
    "ell": [[(0, 0), (100, 0), (100, 30), (30, 30), (30, 90), (0, 90)]],
    "wedge": [[(0, 0), (90, 12), (20, 70)]],
}


def spoken(rng: random.Random) -> list[dict]:
    """Texts as they are worded, and as a shop in inches reads them."""
    out = []
    for _ in range(60):
        for text in TEXTS:
            said = text.format(*(rng.uniform(0.3, 900) for _ in range(5)))
            out.append({"text": said, "in": in_unit(said, "in")})
    return out


def lengths(rng: random.Random) -> list[dict]:
    """Lengths of a tenth of an inch to less than one, where both voices give four decimals."""
    every = [rng.uniform(0, 25.3) for _ in range(300)]
    return [{"mm": v, "shown": [show_length(v, "mm"), show_length(v, "in")]} for v in every]


def laid(name: str, x: float, y: float, turn: float, mirrored: bool) -> shapely.Polygon:
    (a, b), (c, d) = rotation_matrix(turn)
    side = -1.0 if mirrored else 1.0
    outline, *holes = SHAPES[name]
    return affine_transform(shapely.Polygon(outline, holes), [a * side, b, c * side, d, x, y])


def poses(rng: random.Random) -> list[dict]:
    """A thousand pairs of pieces and the distance between them, 0 where they overlap."""
    out = []
    for _ in range(1000):
        pair = []
        for _ in range(2):
            at = {
                "part": rng.choice(sorted(SHAPES)),
                "x": round(rng.uniform(0, 260), 3),
                "y": round(rng.uniform(0, 220), 3),
                "rotation": rng.choice([0.0, 90.0, 180.0, 270.0, round(rng.uniform(0, 360), 2)]),
                "mirrored": rng.random() < 0.3,
            }
            pair.append(at)
        a, b = (laid(p["part"], p["x"], p["y"], p["rotation"], p["mirrored"]) for p in pair)
        out.append({"pair": pair, "gap": a.distance(b)})
    return out


def outlines(rng: random.Random) -> list[Contour]:
    """Contours with lines and arcs: rounded boards, discs, slots, a rounded part of the demo's kind."""
    board = Contour.of([(0, 0), (180, 0), (180, 90), (120, 140), (0, 90)])
    for index, radius in ((4, 22.0), (3, 15.0), (1, 30.0)):
        board = rounded(board, index, radius) or board
    slot = Contour.of([(10, 0, 0), (60, 0, 1.0), (60, 24, 0), (10, 24, 1.0)])
    bow = Contour.of([(0, 0, 0), (150, 0, 0.35), (150, 60, 0), (0, 60, -0.2)])
    return [board, slot, bow, Contour.circle(40, 30, rng.uniform(8, 30))]


def place(rng: random.Random, spread: float) -> dict:
    turn = rng.choice([0.0, 90.0, 180.0, round(rng.uniform(0, 360), 2)])
    at = {"x": round(rng.uniform(0, spread), 3), "y": round(rng.uniform(0, spread), 3)}
    return {**at, "rotation": turn, "mirrored": rng.random() < 0.4}


def lies(c: Contour, p: dict) -> Contour:
    return c.placed(p["x"], p["y"], p["rotation"], p["mirrored"])


def picks(rng: random.Random) -> list[dict]:
    """Two hundred points with the nearest place on an outline."""
    out = []
    for _ in range(200):
        c, at = rng.choice(outlines(rng)), place(rng, 400)
        x0, y0, x1, y1 = lies(c, at).bbox
        p = (rng.uniform(x0 - 30, x1 + 30), rng.uniform(y0 - 30, y1 + 30))
        s, far = lies(c, at).nearest(*p)
        near = lies(c, at).at(s)[:2]
        out.append({"d": path_of(c), "place": at, "at": p, "nearest": near, "far": far})
    return out


def gaps(rng: random.Random) -> list[dict]:
    """Pairs of outlines with the distance between them, by chords that are far finer than what is asked."""
    out = []
    for _ in range(60):
        pair = [(rng.choice(outlines(rng)), place(rng, 420)) for _ in range(2)]
        one, other = (shapely.LinearRing(lies(c, p).points(1e-4)) for c, p in pair)
        told = [{"d": path_of(c), "place": p} for c, p in pair]
        out.append({"one": told[0], "other": told[1], "gap": one.distance(other)})
    return out


NEAR = 0.06
"""mm; poses that a change of distance by this decides are left out: chords lie up to 0.02 mm off their
arcs."""


def handed(rng: random.Random) -> list[dict]:
    """Pieces laid by a hand among others, clamps, screws and flaws, on whole sheets and on remnants with
    corners that point inwards; whether the server's judge lets them lie there.
    """
    out: list[dict] = []
    while len(out) < 2000:
        shapes = {f"p{k}": c for k, c in enumerate(outlines(rng))}
        margin, spacing = rng.choice([1.0, 8.0]), rng.choice([0.0, 6.0, 9.5])
        ell = [[0, 0], [520, 0], [520, 210], [260, 230], [250, 400], [0, 400]]
        stock = {"width": 520, "height": 400, "margin": margin, "outline": rng.choice([[], ell])}
        ways = [
            {"name": "a clamp", "shape": [[90, 0], [150, 0], [150, 40], [90, 40]], "clearance": 9.0},
            {"name": "a screw", "shape": Contour.circle(300, 90, 5).rows(), "clearance": 9.0},
            {"name": "a flaw", "shape": [[180, 180], [210, 180], [210, 200], [180, 200]], "clearance": 0.0},
        ][: rng.randrange(4)]
        lying = [{"part": rng.choice(sorted(shapes)), **place(rng, 400)} for _ in range(2)]
        for _ in range(8):
            moved = {"part": rng.choice(sorted(shapes)), **place(rng, 420)}
            said = {judged(shapes, stock, ways, lying, moved, spacing, by) for by in (-NEAR, 0.0, NEAR)}
            if len(said) == 1:
                case = {"stock": shown(stock, ways), "spacing": spacing, "lying": lying, "moved": moved}
                rings = {n: ring_of(c) for n, c in shapes.items()}
                out.append({**case, "rings": rings, "fits": said.pop()})
    return out


def ring_of(c: Contour) -> list[list[float]]:
    return [[round(float(x), 3), round(float(y), 3)] for x, y in c.points(RING, 1)]


def shown(stock: dict, ways: list[dict]) -> dict:
    """A stock as its document carries it."""
    standing = [{**w, "outline": ring_of(Contour.of(w["shape"])), "copy_no": None} for w in ways]
    return {**stock, "in_the_way": standing}


def judged(
    shapes: dict, stock: dict, ways: list[dict], lying: list[dict], moved: dict, spacing: float, by: float
) -> bool:
    """May the piece lie there, with every distance so much larger than asked?"""
    keepouts = [{"shape": w["shape"], "clearance": max(0.0, w["clearance"] + by)} for w in ways]
    sheet = {k: stock[k] for k in ("width", "height")}
    sheet |= {"id": "s", "margin": stock["margin"] + by, "outline": stock["outline"] or None}
    parts = [
        {"id": n, "outline": c.rows(), "quantity": 9, "rotations": "free", "mirror": True}
        for n, c in shapes.items()
    ]
    data = {"sheets": [{**sheet, "keepouts": keepouts}], "parts": parts, "spacing": max(0.0, spacing + by)}
    problem = NestProblem.model_validate(data)
    laid_ = [Placement.model_validate({**p, "sheet": "s", "copy": n}) for n, p in enumerate((*lying, moved))]
    mine = len(lying)
    return not any(mine in (i, other) for i, _why, other in faults_between(problem, laid_))


def answers() -> list[dict]:
    """Answers about one job as somebody is given who holds the one before, and in full."""
    from starlette.testclient import TestClient

    from tests.support.trial import TrialJob, disc, rect
    from venzo.api.app import make_app

    store = library_shop(Path(tempfile.mkdtemp(prefix="venzo-screen-")))
    trial = TrialJob(
        store, (rect(150, 90, [(40, 40, 12)]), [(20, 20), (200, 20)]), (disc(30), [(20, 150), (120, 150)])
    )
    trial.outline({})
    part = trial.part()
    edits = [
        {"kind": "rename-job", "name": "another"},
        {"kind": "set-contour", "part": part, "contour": "outline", "tab_count": 6},
        {"kind": "change-quantity", "part": part, "order": trial.plan.orders[0].id, "more": 1},
        {"kind": "remove-part", "part": part},
    ]
    out, tag = [], ""
    with TestClient(make_app(store), base_url="http://testserver") as web:
        for edit in (None, *edits):
            if edit is not None:
                base = web.get(f"/api/jobs/{trial.job}").json()["revision"]
                body = {"base": base, "command": edit}
                assert web.post(f"/api/jobs/{trial.job}/commands", json=body).status_code == 200, edit
            while (full := web.get(f"/api/jobs/{trial.job}").json())["untried"]:
                pass
            given = web.get(f"/api/jobs/{trial.job}", headers={"x-holds": tag}).json()
            tag = given["tag"]
            out.append({"given": given, "full": full})
    store.close()
    return out


def main() -> None:
    """Write them all."""
    rng = random.Random(20)
    cases = {
        "spoken": spoken(rng),
        "lengths": lengths(rng),
        "shapes": SHAPES,
        "poses": poses(rng),
        "handed": handed(random.Random(21)),
        "picks": picks(rng),
        "gaps": gaps(rng),
        "answers": answers(),
    }
    Path(sys.argv[1]).write_text(json.dumps(cases))


if __name__ == "__main__":
    main()
