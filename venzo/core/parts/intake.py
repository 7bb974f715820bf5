"""From a drawing to parts: unit, healing, layers, outlines and holes, features inside them, copies
counted.
"""

from __future__ import annotations

import gc
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import PurePath
from typing import Annotated, Literal

import numpy as np
import shapely
from pydantic import Field

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.crossing import crossings, even_odd
from venzo.core.geometry.many import measure, polygons, simplified
from venzo.core.geometry.regions import Region, regions
from venzo.core.model import Value
from venzo.core.parts.bridges import bridge, inside_of
from venzo.core.parts.drawing import Drawing
from venzo.core.parts.healing import Healed, HealLine, heal
from venzo.core.parts.layers import COMMON, ROLES, LayerRule, Role, depth_of, face_of, role_of
from venzo.core.parts.shape import Face, Feature, Shape, alike
from venzo.core.snags import BadInput, Remedy, Snag, look, note, stop
from venzo.core.tolerances import JOIN, LIKE, REFIT_DRAWN
from venzo.core.units import MM
from venzo.core.voice import counted

ON_BACK = " on the back"
MOST_SAID = 20
"""Places where outlines cross that are told one by one."""
SMALLEST = 1e-2
"""mm2; a closed loop smaller than this is dust."""
LARGEST = 50_000.0
"""mm; a part larger than this is in the wrong unit."""
SMALL, LONG = 6.0, 5_000.0
"""mm; a drawing whose largest part is smaller, or longer, asks for its unit."""
_PAPER = (
    (210, 297),
    (297, 420),
    (420, 594),
    (594, 841),
    (841, 1189),
    (215.9, 279.4),
    (279.4, 431.8),
    (431.8, 558.8),
    (558.8, 863.6),
)
"""Paper sizes of ISO 216 and ANSI/ASME Y14.1, mm: drawing frames come in them or a little smaller."""


class HowRead(Value):
    """How a drawing is read: all that a person may say about it.

    ``units``: one drawing unit is one of these; ``auto`` believes the file or judges. ``join``, ``refit``:
    mm. ``scale``: further scaling. ``roles``: what layers mean, by name. ``chosen``: lines and items of the
    healing list switched on or off, by id.
    """

    units: Literal["auto", "mm", "cm", "m", "in", "ft"] = "auto"
    join: Annotated[float, Field(gt=0, le=10)] = JOIN
    refit: Annotated[float, Field(ge=0, le=1)] = REFIT_DRAWN
    scale: Annotated[float, Field(gt=0, le=10_000)] = 1.0
    bridge: Annotated[float, Field(ge=0, le=200)] = 0.0
    """Width (mm) of the bridges that hold islands in their holes; 0: islands are parts of their own."""
    roles: dict[str, Role] = {}
    faces: dict[str, Face] = {}
    """Into which face is cut what is on a layer, where its name does not say it."""
    chosen: dict[str, bool] = {}
    board: Annotated[float, Field(ge=0, le=2000)] | None = None
    """Margin (mm) of a rectangular board that everything closed is carved into, as one part; None: closed
    outlines are parts.
    """


class LayerSeen(Value):
    """A layer of the drawing: lines on it, its colour as the file names it, what it means and why."""

    name: str
    lines: int
    colour: str
    role: Role
    why: str
    face: Face = "front"


@dataclass
class FoundPart:
    """A distinct shape with the number of copies; ``origin``: where the first copy's frame lies in the
    drawing, mm.
    """

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
    healing: list[HealLine] = field(default_factory=list)
    layers: list[LayerSeen] = field(default_factory=list)
    regions: list[Region] = field(default_factory=list)
    """Every closed region where it lies in the drawing, mm."""

    def to_json(self) -> dict:
        """The document that ``venzo intake --json`` prints (CONTRACT)."""
        parts = []
        for p in self.parts:
            w, h = p.shape.size
            parts.append(
                {
                    "name": p.name,
                    "quantity": p.quantity,
                    "area_mm2": round(p.shape.region.area, 4),
                    "perimeter_mm": round(p.shape.region.perimeter, 4),
                    "features": [
                        {"name": f.name, "kind": f.kind, "depth_mm": f.depth} for f in p.shape.features
                    ],
                    "bbox_mm": [round(v, 4) for v in (*p.origin, p.origin[0] + w, p.origin[1] + h)],
                    "holes": len(p.shape.region.holes),
                }
            )
        return {
            "units": self.units,
            "scale_mm": self.scale_mm,
            "parts": parts,
            "open_contours": len(self.open_contours),
            "healing": [
                {
                    "id": h.id,
                    "says": h.says,
                    "count": h.count,
                    "before": h.before,
                    "after": h.after,
                    "deviation_mm": h.deviation,
                    "applied": h.applied,
                }
                for h in self.healing
            ],
            "layers": [v.model_dump() for v in self.layers],
            "snags": [s.plain() for s in self.snags],
        }


