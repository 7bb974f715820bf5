"""What people do with drawings and parts in a job, without any web: take in, read again, compare, alter,
make, count by a cut list.
"""

from __future__ import annotations

import json
import re
import secrets
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from hashlib import sha256
from pathlib import PurePath
from typing import Any, Literal, Protocol

import shapely
from pydantic import ValidationError

from venzo.core.cuts.operations import Operation
from venzo.core.edits import AddDrawing, ApplyCutList, Command, ReviseDrawing, SetAlterations
from venzo.core.edits.asks import AlterPart, Remake
from venzo.core.edits.fields import with_changes
from venzo.core.geometry.regions import Region
from venzo.core.memo import memo
from venzo.core.model import Document, digest
from venzo.core.parts.alter import Alteration, alter
from venzo.core.parts.healing import HealLine
from venzo.core.parts.intake import FoundPart, HowRead, Intake, LayerSeen, take_in
from venzo.core.parts.layers import COMMON, LayerRule
from venzo.core.parts.made import TITLES, Made, Recipe, Sources
from venzo.core.parts.match import SAME_PART, align, carried, mirrored_in_place, rename, seen_in_mirror
from venzo.core.parts.measure import Judgement, corner_points, judge
from venzo.core.parts.shape import Feature, Shape
from venzo.core.plan import MOST_VERSIONS, ContourChoice, Drawing, Part, PartLine, PartVersion, Plan
from venzo.core.rules.propose import propose_operations
from venzo.core.snags import BadInput, plain_error
from venzo.core.tolerances import JOIN
from venzo.formats.cut_list import match_cut_list, read_cut_list
from venzo.formats.drawing_file import read_file
from venzo.formats.fonts import BUNDLED, Font, bundled
from venzo.store.store import Revision, Store

QUANTITY = re.compile(r"(?:^|[ _-])(?:x|qty)[ _-]?(\d{1,4})(?=$|[ _-])", re.I)
"""A quantity in a file name: ``rib_x4.dxf``, ``rib qty 4.dxf``."""


class ReadsDrawings(Protocol):
    """Reads a file as ``take_in`` does, perhaps elsewhere."""

    def read(self, data: bytes, name: str, how: HowRead, rules: Sequence[LayerRule]) -> Intake: ...


_apart: list[ReadsDrawings] = []


@contextmanager
def read_apart(reader: ReadsDrawings) -> Iterator[None]:
    """Have drawings read by a reader, such as one in a process of its own, for as long as a server runs."""
    _apart.append(reader)
    try:
        yield
    finally:
        _apart.remove(reader)


def read_drawing(
    data: bytes, filename: str, how: HowRead | None = None, rules: Sequence[LayerRule] = COMMON
) -> Intake:
    """Read and understand a file, remembered by its contents and settings; see ``take_in``."""
    how = how or HowRead()
    key = digest(filename, how, list(rules), sha256(data).hexdigest())
    if _apart:
        return memo("reading", key, lambda: _apart[-1].read(data, filename, how, rules))
    return memo("reading", key, lambda: take_in(read_file(data, filename), filename, how, rules=rules))


def _rules(plan: Plan, setup_id: str) -> Sequence[LayerRule]:
    setup = plan.setup(setup_id)
    if setup is None:
        raise BadInput(f"the plan has no setup {setup_id!r}")
    return setup.rules.layers


def _usable(intake: Intake) -> Intake:
    stops = [s for s in intake.snags if s.severity == "stop" and s.rule != "intake.crossing"]
    if stops:
        raise BadInput(stops[0].message)
    return intake


def _how(patch: Mapping[str, Any]) -> HowRead:
    try:
        return HowRead.model_validate(patch)
    except ValidationError as e:
        raise BadInput(plain_error(e)) from e


def take_drawing(
    store: Store,
    job: str,
    base: int,
    setup_id: str,
    filename: str,
    data: bytes,
    *,
    units: str = "auto",
    join: float = JOIN,
    adopt: Sequence[str] | None = None,
) -> tuple[Revision, Intake]:
    """Take a drawing into a job: its parts, or, where the plan already has a drawing of this name, its newer
    version.

    Args:
        join: mm; a newer version keeps what was said about the older one.
        adopt: of a newer version, only these parts (ids; ``new``: those the plan does not have yet); None:
        all.

    Raises:
        BadInput: nothing in it can be cut; the job stays as it is.
    """
    plan = store.get(job).plan
    command, intake = taking(store, plan, setup_id, filename, data, units=units, join=join, adopt=adopt)
    if command is None:
        return store.get(job), intake
    return store.apply(job, base, command), intake


