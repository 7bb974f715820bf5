"""What people do with a shop's data, without any web: start a job, take drawings in, derive, release.

The command line and the API both work through this room.
"""

from __future__ import annotations

import io
import re
import secrets
import zipfile
from functools import partial
from pathlib import PurePath
from typing import Any

from venzo.core import derive as derivation
from venzo.core.edits import AddDrawing, Command, ReviseDrawing
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.intake import FoundPart, Intake, read_file, take_in
from venzo.core.parts.match import SAME_PART, align, rename
from venzo.core.parts.shape import Shape
from venzo.core.plan import Drawing, Order, Part, PartLine, Plan, Setup
from venzo.core.proof.check import Proof, prove
from venzo.core.release import ProgramFile, contents, programs, slug
from venzo.core.rules.house import HouseRules
from venzo.core.rules.propose import propose_operations
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.tolerances import JOIN
from venzo.core.tooling.cutter import Cutter
from venzo.store.store import Revision, Store

QUANTITY = re.compile(r"(?:^|[ _-])(?:x|qty)[ _-]?(\d{1,4})(?=$|[ _-])", re.I)
"""A quantity in a file name: ``rib_x4.dxf``, ``rib qty 4.dxf``."""


def new_setup(store: Store, machine: str | None = None, material: str | None = None, setup_id: str = "main") -> Setup:
    """A setup from the shop library: the named (or first) machine and material, every cutter that suits, the shop's rules.

    Raises:
        BadInput: the library lacks what is needed.
    """
    def pick(kind: str, wanted: str | None) -> dict[str, Any]:
        items = store.library(kind)
        found = next((i for i in items if wanted is None or i["id"] == wanted), None)
        if found is None:
            raise BadInput(f"the shop library has no {kind} {wanted!r}" if wanted else f"the shop library has no {kind} yet; enter one first")
        return found

    m, mat = Machine.model_validate(pick("machine", machine)), Material.model_validate(pick("material", material))
    rules = store.library("rules")
    house = HouseRules.model_validate({k: v for k, v in rules[0].items() if k != "id"}) if rules else HouseRules()
    cutters = tuple(c for c in (Cutter.model_validate(c) for c in store.library("cutter")) if mat.family in c.feeds)
    stock = [Stock.model_validate({k: v for k, v in s.items() if k != "material"}) for s in store.library("stock") if s.get("material") == mat.id]
    thickness = stock[0].thickness if stock else 18.0
    return Setup(id=setup_id, name=mat.name, machine=m, material=mat, cutters=cutters, rules=house, stock=tuple(stock[:1]), zones_on=tuple(z.id for z in m.zones),
                 operations=propose_operations(cutters, mat, thickness, house, m), sheet_at=_first_place(m))


def _first_place(machine: Machine) -> tuple[float, float]:
    """Lower left corner of the table clear of dead areas that run along its left or lower edge."""
    x = max((d[2] for d in machine.dead_areas if d[0] <= 0 and d[3] - d[1] >= machine.height - 1), default=0.0)
    y = max((d[3] for d in machine.dead_areas if d[1] <= 0 and d[2] - d[0] >= machine.width - 1), default=0.0)
    return (x, y)


def new_job(store: Store, name: str, machine: str | None = None, material: str | None = None) -> Revision:
    """Start a job with one order and one setup."""
    if not name.strip():
        raise BadInput("the job needs a name")
    taken = {j["id"] for j in store.jobs()}
    base = slug(name)
    job_id = base if base not in taken else next(f"{base}-{n}" for n in range(2, 10_000) if f"{base}-{n}" not in taken)
    setup = new_setup(store, machine, material)
    return store.create(Plan(id=job_id, name=name.strip()[:200], orders=(Order(id="order-1", name="Order 1"),), setups=(setup,)))


def read_drawing(data: bytes, filename: str, units: str = "auto", join: float = JOIN) -> Intake:
    """Read and understand a file; see ``take_in``."""
    return take_in(read_file(data, filename), filename, units, join)


def take_drawing(store: Store, job: str, base: int, setup_id: str, filename: str, data: bytes, units: str = "auto", join: float = JOIN) -> tuple[Revision, Intake]:
    """Take a drawing into a job: its parts, or, where the plan already has a drawing of this name, its newer version.

    Raises:
        BadInput: nothing in it can be cut; the job stays as it is.
    """
    filename = PurePath(filename.replace("\\", "/")).name[:200] or "drawing"
    intake = read_drawing(data, filename, units, join)
    stops = [s for s in intake.snags if s.severity == "stop"]
    if stops:
        raise BadInput(stops[0].message)
    plan = store.get(job).plan
    if plan.setup(setup_id) is None:
        raise BadInput(f"the plan has no setup {setup_id!r}")
    blob = store.blobs.put(data)
    old = next((d for d in plan.drawings if d.filename.lower() == filename.lower()), None)
    drawing = Drawing(id=old.id if old else f"d-{secrets.token_hex(3)}", filename=filename, blob=blob, units=intake.units, scale_mm=intake.scale_mm, join=join,
                      revision=old.revision + 1 if old else 1, snags=tuple(intake.snags))
    command: Command
    if old:
        command = ReviseDrawing(drawing=drawing, parts=tuple(_revised(store, plan, drawing, intake.parts, setup_id, intake.scale_mm / old.scale_mm)))
    else:
        m = QUANTITY.search(PurePath(filename).stem)
        times = int(m.group(1)) if m else 1
        command = AddDrawing(drawing=drawing, parts=tuple(_part(store, plan, drawing, p, setup_id, times) for p in intake.parts))
    return store.apply(job, base, command), intake


