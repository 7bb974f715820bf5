"""Carvings of a job: what is carved into a part, what it looks like, and inlays made from it."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import Carving
from venzo.core.carving.inlay import Inlay, Mating, inlay, mating, mating_snags, section
from venzo.core.carving.medial import CHORD
from venzo.core.carving.toolpath import bit_moves, mill_moves
from venzo.core.cuts.moves import RAPID
from venzo.core.cuts.of_part import PartCuts
from venzo.core.cuts.planned import StepPlan
from venzo.core.derive import DerivedSetup
from venzo.core.feeds.adviser import Advice, CutNumbers, advise
from venzo.core.geometry.regions import regions
from venzo.core.memo import memo
from venzo.core.model import Document, Family, Point, digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import Part, Plan, Setup
from venzo.core.snags import BadInput, Snag, stop
from venzo.core.tooling.cutter import FLAT, Cutter
from venzo.core.units import show_length
from venzo.desk.jobs import derive
from venzo.desk.vcarve import carved_surface, lit, moved, proven
from venzo.formats.gcode import ToolRun, write
from venzo.store.store import NotFound, Store

CARVED = 0.03
"""mm; how near a carved surface comes to the ideal; a pair has two."""
COLOURS = {
    "wood": (205, 170, 118),
    "plastic": (226, 228, 224),
    "aluminium": (198, 202, 206),
    "steel": (170, 174, 178),
}


def _of(store: Store, plan: Plan, setup: str, part: str) -> tuple[DerivedSetup, Part, Shape, PartCuts]:
    d = derive(store, plan, False).get(setup)
    p = plan.part(part)
    if d is None or p is None or p.setup != setup:
        raise NotFound(f"there is no part {part!r} in setup {setup!r}")
    found = next((parts[part, False] for parts in d.cuts.values() if (part, False) in parts), None)
    if found is None:
        raise BadInput(f"{p.name}: nothing is planned for it yet; give its setup stock and steps")
    return d, p, store.shapes[p.shape], found


def picture(store: Store, plan: Plan, setup: str, part: str, px: int = 1100) -> bytes:
    """The part's face as it will be carved, lit from the side, as PNG: the swept surface of its own moves,
    what lies outside the part transparent.
    """
    d, p, shape, cuts = _of(store, plan, setup, part)
    key = digest(
        "carved-2",
        p.shape,
        p.grain,
        px,
        d.setup.material.family,
        [c.key for c in cuts.cuts],
        [c.model_dump(mode="json", exclude={"metres"}) for c in d.setup.cutters],
    )
    return memo("carved", key, lambda: _painted(d, p, shape, cuts, px))


def _painted(d: DerivedSetup, p: Part, shape: Shape, cuts: PartCuts, px: int) -> bytes:
    w, h = shape.size
    cell = max(w, h) / px
    runs: list[tuple[Bit | None, float, np.ndarray]] = []
    for c in cuts.cuts:
        cutter = d.setup.cutter(c.cutter)
        if cutter is None or c.frees:
            continue
        if cutter.kind == "v-bit":
            runs.append((Bit.of(cutter), 0.0, c.moves))
        elif cutter.kind in FLAT:
            runs.append((None, cutter.radius, c.moves))
    s = carved_surface(runs, (0.0, 0.0, w, h), cell)
    image = lit(s, COLOURS.get(d.setup.material.family, COLOURS["wood"]))
    rgb = np.asarray(image, dtype=float)
    if d.setup.material.family == "wood" and d.setup.material.grained:
        rgb = rgb * _grain(rgb.shape[0], rgb.shape[1], p.grain == 90)[:, :, None]
    x, y = np.meshgrid(s.xs, s.ys)
    body = shape.polygon
    shapely.prepare(body)
    inside = shapely.contains_xy(body, x, y)[::-1]
    from PIL import Image

    out = io.BytesIO()
    full = np.dstack([np.clip(rgb, 0, 255), np.where(inside, 255, 0)]).astype(np.uint8)
    Image.fromarray(full, "RGBA").save(out, "PNG", compress_level=4)
    return out.getvalue()


def _grain(rows: int, columns: int, upright: bool) -> np.ndarray:
    """A quiet figure along the grain; the same every time."""
    r = np.random.default_rng(7)
    across, along = (columns, rows) if upright else (rows, columns)
    line = np.convolve(r.normal(0, 1, across + 40), np.hanning(9) / 4.5, "same")[20 : 20 + across]
    wave = np.sin(np.arange(along) / along * 5 + 1)[None, :] * 3
    at = np.clip(np.arange(across)[:, None] + wave, 0, across - 1).astype(int)
    k = 1 + 0.022 * line[at]
    return k.T if upright else k


class SpokenOf(Document):
    """Places (x, y) that a rule speaks of."""

    rule: str
    at: list[tuple[float, ...]]


class CarvingDocument(Document):
    """What is carved into a part: its steps with their figures, and the places that are spoken of. mm."""

    part: str
    name: str
    size: Point
    steps: list[StepPlan]
    shapes: int
    places: list[SpokenOf]
    snags: tuple[Snag, ...]
    length: float
    family: Family
    digest: str


class Stroke(Document):
    """A carved stroke under a point: depth, width at the surface and where the bit was, mm."""

    depth: float
    width: float
    at: Point


class InlayDocument(Document):
    """An inlay pair and its section at ``y``: heights of socket and plug along ``x``, the plug pressed in.
    mm; ``bit``: angle and diameter.
    """

    name: str
    y: float
    range: Point
    depth: float
    gap: float
    plane: float
    saw: float
    bit: Point
    cutters: list[str]
    x: list[float]
    socket: list[float]
    plug: list[float]
    mating: Mating
    plug_board: Point
    snags: tuple[Snag, ...]


def carving_view(store: Store, plan: Plan, setup: str, part: str) -> CarvingDocument:
    """What is carved into a part: its steps with their figures, and the places that are spoken of."""
    d, p, shape, cuts = _of(store, plan, setup, part)
    seen = {s.operation: s for c in cuts.contours for s in c.steps if s.kind == "v-carve"}
    lines = [c for c in cuts.cuts if c.kind == "v-carve"]
    places = [
        SpokenOf(rule=s.rule, at=s.where["places"]) for s in cuts.snags if s.where and "places" in s.where
    ]
    return CarvingDocument(
        part=p.id,
        name=p.name,
        size=shape.size,
        steps=list(seen.values()),
        shapes=sum(f.contour.closed for f in shape.features if f.kind in ("engraving", "pocket")),
        places=places,
        snags=tuple(s for s in cuts.snags if s.rule.startswith("carve.")),
        length=sum(c.cut_length for c in lines),
        family=d.setup.material.family,
        digest=digest(p.shape, [c.key for c in cuts.cuts]),
    )


def stroke_at(store: Store, plan: Plan, setup: str, part: str, x: float, y: float) -> Stroke | None:
    """Depth and width at the surface of the stroke under a point of the part, mm; None where nothing is
    carved.

    From the deepest of the bit's moves that reach the point: its own depth there, and the width that the bit
    has at the surface.
    """
    d, _p, _shape, cuts = _of(store, plan, setup, part)
    best: tuple[float, float, list[float]] | None = None
    for c in cuts.cuts:
        cutter = d.setup.cutter(c.cutter)
        if c.kind != "v-carve" or cutter is None or cutter.kind != "v-bit":
            continue
        bit, m = Bit.of(cutter), c.moves
        a, b = m[:-1, 1:4], m[1:, 1:4]
        cutting = (m[1:, 0] != RAPID) & (np.minimum(a[:, 2], b[:, 2]) < 0)
        a, b = a[cutting], b[cutting]
        step = b[:, :2] - a[:, :2]
        long = np.maximum((step**2).sum(axis=1), 1e-12)
        t = np.clip(((x - a[:, 0]) * step[:, 0] + (y - a[:, 1]) * step[:, 1]) / long, 0, 1)
        near = a + (b - a) * t[:, None]
        reach = bit.radius(-near[:, 2]) - np.hypot(near[:, 0] - x, near[:, 1] - y)
        k = int(np.argmax(reach)) if len(reach) else -1
        if k >= 0 and reach[k] > 0 and (best is None or -near[k, 2] > best[0]):
            best = (
                float(-near[k, 2]),
                2 * float(bit.radius(-near[k, 2])),
                [float(near[k, 0]), float(near[k, 1])],
            )
    return (
        Stroke(
            depth=round(best[0], 3), width=round(best[1], 3), at=(round(best[2][0], 2), round(best[2][1], 2))
        )
        if best
        else None
    )


@dataclass(frozen=True)
class _Asked:
    """An inlay as asked for: the cutters of the setup that cut it, its area (mm) and measures."""

    bit: Cutter
    mill: Cutter | None
    area: BaseGeometry
    setup: Setup
    name: str
    depth: float
    gap: float
    saw: float

    @property
    def pair(self) -> Inlay:
        """Socket and plug, remembered."""
        clear, step = (
            (self.mill.diameter if self.mill else None),
            self.setup.rules.carve_step.get(self.setup.material.family),
        )
        return memo(
            "inlay",
            self.key,
            lambda: inlay(
                self.area, Bit.of(self.bit), self.depth, self.gap, self.saw, clear=clear, step_down=step
            ),
        )

    @property
    def key(self) -> str:
        """Digest of all that the pair depends on."""
        rules = self.setup.rules.carve_step
        return digest(
            "inlay-2",
            shapely.to_wkb(self.area, hex=True),
            vars(Bit.of(self.bit)),
            self.mill.diameter if self.mill else None,
            self.depth,
            self.gap,
            self.saw,
            rules,
        )

    def advice(self, cutter: Cutter, deep: float) -> Advice:
        """Speed and feed of one of its cutters by the shop's library and rules."""
        s = self.setup
        depth = min(
            deep, s.rules.carve_step.get(s.material.family, deep) if cutter is self.bit else self.step(cutter)
        )
        width = float(Bit.of(cutter).radius(depth)) if cutter is self.bit else cutter.diameter
        return advise(cutter, s.material, s.rules, s.machine, CutNumbers(depth=depth, width=width))

    def step(self, mill: Cutter) -> float:
        """Depth of a pass of the end mill, mm."""
        return self.setup.rules.largest_step(self.setup.material.family, mill.diameter, mill.kind)