@contextmanager
def uncollected() -> Iterator[None]:
    """No cyclic garbage collection meanwhile: reading makes a great many objects, none of them garbage
    yet.
    """
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def likely_unit(drawing: Drawing) -> tuple[str, str]:
    """The likely unit of a drawing without one, and the reason in words."""
    boxes = np.array([c.bbox for c in drawing.chains])
    span = float(max(boxes[:, 2].max() - boxes[:, 0].min(), boxes[:, 3].max() - boxes[:, 1].min()))
    pts = np.concatenate([c.vertices[:, :2] for c in drawing.chains]).ravel()
    sixteenths = float(np.mean(np.abs(pts * 32 - np.round(pts * 32)) < 1e-4))
    whole = float(np.mean(np.abs(pts - np.round(pts)) < 1e-4))
    if span > 200:
        return "mm", f"it is {span:.4g} units across, which would be {span * 25.4 / 1000:.1f} m in inches"
    if drawing.unit_hint == "mm":
        return "mm", "its header asks for metric measure"
    if sixteenths > 0.8 and whole < 0.6:
        return "in", f"{sixteenths:.0%} of its coordinates are inch fractions (thirty-seconds)"
    if drawing.unit_hint == "in" and span < 130:
        return "in", "its header asks for inch measure"
    if span < 13:
        return "in", f"it is only {span:.3g} units across"
    return "mm", f"it is {span:.4g} units across and its coordinates are no inch fractions"


def _settings(units: str | HowRead, tolerance: float, name: str) -> HowRead:
    if isinstance(units, HowRead):
        return units
    if units not in ("auto", "mm", "cm", "m", "in", "ft"):
        raise BadInput(f"{name}: unknown unit {units!r}; use auto, mm, cm, m, in or ft")
    if not 0 < tolerance <= 10:
        raise BadInput(
            f"{name}: a join tolerance of {tolerance:g} mm is outside 0 to 10 mm; 0.05 suits most drawings"
        )
    return HowRead(units=units, join=tolerance)  # type: ignore[arg-type]


def take_in(
    drawing: Drawing,
    name: str,
    how: str | HowRead = "auto",
    tolerance: float = JOIN,
    rules: Sequence[LayerRule] = COMMON,
) -> Intake:
    """Understand a drawing.

    Args:
        drawing: as read by a format module.
        name: file name, for part names and messages.
        how: all settings, or just the unit (one drawing unit = one of mm, cm, m, in, ft; ``auto``).
        tolerance: join tolerance in mm, where ``how`` is a unit.
        rules: what layers mean in this shop.

    Raises:
        BadInput: unknown unit, or a join tolerance that is not within 0 to 10 mm.
    """
    with uncollected():
        return _understood(drawing, name, _settings(how, tolerance, name), rules)