def taking(
    store: Store,
    plan: Plan,
    setup_id: str,
    filename: str,
    data: bytes,
    *,
    units: str = "auto",
    join: float = JOIN,
    adopt: Sequence[str] | None = None,
) -> tuple[Command | None, Intake]:
    """What takes a drawing into a plan, as ``take_drawing`` does; None: the file is there already, and there
    is nothing to take over. Its shapes and the file are stored, the plan is left as it is.

    Raises:
        BadInput: nothing in it can be cut.
    """
    filename = PurePath(filename.replace("\\", "/")).name[:200] or "drawing"
    old = _known(plan, filename)
    how = _how(_carried(old, units).model_dump() if old else {"join": join, "units": units})
    intake = _usable(read_drawing(data, filename, how, _rules(plan, setup_id)))
    blob = store.blobs.put(data)
    if old and adopt is None and (blob, how, old.kept, old.refused) == (old.blob, old.how, (), ()):
        return None, intake
    drawing = Drawing(
        id=old.id if old else f"d-{secrets.token_hex(3)}",
        filename=filename,
        blob=blob,
        units=intake.units,
        scale_mm=intake.scale_mm,
        how=how,
        revision=old.revision + 1 if old else 1,
        snags=tuple(intake.snags),
    )
    command: Command
    if old:
        parts, choices = _revised(
            store, plan, drawing, intake.parts, setup_id, intake.scale_mm / old.scale_mm, old.revision
        )
        if adopt is not None:
            parts, drawing = _adopted(store, plan, drawing, parts, adopt)
        command = ReviseDrawing(drawing=drawing, parts=tuple(parts), choices=_of_these(choices, parts, plan))
    else:
        parts_in = tuple(_part(store, plan, drawing, p, setup_id) for p in intake.parts)
        command = AddDrawing(
            drawing=drawing, parts=parts_in, operations=_proposal(store, plan, setup_id, parts_in)
        )
    return command, intake


def _of_these(
    choices: Sequence[ContourChoice], parts: Sequence[Part], plan: Plan
) -> tuple[ContourChoice, ...]:
    """The moved choices of those parts that get a new shape."""
    changed = {p.id for p in parts if (old := plan.part(p.id)) is not None and old.shape != p.shape}
    return tuple(c for c in choices if c.part in changed)


def _adopted(
    store: Store, plan: Plan, drawing: Drawing, parts: Sequence[Part], adopt: Sequence[str]
) -> tuple[list[Part], Drawing]:
    """The parts of a newer version as far as a person adopts them (ids; ``new:`` and the digest of a new one,
    or ``new`` for all), and the drawing that remembers the rest.
    """
    there = {p.id: p for p in plan.parts if p.drawing == drawing.id}
    out: list[Part] = []
    kept: list[str] = []
    refused: list[str] = []
    for p in parts:
        old = there.get(p.id)
        if old is None and ("new" in adopt or f"new:{p.shape}" in adopt):
            out.append(p)
        elif old is None:
            refused.append(p.shape)
        elif p.id in adopt or (p.shape, p.missing) == (old.shape, old.missing):
            out.append(p)
        else:
            out.append(old)
            kept.append(p.id)
    return out, drawing.model_copy(update={"kept": tuple(kept), "refused": tuple(refused)})


def _as_adopted(
    store: Store, plan: Plan, drawing: Drawing, parts: Sequence[Part], scale: float
) -> list[Part]:
    """The parts of a file read in another way, without what a person refused of it: kept parts stay (at the
    new scale), refused ones stay out.
    """
    there = {p.id: p for p in plan.parts}
    refused = [store.shapes[d].scaled(scale) for d in drawing.refused]
    out: list[Part] = []
    for p in parts:
        if p.id in drawing.kept and p.id in there:
            old = there[p.id]
            if abs(scale - 1) > 1e-9:
                drawn = store.shapes.put(store.shapes[old.drawn].scaled(scale)) if old.drawn else ""
                at = (old.origin[0] * scale, old.origin[1] * scale)
                old = old.model_copy(
                    update={
                        "shape": store.shapes.put(store.shapes[old.shape].scaled(scale)),
                        "drawn": drawn,
                        "origin": at,
                    }
                )
            out.append(old)
        elif p.id in there or not any(_same(store.shapes[p.shape], r) for r in refused):
            out.append(p)
    return out


MOST_ASKED = 200
"""Shapes that a proposal looks at."""


def _proposal(store: Store, plan: Plan, setup_id: str, parts: Sequence[Part]) -> tuple[Operation, ...] | None:
    """Operations that suit the parts of a drawing, where nobody has chosen any yet."""
    s = plan.setup(setup_id)
    if s is None or not s.as_proposed:
        return None
    shapes = [store.shapes[d] for d in dict.fromkeys([p.shape for p in (*plan.parts_of(setup_id), *parts)])]
    thickness = s.stock[0].thickness if s.stock else 18.0
    try:
        return propose_operations(s.cutters, s.material, thickness, s.rules, s.machine, shapes[:MOST_ASKED])
    except BadInput:
        return None


def _carried(old: Drawing, units: str = "auto") -> HowRead:
    """What was said about a drawing, as far as it holds for a newer file: items are counted in the file's
    order, so choices for single items do not.
    """
    chosen = {k: v for k, v in old.how.chosen.items() if ":" not in k or k.startswith("frame:")}
    return old.how.model_copy(update={"chosen": chosen, **({"units": units} if units != "auto" else {})})


