"""A nested sheet as open vectors: DXF and SVG with a layer a meaning, arcs kept, so that intake reads the
parts where they lie and leaves sheet, remnants and labels out.
"""

from __future__ import annotations

import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

from venzo.core.geometry.contour import Contour
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan
from venzo.core.stock.sheet import Stock
from venzo.core.yields.remnants import Remnant

SHEET, OUTLINE, HOLE, REMNANT, LABEL = "SHEET BORDER", "OUTLINES", "HOLES", "REMNANT GUIDE", "LABEL NOTES"
FEATURE = {
    "pocket": "POCKET",
    "groove": "GROOVE",
    "engraving": "ENGRAVING",
    "drilling": "DRILLING",
    "relief": "RELIEF",
}
LABELLED = "urn:venzo:layer"
"""Namespace of the attribute that says a group's layer."""
COLOURS = {SHEET: 8, OUTLINE: 7, HOLE: 5, REMNANT: 3, LABEL: 2}


@dataclass(frozen=True)
class NestedSheet:
    """One sheet with the pieces on it and the remnants it leaves."""

    plan: Plan
    stock: Stock
    pieces: Sequence[Piece]
    shapes: Mapping[str, Shape]
    kept: Sequence[Remnant] = ()

    def lines(self) -> list[tuple[str, Contour]]:
        """(layer, contour) of everything that is drawn, in the sheet's frame."""
        out: list[tuple[str, Contour]] = [(SHEET, _ring(self._edge()))]
        for q in self.pieces:
            shape = self.shapes[self.plan.shape_of(q.part)]
            region = shape.region.placed(q.x, q.y, q.rotation, q.mirrored)
            out += [(OUTLINE, region.outline), *((HOLE, h) for h in region.holes)]
            for f in shape.features:
                depth = f" {f.depth:g}mm" if f.depth is not None else ""
                out.append((f"{FEATURE[f.kind]}{depth}", f.contour.placed(q.x, q.y, q.rotation, q.mirrored)))
        return out + [(REMNANT, _ring(r.corners)) for r in self.kept]

    def _edge(self) -> Sequence[tuple[float, float]]:
        w, h = self.stock.width, self.stock.height
        return self.stock.outline or ((0, 0), (w, 0), (w, h), (0, h))

    def labels(self) -> list[tuple[str, float, float]]:
        """(words, x, y) of every piece's name, at the middle of its box."""
        out = []
        for q in self.pieces:
            part = self.plan.part(q.part)
            shape = self.shapes[self.plan.shape_of(q.part)]
            x0, y0, x1, y1 = shape.region.placed(q.x, q.y, q.rotation, q.mirrored).outline.bbox
            out.append((f"{part.name if part else q.part} {q.copy_no + 1}", (x0 + x1) / 2, (y0 + y1) / 2))
        return out


def _ring(corners: Sequence[tuple[float, float]]) -> Contour:
    return Contour.of([(x, y) for x, y in corners])


def nest_dxf(sheet: NestedSheet) -> bytes:
    """DXF (R2010, millimetres): light polylines with bulges, names as texts."""
    import ezdxf
    from ezdxf.enums import TextEntityAlignment

    # no time and no number of its own: the same sheet gives the same bytes
    ezdxf.options.write_fixed_meta_data_for_testing = True
    doc = ezdxf.new("R2010", setup=False)
    doc.header["$INSUNITS"] = 4
    space = doc.modelspace()
    for layer, contour in sheet.lines():
        if layer not in doc.layers:
            doc.layers.add(layer, color=COLOURS.get(layer, 6))
        rows = [(x, y, b) for x, y, b in contour.vertices.tolist()]
        space.add_lwpolyline(rows, format="xyb", close=contour.closed, dxfattribs={"layer": layer})
    doc.layers.add(LABEL, color=COLOURS[LABEL])
    for words, x, y in sheet.labels():
        text = space.add_text(words, height=12, dxfattribs={"layer": LABEL})
        text.set_placement((x, y), align=TextEntityAlignment.MIDDLE_CENTER)
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode()


def nest_svg(sheet: NestedSheet) -> bytes:
    """SVG in millimetres, a group a layer; its y axis points down as SVG's does."""
    w, h = sheet.stock.width, sheet.stock.height
    groups: dict[str, list[str]] = {}
    for layer, contour in sheet.lines():
        groups.setdefault(layer, []).append(f'<path d="{_path(contour, h)}"/>')
    body = []
    for layer, paths in groups.items():
        ink = "#888" if layer in (SHEET, REMNANT) else "#000"
        head = f'<g id="{_id(layer)}" v:label="{layer}" fill="none" stroke="{ink}" stroke-width="0.5">'
        body.append(f"{head}{''.join(paths)}</g>")
    names = "".join(
        f'<text x="{x:.3f}" y="{h - y:.3f}" font-size="12" text-anchor="middle">{escape(words)}</text>'
        for words, x, y in sheet.labels()
    )
    size = f'width="{w:g}mm" height="{h:g}mm" viewBox="0 0 {w:g} {h:g}"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:v="{LABELLED}" {size}>'
        f'{"".join(body)}<g id="{_id(LABEL)}" v:label="{LABEL}">{names}</g></svg>\n'
    ).encode()


def _id(layer: str) -> str:
    return layer.replace(" ", "_")


def _path(c: Contour, height: float) -> str:
    """A contour as path data with y down: an arc that turns to the left turns to the right then."""
    v = c.vertices.tolist()
    after = v[1:] + v[:1] if c.closed else v[1:]
    out = [f"M{v[0][0]:.6f} {height - v[0][1]:.6f}"]
    for a, b in zip(v, after, strict=False):
        x, y, bulge = b[0], height - b[1], a[2]
        if abs(bulge) < 1e-9:
            out.append(f"L{x:.6f} {y:.6f}")
            continue
        chord = math.hypot(b[0] - a[0], b[1] - a[1])
        r = chord * (1 + bulge * bulge) / (4 * abs(bulge))
        out.append(f"A{r:.6f} {r:.6f} 0 {int(abs(bulge) > 1)} {int(bulge < 0)} {x:.6f} {y:.6f}")
    return "".join(out) + ("Z" if c.closed else "")
