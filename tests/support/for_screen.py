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

from venzo.core.geometry.contour import rotation_matrix
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


def answers() -> list[dict]:
    """Answers about one job as somebody is given who holds the one before, and in full."""
    from starlette.testclient import TestClient

    from tests.support.trial import TrialJob, disc, rect
    from venzo.api.app import make_app
    from venzo.demo.seed import seed_library
    from venzo.store.store import Store

    store = Store(Path(tempfile.mkdtemp(prefix="venzo-screen-")))
    seed_library(store)
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
        "answers": answers(),
    }
    Path(sys.argv[1]).write_text(json.dumps(cases))


if __name__ == "__main__":
    main()