def _known(plan: Plan, filename: str) -> Drawing | None:
    return next((d for d in plan.drawings if d.filename.lower() == filename.lower() and d.made is None), None)


def _drawing(plan: Plan, drawing_id: str) -> tuple[Drawing, str]:
    """A drawing of the plan and the setup its parts are in."""
    drawing = next((d for d in plan.drawings if d.id == drawing_id), None)
    part = next((p for p in plan.parts if p.drawing == drawing_id), None)
    if drawing is None or part is None:
        raise BadInput(f"the plan has no drawing {drawing_id!r}; it may have been removed")
    return drawing, part.setup


def read_again(
    store: Store, job: str, base: int, drawing_id: str, patch: Mapping[str, Any]
) -> tuple[Revision, Intake]:
    """Read a drawing that is in the plan again with other settings (fields of ``HowRead``; ``chosen`` and
    ``roles`` are added to), from the file as it came.
    """
    plan = store.get(job).plan
    drawing, setup_id = _drawing(plan, drawing_id)
    if drawing.made is not None:
        raise BadInput(f"{drawing.filename} was made here, not drawn; change its dimensions instead")
    now = drawing.how.model_dump()
    merged = {
        k: {**now[k], **v} if k in ("chosen", "roles", "faces") and isinstance(v, Mapping) else v
        for k, v in patch.items()
    }
    how = _how({**now, **merged})
    intake = _usable(
        read_drawing(store.blobs.get(drawing.blob), drawing.filename, how, _rules(plan, setup_id))
    )
    scale = intake.scale_mm / drawing.scale_mm
    refused = tuple(store.shapes.put(store.shapes[d].scaled(scale)) for d in drawing.refused)
    new = drawing.model_copy(
        update={
            "how": how,
            "units": intake.units,
            "scale_mm": intake.scale_mm,
            "snags": tuple(intake.snags),
            "refused": refused,
        }
    )
    revised, choices = _revised(store, plan, new, intake.parts, setup_id, scale, None)
    parts = _as_adopted(store, plan, drawing, revised, scale)
    # the same thing, carved instead of cut out or the other way about: it keeps its name, its number and its
    # place on the screen
    if "board" in patch or how.board is not None:
        gone = [p for p in parts if p.missing]
        fresh = next((p for p in parts if not p.missing and plan.part(p.id) is None), None)
        if gone and fresh:
            kept = fresh.model_copy(
                update={"id": gone[0].id, "name": gone[0].name, "lines": gone[0].lines, "note": gone[0].note}
            )
            parts = [kept if p is fresh else p for p in parts if p is not gone[0]]
    said = ", ".join(sorted(patch))
    command = ReviseDrawing(
        drawing=new,
        parts=tuple(p for p in parts if not p.missing),
        choices=_of_these(choices, parts, plan),
        gone=tuple(p.id for p in parts if p.missing),
        why=f"read again ({said})"[:200],
    )
    return store.apply(job, base, command), intake


class ReadingDocument(Document):
    """What was done while reading a drawing: settings, layers, the healing list; ``open``: lines that bound
    nothing, as vertex rows.
    """

    drawing: str
    how: HowRead
    healing: list[HealLine]
    layers: list[LayerSeen]
    made: Recipe | None
    open: list[list[list[float]]]


def reading(store: Store, plan: Plan, drawing_id: str) -> ReadingDocument:
    """What was done while reading a drawing: settings, layers, the healing list with where each thing is."""
    drawing, setup_id = _drawing(plan, drawing_id)
    if drawing.made is not None:
        return ReadingDocument(
            drawing=drawing_id, how=drawing.how, healing=[], layers=[], made=drawing.made, open=[]
        )
    intake = read_drawing(
        store.blobs.get(drawing.blob), drawing.filename, drawing.how, _rules(plan, setup_id)
    )
    rows = [c.rows(3) for c in intake.open_contours[:200]]
    return ReadingDocument(
        drawing=drawing_id,
        how=drawing.how,
        healing=list(intake.healing),
        layers=list(intake.layers),
        made=None,
        open=rows,
    )


