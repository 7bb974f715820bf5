"""The document that the screen draws from: a plan and everything derived, in plain JSON."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any
from weakref import WeakKeyDictionary

import shapely

from venzo.core.cuts.of_part import PartCuts
from venzo.core.cuts.operations import differences
from venzo.core.derive import DerivedSetup
from venzo.core.geometry.contour import Contour, arc_of
from venzo.core.geometry.regions import Region
from venzo.core.memo import memo
from venzo.core.nesting.layout import figures, inputs_now, placement
from venzo.core.nesting.worth import same_sheets
from venzo.core.parts.shape import Shape
from venzo.core.plan import KeptLayout, Plan, Setup
from venzo.core.release import contents, programs
from venzo.core.snags import BadInput, Snag
from venzo.desk.holding import timeline_view
from venzo.store.store import Revision, Shapes


def path_of(c: Contour) -> str:
    """A contour as SVG path data, arcs kept; y up as in the core (the screen flips it).

    >>> path_of(Contour.of([(0, 0), (2, 0), (2, 1)]))
    'M0 0L2 0L2 1Z'
    """

    def n(v: float) -> str:
        text = f"{v:.3f}".rstrip("0").rstrip(".")
        return "0" if text in ("", "-0") else text

    out = [f"M{n(c.vertices[0, 0])} {n(c.vertices[0, 1])}"]
    segments = c.segments()
    for k, s in enumerate(segments):
        if s.bulge:
            r = arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)[2]
            # y is flipped on screen by a transform, which turns the sense of arcs by itself
            out.append(f"A{n(r)} {n(r)} 0 {int(abs(s.bulge) > 1)} {int(s.bulge > 0)} {n(s.x1)} {n(s.y1)}")
        elif not (c.closed and k == len(segments) - 1):
            out.append(f"L{n(s.x1)} {n(s.y1)}")
    return "".join(out) + ("Z" if c.closed else "")


def view(
    revision: Revision,
    derived: dict[str, DerivedSetup],
    shapes: Shapes,
    news: Mapping[str, list[dict[str, Any]]] | None = None,
    snags: Mapping[str, Sequence[Snag]] | None = None,
    untried: bool = False,
) -> dict[str, Any]:
    """Everything a screen needs for one revision; ``news``: by setup, what the library has newer than the plan; ``snags``: with the remedies that work;
    ``untried``: some were not tried yet, reading again brings them."""
    plan = revision.plan
    return {
        "id": plan.id,
        "name": plan.name,
        "revision": revision.number,
        "says": revision.says,
        "can_undo": revision.can_undo,
        "can_redo": revision.can_redo,
        "untried": untried,
        "orders": [o.model_dump() for o in plan.orders],
        "drawings": [d.model_dump(mode="json", exclude={"blob"}) for d in plan.drawings],
        "parts": [_part(plan, p.id, shapes) for p in plan.parts],
        "choices": [c.model_dump(mode="json") for c in plan.choices],
        "steps": [c.model_dump(mode="json") for c in plan.steps],
        "setups": [{**_setup(plan, derived[s.id], shapes, (snags or {}).get(s.id, derived[s.id].snags)), "news": (news or {}).get(s.id, [])} for s in plan.setups],
    }


GONE = Shape.of(Region(Contour.of([(0, 0), (1, 0), (1, 1), (0, 1)]), ()))[0]
"""Drawn in place of a shape that cannot be read."""


def _label_point(shape: Shape) -> list[float]:
    """Middle (x, y) and radius of the largest circle that lies in the part: where its name is written."""
    line = shapely.maximum_inscribed_circle(shape.region.polygon(0.2).buffer(0), tolerance=1.0)
    return [*(round(v, 2) for v in line.coords[0]), round(line.length, 2)]


def _part(plan: Plan, part_id: str, shapes: Shapes) -> dict[str, Any]:
    p = plan.part(part_id)
    assert p is not None
    try:
        shape = shapes[p.shape]
    except (BadInput, LookupError, ValueError):
        shape = GONE  # its setup says so with a stop; the plan opens all the same
    box = shape.region.outline.bbox
    return {
        "id": p.id,
        "name": p.name,
        "setup": p.setup,
        "drawing": p.drawing,
        "quantity": p.quantity,
        "lines": [line.model_dump() for line in p.lines],
        "rotations": p.rotations,
        "grain": p.grain,
        "mirror": p.mirror,
        "group": p.group,
        "priority": p.priority,
        "fill": p.fill,
        "missing": p.missing,
        "box": [round(v, 4) for v in box],
        "label": memo("label", shape.digest, lambda: _label_point(shape)),
        "area": shape.region.area,
        "perimeter": shape.region.perimeter,
        "contours": [{"name": n, "d": path_of(c), "size": [round(c.bbox[2] - c.bbox[0], 3), round(c.bbox[3] - c.bbox[1], 3)]} for n, c in shape.contours],
        "features": [{"name": f.name, "kind": f.kind, "d": path_of(f.contour), "depth": f.depth, "closed": f.contour.closed} for f in shape.features],
        "origin": p.origin,
        "shape": p.shape,
        "altered": len(p.alterations),
        "versions": len(p.versions),
        "note": p.note,
        "rings": [[[round(float(x), 2), round(float(y), 2)] for x, y in c.points(0.15)] for c in shape.region.loops],
    }


def _kept(plan: Plan, s: Setup, k: KeptLayout, shapes: Shapes, inputs: str) -> dict[str, Any]:
    """A kept layout with its figures and its pieces, for a picture beside others."""
    f = figures(plan, s, k.nest, shapes)
    return {
        "id": k.id,
        "name": k.name,
        "sheets": f.sheets,
        "last": f.last,
        "yield": f.material_yield,
        "placed": f.pieces,
        "current": k.nest.inputs == inputs,
        "pieces": [
            {"part": q.part, "sheet": q.sheet, "sheet_copy": q.sheet_copy, "x": round(q.x, 1), "y": round(q.y, 1), "rotation": q.rotation, "mirrored": q.mirrored} for q in k.nest.pieces
        ],
    }


def _layout(plan: Plan, d: DerivedSetup, shapes: Shapes) -> dict[str, Any]:
    s = d.setup
    f = figures(plan, s, s.nest, shapes) if s.nest and not d.underived else None
    return {
        "state": d.layout.state,
        "unplaced": d.layout.unplaced,
        "at_fault": sorted(d.layout.at_fault),
        "bound": s.nest.bound if s.nest else 0,
        "engine": s.nest.engine if s.nest else "",
        "steps": s.nest.steps if s.nest else 0,
        "last": f.last if f else 0.0,
        "yield": f.material_yield if f else 0.0,
        "same": [k.model_dump() for k in same_sheets([placement(q) for q in s.nest.pieces])] if s.nest else [],
    }


def _setup(plan: Plan, d: DerivedSetup, shapes: Shapes, snags: Sequence[Snag]) -> dict[str, Any]:
    s = d.setup
    kept = () if d.underived else s.kept
    inputs = inputs_now(plan, s, shapes) if kept else ""
    first = next(iter(d.cuts.values()), {})
    return {
        **s.model_dump(mode="json", exclude={"nest", "kept"}),
        "kept": [_kept(plan, s, k, shapes, inputs) for k in kept],
        "spacing": plan.spacing(s),
        "kerf": plan.kerf(s),
        "stock": [{**k.model_dump(mode="json"), "thickness": k.thickness, "spread": k.spread} for k in s.stock],
        "layout": _layout(plan, d, shapes),
        "pieces": [{**q.model_dump(mode="json"), "id": q.id} for q in (s.nest.pieces if s.nest else ())],
        "snags": [x.model_dump(mode="json") for x in snags],
        "contours": {part: _drawn(pc)[0] for (part, flip), pc in first.items() if not flip},
        "paths": {stock: {f"{part}{'!' if flip else ''}": _drawn(pc)[1] for (part, flip), pc in parts.items()} for stock, parts in d.cuts.items()},
        "sheets": [
            {
                "sheet": sh.sheet,
                "copy_no": sh.copy_no,
                "seconds": sh.seconds,
                "cut_length": sh.cut_length,
                "rapid_length": sh.rapid_length,
                "changes": sh.changes,
                "hold": timeline_view(sh, held),
                "refused": [{"cut": m.cut, "before": m.before, "why": why} for m, why in sh.refused],
                "cuts": [
                    {
                        "name": c.name,
                        "trial": c.trial,
                        "outline": c.outline,
                        "force": round(c.cut.force, 1),
                        "piece": c.piece.id,
                        "contour": c.cut.contour,
                        "cutter": c.cut.cutter,
                        "operation": c.cut.operation,
                        "kind": c.cut.kind,
                        "frees": c.cut.frees,
                        "inside": c.cut.inside,
                        "begins": round(c.begins, 3),
                        "seconds": round(c.seconds, 3),
                        "passes": len(c.cut.levels),
                        "tabs": len(c.cut.tabs),
                        "start": [round(float(c.moves[0, 1]), 2), round(float(c.moves[0, 2]), 2)],
                    }
                    for c in sh.cuts
                ],
            }
            for sh, held in zip(d.sheets, d.holds, strict=True)
        ],
        "own_tabs": {q: _contours(pc)[-1]["tabs"] for q, pc in d.own.items()},
        "cutters_used": d.cutters_used,
        "reached": _reached(d),
        "differs": _differs(s),
        "yields": d.yields.model_dump(mode="json"),
        "release": {
            **contents(plan, d),
            "files": [
                {"name": f.name, "seconds": f.seconds, "sheet": f.sheet, "copy_no": f.copy_no, "copies": f.copies, "cutters": f.cutters, "z_zero": f.z_zero} for f in programs(plan, d, False)
            ],
        },
        "tabs_policy": s.tabs_on("outlines").model_dump(),
    }


def _reached(d: DerivedSetup) -> dict[str, dict[str, float]]:
    """By operation, and by operation and cutter: metres cut, seconds, and the mean speed that acceleration leaves of the feed, mm/min."""
    sums: dict[str, list[float]] = {}
    for sheet in d.sheets:
        for c in sheet.cuts:
            for key in (c.cut.operation, f"{c.cut.operation}|{c.cut.cutter}"):
                row = sums.setdefault(key, [0.0, 0.0])
                row[0] += c.cut_length
                row[1] += c.seconds
    return {op: {"metres": round(length / 1000, 3), "seconds": round(seconds, 1), "feed": round(length / seconds * 60, 1) if seconds else 0.0} for op, (length, seconds) in sums.items()}


def _differs(s: Setup) -> dict[str, list[str]]:
    """By kind of feature: in what its steps differ from the recipe they came from, in words."""
    out: dict[str, list[str]] = {}
    for r in s.recipes:
        own = s.steps_on(r.on)
        said = []
        for step in own:
            diff = differences(step, r)
            if diff is None:
                said.append(f"step {step.id} is not in the recipe")
            said += [f"{step.id}: {k.replace('_', ' ')} {_plain(b)}, the recipe says {_plain(a)}" for k, (a, b) in (diff or {}).items()]
        said += [f"step {x.id} left out" for x in r.steps if x.id not in {o.id for o in own}]
        out[r.on] = said
    return out


def _plain(v: Any) -> str:
    return "by house rule" if v is None else f"{v:g}" if isinstance(v, float) else str(v)


_cuts_seen: WeakKeyDictionary[PartCuts, tuple[list[dict[str, Any]], list[dict[str, Any]]]] = WeakKeyDictionary()


def _drawn(pc: PartCuts) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Features as planned and the lines of their cuts; worked out once for a part's cuts, which most edits leave as they are."""
    if pc not in _cuts_seen:
        _cuts_seen[pc] = (
            _contours(pc),
            [{"contour": c.contour, "cutter": c.cutter, "operation": c.operation, "kind": c.kind, "d": "".join(path_of(line) for line in c.lines)} for c in pc.cuts],
        )
    return _cuts_seen[pc]


def _contours(pc: PartCuts) -> list[dict[str, Any]]:
    out = []
    for c in pc.contours:
        path = next((k.path for k in reversed(pc.cuts) if k.contour == c.contour), None)
        tabs = []
        for x, y in c.tabs:
            dx, dy = (1.0, 0.0)
            if path is not None:
                s, _away = path.nearest(x, y)
                dx, dy = path.at(s)[2:]
            tabs.append([round(x, 3), round(y, 3), round(math.degrees(math.atan2(dy, dx)), 2)])
        out.append(
            {
                "contour": c.contour,
                "operation": c.operation,
                "cutter": c.cutter,
                "inside": c.inside,
                "passes": c.passes,
                "depth": c.depth,
                "step_down": c.step_down,
                "tabs": tabs,
                "by_hand": c.tabs_by_hand,
                "omitted": c.omitted,
                "reason": c.reason,
                "on": c.on,
                "own_steps": c.own_steps,
                "steps": [dict(vars(s)) for s in c.steps],
            }
        )
    return out