def _understood(drawing: Drawing, name: str, how: HowRead, rules: Sequence[LayerRule]) -> Intake:
    snags = list(drawing.snags)
    if drawing.ignored:
        listed = ", ".join(f"{n} {kind}" for kind, n in sorted(drawing.ignored.items()))
        snags.append(note("intake.ignored", f"{name}: not cut: {listed}"))
    if not drawing.chains and not (drawing.texts and how.chosen.get("text")):
        what = "only text and annotations" if drawing.ignored else "nothing that can be cut"
        snags.append(
            stop(
                "intake.no-outline",
                f"{name}: the drawing holds {what}; draw the outline as lines, arcs or polylines",
            )
        )
        unit = how.units if how.units != "auto" else drawing.unit or "mm"
        return Intake(unit, MM.get(unit, 1.0) * how.scale, [], [], snags)
    unit, scale = _unit(drawing, name, how, snags)

    layers, groups, healing = _sorted_by_role(drawing, how, rules, scale)
    if not groups.get("cut"):  # nothing would be a part: the layers' names mean something else here
        snags.append(
            look(
                "intake.roles",
                f"{name}: no layer is left to cut outlines from; all {'were' if len(layers) != 1 else 'was'}"
                " read as outlines. Say what each layer means",
            )
        )
        groups = {
            "cut": (
                [c for role, chains in groups.items() if role != "leave out" for c in chains]
                or [c for chains in groups.values() for c in chains]
            )
        }
    groups = _by_face(groups, how.faces)
    healed = {
        role: heal(
            chains,
            how.join,
            how.refit,
            (
                how.chosen
                if role == "cut"
                else {
                    k.removeprefix(f"{role}/"): v for k, v in how.chosen.items() if k.startswith(f"{role}/")
                }
            ),
        )
        for role, chains in groups.items()
        if role != "leave out" and chains
    }
    for role, h in healed.items():
        mark = "" if role == "cut" else f"{role}/"
        healing += [
            h_line.model_copy(
                update={
                    "id": mark + h_line.id,
                    "says": h_line.says if role == "cut" else f"{role}: {h_line.says}",
                    "items": tuple(i.model_copy(update={"id": mark + i.id}) for i in h_line.items),
                }
            )
            for h_line in h.lines
        ]
    cut = healed.get("cut") or Healed([], [], [])
    loops = simplified(cut.loops, 1e-4)
    measure([c for c in loops if "area" not in c.__dict__])
    loops = _uncrossed(loops, name, snags)
    measure([c for c in loops if "area" not in c.__dict__])
    dust = [c for c in loops if abs(c.area) < SMALLEST]
    loops = [c for c in loops if abs(c.area) >= SMALLEST]
    found = regions(loops)
    found, frames = _without_frames(found, loops, how, name, snags)
    healing += frames
    for seen in layers:
        if seen.role == "leave out":
            n = seen.lines
            snags.append(
                note(
                    "intake.layer",
                    f"{name}: {n} line{'s' * (n != 1)} on layer {seen.name} left out: {seen.why}",
                )
            )
    _say_healing(name, healing, dust, cut, found, snags)
    found = _islands(found, how.bridge, name, healing, snags)
    engraved, opened = _open_lines(cut.open, how, healing)
    features = [("engraving", c) for c in engraved]
    drawn = found
    if (
        how.board is not None and found
    ):  # a logo, an ornament: nothing in it is cut out, all of it goes into one board
        features += [("engraving", c) for r in found for c in r.loops]
        found = [_board(found, how.board)]
    for role, h in healed.items():
        if role != "cut":
            kind = _FEATURE[role.removesuffix(ON_BACK)]
            features += [(kind, c.simplified(1e-4)) for c in h.loops if abs(c.area) >= SMALLEST]
            features += [(kind, c) for c in h.open]
    _say_open(name, opened, found, snags)
    if not found:
        snags.append(
            stop(
                "intake.no-outline",
                f"{name}: no closed outline found among {counted(len(drawing.chains), 'line')}; close the"
                " outline, or raise the join tolerance",
            )
        )
    shapes, stray = _with_features(found, features, unit, how.faces)
    if stray:
        verb = "lies outside every part and is" if stray == 1 else "lie outside every part and are"
        snags.append(
            look(
                "intake.stray",
                f"{name}: {stray} engraving, groove or pocket line{'s' * (stray != 1)} {verb} left out",
            )
        )
    parts = count_alike(shapes, PurePath(name).stem)
    for p in parts:
        if max(p.shape.size) > LARGEST:
            snags.append(
                stop(
                    "intake.size",
                    f"{name}: {p.name} would be {max(p.shape.size) / 1000:.0f} m long; the unit is wrong. Say"
                    " the unit",
                )
            )
    snags += _odd_unit(name, unit, [max(p.shape.size) for p in parts])
    return Intake(unit, scale, parts, opened, snags, healing, layers, drawn)