def scale_to(
    store: Store,
    job: str,
    base: int,
    drawing_id: str,
    width: float | None = None,
    height: float | None = None,
    inside: str | None = None,
    margin: float = 0.0,
) -> Revision:
    """Scale a drawing evenly to a width or height of everything in it, or to fit inside the outline of
    another part with a margin.

    Raises:
        BadInput: no size or several; a size that cannot be.
    """
    plan = store.get(job).plan
    drawing, _setup = _drawing(plan, drawing_id)
    if sum(v is not None for v in (width, height, inside)) != 1:
        raise BadInput("say one of width, height or the part to fit inside")
    mine = [p for p in plan.parts if p.drawing == drawing_id and not p.missing]
    shapes = [store.shapes[p.drawn or p.shape].region.outline.moved(*p.origin) for p in mine]
    x0, y0 = min(c.bbox[0] for c in shapes), min(c.bbox[1] for c in shapes)
    x1, y1 = max(c.bbox[2] for c in shapes), max(c.bbox[3] for c in shapes)
    if inside is not None:
        target = plan.part(inside)
        if target is None or target.drawing == drawing_id:
            raise BadInput("choose a part of another drawing to fit inside")
        k = _largest_inside(
            shapely.convex_hull(shapely.union_all([shapely.Polygon(c.points(0.1)) for c in shapes])),
            store.shapes[target.shape],
            margin,
        )
        if k <= 0:
            raise BadInput(f"nothing fits inside {target.name} with a margin of {margin:g} mm")
    else:
        want, have = (width, x1 - x0) if width is not None else (height, y1 - y0)
        assert want is not None
        if not 0.1 <= want <= 50_000:
            raise BadInput(f"a size of {want:g} mm is outside 0.1 to 50,000 mm")
        edge = 2 * drawing.how.board if drawing.how.board else 0.0  # the margin of a board stays as it is
        if want <= edge or have <= edge:
            raise BadInput(
                f"{want:g} mm leave nothing between the board's margins of {edge / 2:g} mm; take a smaller"
                " margin"
            )
        k = (want - edge) / (have - edge)
    return read_again(store, job, base, drawing_id, {"scale": drawing.how.scale * k})[0]


def _largest_inside(hull: shapely.Polygon, shape: Shape, margin: float) -> float:
    """Largest even scale at which the hull, its middle at the roomiest place of the outline, keeps the
    margin.
    """
    room = shapely.Polygon(shape.region.outline.points(0.05)).buffer(-margin)
    if room.is_empty:
        return 0.0
    best = 0.0
    own = hull.centroid
    for spot in (
        room.centroid,
        shapely.Point(shapely.maximum_inscribed_circle(room, tolerance=0.5).coords[0]),
    ):
        low, high = (
            0.0,
            max(room.bounds[2] - room.bounds[0], room.bounds[3] - room.bounds[1])
            / max(hull.length / 8, 1e-9),
        )
        for _ in range(40):
            middle = (low + high) / 2
            placed = shapely.affinity.translate(
                shapely.affinity.scale(hull, middle, middle, origin=(own.x, own.y)),
                spot.x - own.x,
                spot.y - own.y,
            )
            if room.covers(placed):
                low = middle
            else:
                high = middle
        best = max(best, low)
    return best


def _part(store: Store, plan: Plan, drawing: Drawing, found: FoundPart, setup_id: str) -> Part:
    """A part new to the plan, its shape kept."""
    return _new_part(plan, drawing, found, setup_id, store.shapes.put(found.shape))


def _new_part(plan: Plan, drawing: Drawing, found: FoundPart, setup_id: str, shape: str) -> Part:
    """A part new to the plan; a quantity in the file's name multiplies what the drawing holds."""
    m = QUANTITY.search(PurePath(drawing.filename).stem) if drawing.made is None else None
    times = int(m.group(1)) if m else 1
    name = QUANTITY.sub("", found.name).strip(" _-") or found.name
    return Part(
        id=f"p-{secrets.token_hex(3)}",
        name=name.replace("_", " "),
        setup=setup_id,
        drawing=drawing.id,
        shape=shape,
        origin=found.origin,
        lines=(PartLine(order=plan.orders[0].id, quantity=found.quantity * times),),
    )


def _drawn(f: FoundPart) -> tuple[Region, list[Feature]]:
    """A found part where it lies in its drawing."""
    x, y = f.origin
    return f.shape.region.placed(x, y), [k.changed(lambda c: c.moved(x, y)) for k in f.shape.features]


def _same(a: Shape, b: Shape) -> bool:
    """Do two shapes differ by no more than a hair along their contours?"""
    if a.digest == b.digest:
        return True
    off = a.region.polygon(0.01).buffer(0).symmetric_difference(b.region.polygon(0.01).buffer(0)).area
    return len(a.features) == len(b.features) and off < 0.01 * (1 + a.region.perimeter / 100)


@dataclass(frozen=True)
class Match:
    """An old part and the new one that it is; ``origin``: where the old part's frame lies in the new drawing;
    ``mirrored``: it is the old one in a mirror.
    """

    part: Part
    found: FoundPart
    origin: tuple[float, float]
    mirrored: bool = False


