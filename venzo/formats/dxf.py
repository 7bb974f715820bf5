"""DXF in: ASCII or binary, R12 to current, damaged files through recovery."""

from __future__ import annotations

import io
import logging
import math
import re
import tempfile
from collections import Counter
from collections.abc import Iterator

import numpy as np

from venzo.core.geometry.bezier import bspline_points
from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.fit import fit
from venzo.core.parts.drawing import BROKEN_LINE, LARGEST_FILE, MOST_ENTITIES, Drawing, TextLine
from venzo.core.snags import BadInput, look
from venzo.core.tolerances import FLATTEN

DEEPEST_BLOCK = 40
"""Blocks within blocks."""
BINARY = b"AutoCAD Binary DXF"
"""How the open binary form of the format begins."""
UNITS = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}
RARE_UNITS = {
    3: 1_609_344.0,
    7: 1e6,
    8: 25.4e-6,
    9: 0.0254,
    10: 914.4,
    11: 1e-7,
    12: 1e-6,
    13: 1e-3,
    14: 100.0,
    15: 10_000.0,
    16: 100_000.0,
    21: 1200 / 3937 * 1000,
}
"""Further codes of the header and their millimetres: mile, kilometre, microinch, mil, yard, angstrom,
nanometre, micron, deci-, deca-, hectometre, survey foot.
"""
MOST_DEGREE = 25
"""Of a spline."""
_BROKEN = re.compile(r"center|centre|hidden|phantom|dash|dot|divide|border", re.I)
"""Line types by name whose lines are construction (common practice)."""
_COLOURS = {1: "red", 2: "yellow", 3: "green", 4: "cyan", 5: "blue", 6: "magenta", 7: "black"}
_TEXT = ("TEXT", "MTEXT", "ATTRIB", "ATTDEF")


