"""DXF in: ASCII or binary, R12 to current, damaged files through recovery."""

from __future__ import annotations

import io
import math
import tempfile
from collections import Counter
from collections.abc import Iterator

import numpy as np

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.parts.drawing import LARGEST_FILE, MOST_ENTITIES, Drawing
from venzo.core.snags import BadInput, look
from venzo.core.tolerances import FLATTEN

BINARY = b"AutoCAD Binary DXF"
"""How the open binary form of the format begins."""
UNITS = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}
_NOT_CUT = {"TEXT", "MTEXT", "ATTRIB", "ATTDEF", "DIMENSION", "ARC_DIMENSION", "LEADER", "MULTILEADER", "TOLERANCE", "POINT",
            "VIEWPORT", "IMAGE", "WIPEOUT", "OLE2FRAME", "XLINE", "RAY", "HATCH", "MPOLYGON"}


def read(data: bytes, name: str) -> Drawing:
    """Read a DXF file.

    Args:
        data: the file's bytes.
        name: the file's name, for messages.

    Raises:
        BadInput: empty, too large, not a DXF file, or damaged beyond recovery.
    """
    import ezdxf
    from ezdxf import recover

    if not data.strip():
        raise BadInput(f"{name}: the file is empty; export the drawing again")
    if len(data) > LARGEST_FILE:
        raise BadInput(f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB; purge the drawing or split it")
    head = data[:4096].lstrip()
    if head.startswith(b"%PDF"):
        raise BadInput(f"{name}: this is a PDF file, not a DXF drawing; export DXF or SVG from the program that drew it")
    if head.startswith((b"AC10", b"\x89PNG", b"PK\x03\x04", b"\xff\xd8")):
        raise BadInput(f"{name}: this is a binary drawing, picture or archive, not a DXF drawing; save it as DXF")
    try:
        doc, audit = _binary(data) if data.startswith(BINARY) else recover.read(io.BytesIO(data))
    except (ezdxf.DXFError, OSError, ValueError, TypeError, KeyError, IndexError, AttributeError) as e:
        why = str(e).strip().splitlines()[0][:120] if str(e).strip() else type(e).__name__
        raise BadInput(f"{name}: not a readable DXF file ({why}); export it again as DXF R2000 or later") from e

    drawing = Drawing()
    if audit.has_errors or audit.has_fixes:
        count = len(audit.errors) + len(audit.fixes)
        drawing.snags.append(look("intake.recovered", f"{name}: {count} fault{'s' * (count != 1)} in the file were repaired while reading; "
                                  "compare the drawing with what you expect"))
    drawing.unit = UNITS.get(int(doc.header.get("$INSUNITS", 0) or 0))
    drawing.unit_hint = {0: "in", 1: "mm"}.get(doc.header.get("$MEASUREMENT", -1)) if "$MEASUREMENT" in doc.header else None
    scale = {"in": 25.4, "ft": 304.8, "cm": 10.0, "m": 1000.0}.get(drawing.unit or "in", 1.0)
    ignored: Counter[str] = Counter()
    unreadable: Counter[str] = Counter()
    for entity in _entities(doc, ignored):
        drawing.entities += 1
        if drawing.entities > MOST_ENTITIES:
            raise BadInput(f"{name}: more than {MOST_ENTITIES} entities; split the drawing")
        try:
            drawing.chains.extend(_chains(entity, FLATTEN / scale, ignored))
        except (ValueError, ZeroDivisionError, ezdxf.DXFError, AttributeError, IndexError, TypeError, ArithmeticError):
            unreadable[entity.dxftype()] += 1
    drawing.ignored = dict(ignored)
    if unreadable:
        listed = ", ".join(f"{n} {kind}" for kind, n in unreadable.items())
        drawing.snags.append(look("intake.unreadable", f"{name}: left out, cannot be read: {listed}"))
    return drawing


def _binary(data: bytes):
    """A binary DXF file, which the library reads from disk only; audited as the others are."""
    import ezdxf

    with tempfile.NamedTemporaryFile(suffix=".dxf") as f:
        f.write(data)
        f.flush()
        doc = ezdxf.readfile(f.name)
    return doc, doc.audit()


def _entities(doc, ignored: Counter[str]) -> Iterator:
    """Model space with block references taken apart, however deep; frozen and hidden layers left out."""
    from ezdxf.disassemble import recursive_decompose

    hidden = {layer.dxf.name.lower() for layer in doc.layers if layer.is_frozen() or layer.is_off()}
    for e in recursive_decompose(doc.modelspace()):
        if e.dxf.get("layer", "0").lower() in hidden:
            ignored[f"{e.dxftype()} on a hidden layer"] += 1
        elif e.dxf.get("invisible", 0):
            ignored[f"invisible {e.dxftype()}"] += 1
        else:
            yield e


def _chains(e, chord: float, ignored: Counter[str]) -> list[Contour]:
    kind = e.dxftype()
    layer = str(e.dxf.get("layer", "0"))
    if kind == "LINE":
        a, b = e.dxf.start, e.dxf.end
        return _finite([Contour.of([(a.x, a.y), (b.x, b.y)], False, layer)])
    if kind in ("ARC", "CIRCLE", "LWPOLYLINE") or (kind == "POLYLINE" and e.is_2d_polyline):
        z = e.dxf.get("extrusion", (0, 0, 1))[2]
        if abs(abs(z) - 1) < 1e-6:
            return _finite([_mirrored(_plane(e, kind, layer)) if z < 0 else _plane(e, kind, layer)])
    if kind == "POLYLINE" and (e.is_poly_face_mesh or e.is_polygon_mesh):
        ignored[kind] += 1
        return []
    if kind in ("SPLINE", "ELLIPSE", "ARC", "CIRCLE", "LWPOLYLINE", "POLYLINE"):
        return _finite(_curve(e, chord, layer))
    ignored[kind] += 1
    return []


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
        rows = [(c.x + r * math.cos(a0 + k * step), c.y + r * math.sin(a0 + k * step), bulge if k < n else 0.0) for k in range(n + 1)]
        return Contour.of(rows, False, layer)
    if kind == "LWPOLYLINE":
        rows = [(x, y, b) for x, y, b in e.get_points("xyb")]
        closed = bool(e.closed)
    else:
        rows = [(v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0.0)) for v in e.vertices if not v.dxf.get("flags", 0) & 16]
        closed = bool(e.is_closed)
    return _split_big_arcs(rows, closed, layer)


def _split_big_arcs(rows: list[tuple[float, float, float]], closed: bool, layer: str) -> Contour:
    """Vertices cleaned: repeated points dropped, arcs over half a circle halved, closure by coincident ends noticed."""
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
    """Splines, ellipses and tilted arcs: flattened, seen from above, refitted to lines and arcs."""
    from ezdxf import path

    out = []
    p = path.make_path(e)
    for sub in p.sub_paths():
        pts = np.array([(v.x, v.y) for v in sub.flattening(chord, segments=8)])
        if len(pts) < 2:
            continue
        closed = bool(np.hypot(*(pts[0] - pts[-1])) < 1e-9) and len(pts) > 3
        out.append(fit(pts[:-1] if closed else pts, closed, chord, layer))
    return out


def _finite(chains: list[Contour]) -> list[Contour]:
    for c in chains:
        if not np.isfinite(c.vertices).all() or np.abs(c.vertices[:, :2]).max() > 1e7:
            raise ValueError("coordinates out of range")
    return [c for c in chains if len(c.vertices) > 1]