def _matches(store: Store, plan: Plan, drawing: str, found: Sequence[FoundPart], scale: float) -> list[Match]:
    """Which old part is which new one."""
    olds = [p for p in plan.parts if p.drawing == drawing]
    known = {p.id: store.shapes[p.drawn or p.shape].scaled(scale) for p in olds}
    scored = []
    for i, f in enumerate(found):
        drawn = f.shape.region.placed(*f.origin)
        for p in olds:
            was = (p.origin[0] * scale, p.origin[1] * scale)
            x, y, share = align(known[p.id], drawn, was)
            turned = (
                None if p.alterations else seen_in_mirror(known[p.id], *_drawn(f), (x, y, share), was)
            )  # alterations are anchored in the part as it was drawn
            x, y, share = turned or (x, y, share)
            if share >= SAME_PART:
                scored.append((share, p.name == f.name, i, Match(p, f, (x, y), turned is not None)))
    out, used, taken = [], set(), set()
    for _share, _same, i, m in sorted(scored, key=lambda t: (-round(t[0], 3), not t[1], t[3].mirrored, t[2])):
        if m.part.id not in taken and i not in used:
            used.add(i)
            taken.add(m.part.id)
            out.append(m)
    return out


def _as_matched(store: Store, m: Match, scale: float) -> tuple[Shape, Shape]:
    """The old part at the new scale, in the mirror where it is one, and the new one in its frame with its
    names.
    """
    old = store.shapes[m.part.drawn or m.part.shape].scaled(scale)
    old = mirrored_in_place(old) if m.mirrored else old
    return old, rename(old, *_drawn(m.found), m.origin)


def _revised(
    store: Store,
    plan: Plan,
    drawing: Drawing,
    found: list[FoundPart],
    setup_id: str,
    scale: float = 1.0,
    was: int | None = None,
) -> tuple[list[Part], list[ContourChoice]]:
    """Old parts with their new shapes and their alterations made again, new parts, and vanished parts marked
    missing; and the hand choices whose places moved with their contours.

    ``scale``: how much larger the new reading is where the unit was corrected; the old shapes are compared at
    that size. ``was``: the drawing's former revision, kept as a version of each part that changed.
    """
    olds = [p for p in plan.parts if p.drawing == drawing.id]
    out: dict[str, Part] = {}
    choices: list[ContourChoice] = []
    matched = _matches(store, plan, drawing.id, found, scale)
    for m in matched:
        p = m.part
        _old, drawn = _as_matched(store, m, scale)
        shape = alter(drawn, p.alterations, store.shapes.surfaces)[0]
        choices += _moved_choices(plan, m, store.shapes[p.shape], shape)
        new = {
            "shape": store.shapes.put(shape),
            "drawn": store.shapes.put(drawn) if p.alterations else "",
            "origin": m.origin,
            "missing": False,
        }
        if was is not None and new["shape"] != p.shape:
            new["versions"] = (*p.versions, PartVersion(shape=p.shape, drawing_revision=was, note=p.note))[
                -MOST_VERSIONS:
            ]
            new["note"] = ""
        out[p.id] = p.model_copy(update=new)
    for p in olds:
        if p.id not in out:
            out[p.id] = p.model_copy(update={"missing": True})
    fresh = [f for f in found if all(f is not m.found for m in matched)]
    return [*out.values(), *(_part(store, plan, drawing, f, setup_id) for f in fresh)], choices


def _moved_choices(plan: Plan, m: Match, old: Shape, new: Shape) -> list[ContourChoice]:
    """The hand choices of a part whose tabs or start lie elsewhere in its newer version."""
    was = mirrored_in_place(old) if m.mirrored else old
    box = old.region.outline.bbox
    olds, news = ({**dict(s.contours), **{f.name: f.contour for f in s.features}} for s in (was, new))

    def there(c: ContourChoice, point: tuple[float, float]) -> tuple[float, float]:
        seen = (box[0] + box[2] - point[0], point[1]) if m.mirrored else point
        return carried(seen, olds[c.contour], news[c.contour])

    out = []
    for c in plan.choices:
        if (
            c.part != m.part.id
            or c.contour not in olds
            or c.contour not in news
            or (c.tabs is None and c.start is None)
        ):
            continue
        moved = c.model_copy(
            update={
                "tabs": c.tabs and tuple(there(c, t) for t in c.tabs),
                "start": c.start and there(c, c.start),
            }
        )
        if moved != c:
            out.append(moved)
    return out


State = Literal["same", "mirrored", "changed", "missing", "new"]


@dataclass(frozen=True)
class PartPair:
    """A part in the old and the newer drawing (digests of shapes); ``choices``: contours chosen on by hand,
    ``lost``: what of it cannot stay, ``added``: new features.
    """

    id: str
    name: str
    state: State
    old: str | None
    new: str | None
    area_mm2: tuple[float, float]
    choices: list[str]
    lost: list[str]
    added: list[str]


@dataclass(frozen=True)
class Effect:
    """What adopting a newer drawing whole would do to a setup: layout before and after, and new stops."""

    setup: str
    layout: tuple[str, str]
    stops: list[str]


@dataclass(frozen=True)
class Comparison:
    """What a newer file of a known drawing changes."""

    file: str
    drawing: str
    revision: int
    parts: list[PartPair]
    effects: list[Effect]