def _odd_unit(name: str, unit: str, sizes: Sequence[float]) -> list[Snag]:
    """Parts whose sizes would be those of a router shop in another unit: an inch drawing called millimetre, a
    millimetre drawing called inch.
    """
    if not sizes:
        return []
    longest = max(sizes)
    other = {"mm": "in", "in": "mm"}.get(unit)
    said = (
        [
            Remedy(
                label=f"Read it in {'inches' if other == 'in' else 'millimetres'}",
                command={"kind": "read-again", "units": other},
            )
        ]
        if other
        else []
    )
    if longest < SMALL:
        return [
            look(
                "intake.size",
                f"{name}: its largest part is only {longest:.2f} mm long; is {unit} the right unit?",
                None,
                *said,
            )
        ]
    if longest > LONG:
        return [
            look(
                "intake.size",
                f"{name}: its largest part is {longest / 1000:.1f} m long, more than any sheet; is {unit} the"
                " right unit?",
                None,
                *said,
            )
        ]
    return []


def _board(found: list[Region], margin: float) -> Region:
    """A rectangle around everything."""
    b = np.array([r.outline.bbox for r in found])
    x0, y0, x1, y1 = (
        float(v)
        for v in (
            b[:, 0].min() - margin,
            b[:, 1].min() - margin,
            b[:, 2].max() + margin,
            b[:, 3].max() + margin,
        )
    )
    return Region(Contour.of([(x0, y0), (x1, y0), (x1, y1), (x0, y1)]), ())


_FEATURE = {"pocket": "pocket", "groove": "groove", "engrave": "engraving", "drill": "drilling"}


def _unit(drawing: Drawing, name: str, how: HowRead, snags: list[Snag]) -> tuple[str, float]:
    """The unit and the millimetres of one drawing unit."""
    if how.units != "auto":
        return how.units, MM[how.units] * how.scale
    if drawing.scale_mm is not None:
        if not drawing.unit:
            snags.append(
                look(
                    "intake.unit",
                    f"{name}: no physical size in the file; 96 pixels are taken as one inch. Say the unit if"
                    " that is wrong",
                )
            )
        return drawing.unit or "px", drawing.scale_mm * how.scale
    if drawing.unit:
        return drawing.unit, MM[drawing.unit] * how.scale
    unit, why = likely_unit(drawing)
    other = "in" if unit == "mm" else "mm"
    again = Remedy(
        label=f"Read it in {'inches' if other == 'in' else 'millimetres'}",
        command={"kind": "read-again", "units": other},
    )
    snags.append(
        look(
            "intake.unit",
            f"{name}: the file names no unit; {unit} is taken because {why}. Say the unit if that is wrong",
            None,
            again,
        )
    )
    return unit, MM[unit] * how.scale


def _sorted_by_role(
    drawing: Drawing, how: HowRead, rules: Sequence[LayerRule], scale: float
) -> tuple[list[LayerSeen], dict[str, list[Contour]], list[HealLine]]:
    """Layers with their meaning, the chains (mm) by role, and what is said of texts and left-out layers."""
    count = Counter(c.layer for c in drawing.chains)
    role = {layer: role_of(layer, rules, how.roles) for layer in count}
    layers = [
        LayerSeen(
            name=k,
            lines=n,
            colour=drawing.colours.get(k.split(" (")[0], ""),
            role=role[k][0],
            why=role[k][1],
            face=face_of(k, how.faces),
        )
        for k, n in sorted(count.items())
    ]
    groups: dict[str, list[Contour]] = {r: [] for r in ROLES}
    for c in drawing.chains:
        groups[role[c.layer][0]].append(c.scaled(scale) if scale != 1 else c)
    said: list[HealLine] = []
    if drawing.texts:
        on = how.chosen.get("text", False)
        n = len(drawing.texts)
        said.append(
            HealLine(
                id="text",
                says=(
                    f"{n} line{'s' * (n != 1)} of text {'engraved in the plain font' if on else 'left out'}:"
                    f" {', '.join(t.text for t in drawing.texts[:4])[:80]}"
                ),
                count=n,
                before=n,
                after=0,
                applied=not on,
            )
        )
        if on:
            groups["engrave"] += [c.scaled(scale) for t in drawing.texts for c in t.chains]
    return layers, groups, said


