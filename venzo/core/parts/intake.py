"""From a drawing to parts: unit, joining, outlines and holes, copies counted."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePath

import numpy as np

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.loops import join
from venzo.core.geometry.regions import Region, regions
from venzo.core.parts.drawing import Drawing
from venzo.core.parts.shape import Shape, alike
from venzo.core.snags import BadInput, Snag, look, note, stop
from venzo.core.tolerances import JOIN
from venzo.core.units import MM

SMALLEST = 1e-2
"""mm2; a closed loop smaller than this is dust."""
LARGEST = 50_000.0
"""mm; a part larger than this is in the wrong unit."""


@dataclass
class FoundPart:
    """A distinct shape with the number of copies; ``origin``: where the first copy's frame lies in the drawing, mm."""

    name: str
    shape: Shape
    quantity: int
    origin: tuple[float, float]
    layer: str = ""


@dataclass
class Intake:
    """All that was understood of one file."""

    units: str
    scale_mm: float
    parts: list[FoundPart]
    open_contours: list[Contour]
    snags: list[Snag]

    def to_json(self) -> dict:
        """The document that ``venzo intake --json`` prints (CONTRACT)."""
        parts = []
        for p in self.parts:
            w, h = p.shape.size
            parts.append({
                "name": p.name, "quantity": p.quantity, "area_mm2": round(p.shape.region.area, 4), "perimeter_mm": round(p.shape.region.perimeter, 4),
                "bbox_mm": [round(v, 4) for v in (*p.origin, p.origin[0] + w, p.origin[1] + h)], "holes": len(p.shape.region.holes),
            })
        return {"units": self.units, "scale_mm": self.scale_mm, "parts": parts, "open_contours": len(self.open_contours),
                "snags": [s.plain() for s in self.snags]}


def read_file(data: bytes, name: str) -> Drawing:
    """Read bytes by the file's ending or, where that says nothing, by its content."""
    from venzo.formats import dxf, svg

    ending = PurePath(name).suffix.lower()
    if ending == ".svg" or (ending != ".dxf" and b"<svg" in data[:4096]):
        return svg.read(data, name)
    if ending == ".dxf" or data[:64].lstrip().startswith((b"0", b"AutoCAD Binary")):
        return dxf.read(data, name)
    raise BadInput(f"{name}: Venzo reads .dxf and .svg drawings; export the drawing as one of these")


def likely_unit(drawing: Drawing) -> tuple[str, str]:
    """The likely unit of a drawing without one, and the reason in words."""
    boxes = np.array([c.bbox for c in drawing.chains])
    span = float(max(boxes[:, 2].max() - boxes[:, 0].min(), boxes[:, 3].max() - boxes[:, 1].min()))
    pts = np.concatenate([c.vertices[:, :2] for c in drawing.chains]).ravel()
    sixteenths = float(np.mean(np.abs(pts * 32 - np.round(pts * 32)) < 1e-4))
    whole = float(np.mean(np.abs(pts - np.round(pts)) < 1e-4))
    if span > 200:
        return "mm", f"it is {span:.4g} units across, which would be {span * 25.4 / 1000:.1f} m in inches"
    if sixteenths > 0.8 and whole < 0.6:
        return "in", f"{sixteenths:.0%} of its coordinates are inch fractions (thirty-seconds)"
    if drawing.unit_hint == "in" and span < 130:
        return "in", "its header asks for inch measure"
    if span < 13:
        return "in", f"it is only {span:.3g} units across"
    return "mm", f"it is {span:.4g} units across and its coordinates are no inch fractions"


