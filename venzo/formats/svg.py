"""SVG in: shapes and paths as outlines, physical sizes, viewBox and fill rules honoured."""

from __future__ import annotations

import copy
import io
import math
import re
from xml.etree import ElementTree

import numpy as np
from shapely import is_valid

from venzo.core.geometry.bezier import MOST_CHORDS, bezier_points
from venzo.core.geometry.clip import FillRule
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.many import measure, polygons
from venzo.core.geometry.united import united
from venzo.core.parts.drawing import LARGEST_FILE, MOST_ENTITIES, Drawing, TextLine
from venzo.core.snags import BadInput, look
from venzo.core.tolerances import FLATTEN
from venzo.formats.fonts import bundled

DEEPEST_SYMBOL = 20
"""Symbols within symbols."""
PX = 25.4 / 96
"""Millimetres in a CSS pixel."""


def read(data: bytes, name: str) -> Drawing:  # noqa: C901
    """Read an SVG file into chains in user units, y up (flipped about the viewBox, else the drawing's box).

    Raises:
        BadInput: empty, too large, or not well-formed SVG.
    """
    import svgelements as se

    if not data.strip():
        raise BadInput(f"{name}: the file is empty; export the drawing again")
    if len(data) > LARGEST_FILE:
        raise BadInput(
            f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB; simplify"
            " the drawing"
        )
    if b"<!ENTITY" in data:
        raise BadInput(f"{name}: the file declares XML entities, which are not read; save it as plain SVG")
    try:
        root = ElementTree.fromstring(data)
    except ElementTree.ParseError as e:
        raise BadInput(f"{name}: not a well-formed SVG file ({e}); export it again") from e
    if not root.tag.endswith("svg"):
        raise BadInput(
            f"{name}: the outermost element is <{root.tag.split('}')[-1]}>, not <svg>; export the drawing"
            " as SVG"
        )
    _count_uses(root, name)
    _plain_lengths(root, 16.0)
    _symbols_in_place(root)
    drawing = Drawing()
    view = _view(root.get("viewBox") or "")
    sizes = [_physical(root.get(side)) for side in ("width", "height")]
    physical = any(s is not None and s[1] for s in sizes)
    if view:
        ratios = [s[0] / extent for s, extent in zip(sizes, view[2:], strict=True) if s]
        fit_how = (root.get("preserveAspectRatio") or "").split()
        drawing.scale_mm = (max if "slice" in fit_how else min)(ratios) if ratios else PX
        if "none" in fit_how and len(ratios) == 2 and ratios[0] != ratios[1]:
            drawing.scale_mm, k = ratios[0], ratios[1] / ratios[0]
            _wrap(root, f"scale(1 {k!r})")
            view = (view[0], view[1] * k, view[2], view[3] * k)
            root.set("viewBox", " ".join(map(repr, view)))
        # let the parser work in user units: the size is applied here, exactly
        root.set("width", repr(view[2]))
        root.set("height", repr(view[3]))
    else:
        drawing.scale_mm = PX
    drawing.unit = "mm" if physical else None
    ElementTree.register_namespace("", "http://www.w3.org/2000/svg")
    try:
        svg = se.SVG.parse(io.StringIO(ElementTree.tostring(root, encoding="unicode")), reify=False, ppi=96)
        shapes = list(svg.elements())
    except Exception as e:  # in the hands of a damaged file the library may raise anything
        raise BadInput(
            f"{name}: the SVG could not be read ({' '.join(str(e).split())[:120]}); save it as plain SVG"
        ) from e

    tags = [str(e.tag).rsplit("}", 1)[-1] for e in root.iter()]
    if "text" in tags:
        drawing.ignored["text"] = tags.count("text")
    if any(e.get("clip-path") or e.get("mask") for e in root.iter()):
        drawing.snags.append(
            look(
                "intake.clip",
                f"{name}: clip paths and masks are not applied: what they hide is read too; compare the parts"
                " with what you expect",
            )
        )
    images = sum(1 for e in root.iter() if str(e.tag).endswith("image"))
    if images:
        drawing.ignored["image"] = images
    chord = FLATTEN / drawing.scale_mm
    single: list[tuple[Contour, FillRule]] = []
    unpainted = 0
    for shape in shapes:
        if isinstance(shape, se.Text):
            drawing.texts.extend(_text(se, shape, chord))
        if (
            not isinstance(shape, se.Shape)
            or shape.values.get("display") == "none"
            or shape.values.get("visibility") == "hidden"
        ):
            continue
        drawing.entities += 1
        if drawing.entities > MOST_ENTITIES:
            raise BadInput(f"{name}: more than {MOST_ENTITIES} shapes; split the drawing")
        try:
            chains = _element(se, shape, chord)
        except Exception:  # one bad shape must not cost the rest
            drawing.snags.append(
                look(
                    "intake.unreadable",
                    f"{name}: a <{type(shape).__name__.lower()}> could not be read and is left out",
                )
            )
            continue
        rule: FillRule = "evenodd" if shape.values.get("fill-rule") == "evenodd" else "nonzero"
        if not _has_fill(shape):
            if _has_line(shape):
                drawing.chains.extend(chains)
            else:
                unpainted += 1
        elif len(chains) == 1 and chains[0].closed:
            single.append(
                (chains[0], rule)
            )  # paints its inside under either rule unless it crosses itself: asked of all at once below
        else:
            drawing.chains.extend(_filled(chains, rule, chord))
    fine = is_valid(polygons([c for c, _rule in single], chord))
    for (c, rule), ok in zip(single, fine, strict=True):
        drawing.chains.extend([c] if ok else _filled([c], rule, chord))
    if unpainted:
        words = (
            f"{name}: {unpainted} shape{'s' * (unpainted != 1)} with neither fill nor line"
            f" {'are' if unpainted != 1 else 'is'} not seen in the picture and left out"
        )
        drawing.snags.append(look("intake.unpainted", words))
    if view:
        axis = 2 * view[1] + view[3]
        shift = (view[0], view[1])
    else:
        shift = (0.0, 0.0)
        measure(drawing.chains)
        boxes = [c.bbox for c in drawing.chains]
        axis = (min(b[1] for b in boxes) + max(b[3] for b in boxes)) if boxes else 0.0
    drawing.chains = [_flip(c.moved(*shift), axis) for c in drawing.chains]
    for t in drawing.texts:
        t.chains = [_flip(c.moved(*shift), axis) for c in t.chains]
    return drawing