def read(data: bytes, name: str) -> Drawing:
    """Read a DXF file.

    Args:
        data: the file's bytes.
        name: the file's name, for messages.

    Raises:
        BadInput: empty, too large, not a DXF file, or damaged beyond recovery.
    """
    from ezdxf import recover

    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)  # what it repaired is said as a snag
    if not data.strip():
        raise BadInput(f"{name}: the file is empty; export the drawing again")
    if len(data) > LARGEST_FILE:
        raise BadInput(
            f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB; purge the"
            " drawing or split it"
        )
    head = data[:4096].lstrip()
    if head.startswith(b"%PDF"):
        raise BadInput(
            f"{name}: this is a PDF file, not a DXF drawing; export DXF or SVG from the program that drew it"
        )
    if head.startswith((b"AC10", b"\x89PNG", b"PK\x03\x04", b"\xff\xd8")):
        raise BadInput(
            f"{name}: this is a binary drawing, picture or archive, not a DXF drawing; save it as DXF"
        )
    try:
        doc, audit = (
            _binary(data) if data.startswith(BINARY) else _sound(data) or recover.read(io.BytesIO(data))
        )
    except Exception as e:  # in the hands of a damaged file the library may raise anything
        why = str(e).strip().splitlines()[0][:120] if str(e).strip() else type(e).__name__
        raise BadInput(
            f"{name}: not a readable DXF file ({why}); export it again as DXF R2000 or later"
        ) from e

    drawing = Drawing()
    if audit.has_errors or audit.has_fixes:
        count = len(audit.errors) + len(audit.fixes)
        drawing.snags.append(
            look(
                "intake.recovered",
                f"{name}: {count} fault{'s' * (count != 1)} in the file were repaired while reading; compare"
                " the drawing with what you expect",
            )
        )
    drawing.unit = UNITS.get(_header(doc, "$INSUNITS"))
    drawing.unit_hint = {0: "in", 1: "mm"}.get(_header(doc, "$MEASUREMENT"))
    rare = RARE_UNITS.get(_header(doc, "$INSUNITS"))
    if rare is not None:
        drawing.unit, drawing.scale_mm = (
            ("in" if _header(doc, "$INSUNITS") in (3, 8, 9, 10, 21) else "mm"),
            rare,
        )
    scale = rare or {"in": 25.4, "ft": 304.8, "cm": 10.0, "m": 1000.0}.get(drawing.unit or "in", 1.0)
    ignored: Counter[str] = Counter()
    unreadable: Counter[str] = Counter()
    broken = {lt.dxf.name.lower() for lt in doc.linetypes if _BROKEN.search(lt.dxf.name)}
    by_layer = {
        layer.dxf.name.lower(): layer.dxf.get("linetype", "").lower() in broken for layer in doc.layers
    }
    drawing.colours = {
        layer.dxf.name: _COLOURS.get(
            abs(layer.dxf.get("color", 7)), f"colour {abs(layer.dxf.get('color', 7))}"
        )
        for layer in doc.layers
    }
    tilted = 0
    found = _entities(doc, ignored)
    while True:
        try:
            entity = next(found, None)
        except BadInput as e:
            raise BadInput(f"{name}: {e}") from e
        if entity is None:
            break
        drawing.entities += 1
        if drawing.entities > MOST_ENTITIES:
            raise BadInput(f"{name}: more than {MOST_ENTITIES} entities; split the drawing")
        try:
            if entity.dxftype() in _TEXT:
                ignored[entity.dxftype()] += 1
                drawing.texts.extend(_text(entity, FLATTEN / scale))
                continue
            chains = _chains(entity, FLATTEN / scale, ignored)
            tilted += bool(chains) and _tilted(entity)
            linetype = entity.dxf.get("linetype", "BYLAYER").lower()
            if linetype in broken or (
                linetype == "bylayer" and by_layer.get(entity.dxf.get("layer", "0").lower())
            ):
                chains = [Contour(c.vertices, c.closed, c.layer + BROKEN_LINE) for c in chains]
            drawing.chains.extend(chains)
        except Exception:  # one bad entity must not cost the rest
            unreadable[entity.dxftype()] += 1
    drawing.ignored = dict(ignored)
    if tilted:
        drawing.snags.append(
            look(
                "intake.tilted",
                f"{name}: {tilted} line{'s' * (tilted != 1)} drawn in space {'are' if tilted != 1 else 'is'}"
                " seen from above here; a plan drawing lies flat",
            )
        )
    if unreadable:
        listed = ", ".join(f"{n} {kind}" for kind, n in unreadable.items())
        drawing.snags.append(look("intake.unreadable", f"{name}: left out, cannot be read: {listed}"))
    return drawing


def _header(doc, name: str) -> int:
    """A whole number of the header, -1 where there is none."""
    try:
        return int(doc.header[name]) if name in doc.header else -1
    except Exception:  # a damaged header value is no value
        return -1


def _sound(data: bytes):
    """The document and its audit where the file is sound, which is read in half the time that recovery takes;
    else None.
    """
    import ezdxf

    try:
        doc = ezdxf.read(io.StringIO(data.decode("utf-8"), newline=None))
        audit = doc.audit()
    except Exception:  # whatever it is, recovery looks at it again
        return None
    return None if audit.has_errors else (doc, audit)


def _binary(data: bytes):
    """A binary DXF file, which the library reads from disk only; audited as the others are."""
    import ezdxf

    with tempfile.NamedTemporaryFile(suffix=".dxf") as f:
        f.write(data)
        f.flush()
        doc = ezdxf.readfile(f.name)
    return doc, doc.audit()


def _entities(doc, ignored: Counter[str]) -> Iterator:
    """Model space with block references taken apart, however deep; frozen and hidden layers left out.

    A drawing whose model space is empty is read from its first paper layout that holds something. Dimensions
    and leaders are never taken apart: their lines would be cut.
    """
    frozen = {layer.dxf.name.lower() for layer in doc.layers if layer.is_frozen()}
    off = {layer.dxf.name.lower() for layer in doc.layers if layer.is_off()}
    space = doc.modelspace()
    if not len(space):
        space = next(
            (
                doc.layout(n)
                for n in doc.layout_names_in_taborder()
                if any(e.dxftype() != "VIEWPORT" for e in doc.layout(n))
            ),
            space,
        )
    _count_blocks(doc, space)
    yield from _flat(space, frozen, off, ignored)


