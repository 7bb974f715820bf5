"""SVG in: shapes and paths as outlines, physical sizes, viewBox and fill rules honoured."""

from __future__ import annotations

import io
import math
import re
from xml.etree import ElementTree

import numpy as np

from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.fit import fit
from venzo.core.parts.drawing import LARGEST_FILE, MOST_ENTITIES, Drawing
from venzo.core.snags import BadInput, look
from venzo.core.tolerances import FLATTEN

PX = 25.4 / 96
"""Millimetres in a CSS pixel."""


def read(data: bytes, name: str) -> Drawing:
    """Read an SVG file into chains in user units, y up (flipped about the viewBox, else the drawing's box).

    Raises:
        BadInput: empty, too large, or not well-formed SVG.
    """
    import svgelements as se

    if not data.strip():
        raise BadInput(f"{name}: the file is empty; export the drawing again")
    if len(data) > LARGEST_FILE:
        raise BadInput(f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB; simplify the drawing")
    if b"<!ENTITY" in data:
        raise BadInput(f"{name}: the file declares XML entities, which are not read; save it as plain SVG")
    try:
        root = ElementTree.fromstring(data)
    except ElementTree.ParseError as e:
        raise BadInput(f"{name}: not a well-formed SVG file ({e}); export it again") from e
    if not root.tag.endswith("svg"):
        raise BadInput(f"{name}: the outermost element is <{root.tag.split('}')[-1]}>, not <svg>; export the drawing as SVG")
    drawing = Drawing()
    box = [float(v) for v in re.split(r"[\s,]+", root.get("viewBox", "").strip()) if v] if root.get("viewBox") else []
    view = tuple(box) if len(box) == 4 and box[2] > 0 and box[3] > 0 else None
    sizes = [_physical(root.get(side)) for side in ("width", "height")]
    physical = any(s is not None and s[1] for s in sizes)
    if view:
        ratios = [s[0] / extent for s, extent in zip(sizes, view[2:], strict=True) if s]
        drawing.scale_mm = min(ratios) if ratios else PX
        # let the parser work in user units: the size is applied here, exactly
        root.set("width", repr(view[2]))
        root.set("height", repr(view[3]))
    else:
        drawing.scale_mm = PX
    drawing.unit = "mm" if physical else None
    ElementTree.register_namespace("", "http://www.w3.org/2000/svg")
    try:
        svg = se.SVG.parse(io.StringIO(ElementTree.tostring(root, encoding="unicode")), reify=True, ppi=96)
    except (ValueError, KeyError, IndexError, AttributeError, TypeError, ZeroDivisionError) as e:
        raise BadInput(f"{name}: the SVG could not be read ({e}); save it as plain SVG") from e

    texts = sum(1 for e in root.iter() if str(e.tag).endswith("}text") or e.tag == "text")
    if texts:
        drawing.ignored["text"] = texts
    images = sum(1 for e in root.iter() if str(e.tag).endswith("image"))
    if images:
        drawing.ignored["image"] = images
    chord = FLATTEN / drawing.scale_mm
    for shape in svg.elements():
        if not isinstance(shape, se.Shape) or shape.values.get("display") == "none" or shape.values.get("visibility") == "hidden":
            continue
        drawing.entities += 1
        if drawing.entities > MOST_ENTITIES:
            raise BadInput(f"{name}: more than {MOST_ENTITIES} shapes; split the drawing")
        try:
            chains = _element(se, shape, chord)
        except (ValueError, ZeroDivisionError, ArithmeticError, TypeError):
            drawing.snags.append(look("intake.unreadable", f"{name}: a <{type(shape).__name__.lower()}> could not be read and is left out"))
            continue
        drawing.chains.extend(_by_fill(chains, str(shape.values.get("fill-rule") or "nonzero")))
    if view:
        axis = 2 * view[1] + view[3]
        shift = (view[0], view[1])
    else:
        shift = (0.0, 0.0)
        boxes = [c.bbox for c in drawing.chains]
        axis = (min(b[1] for b in boxes) + max(b[3] for b in boxes)) if boxes else 0.0
    drawing.chains = [_flip(c.moved(*shift), axis) for c in drawing.chains]
    return drawing


_SIZE = {"": PX, "px": PX, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "q": 0.25}


def _physical(text: str | None) -> tuple[float, bool] | None:
    """Millimetres of a width or height, and whether it is a physical size; None for none or a percentage."""
    m = re.fullmatch(r"\s*([0-9.eE+-]+)\s*([a-zA-Z]*)\s*", text or "")
    if not m or m.group(2).lower() not in _SIZE:
        return None
    value = float(m.group(1))
    return (value * _SIZE[m.group(2).lower()], m.group(2).lower() not in ("", "px")) if value > 0 else None


def _flip(c: Contour, axis: float) -> Contour:
    v = c.vertices * np.array([1.0, -1.0, -1.0])
    v[:, 1] += axis
    return Contour(v, c.closed, c.layer)


def _by_fill(chains: list[Contour], rule: str) -> list[Contour]:
    """Under the non-zero rule, loops that bound nothing (same winding on both sides filled) are dropped."""
    from shapely.geometry import Point, Polygon

    loops = [c for c in chains if c.closed and abs(c.area) > 1e-12]
    if rule == "evenodd" or len(loops) < 2:
        return chains
    polygons = [Polygon(c.points(max(1e-4, 0.001 * math.sqrt(abs(c.area))))) for c in loops]
    keep = {id(c) for c in chains if not c.closed}
    for i, c in enumerate(loops):
        probe = Point(*c.vertices[0, :2])
        outside = sum(int(math.copysign(1, o.area)) for j, o in enumerate(loops)
                      if j != i and abs(o.area) > abs(c.area) and polygons[j].covers(probe))
        if (outside == 0) != (outside + int(math.copysign(1, c.area)) == 0):
            keep.add(id(c))
    return [c for c in chains if id(c) in keep]


def _element(se, e, chord: float) -> list[Contour]:
    path = abs(se.Path(e))
    layer = str(e.values.get("id") or "")
    out: list[Contour] = []
    for sub in path.as_subpaths():
        pieces: list[Contour] = []
        closed = False
        for s in se.Path(sub):
            if isinstance(s, se.Move):
                continue
            if isinstance(s, se.Close):
                closed = True
            if s.start is None or s.end is None:
                continue
            pieces.extend(_segment(se, s, chord))
        rows = [p.vertices[:-1] for p in pieces if p.length > 1e-9]
        if not rows:
            continue
        first, last = rows[0][0], pieces[-1].vertices[-1]
        if math.dist(first[:2], last[:2]) < 1e-6:
            closed = True
        elif closed:
            rows.append(last[None, :])
        body = np.concatenate(rows if closed else [*rows, last[None, :]])
        out.append(Contour.of(body, closed, layer))
    return out


def _segment(se, s, chord: float) -> list[Contour]:
    a, b = (s.start.x, s.start.y), (s.end.x, s.end.y)
    if isinstance(s, se.Arc):
        rx, ry = abs(s.rx), abs(s.ry)
        if rx > 0 and abs(rx - ry) < 1e-6 * rx:
            n = max(1, math.ceil(abs(s.sweep) / math.pi - 1e-9))
            bulge = math.tan(s.sweep / n / 4)
            rows = [(p.x, p.y, bulge) for p in (s.point(i / n) for i in range(n))] + [(*b, 0.0)]
            return [Contour.of(rows, False)]
        n = max(8, math.ceil(abs(s.sweep) / (2 * math.acos(max(0.0, 1 - chord / max(rx, ry, chord)))))) if rx > 0 else 2
        return [_fitted(np.array([(p.x, p.y) for p in (s.point(i / n) for i in range(n + 1))]), chord)]
    if isinstance(s, (se.CubicBezier, se.QuadraticBezier)):
        ctrl = [s.start, s.control, s.end] if isinstance(s, se.QuadraticBezier) else [s.start, s.control1, s.control2, s.end]
        return [_fitted(bezier_points(np.array([(p.x, p.y) for p in ctrl]), chord), chord)]
    return [Contour.of([a, b], False)]


def bezier_points(control: Array, chord: float) -> Array:
    """A Bezier curve of degree 2 or 3 as points whose chords stay within ``chord`` of it.

    Uses the bound chord error <= max|B''| / (8 n^2), B'' bounded by the control polygon's second differences.
    """
    degree = len(control) - 1
    second = np.abs(np.hypot(*np.diff(control, 2, axis=0).T)).max() * degree * (degree - 1)
    n = int(min(2000, max(4, math.ceil(math.sqrt(second / (8 * chord))))))
    t = np.linspace(0, 1, n + 1)[:, None]
    if degree == 2:
        return (1 - t) ** 2 * control[0] + 2 * t * (1 - t) * control[1] + t**2 * control[2]
    return (1 - t) ** 3 * control[0] + 3 * t * (1 - t) ** 2 * control[1] + 3 * t**2 * (1 - t) * control[2] + t**3 * control[3]


def _fitted(pts: Array, chord: float) -> Contour:
    keep = np.r_[True, np.hypot(*np.diff(pts, axis=0).T) > 1e-9]
    pts = pts[keep]
    return fit(pts, False, chord) if len(pts) > 2 else Contour.of(pts, False) if len(pts) == 2 else Contour.of([pts[0], pts[0]], False)
