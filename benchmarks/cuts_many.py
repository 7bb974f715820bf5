"""Toolpaths of a large plan: 500 pieces of 60 distinct parts of 40 and more vertices, derived cold, and edits
re-derived warm.

Prints seconds and, because machines are noisy, each as a ratio to a yardstick run in the same process:
offsetting every contour once with the bare polygon offsetter and nothing else. Ends with points per metre of
curve, arcs kept against chords within the same tolerance.

    python -m benchmarks.cuts_many [--parts 60] [--pieces 500] [--edits 60]
"""

from __future__ import annotations

import argparse
import math
import time

import numpy as np

from venzo.core.cuts.moves import CW, KIND, lengths, polyline
from venzo.core.cuts.operations import Pocket, Profile
from venzo.core.derive import derive
from venzo.core.edits import SetSteps
from venzo.core.geometry import fit_kernel
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.offset import offset_points
from venzo.core.geometry.regions import Region
from venzo.core.order import sequence_kernel
from venzo.core.parts.shape import Feature, Shape
from venzo.core.plan import AcceptedNest, Order, Part, PartLine, Piece, Plan, Setup
from venzo.core.rules.house import HouseRules
from venzo.core.rules.propose import propose_operations
from venzo.demo.library import CUTTERS, MACHINES, MATERIALS, STOCK


def part_shape(rng: np.random.Generator, size: float) -> Shape:
    """A part of 44 vertices, straight and arced sides in turn, with two holes and a pocket."""
    n = 44
    radii = size * (0.8 + 0.2 * rng.random(n))
    rows = [
        (
            r * math.cos(2 * math.pi * k / n),
            r * math.sin(2 * math.pi * k / n),
            float(rng.uniform(-0.15, 0.15)) if k % 2 else 0.0,
        )
        for k, r in enumerate(radii)
    ]
    holes = (
        Contour.circle(-size * 0.35, 0, 8).oriented(False),
        Contour.circle(size * 0.35, 5, 12).oriented(False),
    )
    pocket = Contour.of(
        [
            (-size * 0.2, -size * 0.4),
            (size * 0.2, -size * 0.4),
            (size * 0.2, -size * 0.15),
            (-size * 0.2, -size * 0.15),
        ]
    )
    return Shape.of(
        Region(Contour.of(rows).oriented(True), holes),
        ("outline", "hole 1", "hole 2"),
        (Feature("pocket", "pocket 1", pocket, 6.0),),
    )[0]