def compare(store: Store, plan: Plan, setup_id: str, filename: str, data: bytes) -> Comparison:
    """What a newer file of a known drawing changes, part by part, without taking it in."""
    filename = PurePath(filename.replace("\\", "/")).name[:200]
    old = _known(plan, filename)
    if old is None:
        raise BadInput(f"{filename}: the job has no drawing of this name to compare with")
    intake = _usable(read_drawing(data, filename, _carried(old), _rules(plan, setup_id)))
    matched = _matches(store, plan, old.id, intake.parts, intake.scale_mm / old.scale_mm)
    seen = {m.part.id for m in matched}
    gone = [p for p in plan.parts if p.drawing == old.id and p.id not in seen]
    fresh = [f for f in intake.parts if all(f is not m.found for m in matched)]
    parts = [
        *(_paired(store, plan, m) for m in matched),
        *(_gone(store, plan, p) for p in gone),
        *(_fresh(store, f) for f in fresh),
    ]
    return Comparison(filename, old.id, old.revision + 1, parts, _effects(store, plan, old, intake, setup_id))


def _paired(store: Store, plan: Plan, m: Match) -> PartPair:
    p = m.part
    before, drawn = _as_matched(store, m, 1.0)
    after, lost, _r = alter(drawn, p.alterations, store.shapes.surfaces)
    now = store.shapes[p.shape]
    held = _held(plan, p.id)
    there = {*after.names, *(f.name for f in after.features)}
    lost = [*lost, *(f"{c}: chosen by hand, not in the newer drawing" for c in held if c not in there)]
    state: State = "changed" if not _same(before, drawn) else "mirrored" if m.mirrored else "same"
    added = sorted({f.name for f in after.features} - {f.name for f in now.features})
    return PartPair(
        p.id,
        p.name,
        state,
        store.shapes.put(now),
        store.shapes.put(after),
        (now.region.area, after.region.area),
        held,
        lost,
        added,
    )


def _gone(store: Store, plan: Plan, p: Part) -> PartPair:
    held = _held(plan, p.id)
    return PartPair(
        p.id,
        p.name,
        "missing",
        p.shape,
        None,
        (store.shapes[p.shape].region.area, 0.0),
        held,
        [f"{c}: chosen by hand, goes with the part" for c in held],
        [],
    )


def _fresh(store: Store, f: FoundPart) -> PartPair:
    shape = store.shapes.put(f.shape)
    return PartPair(
        f"new:{shape}",
        f.name,
        "new",
        None,
        shape,
        (0.0, f.shape.region.area),
        [],
        [],
        [k.name for k in f.shape.features],
    )


def _held(plan: Plan, part_id: str) -> list[str]:
    """Contours of a part about which a person chose something."""
    return list(
        dict.fromkeys(
            [
                *(c.contour for c in plan.choices if c.part == part_id),
                *(c.contour for c in plan.steps if c.part == part_id and c.contour),
            ]
        )
    )


def _effects(store: Store, plan: Plan, old: Drawing, intake: Intake, setup_id: str) -> list[Effect]:
    """What adopting a newer reading whole would do to layout and stops, setup by setup."""
    from venzo.core.derive import derive

    new = old.model_copy(
        update={
            "revision": old.revision + 1,
            "units": intake.units,
            "scale_mm": intake.scale_mm,
            "snags": tuple(intake.snags),
        }
    )
    parts, choices = _revised(
        store, plan, new, intake.parts, setup_id, intake.scale_mm / old.scale_mm, old.revision
    )
    after = ReviseDrawing(drawing=new, parts=tuple(parts), choices=tuple(choices)).apply(plan)
    before = derive(plan, store.shapes)
    out = []
    for d in derive(after, store.shapes).values():
        was = before[d.setup.id]
        had = {s.message for s in was.snags}
        out.append(
            Effect(
                d.setup.id,
                (was.layout.state, d.layout.state),
                [s.message for s in d.snags if s.severity == "stop" and s.message not in had],
            )
        )
    return out


def alter_part(store: Store, job: str, base: int, ask: AlterPart) -> Revision:
    """Change a part after it was drawn.

    Raises:
        BadInput: no such part, or what cannot be made (naming it).
    """
    command, shape = alteration(store, store.get(job).plan, ask)
    return store.apply(job, base, command.model_copy(update={"shape": store.shapes.put(shape)}))