def _count_blocks(doc, space) -> None:
    """Raise where block references, however deep, come to more entities than are read, before any of them is
    expanded; or where a block holds itself.
    """
    from ezdxf.entities import Insert

    counted: dict[str, int] = {}

    def count(entities, within: tuple[str, ...]) -> int:
        total = 0
        for e in entities:
            total += 1
            if isinstance(e, Insert):
                name = str(e.dxf.get("name", "")).lower()
                if name in within:
                    raise BadInput(
                        f"block {name[:40]!r} holds itself; explode it and export the drawing again"
                    )
                if name not in counted:
                    block = doc.blocks.get(name)
                    counted[name] = (
                        count(block, (*within, name))
                        if block is not None and len(within) < DEEPEST_BLOCK
                        else 0
                    )
                    if len(within) >= DEEPEST_BLOCK:
                        raise BadInput(
                            f"blocks lie in blocks more than {DEEPEST_BLOCK} deep; explode them and export"
                            " the drawing again"
                        )
                total += counted[name] * max(1, e.mcount)
            if total > MOST_ENTITIES:
                raise BadInput(
                    f"its block references come to more than {MOST_ENTITIES} entities; split the drawing"
                )
        return total

    count(space, ())


def _shown(e, frozen: set[str], off: set[str], ignored: Counter[str]) -> bool:
    """Is an entity seen: its layer on and thawed, itself not invisible? A block on a layer that is only off
    still shows what lies on other layers.
    """
    layer = e.dxf.get("layer", "0").lower()
    if layer in frozen or (layer in off and e.dxftype() != "INSERT"):
        ignored[f"{e.dxftype()} on a hidden layer"] += 1
        return False
    if e.dxf.get("invisible", 0):
        ignored[f"invisible {e.dxftype()}"] += 1
        return False
    return True


def _flat(entities, frozen: set[str], off: set[str], ignored: Counter[str], within: str = "0") -> Iterator:
    """Block references and multiple lines as what they show, everything else as it is.

    What lies on layer 0 within a block is on the layer of its reference.
    """
    from ezdxf.entities import Insert, MLine

    for e in entities:
        if not (e.dxf.is_supported("layer") and e.dxf.is_supported("invisible")):
            # what it is cannot be told: its name is damaged, or it is no drawing at all; said as unreadable
            yield e
            continue
        if within != "0" and e.dxf.get("layer", "0") == "0":
            e.dxf.layer = within
        if not _shown(e, frozen, off, ignored):
            continue
        if isinstance(e, Insert):
            for one in e.multi_insert() if e.mcount > 1 else (e,):
                layer = str(one.dxf.get("layer", "0"))
                yield from _flat(one.attribs, frozen, off, ignored, layer)
                yield from _flat(one.virtual_entities(), frozen, off, ignored, layer)
        elif isinstance(e, MLine):
            yield from _flat(e.virtual_entities(), frozen, off, ignored, within)
        else:
            yield e


def _chains(e, chord: float, ignored: Counter[str]) -> list[Contour]:
    kind = e.dxftype()
    layer = str(e.dxf.get("layer", "0"))
    if kind == "LINE":
        a, b = e.dxf.start, e.dxf.end
        return [Contour.of([(a.x, a.y), (b.x, b.y)], False, layer)]
    if kind in ("ARC", "CIRCLE", "LWPOLYLINE") or (kind == "POLYLINE" and e.is_2d_polyline):
        z = e.dxf.get("extrusion", (0, 0, 1))[2]
        if abs(abs(z) - 1) < 1e-6:
            return [_mirrored(_plane(e, kind, layer)) if z < 0 else _plane(e, kind, layer)]
    if kind == "POLYLINE" and e.is_poly_face_mesh:
        return _faces(e, layer, ignored)
    if kind == "POLYLINE" and e.is_polygon_mesh:
        ignored["polygon mesh"] += 1
        return []
    if kind in (
        "SPLINE",
        "ELLIPSE",
        "ARC",
        "CIRCLE",
        "LWPOLYLINE",
        "POLYLINE",
        "HELIX",
        "SOLID",
        "TRACE",
        "3DFACE",
    ):
        return _curve(e, chord, layer)
    if kind in ("HATCH", "MPOLYGON"):
        return _hatch(e, chord, layer)
    ignored[kind] += 1
    return []