def _asked(
    store: Store, plan: Plan, setup: str, part: str, depth: float, gap: float, saw: float, clear: float | None
) -> _Asked:
    d, p, shape, cuts = _of(store, plan, setup, part)
    family = d.setup.material.family
    lines = [c for c in cuts.cuts if c.kind == "v-carve"]
    bits = [k for c in lines if (k := d.setup.cutter(c.cutter)) is not None and k.kind == "v-bit"] or [
        c for c in d.setup.cutters if c.kind == "v-bit" and family in c.feeds
    ]
    if not bits:
        raise BadInput(
            f"{d.setup.name}: an inlay needs a V bit with feeds for {family}; put one into the setup"
        )
    closed = [
        f.contour.oriented(True)
        for f in shape.features
        if f.contour.closed and f.kind in ("engraving", "pocket")
    ]
    if not closed:
        raise BadInput(
            f"{p.name}: it has no closed shapes to make an inlay of; put letters or an ornament on it"
        )
    mill = None
    if clear is not None:
        mills = [c for c in d.setup.cutters if c.kind in FLAT and c.kind != "surfacing" and family in c.feeds]
        mill = next((c for c in mills if abs(c.diameter - clear) < 0.01), None)
        if mill is None:
            have = ", ".join(f"{c.diameter:g}" for c in sorted(mills, key=lambda c: c.diameter)) or "none"
            raise BadInput(
                f"{d.setup.name}: no end mill {clear:g} mm in diameter with feeds for {family}; those of the"
                f" setup are {have} mm"
            )
    area = shapely.union_all([r.polygon(CHORD).buffer(0) for r in regions(closed)])
    return _Asked(bits[0], mill, area, d.setup, p.name, depth, gap, saw)