def alteration(store: Store, plan: Plan, ask: AlterPart) -> tuple[SetAlterations, Shape]:
    """The command that ``alter_part`` gives, and the shape that comes of it; nothing is stored.

    Raises:
        BadInput: as ``alter_part``.
    """
    p = plan.part(ask.part)
    if p is None:
        raise BadInput(f"the plan has no part {ask.part!r}; it may have been removed")
    more = () if ask.add is None else ask.add if isinstance(ask.add, tuple) else (ask.add,)
    if ask.drop is not None and ask.drop >= len(p.alterations):
        raise BadInput(f"{p.name} has no alteration {ask.drop + 1} any more; look again")
    kept = tuple(a for k, a in enumerate(p.alterations) if k != ask.drop)
    wanted = (*(kept if ask.alterations is None else ask.alterations), *more)
    drawn = p.drawn or p.shape
    command = SetAlterations(part=ask.part, alterations=wanted, shape=drawn, drawn=drawn)
    shape, lost, _removed = alter(store.shapes[drawn], command.alterations, store.shapes.surfaces)
    if more and shape.digest == store.shapes[p.shape].digest:  # nothing came of it: not worth keeping
        raise BadInput(f"{p.name}: {lost[-1] if lost else 'that changes nothing'}")
    if not shape.region.polygon(0.01).is_valid or shape.region.area <= 0:
        raise BadInput(
            f"{p.name}: that alteration would make the part cross itself; choose a smaller radius or width"
        )
    return command.model_copy(update={"shape": shape.digest}), shape


@dataclass(frozen=True)
class PartJudged:
    """Everything that can be measured of a part; ``alterations`` with the area each takes, mm2."""

    measured: Judgement
    corners: list[tuple[str, float, float, float, bool]]
    alterations: list[tuple[Alteration, float]]
    lines: list[tuple[str, str, bool]]
    """What a form may lie on: name, kind and whether it is closed."""
    versions: tuple[PartVersion, ...]
    drawn: str
    """Digest of the part as drawn."""


def judgement(store: Store, plan: Plan, part_id: str) -> PartJudged:
    """Everything that can be measured of a part, for the opened card."""
    p = plan.part(part_id)
    setup = plan.setup(p.setup) if p else None
    if p is None or setup is None:
        raise BadInput(f"the plan has no part {part_id!r}; it may have been removed")
    shape = store.shapes[p.shape]
    removed = alter(store.shapes[p.drawn], p.alterations, store.shapes.surfaces)[2] if p.alterations else []
    measured = judge(shape, [c for c in setup.cutters if setup.material.family in c.feeds])
    return PartJudged(
        measured,
        corner_points(shape),
        list(zip(p.alterations, removed, strict=True)),
        _lines_of(store.shapes[p.drawn or p.shape]),
        p.versions,
        p.drawn or p.shape,
    )


def _lines_of(drawn: Shape) -> list[tuple[str, str, bool]]:
    return [
        (drawn.names[0], "outline", True),
        *((f.name, f.kind, f.contour.closed) for f in drawn.features if f.kind != "relief"),
    ]


def draw(store: Store, recipe: Recipe) -> Made:
    """What a recipe makes, without taking it in."""
    return memo(
        "made",
        digest(recipe),
        lambda: recipe.make(Sources(lambda key: store.shapes[key], partial(font, store))),
    )


def fonts(store: Store) -> list[str]:
    """Names of the fonts that letters can be set in: those that ship with Venzo, then the shop's own."""
    own = store.folder / "fonts"
    return (
        [*BUNDLED, *sorted(p.name for p in own.iterdir() if p.suffix in (".ttf", ".otf"))]
        if own.is_dir()
        else list(BUNDLED)
    )


def font(store: Store, name: str) -> Font:
    """A font by name.

    Raises:
        BadInput: no such font.
    """
    if name in BUNDLED or name not in fonts(store):
        return bundled(name)
    return memo(
        "font",
        digest(str(store.folder), name),
        lambda: Font((store.folder / "fonts" / name).read_bytes(), name),
    )


def add_font(store: Store, filename: str, data: bytes) -> str:
    """Keep a TTF or OTF font with the shop's data; returns the name it is chosen by. A font of a known name
    is not replaced: jobs rely on it.

    Raises:
        BadInput: not a font, or the name is taken by another font.
    """
    path = PurePath(filename.replace("\\", "/"))
    name = re.sub(r"[^A-Za-z0-9._-]+", "-", path.stem)[:60] + path.suffix.lower()
    if path.suffix.lower() not in (".ttf", ".otf"):
        raise BadInput(f"{filename}: fonts are TTF or OTF files")
    Font(data, filename)
    own = store.folder / "fonts"
    own.mkdir(exist_ok=True)
    target = own / name
    if target.exists():
        if target.read_bytes() != data:
            raise BadInput(
                f"{filename}: the shop has another font of this name, and jobs may rely on it; rename the"
                " file"
            )
        return name
    whole = target.with_suffix(".part")
    whole.write_bytes(data)
    whole.replace(target)
    return name


def make_parts(
    store: Store, job: str, base: int, setup_id: str, recipe: Recipe, drawing_id: str | None = None
) -> Revision:
    """Take the parts of a recipe into a job, or change the recipe of parts that were made before."""
    plan = store.get(job).plan
    _rules(plan, setup_id)
    if drawing_id is not None:
        return _kept(store, job, base, _remaking(store, plan, drawing_id, recipe))
    found = _of_recipe(store, recipe)
    blob = store.blobs.put(_body(recipe))
    taken = {d.filename for d in plan.drawings}
    title = TITLES[recipe.kind]
    name = (
        title
        if title not in taken
        else next(f"{title} {n}" for n in range(2, 10_000) if f"{title} {n}" not in taken)
    )
    drawing = Drawing(
        id=f"d-{secrets.token_hex(3)}", filename=name, blob=blob, units="mm", scale_mm=1.0, made=recipe
    )
    return store.apply(
        job,
        base,
        AddDrawing(drawing=drawing, parts=tuple(_part(store, plan, drawing, f, setup_id) for f in found)),
    )