def _faces(e, layer: str, ignored: Counter[str]) -> list[Contour]:
    """The outlines of a flat mesh of faces; one that is not flat is a body, which no drawing of outlines
    is.
    """
    from shapely import unary_union
    from shapely.geometry import Polygon

    corners = [[(v.dxf.location.x, v.dxf.location.y, v.dxf.location.z) for v in face] for face in e.faces()]
    heights = [p[2] for face in corners for p in face]
    if not heights or max(heights) - min(heights) > 1e-6:
        ignored["body of faces"] += 1
        return []
    whole = unary_union([Polygon([p[:2] for p in face]).buffer(0) for face in corners if len(face) > 2])
    rings = [
        r for g in getattr(whole, "geoms", [whole]) if not g.is_empty for r in (g.exterior, *g.interiors)
    ]
    return [Contour.of(list(r.coords), True, layer).simplified(1e-6) for r in rings]


def _hatch(e, chord: float, layer: str) -> list[Contour]:
    """The boundaries of a hatched area; one that repeats a drawn outline is dropped later as drawn twice."""
    out: list[Contour] = []
    flipped = e.dxf.get("extrusion", (0, 0, 1))[2] < 0
    for boundary in e.paths:
        if hasattr(boundary, "vertices"):
            c = _split_big_arcs(
                [(v[0], v[1], v[2] if len(v) > 2 else 0.0) for v in boundary.vertices], True, layer
            )
            found = [c] if len(c.vertices) > 1 and c.closed else []
        else:
            found = []
            for run in _joined_edges(boundary.edges, chord / 2):
                found += _fitted(run if math.dist(run[0], run[-1]) < 1e-9 else [*run, run[0]], chord, layer)
        out += [_mirrored(c) for c in found] if flipped else found
    return out


def _tilted(e) -> bool:
    """Does a line or curve change its height, or stand on a plane other than the drawing's?"""
    kind = e.dxftype()
    if kind == "LINE":
        return abs(e.dxf.start.z - e.dxf.end.z) > 1e-6
    if kind == "POLYLINE" and e.is_3d_polyline:
        z = [v.dxf.location.z for v in e.vertices]
        return max(z) - min(z) > 1e-6
    if kind == "SPLINE":
        z = [p[2] for p in e.control_points]
        return bool(z) and max(z) - min(z) > 1e-6
    if kind == "3DFACE":
        z = [v.z for v in e.wcs_vertices()]
        return max(z) - min(z) > 1e-6
    return abs(abs(e.dxf.get("extrusion", (0, 0, 1))[2]) - 1) > 1e-6


def _text(e, chord: float) -> list[TextLine]:
    """The lines of a text with their outlines, set in the bundled plain font at the drawn height, place and
    turn.
    """
    from ezdxf.tools.text import MTextParser, TokenType

    from venzo.formats.fonts import bundled

    kind, layer = e.dxftype(), str(e.dxf.get("layer", "0"))
    if kind == "MTEXT":
        words: list[str] = []
        for t in MTextParser(e.text):
            words.append(
                {
                    TokenType.WORD: t.data,
                    TokenType.SPACE: " ",
                    TokenType.NBSP: " ",
                    TokenType.NEW_PARAGRAPH: "\n",
                    TokenType.NEW_COLUMN: "\n",
                }.get(t.type, "")
                if isinstance(t.data, str) or t.type != TokenType.WORD
                else ""
            )
        lines, height = "".join(words).split("\n"), float(e.dxf.get("char_height", 2.5))
        at, turn = e.dxf.insert, math.radians(e.get_rotation())
        point = int(e.dxf.get("attachment_point", 1))
        across, down = (point - 1) % 3 / 2, (point - 1) // 3
        lead = height * 5 / 3
        top = (-height, (len(lines) - 1) / 2 * lead - height / 2, (len(lines) - 1) * lead)[down]
        rows = [(line, top - k * lead) for k, line in enumerate(lines)]
    else:
        place = e.get_placement()
        at, height, turn = place[1], float(e.dxf.get("height", 2.5)), math.radians(e.dxf.get("rotation", 0.0))
        across = {"RIGHT": 1.0, "CENTER": 0.5, "MIDDLE": 0.5}.get(place[0].name.split("_")[-1], 0.0)
        rise = {"TOP": -height, "MIDDLE": -height / 2}.get(place[0].name.split("_")[0], 0.0)
        rows = [(e.plain_text(), rise)]
    out = []
    for line, y in rows:
        if not line.strip() or not height > 0:
            continue
        loops, width, _missing = bundled("plain").outlines(line[:500], 10.0, max(chord * 10 / height, 1e-3))
        shift = (-across * width * height / 10, y)
        moved = [k.scaled(height / 10).moved(*shift).placed(at.x, at.y, math.degrees(turn)) for k in loops]
        out.append(TextLine(line, layer, [Contour(k.vertices, True, layer) for k in moved]))
    return out


