"""A whole job handed on: exported as one archive, and brought back, here or in another shop."""

from __future__ import annotations

import hashlib
import json
from typing import Literal

from venzo import __version__
from venzo.core.derive import DerivedSetup
from venzo.core.model import Document, Fields
from venzo.core.naming import free_id
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan
from venzo.core.release.file_names import slug
from venzo.core.relief.kept_surface import unpacked
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import Cutter, Holder
from venzo.core.tooling.head import HeadSetting
from venzo.desk import jobs, releases
from venzo.desk.cut_stock import SheetAt, sheet_of
from venzo.desk.yields import kept_of
from venzo.formats.cut_list import cut_list_csv
from venzo.formats.job_archive import Archive, ArchivedFile, Manifest, read_archive, safe_name, write_archive
from venzo.formats.nest_drawing import NestedSheet, nest_dxf, nest_svg
from venzo.store.blobs import Blobs
from venzo.store.store import Revision, Store


class Imported(Document):
    """A job that was brought in. ``same``: everything that follows from it is as it was where it came from;
    ``differs``: what is not. ``known``: of its machines, materials and cutters those that this shop has just
    so; ``others``: those that it has otherwise, which are offered at the job; ``brought``: those that were
    entered into its library; ``let_go``: stock that was of a lot in the rack there, and is of none here.
    """

    job: str
    name: str
    revision: int
    same: bool
    differs: list[str]
    known: list[str]
    others: list[str]
    brought: list[str]
    let_go: list[str]


def export(store: Store, revision: Revision) -> bytes:
    """A job's archive: plan, drawings and shapes, programs and papers, every sheet as DXF and SVG, the cut
    list.

    Raises:
        BadInput: a run of several jobs' sheets, which is nothing without them.
    """
    plan = revision.plan
    if plan.kind == "run":
        raise BadInput(f"{plan.name} runs sheets of other jobs; export those")
    files: dict[str, bytes] = {}
    named: dict[str, ArchivedFile] = {}
    names = {d.blob: d.filename for d in plan.drawings}
    for digest in sorted(plan.blobs):
        files[digest] = store.blobs.raw(digest)
        kind: Literal["drawing", "shape", "model"] = "shape"
        path = f"shapes/{digest}.json"
        if digest in names:
            kind, path = "drawing", f"drawings/{digest[:8]}-{safe_name(names[digest])}"
        elif digest in plan.surfaces:
            kind, path = "model", f"models/{digest}.npz"
        named[digest] = ArchivedFile(path=path, kind=kind, bytes=len(files[digest]))
    sheets, programs = _derived(store, plan)
    manifest = Manifest(
        made_with=__version__,
        revision=revision.number,
        plan=plan,
        files=named,
        sheets=sheets,
        programs=programs,
    )
    return write_archive(manifest, files, _for_people(store, revision))


def _derived(store: Store, plan: Plan) -> tuple[dict[str, str], dict[str, str]]:
    """Digests of what follows: every sheet's cuts, every program."""
    sheets: dict[str, str] = {}
    programs: dict[str, str] = {}
    for d in jobs.derive(store, plan, False).values():
        sheets |= {f"{d.setup.id}/{s.sheet}/{s.copy_no}": s.key for s in d.sheets}
        programs |= {
            f.name: hashlib.sha256(f.text.encode()).hexdigest() for f in jobs.programs(plan, d) if d.sheets
        }
    return sheets, programs


def _for_people(store: Store, revision: Revision) -> dict[str, bytes]:
    """Programs and papers as they are released, and every sheet as open vectors."""
    plan = revision.plan
    released, _manifest = releases.release(store, plan, revision.number)
    out = {f"release/{name}": body for name, body in released}
    for d in jobs.derive(store, plan, False).values():
        for s in d.sheets:
            drawn, base = _nested(store, plan, d, s)
            out |= {f"nest/{base}.dxf": nest_dxf(drawn), f"nest/{base}.svg": nest_svg(drawn)}
    if plan.parts:
        out["cut-list.csv"] = cut_list_csv(plan)
    return out


def _nested(store: Store, plan: Plan, d: DerivedSetup, s: SheetPlan) -> tuple[NestedSheet, str]:
    """A sheet as it is drawn, and what its file is called."""
    stock = d.setup.stock_of(s.sheet)
    assert stock is not None
    kept = [r for r, _worth in kept_of(store, plan, d, s)]
    name = safe_name(f"{d.setup.id}-{s.sheet}-{s.copy_no + 1}")
    return NestedSheet(plan, stock, s.pieces, store.shapes, kept), name


def nested(store: Store, plan: Plan, at: SheetAt, ending: Literal["dxf", "svg"]) -> tuple[str, bytes]:
    """A nested sheet as open vectors: the file's name and its bytes.

    Raises:
        BadInput: no such sheet.
    """
    d, sheet, _stock = sheet_of(store, plan, at)
    drawn, name = _nested(store, plan, d, sheet)
    return f"{slug(plan.name)}_{name}.{ending}", nest_dxf(drawn) if ending == "dxf" else nest_svg(drawn)


