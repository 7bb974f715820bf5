"""Routes of the shop library: entries, cutters as CSV, feeds advice."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Body, File, Form, Response, UploadFile
from pydantic import BaseModel, Field

from venzo.api.documents.common import Removed
from venzo.api.documents.library import AdviceDocument, FeedsProposed, OfferDocument, OnRun
from venzo.api.download import download
from venzo.core.feeds.adviser import CutNumbers, advise
from venzo.core.model import Fields
from venzo.core.parts.layers import LayerRule
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import Cutter
from venzo.desk import library
from venzo.store.store import NotFound, Store

Number = Annotated[float | None, Field(gt=0, le=1_000_000)]


class FeedsAsk(BaseModel):
    """A cut to judge; ids are the library's unless ``job`` and ``setup`` name a plan, whose own copies then
    count. What is not given follows the cutter or the window.
    """

    cutter: str
    material: str | None = None
    machine: str | None = None
    job: str | None = None
    setup: str | None = None
    rpm: Number = None
    feed: Number = None
    plunge: Number = None
    depth: Number = None
    width: Number = None
    flutes: Annotated[int | None, Field(ge=1, le=12)] = None
    diameter: Annotated[float | None, Field(gt=0.1, le=200)] = None
    cutting_length: Number = None


class Wear(BaseModel):
    """Metres to book on a cutter; ``sharpened``: it starts anew with them."""

    metres: float = 0.0
    sharpened: bool = False


class FeedsFor(BaseModel):
    """Which of the shop's materials a cutter is to cut."""

    material: Annotated[str, Field(max_length=80)]


def routes(store: Store) -> APIRouter:
    """The library's routes."""
    api = APIRouter(prefix="/api")

    @api.get("/library")
    def whole() -> library.LibraryDocument:
        """The shop library."""
        return library.everything(store)

    @api.post("/library/first-start")
    def first_start(said: library.FirstStart) -> library.LibraryDocument:
        """Set a new shop up with its machine, its materials and, if wanted, a usual rack of cutters; the
        whole library then.
        """
        library.first_start(store, said)
        return library.everything(store)

    @api.post("/library/layer-rules")
    def layer_rule(rule: LayerRule) -> library.Shelved:
        """Add to the shop's house rules what layers with these words mean; new jobs start with it."""
        with store.shelf:
            return library.put(
                store, "rules", library.rules(store).with_layer_rule(rule).model_dump(mode="json")
            )

    @api.get("/library/cutters.csv")
    def csv_out() -> Response:
        """All cutters as CSV."""
        return download(library.cutters_csv(store).encode(), "cutters.csv", "text/csv")

    @api.post("/library/cutters")
    async def csv_in(
        file: Annotated[UploadFile, File()],
        take: Annotated[bool, Form()] = False,
        leave: Annotated[str, Form()] = "",
    ) -> list[OfferDocument]:
        """What a CSV of cutters would change; with ``take``, done, but for the lines in ``leave``."""
        if not all(v.strip().isdigit() for v in leave.split(",") if v.strip()):
            raise BadInput("leave: line numbers with commas between them")
        skip = frozenset(int(v) for v in leave.split(",") if v.strip())
        found = library.import_cutters(store, await file.read(), file.filename or "cutters.csv", take, skip)
        return [
            OfferDocument(line=o.line, action=o.action, says=o.says, into=o.into, cutter=o.cutter)
            for o in found
        ]

    @api.put("/library/{kind}")
    def put(kind: str, item: Fields) -> library.Shelved:
        """Add or replace an entry."""
        return library.put(store, kind, item)

    @api.patch("/library/{kind}/{item}")
    def change(
        kind: str, item: str, fields: Annotated[Fields, Body(min_length=1, max_length=60)]
    ) -> library.Shelved:
        """Change only the fields named; nested ones are merged. The house rules are ``rules/house``."""
        return library.change(store, kind, item, fields)

    @api.delete("/library/{kind}/{item}")
    def remove(kind: str, item: str) -> Removed:
        """Take an entry out."""
        library.remove(store, kind, item)
        return Removed(removed=item)

    @api.post("/library/cutters/feeds")
    def propose() -> list[FeedsProposed]:
        """Feeds for every cutter that has none, for each kind of material the shop works."""
        return [FeedsProposed(cutter=c.id, families=families) for c, families in library.propose_feeds(store)]

    @api.post("/library/cutter/{item}/feeds")
    def propose_one(item: str, ask: FeedsFor) -> Cutter:
        """A cutter with feeds for a material, proposed where it has none; as it may come into a job."""
        library.propose_feeds(store, item, ask.material)
        found = next((c for c in library.cutters(store) if c.id == item), None)
        if found is None:
            raise NotFound(f"the library has no cutter {item!r}")
        return found

    @api.post("/library/cutter/{item}/wear")
    def wear(item: str, w: Wear) -> Cutter:
        """Book wear on a cutter."""
        return library.book_wear(store, item, w.metres, w.sharpened)

    @api.post("/feeds")
    def feeds(ask: FeedsAsk) -> AdviceDocument:
        """Judge a cut, or propose one."""
        cutter, material, machine, rules = _things(store, ask)
        given = {k: v for k in ("flutes", "diameter", "cutting_length") if (v := getattr(ask, k)) is not None}
        if given:
            cutter = library.checked(Cutter, {**cutter.model_dump(), **given}, cutter.name)
        advice = advise(
            cutter, material, rules, machine, CutNumbers(ask.rpm, ask.feed, ask.depth, ask.width, ask.plunge)
        )
        acceleration = machine.acceleration if machine else 800.0
        v = min(advice.feed, machine.fastest_feed if machine else advice.feed) / 60
        reached = [
            OnRun(length=length, feed=round(min(v, (acceleration * length) ** 0.5) * 60, 1))
            for length in (5, 10, 20, 50, 100, 200, 500)
        ]
        return AdviceDocument(
            **vars(advice),
            flutes=cutter.flutes,
            diameter=cutter.diameter,
            rpm_range=(machine.rpm_min, machine.rpm_max) if machine else (6000.0, 24000.0),
            run_up=round(v * v / acceleration, 2),
            reached=reached,
            silhouette=cutter.silhouette(),
            caution=material.caution,
        )

    return api


def _things(store: Store, ask: FeedsAsk) -> tuple[Cutter, Material, Machine | None, Any]:
    if ask.job:
        setup = store.get(ask.job).plan.setup(ask.setup or "")
        cutter = setup.cutter(ask.cutter) if setup else None
        if setup is None or cutter is None:
            raise NotFound(f"the job has no setup {ask.setup!r} with a cutter {ask.cutter!r}")
        return cutter, setup.material, setup.machine, setup.rules

    def pick(kind: str, wanted: str | None) -> Fields:
        found = next((i for i in store.library(kind) if wanted is None or i["id"] == wanted), None)
        if found is None:
            raise NotFound(f"the library has no {kind} {wanted!r}")
        return found

    return (
        Cutter.model_validate(pick("cutter", ask.cutter)),
        Material.model_validate(pick("material", ask.material)),
        Machine.model_validate(pick("machine", ask.machine)),
        library.rules(store),
    )
