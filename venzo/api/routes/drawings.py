"""Routes for drawings, parts and what is made here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, File, Form, Response, UploadFile
from pydantic import BaseModel, Field

from venzo.api.documents.drawings import (
    AlterationDocument,
    ComparedDocument,
    CornerDocument,
    Dimension,
    DrawnDocument,
    Effect,
    FontDocument,
    JudgementDocument,
    LineNamed,
    MadeDocument,
    MadeOffer,
    MadePart,
    PartCompared,
    RecipeKind,
    TakenDocument,
    TakenFile,
    VersionDocument,
    picture,
)
from venzo.api.documents.job import JobDocument, path_of
from venzo.api.download import download
from venzo.core.edits import MovePiece, asks
from venzo.core.nesting.layout import find_place
from venzo.core.parts.alter import says
from venzo.core.parts.made import TITLES, Recipe
from venzo.core.snags import BadInput
from venzo.desk import drawings, holding, indexing, joints, models, turning
from venzo.store.store import NotFound, Revision, Store


class Ask(BaseModel):
    """What is done on a revision that needs the drawing or the geometry itself, not only the plan."""

    base: Annotated[int, Field(ge=1, le=2**31 - 1)]
    command: asks.Ask


class ScaleAsk(BaseModel):
    """Scale to a width or height in mm, or to fit inside a part with a margin."""

    width: float | None = None
    height: float | None = None
    inside: str | None = None
    margin: Annotated[float, Field(ge=0, le=5000)] = 0.0


class MakeAsk(BaseModel):
    """Parts of a recipe for a setup; ``drawing``: change those made before."""

    setup: str
    recipe: Recipe
    drawing: str | None = None


def answer(store: Store, job: str, ask: Ask) -> Revision:
    """Carry an ask out."""
    c = ask.command
    if isinstance(c, asks.PlaceDowels):
        return turning.place_dowels(store, job, ask.base, c)
    if isinstance(c, asks.PlaceAlong):
        return indexing.place_along(store, job, ask.base, c)
    if isinstance(c, asks.ReadAgain):
        return drawings.read_again(store, job, ask.base, c.drawing, dict(c.model_extra or {}))[0]
    if isinstance(c, asks.FindPlace):
        plan = store.get(job).plan
        setup = plan.setup(c.setup)
        if setup is None:
            raise NotFound(f"job {job!r} has no setup {c.setup!r}")
        pl = find_place(plan, setup, store.shapes, c.part, c.copy_no, c.sheet, c.sheet_copy)
        return store.apply(
            job,
            ask.base,
            MovePiece(
                setup=c.setup,
                part=c.part,
                copy_no=c.copy_no,
                x=pl.x,
                y=pl.y,
                rotation=pl.rotation,
                mirrored=pl.mirrored,
                sheet=pl.sheet,
                sheet_copy=pl.sheet_copy,
            ),
        )
    if isinstance(c, asks.ChangeModel):
        return models.change_model(store, job, ask.base, c)
    if isinstance(c, asks.MakeSurface):
        return models.make_surface(store, job, ask.base, c)
    if isinstance(c, asks.ChangeForms):
        return models.change_forms(store, job, ask.base, c)
    if isinstance(c, asks.Remake):
        return drawings.remake(store, job, ask.base, c)
    if isinstance(c, asks.MoveCut):
        return holding.move_cut(store, job, ask.base, c.setup, c.sheet, c.sheet_copy, c.cut, c.before)
    return drawings.alter_part(store, job, ask.base, c)


def routes(store: Store, seen: Callable[..., JobDocument]) -> APIRouter:
    """The routes over one store; ``seen`` makes the job document of a revision."""
    router = APIRouter(prefix="/api")

    @router.post("/jobs/{job}/drawings")
    def drop(
        job: str,
        files: Annotated[list[UploadFile], File()],
        setup: Annotated[str, Form()],
        units: Annotated[str, Form()] = "auto",
        join: Annotated[float, Form()] = 0.05,
        adopt: Annotated[str | None, Form()] = None,
    ) -> TakenDocument:
        """Take drawings and cut lists in. Each file succeeds or fails by itself; nothing already there is
        lost.

        ``adopt``: ids of parts, separated by commas: of a newer version only these are taken over.
        """
        results: list[TakenFile] = []
        for f in files:
            name = f.filename or "drawing"
            try:
                data = f.file.read()
                if name.lower().endswith(".csv"):
                    revision, said = drawings.take_cut_list(
                        store, job, store.get(job).number, setup, name, data
                    )
                    results.append(
                        TakenFile(
                            file=name, ok=not said, says="; ".join([revision.says, *said[:5]]), snags=[]
                        )
                    )
                    continue
                chosen = None if adopt is None else [a for a in adopt.split(",") if a]
                revision, intake = drawings.take_drawing(
                    store,
                    job,
                    store.get(job).number,
                    setup,
                    name,
                    data,
                    units=units,
                    join=join,
                    adopt=chosen,
                )
                results.append(
                    TakenFile(
                        file=name,
                        ok=True,
                        says=revision.says,
                        snags=[s.plain() for s in intake.snags],
                    )
                )
            except BadInput as e:
                results.append(TakenFile(file=name, ok=False, says=str(e), snags=[]))
        return TakenDocument(results=results, job=seen(store.get(job)))

    @router.post("/jobs/{job}/drawings/compare")
    def compare(
        job: str, file: Annotated[UploadFile, File()], setup: Annotated[str, Form()]
    ) -> ComparedDocument:
        """What a newer file of a known drawing changes, part by part, with pictures of both; nothing is taken
        in.
        """
        found = drawings.compare(
            store, store.get(job).plan, setup, file.filename or "drawing", file.file.read()
        )
        shown = [
            PartCompared(
                **{
                    **vars(p),
                    **{k: picture(store.shapes[d]) if (d := getattr(p, k)) else None for k in ("old", "new")},
                }
            )
            for p in found.parts
        ]
        return ComparedDocument(
            file=found.file,
            drawing=found.drawing,
            revision=found.revision,
            parts=shown,
            effects=[Effect(**vars(e)) for e in found.effects],
        )

    @router.post("/jobs/{job}/asks")
    def asks(job: str, ask: Ask) -> JobDocument:
        """Read a drawing again or alter a part."""
        return seen(answer(store, job, ask))

    @router.get("/jobs/{job}/drawings/{drawing}/reading")
    def reading(job: str, drawing: str) -> drawings.ReadingDocument:
        """Settings, layers and the healing list of a drawing."""
        return drawings.reading(store, store.get(job).plan, drawing)

    @router.post("/jobs/{job}/drawings/{drawing}/scale")
    def scale(job: str, drawing: str, ask: ScaleAsk) -> JobDocument:
        """Scale a drawing to a size or into a part."""
        return seen(
            drawings.scale_to(
                store, job, store.get(job).number, drawing, ask.width, ask.height, ask.inside, ask.margin
            )
        )

    @router.get("/jobs/{job}/parts/{part}/judgement")
    def judgement(job: str, part: str) -> JudgementDocument:
        """What can be measured of a part: radii, narrow places, reach of each cutter, corners, alterations,
        versions.
        """
        j = drawings.judgement(store, store.get(job).plan, part)
        return JudgementDocument(
            part=part,
            inside_radius=j.measured.inside_radius,
            sharp_inside=j.measured.sharp_inside,
            web=j.measured.web,
            slot=j.measured.slot,
            reaches=list(j.measured.reaches),
            corners=[CornerDocument(contour=n, x=x, y=y, angle=a, inside=i) for n, x, y, a, i in j.corners],
            alterations=[AlterationDocument(says=says(a), removed_mm2=r, value=a) for a, r in j.alterations],
            lines=[LineNamed(name=n, kind=k, closed=c) for n, k, c in j.lines],
            versions=[
                VersionDocument(
                    drawing_revision=v.drawing_revision,
                    note=v.note,
                    picture=picture(store.shapes[v.shape]),
                    altered=[says(a) for a in v.alterations],
                    again=bool(v.drawn) and v.drawn == j.drawn,
                )
                for v in j.versions
            ],
        )

    @router.get("/made")
    def made() -> MadeDocument:
        """What can be made here, each with its default dimensions."""
        from typing import get_args

        kinds = get_args(get_args(Recipe)[0])
        defaults = {
            k.model_fields["kind"].default: {
                n: None if f.is_required() else f.default for n, f in k.model_fields.items()
            }
            for k in kinds
        }
        schemas = {k.model_fields["kind"].default: k.model_json_schema()["properties"] for k in kinds}
        return MadeDocument(
            fonts=drawings.fonts(store),
            recipes=[
                RecipeKind(kind=k, title=TITLES[k], defaults=defaults[k], fields=schemas[k]) for k in TITLES
            ],
        )

    @router.post("/fonts")
    def add_font(file: Annotated[UploadFile, File()]) -> FontDocument:
        """Keep a TTF or OTF font with the shop's data."""
        return FontDocument(name=drawings.add_font(store, file.filename or "font.ttf", file.file.read()))

    @router.post("/made/draw")
    def draw(recipe: Recipe) -> DrawnDocument:
        """The parts and named dimensions of a recipe; nothing is taken in."""
        m = drawings.draw(store, recipe)
        parts = [
            MadePart(
                name=p.name,
                quantity=p.quantity,
                size=(round(p.shape.size[0], 3), round(p.shape.size[1], 3)),
                parent=[path_of(c) for c in p.parent],
                **dict(picture(p.shape)),
            )
            for p in m.parts
        ]
        return DrawnDocument(
            parts=parts,
            dimensions=[Dimension(name=n, mm=v, start=a, end=b) for n, v, a, b in m.dimensions],
            notes=list(m.notes),
            offers=[MadeOffer(label=o.label, fields=dict(o.fields)) for o in m.offers],
        )

    @router.post("/jobs/{job}/made")
    def make(job: str, ask: MakeAsk) -> JobDocument:
        """Take the parts of a recipe into the job, or change those made before."""
        return seen(
            drawings.make_parts(store, job, store.get(job).number, ask.setup, ask.recipe, ask.drawing)
        )

    @router.get("/jobs/{job}/joints")
    def fitted(job: str) -> list[joints.JointDocument]:
        """How the joints of a job go together as they are cut."""
        return joints.joints(store, store.get(job).plan)

    @router.get("/jobs/{job}/drawings/{drawing}")
    def original(job: str, drawing: str) -> Response:
        """The original file of a drawing, as it came."""
        found = next((d for d in store.get(job).plan.drawings if d.id == drawing), None)
        if found is None:
            raise NotFound(f"job {job!r} has no drawing {drawing!r}")
        return download(store.blobs.get(found.blob), found.filename, "application/octet-stream")

    return router