def _count_uses(root: ElementTree.Element, name: str) -> None:
    """Raise where re-used groups would come to more shapes than are read, before any of them is expanded, or
    where one holds itself.
    """
    by_id = {e.get("id"): e for e in root.iter() if e.get("id")}
    counted: dict[ElementTree.Element, int] = {}
    order: list[tuple[ElementTree.Element, bool]] = [(root, False)]
    within: set[ElementTree.Element] = set()
    while order:  # depth first without recursion: nesting is what is being measured
        e, back = order.pop()
        below = list(e)
        if str(e.tag).endswith("use"):
            target = by_id.get(
                next((v for k, v in e.attrib.items() if k.rsplit("}", 1)[-1] == "href"), "").removeprefix("#")
            )
            below += [target] if target is not None else []
        if back:
            within.discard(e)
            counted[e] = 1 + sum(counted.get(b, 0) for b in below)
            if counted[e] > MOST_ENTITIES:
                raise BadInput(
                    f"{name}: its re-used groups come to more than {MOST_ENTITIES} shapes; split the drawing"
                )
        elif e not in counted:
            if e in within:
                raise BadInput(f"{name}: a group re-uses itself; ungroup it and export the drawing again")
            within.add(e)
            order.append((e, True))
            for b in below:
                if b in within:
                    raise BadInput(f"{name}: a group re-uses itself; ungroup it and export the drawing again")
                order.append((b, False))