def take_in(drawing: Drawing, name: str, units: str = "auto", tolerance: float = JOIN) -> Intake:
    """Understand a drawing.

    Args:
        drawing: as read by a format module.
        name: file name, for part names and messages.
        units: ``auto`` or one of mm, cm, m, in, ft (one drawing unit = one of these).
        tolerance: mm; ends nearer than this are joined.

    Raises:
        BadInput: unknown unit, or a join tolerance that is not within 0 to 10 mm.
    """
    if units != "auto" and units not in ("mm", "cm", "m", "in", "ft"):
        raise BadInput(f"{name}: unknown unit {units!r}; use auto, mm, cm, m, in or ft")
    if not 0 < tolerance <= 10:
        raise BadInput(f"{name}: a join tolerance of {tolerance:g} mm is outside 0 to 10 mm; 0.05 suits most drawings")
    snags = list(drawing.snags)
    if drawing.ignored:
        listed = ", ".join(f"{n} {kind}" for kind, n in sorted(drawing.ignored.items()))
        snags.append(note("intake.ignored", f"{name}: not cut: {listed}"))
    if not drawing.chains:
        what = "only text and annotations" if drawing.ignored else "nothing that can be cut"
        snags.append(stop("intake.no-outline", f"{name}: the drawing holds {what}; draw the outline as lines, arcs or polylines"))
        return Intake(units if units != "auto" else drawing.unit or "mm", MM.get(drawing.unit or "mm", 1.0), [], [], snags)

    if units != "auto":
        unit, scale = units, MM[units]
    elif drawing.scale_mm is not None:
        unit, scale = "mm" if drawing.unit else "px", drawing.scale_mm
        if not drawing.unit:
            snags.append(look("intake.unit", f"{name}: no physical size in the file; 96 pixels are taken as one inch. Say the unit if that is wrong"))
    elif drawing.unit:
        unit, scale = drawing.unit, MM[drawing.unit]
    else:
        unit, why = likely_unit(drawing)
        scale = MM[unit]
        snags.append(look("intake.unit", f"{name}: the file names no unit; {unit} is taken because {why}. Say the unit if that is wrong"))

    joined = join([c.scaled(scale) if scale != 1 else c for c in drawing.chains], tolerance)
    loops = [c.simplified(1e-4) for c in joined.closed]
    dust = [c for c in loops if abs(c.area) < SMALLEST]
    found = regions([c for c in loops if abs(c.area) >= SMALLEST])
    if joined.duplicates:
        snags.append(note("intake.duplicates", f"{name}: {joined.duplicates} line{'s' * (joined.duplicates != 1)} drawn twice, counted once"))
    if dust:
        snags.append(note("intake.dust", f"{name}: {len(dust)} closed loop{'s' * (len(dust) != 1)} under {SMALLEST} mm2 left out"))
    for x, y in joined.branches[:5]:
        snags.append(look("intake.branch", f"{name}: three or more lines meet at {x:.2f}, {y:.2f} mm; the spaces between them became separate outlines",
                          {"x": round(x, 3), "y": round(y, 3)}))
    for c in joined.open:
        x0, y0, x1, y1 = c.bbox
        within = sum(1 for r in found if x0 < r.outline.bbox[0] and r.outline.bbox[2] < x1 and y0 < r.outline.bbox[1] and r.outline.bbox[3] < y1)
        if within:
            snags.append(look("intake.open-around", f"{name}: the open line around {within} closed shape{'s' * (within != 1)} is probably their outline; they were taken for "
                              "parts of their own. Close the outline before cutting", {"x": round(x0, 3), "y": round(y0, 3)}))
    for c in joined.open[:5]:
        a, b = c.vertices[0], c.vertices[-1]
        gap = float(np.hypot(*(a - b)[:2]))
        snags.append(look("intake.open", f"{name}: an open line from {a[0]:.2f}, {a[1]:.2f} to {b[0]:.2f}, {b[1]:.2f} mm (ends {gap:.2f} mm apart) is not cut; "
                          f"close it in the drawing or read it with a join tolerance above {gap:.2f} mm", {"x": round(float(a[0]), 3), "y": round(float(a[1]), 3)}))
    if len(joined.open) > 5:
        snags.append(look("intake.open", f"{name}: {len(joined.open) - 5} further open lines are not cut"))
    if not found:
        snags.append(stop("intake.no-outline", f"{name}: no closed outline found among {len(drawing.chains)} lines; close the outline, or raise the join tolerance"))
    parts = _count(found, PurePath(name).stem)
    for p in parts:
        if max(p.shape.size) > LARGEST:
            snags.append(stop("intake.size", f"{name}: {p.name} would be {max(p.shape.size) / 1000:.0f} m long; the unit is wrong. Say the unit"))
        if max(p.shape.size) < 2:
            snags.append(look("intake.size", f"{name}: {p.name} is only {max(p.shape.size):.2f} mm long; is {unit} the right unit?"))
    return Intake(unit, scale, parts, joined.open, snags)


def _count(found: list[Region], stem: str) -> list[FoundPart]:
    """Like shapes collapse into one part with a quantity; reading order is left to right, then up."""
    found = sorted(found, key=lambda r: (round(r.outline.bbox[0], 1), round(r.outline.bbox[1], 1)))
    parts: list[FoundPart] = []
    buckets: dict[tuple[int, int], list[tuple[FoundPart, Region]]] = {}
    for r in found:
        key = (len(r.holes), round(r.perimeter / 2))
        near = [pr for d in (-1, 0, 1) for pr in buckets.get((key[0], key[1] + d), [])]
        twin = next((p for p, first in near if alike(first, r)), None)
        if twin:
            twin.quantity += 1
            continue
        shape, origin = Shape.of(r)
        p = FoundPart(stem, shape, 1, origin, r.outline.layer)
        parts.append(p)
        buckets.setdefault(key, []).append((p, r))
    if len(parts) > 1:
        for k, p in enumerate(parts):
            p.name = f"{stem} {k + 1}"
    return parts