def reread(store: Store, job: str, base: int, drawing_id: str, units: str) -> tuple[Revision, Intake]:
    """Read a drawing that is in the plan again in another unit, from the file as it came."""
    plan = store.get(job).plan
    drawing = next((d for d in plan.drawings if d.id == drawing_id), None)
    part = next((p for p in plan.parts if p.drawing == drawing_id), None)
    if drawing is None or part is None:
        raise BadInput(f"the plan has no drawing {drawing_id!r}")
    return take_drawing(store, job, base, part.setup, drawing.filename, store.blobs.get(drawing.blob), units, drawing.join)


def _part(store: Store, plan: Plan, drawing: Drawing, found: FoundPart, setup_id: str, times: int = 1) -> Part:
    name = QUANTITY.sub("", found.name).strip(" _-") or found.name
    return Part(id=f"p-{secrets.token_hex(3)}", name=name.replace("_", " "), setup=setup_id, drawing=drawing.id, shape=store.shapes.put(found.shape), origin=found.origin,
                lines=(PartLine(order=plan.orders[0].id, quantity=found.quantity * times),))


def _revised(store: Store, plan: Plan, drawing: Drawing, found: list[FoundPart], setup_id: str, scale: float = 1.0) -> list[Part]:
    """Old parts with their new shapes, new parts, and vanished parts marked missing.

    ``scale``: how much larger the new reading is where the unit was corrected; the old shapes are compared at that size.
    """
    known = {p.id: store.shapes[p.shape].scaled(scale) for p in plan.parts if p.drawing == drawing.id}
    olds = [p for p in plan.parts if p.drawing == drawing.id]
    scored = []
    for i, f in enumerate(found):
        drawn = f.shape.region.placed(*f.origin)
        for p in olds:
            x, y, share = align(known[p.id], drawn, (p.origin[0] * scale, p.origin[1] * scale))
            if share >= SAME_PART:
                scored.append((share, p.name == f.name, i, p, (x, y), drawn))
    out: dict[str, Part] = {}
    used: set[int] = set()
    for _share, _same, i, p, origin, drawn in sorted(scored, key=lambda t: (-round(t[0], 3), not t[1], t[2])):
        if p.id in out or i in used:
            continue
        used.add(i)
        shape = rename(known[p.id], drawn, origin)
        out[p.id] = p.model_copy(update={"shape": store.shapes.put(shape), "origin": origin, "missing": False})
    for p in olds:
        if p.id not in out:
            out[p.id] = p.model_copy(update={"missing": True})
    return [*out.values(), *(_part(store, plan, drawing, f, setup_id) for i, f in enumerate(found) if i not in used)]


def derive(store: Store, plan: Plan) -> dict[str, derivation.DerivedSetup]:
    """Everything that follows from a plan."""
    return derivation.derive(plan, store.shapes)


def prove_setup(store: Store, plan: Plan, derived: derivation.DerivedSetup) -> list[Proof]:
    """Write every sheet's programs, read them back and hold them against the plan; remembered while nothing changes."""
    files = programs(plan, derived)
    out = []
    for sheet in derived.sheets:
        own = [f for f in files if (f.sheet, f.copy_no) == (sheet.sheet, sheet.copy_no)]
        shapes: list[Shape] = [store.shapes[plan.part(q.part).shape] for q in sheet.pieces]  # type: ignore[union-attr]
        key = digest(sheet.key, [f.text for f in own], [s.digest for s in shapes], list(derived.setup.sheet_at), derived.setup.machine)
        out.append(memo("proof", key, partial(_prove, store, plan, derived, sheet, own)))
    return out


def _prove(store: Store, plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan, files: list[ProgramFile]) -> Proof:
    from venzo.formats.gcode import read

    return prove(plan, derived.setup, sheet, [(read(f.text, f.name), _number(derived.setup, f)) for f in files], store.shapes)


def _number(setup: Setup, file: ProgramFile) -> int:
    """Number of the cutter in the collet when a file starts."""
    cutter = setup.cutter(file.cutters[0]) if file.cutters else None
    return cutter.number if cutter else 0


def release(store: Store, plan: Plan, revision: int) -> tuple[list[tuple[str, bytes]], dict[str, Any]]:
    """Every file of a release with its manifest.

    A setup with a *stop* gets its papers but no programs: the manifest says so.
    """
    import json

    from venzo.formats.setup_sheet import setup_sheet

    files: list[tuple[str, bytes]] = []
    manifest: dict[str, Any] = {"job": plan.name, "revision": revision, "setups": [], "files": []}
    for derived in derive(store, plan).values():
        said = contents(plan, derived)
        ready: list[ProgramFile] = programs(plan, derived) if derived.sheets else []
        if ready and not said["stops"]:
            for proof in prove_setup(store, plan, derived):
                said["stops"] += [s.message for s in proof.snags if s.severity == "stop"]
        if said["stops"]:
            said["leaves_out"] = [*said["leaves_out"], *(f"program {p.name}: withheld until every stop is cleared" for p in ready)]
            held = ready
            ready = []
        else:
            held = []
        files += [(p.name, p.text.encode("ascii", "replace")) for p in ready]
        if derived.sheets:
            name = f"{slug(plan.name)}_{slug(derived.setup.name)}_setup-sheet.pdf"
            files.append((name, setup_sheet(plan, derived, ready or held, bool(ready), store.shapes, revision)))
        manifest["setups"].append(said)
    manifest["files"] = [n for n, _b in files]
    files.append(("release.json", json.dumps(manifest, indent=1).encode()))
    return files, manifest


def zipped(files: list[tuple[str, bytes]]) -> bytes:
    """Files as one zip archive."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for name, body in files:
            z.writestr(name, body)
    return out.getvalue()