_LENGTHS = ("x", "y", "x1", "y1", "x2", "y2", "cx", "cy", "r", "rx", "ry", "width", "height")


def _plain_lengths(e: ElementTree.Element, size: float) -> None:
    """Lengths in em, rem and ex as plain numbers, by the font size that an element has or inherits."""
    todo = [(e, size)]
    while todo:
        e, size = todo.pop()
        said = e.get("font-size") or next(
            (m.group(1) for m in [re.search(r"font-size\s*:\s*([^;]+)", e.get("style") or "")] if m), ""
        )
        m = re.fullmatch(r"\s*([0-9.]+)\s*(px|em|rem|)\s*", said)
        if m:
            size = float(m.group(1)) * ({"em": size, "rem": 16.0}.get(m.group(2), 1.0))
        for key in _LENGTHS:
            m = re.fullmatch(r"\s*([-+0-9.]+)\s*(em|rem|ex)\s*", e.get(key) or "")
            if m:
                e.set(key, repr(float(m.group(1)) * {"em": size, "rem": 16.0, "ex": size / 2}[m.group(2)]))
        todo += [(child, size) for child in e]


def _wrap(e: ElementTree.Element, transform: str) -> None:
    """Put all that an element holds into one group with a transform."""
    group = ElementTree.Element("{http://www.w3.org/2000/svg}g", {"transform": transform})
    group.extend(list(e))
    for child in list(e):
        e.remove(child)
    e.append(group)


def _symbols_in_place(root: ElementTree.Element) -> None:
    """Every use of a symbol as a group with the symbol's contents, fitted into the size that the use gives;
    symbols draw nothing by themselves.
    """
    symbols = {e.get("id"): e for e in root.iter() if str(e.tag).endswith("}symbol") and e.get("id")}
    if symbols:
        for _depth in range(DEEPEST_SYMBOL):
            uses = [e for e in root.iter() if str(e.tag).endswith("}use") and _target(e) in symbols]
            uses = [e for e in uses if e not in {u for s in symbols.values() for u in s.iter()}]
            if not uses:
                break
            for use in uses:
                _expand(use, symbols[_target(use)])
    for parent in list(root.iter()):
        for child in list(parent):
            if str(child.tag).endswith("}symbol"):
                parent.remove(child)


def _target(use: ElementTree.Element) -> str:
    return next((v for k, v in use.attrib.items() if k.rsplit("}", 1)[-1] == "href"), "").removeprefix("#")


def _expand(use: ElementTree.Element, symbol: ElementTree.Element) -> None:
    """Turn a use of a symbol into a group."""

    def number(e: ElementTree.Element, key: str, default: float | None) -> float | None:
        found = re.fullmatch(r"\s*([-+0-9.eE]+)\s*(?:px)?\s*", e.get(key) or "")
        return float(found.group(1)) if found else default

    x, y = number(use, "x", 0.0), number(use, "y", 0.0)
    view, place = _view(symbol.get("viewBox") or ""), f"translate({x!r} {y!r})"
    width, height = (number(use, k, number(symbol, k, None)) for k in ("width", "height"))
    if view and width and height:
        how = (symbol.get("preserveAspectRatio") or "xMidYMid meet").split()
        sx, sy = width / view[2], height / view[3]
        if "none" not in how:
            sx = sy = max(sx, sy) if "slice" in how else min(sx, sy)
        share = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
        ax, ay = (
            (share.get(how[0][1:4], 0.5), share.get(how[0][5:8], 0.5)) if "none" not in how else (0.0, 0.0)
        )
        dx, dy = (width - view[2] * sx) * ax, (height - view[3] * sy) * ay
        place += f" translate({dx!r} {dy!r}) scale({sx!r} {sy!r}) translate({-view[0]!r} {-view[1]!r})"
    transform = " ".join(t for t in (use.get("transform"), place) if t)
    kept = {
        k: v
        for k, v in use.attrib.items()
        if k.rsplit("}", 1)[-1] not in ("href", "x", "y", "width", "height", "transform")
    }
    use.tag = use.tag.rsplit("}", 1)[0] + "}g"
    use.attrib.clear()
    use.attrib.update(kept | {"transform": transform})
    use.extend(copy.deepcopy(child) for child in symbol)