def inlay_view(
    store: Store,
    plan: Plan,
    setup: str,
    part: str,
    depth: float,
    gap: float,
    saw: float,
    clear: float | None,
    *,
    y: float | None,
) -> InlayDocument:
    """An inlay pair of a part's closed shapes: how it mates, and the section through both at ``y`` (part
    coordinates; the middle by default).
    """
    asked = _asked(store, plan, setup, part, depth, gap, saw, clear)
    pair, bit = asked.pair, Bit.of(asked.bit)
    b = asked.area.bounds
    fit = _fit(asked)
    at = min(max(y if y is not None else _telling(asked.area), b[1]), b[3])
    xs, socket, plug = section(pair, at, max(0.05, (b[2] - b[0]) / 1600))
    thin = slice(None, None, max(1, len(xs) // 1600))
    return InlayDocument(
        name=asked.name,
        y=at,
        range=(b[1], b[3]),
        depth=pair.depth,
        gap=pair.gap,
        plane=pair.plane,
        saw=pair.saw,
        bit=(bit.angle, bit.diameter),
        cutters=[c.name for c in (asked.mill, asked.bit) if c],
        x=[round(float(v), 2) for v in xs[thin]],
        socket=[round(float(v), 3) for v in socket[thin]],
        plug=[round(float(v), 3) for v in plug[thin]],
        mating=Mating(**{k: round(v, 4) for k, v in vars(fit).items()}),
        plug_board=(pair.board[2] - pair.board[0], pair.board[3] - pair.board[1]),
        snags=tuple(_inlay_snags(asked)),
    )


def _fit(asked: _Asked) -> Mating:
    """How the pair mates; a flat point leaves so much standing in the very corners of the socket, which a
    chisel or a little sanding of the plug's edges takes.
    """
    b, bit = asked.area.bounds, Bit.of(asked.bit)
    cell = max(0.1, max(b[2] - b[0], b[3] - b[1]) / 900)
    return memo(
        "mating",
        f"{asked.key}|{cell:g}",
        lambda: mating(asked.pair, cell, 2 * CARVED + bit.tip / 2 / bit.tan),
    )


def _inlay_snags(asked: _Asked) -> list[Snag]:
    """What is said of a pair: whether it closes, and of its cutters."""
    out = mating_snags(_fit(asked))
    deep = max(asked.pair.socket.deepest, asked.pair.plug.deepest)
    for c in (asked.mill, asked.bit):
        if c is None:
            continue
        if c.reach < deep - 1e-9:
            words = (
                f"the plug is carved {deep:.2f} mm deep, the cutting edge of {c.name} is {c.reach:g} mm; take"
                " a longer cutter or a shallower socket"
            )
            out.append(stop("cuts.too-deep", words, {"cutter": c.id}))
        out += asked.advice(c, deep).snags
    return out


def _telling(area: BaseGeometry) -> float:
    """The height at which a line across crosses most edges: there a section shows most."""
    x0, y0, x1, y1 = area.bounds
    ys = np.linspace(y0, y1, 41)[1:-1]
    lines = shapely.linestrings([[(x0 - 1, v), (x1 + 1, v)] for v in ys.tolist()])
    crossings = shapely.get_num_geometries(shapely.intersection(lines, area))
    return float(ys[int(np.argmax(crossings))])


def inlay_programs(
    store: Store, plan: Plan, setup: str, part: str, depth: float, gap: float, saw: float, clear: float | None
) -> list[tuple[str, bytes]]:
    """The programs of a pair, by the setup's cutters, feeds, heights, dialect and rule of files; the plug's
    zero is its board's lower left corner, mirrored drawing.

    Raises:
        BadInput: a *stop* stands in the way.
    """
    asked = _asked(store, plan, setup, part, depth, gap, saw, clear)
    stops = [s.message for s in _inlay_snags(asked) if s.severity == "stop"]
    if stops:
        raise BadInput(f"{asked.name}: no programs while this stands: {stops[0]}")
    pair = asked.pair
    return [
        *_inlay_files(asked, part, "socket", pair.socket, (0.0, 0.0)),
        *_inlay_files(asked, part, "plug", pair.plug, (-pair.board[0], -pair.board[1])),
    ]


def _inlay_files(
    asked: _Asked, part: str, which: str, c: Carving, shift: tuple[float, float]
) -> list[tuple[str, bytes]]:
    """One side of a pair: a file, or a file a cutter where the machine has no changer."""
    m = asked.setup.machine
    runs: list[ToolRun] = []
    if asked.mill and c.cleared:
        a = asked.advice(asked.mill, c.deepest)
        milled = mill_moves(c, m.retract, a.feed, a.plunge, asked.step(asked.mill))
        runs.append(
            ToolRun(
                asked.mill.number,
                asked.mill.name,
                a.rpm,
                [(f"{which}, floor {k + 1}", moved(x, *shift)) for k, x in enumerate(milled)],
            )
        )
    a = asked.advice(asked.bit, c.deepest)
    passes = bit_moves(c, m.retract, a.feed, a.plunge)
    runs.append(
        ToolRun(
            asked.bit.number,
            asked.bit.name,
            a.rpm,
            [(f"{which}, pass {k + 1} of {len(passes)}", moved(x, *shift)) for k, x in enumerate(passes)],
        )
    )
    out = []
    for k, file in enumerate([runs] if m.dialect.tool_change else [[r] for r in runs], 1):
        numbers = "-".join(f"t{r.number}" for r in file)
        name = f"inlay_{part}_{which}_{k:02d}_{numbers}.{m.dialect.ending}"
        header = [
            f"VENZO inlay {asked.name}, {which}{', mirrored' if which == 'plug' else ''}",
            (
                f"X0 Y0 {'as drawn' if which == 'socket' else 'lower left corner of the plug board'}; Z0 top"
                f" of the material; units {'inch' if m.dialect.inch else 'millimetre'}; {m.name}"
            ),
            *(f"T{r.number} {r.name}" for r in file),
            f"deepest {show_length(c.deepest, 'in' if m.dialect.inch else 'mm')}",
            "mask against dust; the point is sharp even at rest",
        ]
        text = write(file, m.dialect, header, m.clearance, 0.0)
        mill = asked.mill.number if asked.mill else None
        found = proven(text, name, c, (), mill, shift, loaded=file[0].number)
        if found:
            raise BadInput(f"{name}: {found[0].message}")
        out.append((name, text.encode("ascii", "replace")))
    return out