def _without_frames(
    found: list[Region], loops: list[Contour], how: HowRead, name: str, snags: list[Snag]
) -> tuple[list[Region], list[HealLine]]:
    """Drawing frames: a rectangle around everything else. Proposed for removal with the reason; left out once
    that is said.
    """
    said: list[HealLine] = []
    gone: set[int] = set()
    boxes = np.array([c.bbox for c in loops]).reshape(-1, 4)
    for i in sorted(range(len(loops)), key=lambda k: -abs(loops[k].area))[:4]:
        b = boxes[i]
        rest = np.array([k for k in range(len(loops)) if k != i and k not in gone], dtype=int)
        inside = (
            rest[
                (boxes[rest, 0] > b[0])
                & (boxes[rest, 1] > b[1])
                & (boxes[rest, 2] < b[2])
                & (boxes[rest, 3] < b[3])
            ]
            if len(rest)
            else rest
        )
        w, h = b[2] - b[0], b[3] - b[1]
        if len(inside) < len(rest) or not len(rest) or abs(loops[i].area) < 0.999 * w * h:
            break
        deep = sum(
            1
            for k in inside
            for j in inside
            if j != k and (boxes[j, :2] > boxes[k, :2]).all() and (boxes[j, 2:] < boxes[k, 2:]).all()
        )
        paper = next(
            (
                p
                for p in _PAPER
                for q in (p, p[::-1])
                if -1 <= q[0] - w <= 45 and -1 <= q[1] - h <= 45 and (q[0] > 250 or len(inside) > 2)
            ),
            None,
        )
        if not deep and not (paper and len(inside) > 2):
            break
        why = (
            f"it has the size of a {paper[0]:g} x {paper[1]:g} mm drawing sheet"
            if paper
            else f"{len(inside)} outlines lie in it, {deep} of them within one another"
        )
        key = f"frame:{len(said)}"
        on = how.chosen.get(key, False)
        says = f"the {w:.0f} x {h:.0f} mm rectangle around everything is a drawing frame: {why}"
        said.append(
            HealLine(
                id=key,
                says=f"{says}; {'left out' if on else 'still read as a part'}",
                count=1,
                before=1,
                after=0,
                applied=on,
            )
        )
        if not on:
            snags.append(
                look(
                    "intake.frame",
                    f"{name}: {says}. Leave it out?",
                    None,
                    Remedy(
                        label="Leave the frame out", command={"kind": "read-again", "chosen": {key: True}}
                    ),
                )
            )
            break
        gone.add(i)
    return (regions([c for k, c in enumerate(loops) if k not in gone]) if gone else found), said


def _islands(
    found: list[Region], width: float, name: str, healing: list[HealLine], snags: list[Snag]
) -> list[Region]:
    """The stencil check: shapes inside holes fall out when the hole is cut through. Bridged, or told."""
    n = sum(owner is not None for owner in inside_of(found))
    if not n:
        return found
    if width:
        bridged, done = bridge(found, width)
        healing.append(
            HealLine(
                id="bridge",
                says=f"{done} of {n} island{'s' * (n != 1)} held by bridges {width:g} mm wide",
                count=done,
                before=len(found),
                after=len(bridged),
            )
        )
        if done < n:
            snags.append(
                look(
                    "intake.stencil",
                    f"{name}: {n - done} island{'s' * (n - done != 1)} could not be bridged with {width:g}"
                    " mm; try a smaller width",
                )
            )
        return bridged
    snags.append(
        note(
            "intake.stencil",
            f"{name}: {n} shape{'s' * (n != 1)} lie{'s' * (n == 1)} in the hole of another and"
            f" fall{'s' * (n == 1)} out when it is cut through; they count as parts of their own. Bridges"
            " would hold them",
            None,
            Remedy(label="Hold them with 6 mm bridges", command={"kind": "read-again", "bridge": 6.0}),
        )
    )
    return found