def _has_line(shape) -> bool:
    """Is its line drawn?"""
    return (
        str(shape.values.get("stroke") or "none").strip().lower() not in ("none", "transparent")
        or type(shape).__name__ == "SimpleLine"
    )


def _has_fill(shape) -> bool:
    """Is the inside of the shape painted? Lines never are; everything else is unless it says fill: none."""
    return type(shape).__name__ != "SimpleLine" and str(
        shape.values.get("fill") or "black"
    ).strip().lower() not in ("none", "transparent")


def _layer(e) -> str:
    """What tells shapes apart in SVG: the label of their group, else the colour of their line, else of their
    fill.
    """
    values = e.values
    label = next((str(v) for k, v in values.items() if str(k).rsplit("}", 1)[-1] == "label" and v), "")
    stroke, fill = (str(values.get(k) or "").strip().lower() for k in ("stroke", "fill"))
    return label or (
        stroke
        if stroke not in ("", "none")
        else fill
        if fill not in ("", "none", "currentcolor")
        else "black"
    )


def _text(se, e, chord: float) -> list[TextLine]:
    """A text with its outlines in the bundled plain font; y down as all of SVG."""
    said = " ".join(str(e.text or "").split())
    size = float(getattr(e, "font_size", None) or 16.0)
    if not said or not 0 < size < 1e5:
        return []
    font = bundled("plain")
    loops, width, _missing = font.outlines(said[:500], 10.0, max(chord * 10 / size, 1e-3))
    k = size * (font.cap / font.em) / 10.0
    start = {"middle": 0.5, "end": 1.0}.get(
        str(getattr(e, "anchor", "") or e.values.get("text-anchor")), 0.0
    ) * width
    m = e.transform
    turn = np.array([[m.a, m.c], [m.b, m.d]]) @ np.array([[k, 0], [0, -k]])
    at = np.array([m.a * e.x + m.c * e.y + m.e, m.b * e.x + m.d * e.y + m.f])
    out = []
    for c in loops:
        pts = (c.points(max(chord / k, 1e-3)) - (start, 0)) @ turn.T + at
        out.append(fit(pts, True, chord, _layer(e)))
    return [TextLine(said, _layer(e), out)]


def _view(text: str) -> tuple[float, ...] | None:
    """The four numbers of a viewBox, or None where they are not."""
    try:
        box = tuple(float(v) for v in re.split(r"[\s,]+", text.strip()) if v)
    except ValueError:
        return None
    return box if len(box) == 4 and all(map(math.isfinite, box)) and box[2] > 0 and box[3] > 0 else None


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


def _filled(chains: list[Contour], rule: FillRule, chord: float) -> list[Contour]:
    """The boundary of the painted area of one shape under its fill rule.

    Open subpaths are painted as if closed. Loops that only nest keep their lines and arcs; those that bound
    nothing are dropped. Loops that cross are united by Clipper and refitted.
    """
    from shapely import STRtree
    from shapely.geometry import Point, Polygon

    loops = [
        c if c.closed else Contour.of(c.vertices, True, c.layer)
        for c in chains
        if c.closed or len(c.vertices) > 2
    ]
    loops = [c for c in loops if abs(c.area) > 1e-12]
    rest = [c for c in chains if not c.closed and len(c.vertices) <= 2]
    polygons = [Polygon(c.points(max(chord, 1e-4 * math.sqrt(abs(c.area))))) for c in loops]
    tree = STRtree(polygons)
    rings = [p.exterior for p in polygons]
    crossing = not all(p.is_valid for p in polygons) or any(
        i < j and rings[i].crosses(rings[j])
        for i, p in enumerate(polygons)
        for j in tree.query(p, predicate="intersects")
    )
    if crossing:
        return rest + united(loops, rule, chord)
    if rule == "evenodd" or len(loops) < 2:
        return rest + loops
    keep = []
    for i, c in enumerate(loops):
        probe = Point(*c.vertices[0, :2])
        outside = sum(
            int(math.copysign(1, loops[j].area))
            for j in tree.query(probe, predicate="intersects")
            if j != i and abs(loops[j].area) > abs(c.area)
        )
        if (outside == 0) != (outside + int(math.copysign(1, c.area)) == 0):
            keep.append(c)
    return rest + keep