def _plane(e, kind: str, layer: str) -> Contour:
    """An entity of the drawing plane, arcs kept."""
    if kind == "CIRCLE":
        return Contour.circle(e.dxf.center.x, e.dxf.center.y, abs(e.dxf.radius), layer)
    if kind == "ARC":
        c, r = e.dxf.center, e.dxf.radius
        a0 = math.radians(e.dxf.start_angle)
        sweep = (e.dxf.end_angle - e.dxf.start_angle) % 360.0
        if sweep < 1e-9:
            return Contour.circle(c.x, c.y, r, layer)
        n = 1 if sweep <= 180 else 2
        step = math.radians(sweep) / n
        bulge = math.tan(step / 4)
        rows = [
            (c.x + r * math.cos(a0 + k * step), c.y + r * math.sin(a0 + k * step), bulge if k < n else 0.0)
            for k in range(n + 1)
        ]
        return Contour.of(rows, False, layer)
    if kind == "LWPOLYLINE":
        rows = [(x, y, b) for x, y, b in e.get_points("xyb")]
        closed = bool(e.closed)
    else:
        rows = [
            (v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0.0))
            for v in e.vertices
            if not v.dxf.get("flags", 0) & 16
        ]
        closed = bool(e.is_closed)
    return _split_big_arcs(rows, closed, layer)


def _split_big_arcs(rows: list[tuple[float, float, float]], closed: bool, layer: str) -> Contour:
    """Vertices cleaned: repeated points dropped, arcs over half a circle halved, closure by coincident ends
    noticed.
    """
    clean: list[tuple[float, float, float]] = []
    for row in rows:
        if clean and math.dist(clean[-1][:2], row[:2]) < 1e-9:
            clean[-1] = row
        else:
            clean.append(row)
    if not closed and len(clean) > 2 and math.dist(clean[0][:2], clean[-1][:2]) < 1e-9:
        closed = True
    c = Contour.of(clean, closed, layer)
    if len(c.vertices) < 2:
        return Contour.of(clean[:1] * 2, False, layer)
    if np.abs(c.vertices[:, 2]).max() <= 1.0 + 1e-9:
        return c
    out: list[tuple[float, float, float]] = []
    for s in c.segments():
        parts = [s.part(0, 0.5), s.part(0.5, 1)] if abs(s.bulge) > 1 else [s]
        out.extend((p.x0, p.y0, p.bulge) for p in parts)
    if not closed:
        out.append((*clean[-1][:2], 0.0))
    return Contour.of(out, closed, layer)


def _mirrored(c: Contour) -> Contour:
    """The world view of a shape drawn on the back of the plane (extrusion 0, 0, -1)."""
    return Contour(c.vertices * np.array([-1.0, 1.0, -1.0]), c.closed, c.layer)