def _uncrossed(loops: list[Contour], name: str, snags: list[Snag]) -> list[Contour]:
    """Loops that cross are a *stop*, each with its place; what they bound by the even-odd rule stands for
    them meanwhile.
    """
    sized = [c for c in loops if max(c.bbox[2] - c.bbox[0], c.bbox[3] - c.bbox[1]) > 0.5]
    found = crossings(sized)
    if not found:
        return loops
    for c in found[:MOST_SAID]:
        what = "an outline crosses itself" if len(c.loops) == 1 else "two outlines cross"
        words = (
            f"{name}: {what} at {c.x:.2f}, {c.y:.2f} mm; mend it in the drawing. Until then it is shown as"
            " what lies inside an odd number of outlines"
        )
        snags.append(stop("intake.crossing", words, {"x": round(c.x, 3), "y": round(c.y, 3)}))
    if len(found) > MOST_SAID:
        snags.append(
            stop("intake.crossing", f"{name}: {len(found) - MOST_SAID} further places where outlines cross")
        )
    groups: list[set[int]] = []
    for c in found:
        together = [g for g in groups if g & set(c.loops)]
        groups = [g for g in groups if g not in together] + [set(c.loops).union(*together)]
    gone = {id(sized[k]) for g in groups for k in g}
    return [c for c in loops if id(c) not in gone] + [
        b for g in groups for b in even_odd([sized[k] for k in sorted(g)])
    ]


def _say_healing(
    name: str,
    healing: list[HealLine],
    dust: list[Contour],
    cut: Healed,
    found: list[Region],
    snags: list[Snag],
) -> None:
    for h in healing:
        if h.id.split("/")[-1] == "join-lost":
            snags.append(look("intake.lost", f"{name}: {h.says}"))
        elif h.id.split("/")[-1] in ("twins", "twin-outlines") and h.applied:
            snags.append(note("intake.duplicates", f"{name}: {h.says}"))
        elif h.id.split("/")[-1] == "near-twins" and h.applied:
            snags.append(look("intake.near-twins", f"{name}: {h.says}"))
        elif h.id.split("/")[-1] in ("overlaps", "near-overlaps", "pinch", "refit") and h.applied:
            snags.append(
                note(
                    "intake.healed",
                    f"{name}: {h.says}{f'; largest deviation {h.deviation:.3f} mm' if h.deviation else ''}",
                )
            )
    if dust:
        snags.append(
            note(
                "intake.dust",
                f"{name}: {len(dust)} closed loop{'s' * (len(dust) != 1)} under {SMALLEST} mm2 left out",
            )
        )
    for x, y in cut.branches[:5]:
        snags.append(
            look(
                "intake.branch",
                f"{name}: three or more lines meet at {x:.2f}, {y:.2f} mm; the spaces between them became"
                " separate outlines",
                {"x": round(x, 3), "y": round(y, 3)},
            )
        )


def _open_lines(
    lines: list[Contour], how: HowRead, healing: list[HealLine]
) -> tuple[list[Contour], list[Contour]]:
    """Open lines on cut layers: those a person wants engraved, and the rest."""
    engraved: list[Contour] = []
    rest: list[Contour] = []
    for k, c in enumerate(lines):
        on = how.chosen.get(f"open:{k}", how.chosen.get("open", False))
        (engraved if on else rest).append(c)
    if lines:
        from venzo.core.parts.healing import MOST_ITEMS, HealItem

        n = len(lines)
        says = f"{n} open line{'s' * (n != 1)} {'engraved' if engraved and not rest else 'not cut'}"
        healing.append(
            HealLine(
                id="open",
                says=says,
                count=n,
                before=n,
                after=len(engraved),
                applied=not engraved,
                items=tuple(
                    HealItem(id=f"open:{k}", rows=c.rows(3)) for k, c in enumerate(lines[:MOST_ITEMS])
                ),
            )
        )
    return engraved, rest