def build(parts: int, pieces: int) -> tuple[Plan, dict[str, Shape]]:
    """A plan with its pieces laid on a grid over as many sheets as that takes."""
    rng = np.random.default_rng(5)
    shapes = [part_shape(rng, 45 + 0.3 * k) for k in range(parts)]
    known = {s.digest: s for s in shapes}
    material, stock = MATERIALS[0], STOCK[0][1].model_copy(update={"quantity": 40})
    cutters = tuple(c for c in CUTTERS if material.family in c.feeds)
    setup = Setup(
        id="main",
        name="bench",
        machine=MACHINES[0],
        material=material,
        cutters=cutters,
        rules=HouseRules(),
        stock=(stock,),
        zones_on=("1", "2", "3"),
        sheet_at=(60.0, 0.0),
        operations=propose_operations(cutters, material, stock.thickness, HouseRules(), MACHINES[0]),
    )
    pitch, across, down = 150.0, 16, 8
    rows, copies = [], [0] * parts
    for i in range(pieces):
        k = i % parts
        sheet, slot = divmod(i, across * down)
        rows.append(
            Piece(
                part=f"p{k}",
                copy_no=copies[k],
                sheet=stock.id,
                sheet_copy=sheet,
                x=14 + pitch * (slot % across),
                y=14 + pitch * (slot // across),
            )
        )
        copies[k] += 1
    made = tuple(
        Part(
            id=f"p{k}",
            name=f"part {k}",
            setup="main",
            drawing="d",
            shape=s.digest,
            origin=(0, 0),
            lines=(PartLine(order="o", quantity=copies[k]),),
        )
        for k, s in enumerate(shapes)
    )
    nest = AcceptedNest(pieces=tuple(rows), inputs="")
    return (
        Plan(
            id="bench",
            name="bench",
            orders=(Order(id="o", name="o"),),
            parts=made,
            setups=(setup.model_copy(update={"nest": nest}),),
        ),
        known,
    )


def main() -> None:
    """Run and print."""
    args = argparse.ArgumentParser()
    args.add_argument("--parts", type=int, default=60)
    args.add_argument("--pieces", type=int, default=500)
    args.add_argument("--edits", type=int, default=60)
    a = args.parse_args()
    fit_kernel.warm()
    sequence_kernel.warm()
    warm, shapes = build(3, 390)
    derive(warm, shapes)  # compiled kernels and imports are not what is measured
    plan, shapes = build(a.parts, a.pieces)
    began = time.perf_counter()
    for s in shapes.values():
        for c in s.region.loops:
            offset_points([c.points()], 3.0)
    yard = time.perf_counter() - began
    began = time.perf_counter()
    d = derive(plan, shapes, hold=False)["main"]
    cold = time.perf_counter() - began
    cuts = [c for s in d.sheets for c in s.cuts]
    print(
        f"{a.pieces} pieces of {a.parts} parts, {len(cuts)} cuts on {len(d.sheets)} sheets,"
        f" {sum(len(c.moves) for c in cuts)} moves"
    )
    print(f"yardstick (bare offsets of every contour once) {yard * 1000:.0f} ms")
    print(f"derived cold {cold:.2f} s, {cold / yard:.0f} times the yardstick")
    began = time.perf_counter()
    derive(plan, shapes)
    held = time.perf_counter() - began
    print(
        f"what holds every piece, worked out after the answer: {held:.2f} s, {held / len(d.sheets):.2f} s a"
        f" sheet, {held / yard:.0f} times the yardstick"
    )
    began = time.perf_counter()
    derive(plan, shapes)
    print(f"nothing changed {1000 * (time.perf_counter() - began):.0f} ms")
    took = []
    for k in range(a.edits):
        # in turn: another overshoot, a roughing step before (the order changes), another step-over of the
        # pocket
        finish = Profile(id="own", on="outlines", cutter="comp-8", overshoot=0.5 + 0.01 * k)
        rough = Profile(id="rough", on="outlines", cutter="up-6", side_allowance=0.5)
        edit = (
            SetSteps(part=f"p{k % a.parts}", on="outlines", steps=(finish,)),
            SetSteps(part=f"p{k % a.parts}", on="outlines", steps=(rough, finish)),
            SetSteps(
                part=f"p{k % a.parts}",
                on="pockets",
                steps=(Pocket(id="own", cutter="up-6", step_over=0.4 + 0.005 * k),),
            ),
        )[k % 3]
        edited = edit.apply(plan)
        began = time.perf_counter()
        derive(edited, shapes, hold=False)
        took.append(time.perf_counter() - began)
    t = np.array(took) * 1000
    print(
        f"an edit to one part's steps: median {np.median(t):.0f} ms, 95th percentile"
        f" {np.percentile(t, 95):.0f} ms, {np.percentile(t, 95) / 1000 / yard:.1f} times the yardstick"
    )
    arcs = points = 0
    metres = 0.0
    for c in cuts:
        m = c.moves
        bent = m[:, KIND] >= CW
        arcs += int(bent.sum())
        metres += float(lengths(m)[bent].sum()) / 1000
        for i in np.flatnonzero(bent):
            points += len(polyline(m[i - 1 : i + 1], 0.005)) - 1
    print(
        f"curves: {metres:.0f} m in {arcs} arcs, {arcs / metres:.1f} blocks a metre; as chords within 0.005"
        f" mm {points / metres:.0f} a metre, {points / arcs:.1f} times as many"
    )


if __name__ == "__main__":
    main()