def bring_in(store: Store, data: bytes, name: str, bring: bool = False) -> Imported:
    """Bring a job in from its archive; nothing is changed unless all of it is sound. A job of the same id
    stays, the one that comes gets another.

    Args:
        bring: machines, materials and cutters that this shop does not have are entered into its library.

    Raises:
        BadInput: no archive of a job, a damaged or a hostile one, or one of another version.
    """
    archive = read_archive(data, name)
    _check_shapes(archive, name)
    plan = archive.manifest.plan
    taken = store.used_ids()
    plan, let_go = _without_lots(plan)
    own = free_id(plan.id, taken)
    if own != plan.id:
        # a board is found by the id of its job
        board = plan.surface.model_copy(update={"id": own}) if plan.surface else None
        plan = plan.model_copy(update={"id": own, "surface": board})
    for digest, body in archive.files.items():
        store.blobs.put_as(digest, body)
    says = f"brought in from {name[:120]}, there change {archive.manifest.revision}"
    revision = store.create(plan, says, archive.manifest.revision)
    brought = _bring_along(store, plan) if bring else []
    known, others = _matched(store, plan, brought)
    sheets, programs = _derived(store, plan)
    differs = [f"sheet {k}" for k, v in archive.manifest.sheets.items() if sheets.get(k) != v]
    differs += [f"program {k}" for k, v in archive.manifest.programs.items() if programs.get(k) != v]
    return Imported(
        job=own,
        name=plan.name,
        revision=revision.number,
        same=not differs,
        differs=differs[:40],
        known=known,
        others=others,
        brought=brought,
        let_go=let_go,
    )


def _without_lots(plan: Plan) -> tuple[Plan, list[str]]:
    """A plan whose stock is of no lot, and the names of what was: labels are those of the rack it came
    from, where the same label is another lot.
    """
    named = [k.name for s in plan.setups for k in s.stock if k.lot is not None]
    if not named:
        return plan, []
    setups = tuple(
        s.model_copy(update={"stock": tuple(k.model_copy(update={"lot": None}) for k in s.stock)})
        for s in plan.setups
    )
    return plan.model_copy(update={"setups": setups}), named


def _check_shapes(archive: Archive, name: str) -> None:
    """Every shape and model is read and must be the one that its digest names, before anything is stored."""
    for digest, f in archive.manifest.files.items():
        if f.kind == "model":
            if Blobs.name(archive.files[digest]) != digest:
                raise BadInput(f"{name}: {f.path} is not the model that the plan names; it was altered")
            unpacked(archive.files[digest], f"{name}: {f.path}")
        if f.kind != "shape":
            continue
        try:
            shape = Shape.from_json(json.loads(archive.files[digest]))
        except (ValueError, KeyError, TypeError, IndexError, RecursionError) as e:
            raise BadInput(f"{name}: {f.path} is no shape of a part; the archive is damaged") from e
        if shape.digest != digest:
            raise BadInput(f"{name}: {f.path} is not the shape that the plan names; it was altered")


def _of_library(plan: Plan) -> list[tuple[str, str, str, Fields]]:
    """(shelf, id, name, body) of the machines, materials, holders and cutters that a plan is pinned to."""
    out = {}
    for s in plan.setups:
        items: list[tuple[str, Machine | Material | Holder | Cutter | HeadSetting]] = [
            ("machine", s.machine),
            ("material", s.material),
            *(("holder", h) for h in s.holders),
            *(("cutter", c) for c in s.cutters),
            *(("head", h) for h in s.heads),
        ]
        for kind, item in items:
            out[kind, item.id] = (kind, item.id, item.name, item.model_dump(mode="json"))
    return list(out.values())


def _bring_along(store: Store, plan: Plan) -> list[str]:
    """Enter what the library does not have; a cutter whose number is taken gets the next free one."""
    brought = []
    numbers = {int(c["number"]) for c in store.library("cutter")}
    for kind, key, name, body in _of_library(plan):
        if any(x["id"] == key for x in store.library(kind)):
            continue
        if kind == "cutter":
            number = int(str(body["number"]))
            body["number"] = next(n for n in range(number, 1000) if n not in numbers)
            body["metres"] = 0.0
            numbers.add(int(str(body["number"])))
        store.put_library(kind, body, f"{name} came with {plan.name}")
        brought.append(f"{kind} {name}")
    return brought


def _matched(store: Store, plan: Plan, brought: list[str]) -> tuple[list[str], list[str]]:
    known: list[str] = []
    others: list[str] = []
    for kind, key, name, body in _of_library(plan):
        here = next((x for x in store.library(kind) if x["id"] == key), None)
        if here is None or f"{kind} {name}" in brought:
            continue
        same = _but_wear(here) == _but_wear(body)
        (known if same else others).append(f"{kind} {name}")
    return known, others


def _but_wear(body: Fields) -> Fields:
    """A thing of the library without what runs change about it."""
    return {k: v for k, v in body.items() if k != "metres"}