def _say_open(name: str, lines: list[Contour], found: list[Region], snags: list[Snag]) -> None:
    boxes = np.array([r.outline.bbox for r in found]).reshape(-1, 4)
    for c in lines:
        x0, y0, x1, y1 = c.bbox
        within = int(
            ((boxes[:, 0] > x0) & (boxes[:, 1] > y0) & (boxes[:, 2] < x1) & (boxes[:, 3] < y1)).sum()
        )
        if within:
            snags.append(
                look(
                    "intake.open-around",
                    f"{name}: the open line around {within} closed shape{'s' * (within != 1)} is probably"
                    " their outline; they were taken for parts of their own. Close the outline before"
                    " cutting",
                    {"x": round(x0, 3), "y": round(y0, 3)},
                )
            )
    for c in lines[:5]:
        a, b = c.vertices[0], c.vertices[-1]
        gap = float(np.hypot(*(a - b)[:2]))
        mend = (
            f"close it in the drawing or read it with a join tolerance above {gap:.2f} mm"
            if gap < 10
            else "close it in the drawing, or have it engraved"
        )
        closer = (
            (
                Remedy(
                    label=f"Join within {gap * 1.2:.2f} mm",
                    command={"kind": "read-again", "join": round(gap * 1.2 + 0.005, 3)},
                ),
            )
            if 1e-4 < gap < 3
            else ()
        )
        snags.append(
            look(
                "intake.open",
                f"{name}: an open line from {a[0]:.2f}, {a[1]:.2f} to {b[0]:.2f}, {b[1]:.2f} mm (ends"
                f" {gap:.2f} mm apart) is not cut; {mend}",
                {"x": round(float(a[0]), 3), "y": round(float(a[1]), 3)},
                *closer,
            )
        )
    if len(lines) > 5:
        snags.append(look("intake.open", f"{name}: {len(lines) - 5} further open lines are not cut"))


def _by_face(groups: Mapping[str, list[Contour]], faces: Mapping[str, Face]) -> dict[str, list[Contour]]:
    """Lines by role, what is cut into the back apart: a groove on each face at the same place is two."""
    out: dict[str, list[Contour]] = {}
    for role, chains in groups.items():
        if role in ("cut", "leave out"):
            out[role] = chains
            continue
        for c in chains:
            name = role + (ON_BACK if face_of(c.layer, faces) == "back" else "")
            out.setdefault(name, []).append(c)
    return out


def _with_features(
    found: list[Region], features: list[tuple[str, Contour]], unit: str, faces: Mapping[str, Face]
) -> tuple[list[tuple[Region, list[Feature]]], int]:
    """Each region with the features that lie in it (in drawing coordinates), and how many lie in none."""
    out: list[tuple[Region, list[Feature]]] = [(r, []) for r in found]
    if not features:
        return out, 0
    tree = shapely.STRtree(polygons([r.outline for r in found], 0.05))
    stray = 0
    for kind, c in sorted(features, key=lambda f: (f[0], f[1].bbox)):
        probe = shapely.Point(*(c.at(c.length / 2)[:2]))
        hits = tree.query(probe, predicate="intersects")
        if not len(hits):
            stray += 1
            continue
        owner = min(hits.tolist(), key=lambda k: found[k].outline.area)
        mine = out[owner][1]
        number = sum(f.kind == kind for f in mine) + 1
        own = c.oriented(True) if c.closed else c
        depth, face = depth_of(c.layer, unit), face_of(c.layer, faces)
        mine.append(Feature(kind, f"{kind} {number}", own, depth, face=face))
    return out, stray


def count_alike(found: list[tuple[Region, list[Feature]]], stem: str) -> list[FoundPart]:
    """Like shapes collapse into one part with a quantity; reading order is left to right, then up."""
    found = sorted(found, key=lambda f: (round(f[0].outline.bbox[0], 1), round(f[0].outline.bbox[1], 1)))
    parts: list[FoundPart] = []
    buckets: dict[tuple[int, int, int], list[tuple[FoundPart, Region, list[Feature]]]] = {}
    for r, features in found:
        area, around = r.area, r.perimeter
        key = (len(r.holes), len(features), round(around / 2))
        near = [pr for d in (-1, 0, 1) for pr in buckets.get((*key[:2], key[2] + d), ())]
        reach = LIKE * (around + 1)
        twin = next(
            (
                p
                for p, first, own in near
                if abs(first.area - area) <= reach and alike(first, r, own, features)
            ),
            None,
        )
        if twin:
            twin.quantity += 1
            continue
        shape, origin = Shape.of(r, features=features)
        p = FoundPart(stem, shape, 1, origin, r.outline.layer)
        parts.append(p)
        buckets.setdefault(key, []).append((p, r, features))
    if len(parts) > 1:
        for k, p in enumerate(parts):
            p.name = f"{stem} {k + 1}"
    return parts