def _even(m) -> bool:
    """Does a transform keep circles round: a turn, a mirroring, an even scale?"""
    x, y = math.hypot(m.a, m.b), math.hypot(m.c, m.d)
    return abs(x - y) <= 1e-9 * x and abs(m.a * m.c + m.b * m.d) <= 1e-9 * x * y


def _element(se, e, chord: float) -> list[Contour]:
    path = se.Path(e)
    if not e.transform.is_identity():
        if not _even(
            e.transform
        ):  # the library turns skewed arcs into other arcs than they are: they go as cubic curves
            path.approximate_arcs_with_cubics(error=1 / 16)
        path = abs(path)
    layer = _layer(e)
    out: list[Contour] = []
    rows: list[list[float]] = []
    closed = False

    def end() -> None:
        nonlocal rows, closed
        if len(rows) > 1:
            if math.dist(rows[0][:2], rows[-1][:2]) < 1e-6:
                closed = True
                rows.pop()
            if closed:
                out.append(Contour(np.array(rows), True, layer))
            else:
                rows[-1][2] = 0.0
                out.append(Contour(np.array(rows), False, layer))
        rows, closed = [], False

    for s in path:
        if isinstance(s, se.Move):
            end()
            continue
        if isinstance(s, se.Close):
            closed = True
        if s.start is None or s.end is None:
            continue
        a, b = s.start, s.end
        if not rows:
            rows.append([a.x, a.y, 0.0])
        if isinstance(s, (se.Line, se.Close)):
            if abs(b.x - a.x) + abs(b.y - a.y) > 1e-9:
                rows[-1][2] = 0.0
                rows.append([b.x, b.y, 0.0])
        else:
            bent = _curve(se, s, chord)
            rows[-1][2] = bent[0][2]
            rows.extend(bent[1:])
        if isinstance(s, se.Close):
            end()
    end()
    return out


def _curve(se, s, chord: float) -> list[list[float]]:
    """An arc or Bezier curve as vertex rows from its start to its end."""
    if isinstance(s, se.Arc):
        rx, ry = abs(s.rx), abs(s.ry)
        if rx > 0 and abs(rx - ry) < 1e-6 * rx:
            n = max(1, math.ceil(abs(s.sweep) / math.pi - 1e-9))
            bulge = math.tan(s.sweep / n / 4)
            return [[p.x, p.y, bulge] for p in (s.point(i / n) for i in range(n))] + [[s.end.x, s.end.y, 0.0]]
        fine = 2 * math.acos(max(0.0, 1 - chord / max(rx, ry, chord)))
        n = min(MOST_CHORDS, max(8, math.ceil(abs(s.sweep) / max(fine, 1e-6)))) if rx > 0 else 2
        pts = np.array([(p.x, p.y) for p in (s.point(i / n) for i in range(n + 1))])
    else:
        ctrl = (
            [s.start, s.control, s.end]
            if isinstance(s, se.QuadraticBezier)
            else [s.start, s.control1, s.control2, s.end]
        )
        pts = bezier_points(np.array([(p.x, p.y) for p in ctrl]), chord)
    got = fit(pts, False, chord).vertices.tolist()
    return got if len(got) > 1 else [[*pts[0].tolist(), 0.0], [*pts[-1].tolist(), 0.0]]