def _of_recipe(store: Store, recipe: Recipe) -> list[FoundPart]:
    """The parts of a recipe side by side, so that each has a place of its own in the drawing."""
    out, x = [], 0.0
    for p in draw(store, recipe).parts:
        out.append(FoundPart(p.name, p.shape, p.quantity, (x, 0.0)))
        x += p.shape.size[0] + 20
    return out


def _body(recipe: Recipe) -> bytes:
    """A recipe as it is kept."""
    return json.dumps(recipe.model_dump(mode="json"), sort_keys=True).encode()


@dataclass(frozen=True)
class Remaking:
    """A command that makes parts anew, with the shapes that it names and the file they came from."""

    command: ReviseDrawing
    shapes: dict[str, Shape]
    body: bytes


def remake(store: Store, job: str, base: int, ask: Remake) -> Revision:
    """Make the parts of a recipe anew with some dimensions changed.

    Raises:
        BadInput: no such drawing or dimension, or what cannot be made.
    """
    return _kept(store, job, base, remaking(store, store.get(job).plan, ask))


def remaking(store: Store, plan: Plan, ask: Remake) -> Remaking:
    """What ``remake`` does; nothing is stored.

    Raises:
        BadInput: as ``remake``.
    """
    old, _setup = _drawing(plan, ask.drawing)
    if old.made is None:
        raise BadInput(f"{old.filename} was drawn, not made here; it has no dimensions to change")
    recipe = with_changes(old.made, dict(ask.fields), old.filename)
    return _remaking(store, plan, ask.drawing, recipe)


def _remaking(store: Store, plan: Plan, drawing_id: str, recipe: Recipe) -> Remaking:
    old, setup_id = _drawing(plan, drawing_id)
    body = _body(recipe)
    new = old.model_copy(
        update={"made": recipe, "blob": store.blobs.name(body), "revision": old.revision + 1}
    )
    return _remade(store, plan, new, _of_recipe(store, recipe), setup_id, body)


def _kept(store: Store, job: str, base: int, made: Remaking) -> Revision:
    """Keep what a remaking made, and its command."""
    store.blobs.put(made.body)
    for shape in made.shapes.values():
        store.shapes.put(shape)
    return store.apply(job, base, made.command)


def _remade(
    store: Store, plan: Plan, drawing: Drawing, found: list[FoundPart], setup_id: str, body: bytes
) -> Remaking:
    """Parts of a changed recipe: the same by name, whatever their size; quantities set by hand stay, places
    chosen on their contours move with these.
    """
    shapes: dict[str, Shape] = {}

    def named(shape: Shape) -> str:
        shapes[shape.digest] = shape
        return shape.digest

    olds = [p for p in plan.parts if p.drawing == drawing.id]
    out: list[Part] = []
    left = list(found)
    choices: list[ContourChoice] = []
    for p in olds:
        f = next(
            (f for f in left if f.name.replace("_", " ") == p.name),
            left[0] if len(olds) == len(found) and left else None,
        )
        if f is None:
            out.append(p.model_copy(update={"missing": True}))
            continue
        left.remove(f)
        shape = alter(f.shape, p.alterations, store.shapes.surfaces)[0]
        choices += _moved_choices(plan, Match(p, f, f.origin), store.shapes[p.shape], shape)
        out.append(
            p.model_copy(
                update={
                    "shape": named(shape),
                    "drawn": named(f.shape) if p.alterations else "",
                    "origin": f.origin,
                    "missing": False,
                }
            )
        )
    parts = (*out, *(_new_part(plan, drawing, f, setup_id, named(f.shape)) for f in left))
    command = ReviseDrawing(drawing=drawing, parts=parts, choices=tuple(choices), why="dimensions changed")
    return Remaking(command, shapes, body)


def take_cut_list(
    store: Store, job: str, base: int, setup_id: str, filename: str, data: bytes
) -> tuple[Revision, list[str]]:
    """Apply a CSV cut list to the parts of a setup by name; returns what could not be applied."""
    plan = store.get(job).plan
    setup = plan.setup(setup_id)
    if setup is None:
        raise BadInput(f"the plan has no setup {setup_id!r}")
    lines, said = match_cut_list(
        read_cut_list(data, filename),
        plan.parts_of(setup_id),
        setup.material.name,
        [s.thickness for s in setup.stock],
        filename,
    )
    return (
        store.apply(
            job, base, ApplyCutList(name=filename[:200], order=plan.orders[0].id, lines=tuple(lines))
        ),
        said,
    )