def _curve(e, chord: float, layer: str) -> list[Contour]:
    """Splines, ellipses and tilted arcs: points on the curve itself, seen from above, refitted to lines and
    arcs.
    """
    from ezdxf import path

    if e.dxftype() in ("ELLIPSE", "CIRCLE", "ARC"):
        return _fitted([(v.x, v.y) for v in e.flattening(chord / 2)], chord, layer)
    if e.dxftype() == "SPLINE" and len(e.control_points):
        return _fitted(_spline_points(e, chord / 2), chord, layer)
    out = []
    for sub in path.make_path(e).sub_paths():
        out += _fitted([(v.x, v.y) for v in sub.flattening(chord, segments=8)], chord, layer)
    return out


def _fitted(points, chord: float, layer: str) -> list[Contour]:
    """A run of points as lines and arcs; none where it has no length."""
    pts = np.array(points, dtype=float).reshape(-1, 2)
    if len(pts) < 2 or not np.isfinite(pts).all():
        return []
    closed = bool(np.hypot(*(pts[0] - pts[-1])) < 1e-9 * max(1.0, float(np.abs(pts).max()))) and len(pts) > 3
    return [fit(pts[:-1] if closed else pts, closed, chord, layer)]


def _spline_points(e, chord: float) -> Array:
    """Points on a B-spline, rational or not, over the part of its knots on which it is defined."""
    control = np.array([(v[0], v[1]) for v in e.control_points], dtype=float)
    degree, n = int(e.dxf.degree), len(control)
    knots, weights = np.array(e.knots, dtype=float), np.array(e.weights, dtype=float)
    if not 1 <= degree <= MOST_DEGREE or len(knots) != n + degree + 1 or (len(weights) and len(weights) != n):
        raise ValueError(f"a spline of degree {degree} with {n} control points and {len(knots)} knots")
    return bspline_points(control, knots, degree, chord, weights if len(weights) else None)


def _hatch_edge(edge, chord: float) -> list[tuple[float, float]]:
    """Points along one edge of a hatch's boundary."""
    from ezdxf.math import ConstructionArc, ConstructionEllipse

    kind = type(edge).__name__
    if kind == "LineEdge":
        return [(edge.start[0], edge.start[1]), (edge.end[0], edge.end[1])]
    if kind == "ArcEdge":
        arc = ConstructionArc(edge.center, edge.radius, edge.start_angle, edge.end_angle)
        if abs(edge.end_angle - edge.start_angle) >= 360 - 1e-9:
            steps = max(
                16, math.ceil(2 * math.pi / (2 * math.acos(max(-1.0, 1 - chord / max(edge.radius, chord)))))
            )
            points = [
                (v.x, v.y)
                for v in arc.vertices(math.degrees(2 * math.pi * k / steps) for k in range(steps + 1))
            ]
        else:
            points = [(v.x, v.y) for v in arc.flattening(chord)]
        return points if edge.ccw else points[::-1]
    if kind == "EllipseEdge":
        ellipse = ConstructionEllipse(
            edge.center, edge.major_axis, (0, 0, 1), edge.ratio, edge.start_param, edge.end_param
        )
        points = [(v.x, v.y) for v in ellipse.flattening(chord)]
        return points if edge.ccw else points[::-1]
    control = np.array([(v[0], v[1]) for v in edge.control_points], dtype=float)
    weights = np.array(edge.weights, dtype=float)
    return [
        (float(x), float(y))
        for x, y in bspline_points(
            control,
            np.array(edge.knot_values, dtype=float),
            int(edge.degree),
            chord,
            weights if len(weights) else None,
        )
    ]


def _joined_edges(edges, chord: float) -> Iterator[list[tuple[float, float]]]:
    """The edges of a boundary as closed runs of points, each turned to begin where the one before ended."""
    run: list[tuple[float, float]] = []
    for edge in edges:
        points = _hatch_edge(edge, chord)
        if run:
            ends = [math.dist(run[-1], points[0]), math.dist(run[-1], points[-1])]
            if len(run) > 2 and min(ends) > 1e-6 and math.dist(run[0], run[-1]) < 1e-6:
                yield run
                run = []
            elif ends[1] < ends[0]:
                points = points[::-1]
        run += points[1:] if run and math.dist(run[-1], points[0]) < 1e-9 else points
    if run:
        yield run
