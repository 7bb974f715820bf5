"""The application: routes over the store and the core."""

from __future__ import annotations

import logging
import secrets
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Annotated, Any

from fastapi import FastAPI, Query, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from pydantic import BaseModel, Field
from sqlalchemy.exc import DBAPIError

from venzo import __version__, library, shop
from venzo.api.carve import routes as carve_routes
from venzo.api.download import download
from venzo.api.drawings import routes as drawing_routes
from venzo.api.guard import Guard
from venzo.api.hold import routes as hold_routes
from venzo.api.library import routes as library_routes
from venzo.api.surfacing import routes as surfacing_routes
from venzo.api.view import view
from venzo.core.derive import DerivedSetup
from venzo.core.edits import Command
from venzo.core.geometry.contour import Array
from venzo.core.memo import behind, urgent
from venzo.core.nesting.layout import check_locked, inputs_digest, nest_problem, placement
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan
from venzo.core.proof.machine import datum_on_sheet
from venzo.core.release import programs
from venzo.core.snags import BadInput
from venzo.core.units import as_fraction, parse_corners, parse_length, parse_lengths, show_length
from venzo.drawings import read_apart
from venzo.remedies import offered
from venzo.store.faults import plain_fault
from venzo.store.store import Conflict, NotFound, Revision, Store
from venzo.work.nest_result import settle_nest
from venzo.work.nest_worker import NestWorker, Running
from venzo.work.reader import Reader

TRYING = 1.5
"""s that remedies are tried for before a job is shown; the rest is tried when it is read again."""
WEB = Path(__file__).parent.parent / "web_dist"


RevisionNumber = Annotated[int, Field(ge=1, le=2**31 - 1)]


class NewJob(BaseModel):
    """What a new job is started with; machine and material are library ids."""

    name: Annotated[str, Field(max_length=200)]
    machine: str | None = None
    material: str | None = None


class Edit(BaseModel):
    """A command made on the revision ``base``."""

    base: RevisionNumber
    command: Command


class NestRequest(BaseModel):
    """Start a nest for a setup; ``seconds`` of search at most. It goes on from the layout there is, unless ``afresh``."""

    setup: str
    seconds: Annotated[float, Field(gt=0, le=3600)] = 8.0
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 1
    afresh: bool = False


def make_app(store: Store, address: str = "testserver") -> FastAPI:
    """The web application over one store; ``address`` is the host and port it is reached at."""
    worker, reader = NestWorker(), Reader()

    @asynccontextmanager
    async def life(_app: FastAPI):
        worker.warm()
        reader.warm()
        with read_apart(reader):
            yield
        reader.close()
        worker.close()

    app = FastAPI(title="Venzo", version=__version__, lifespan=life, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json")
    app.add_middleware(Guard, address=address)  # type: ignore[arg-type]
    searches: dict[tuple[str, str], str] = {}

    @app.exception_handler(BadInput)
    async def _bad(_request: Request, e: BadInput) -> JSONResponse:
        return JSONResponse({"detail": str(e)}, 422)

    @app.exception_handler(RequestValidationError)
    async def _invalid(_request: Request, e: RequestValidationError) -> JSONResponse:
        first = e.errors()[0]
        where = " ".join(str(p) for p in first["loc"] if p not in ("body", "command", "query") and not isinstance(p, int))
        return JSONResponse({"detail": f"{where}: {first['msg'].removeprefix('Value error, ')}".strip(": ")}, 422)

    @app.exception_handler(NotFound)
    async def _missing(_request: Request, e: NotFound) -> JSONResponse:
        return JSONResponse({"detail": str(e.args[0])}, 404)

    @app.exception_handler(Conflict)
    async def _conflict(_request: Request, e: Conflict) -> JSONResponse:
        return JSONResponse({"detail": str(e), "mine": e.mine, "theirs": e.theirs, "head": e.head}, 409)

    @app.exception_handler(OSError)
    @app.exception_handler(DBAPIError)
    async def _disk(_request: Request, e: Exception) -> JSONResponse:
        status, words = plain_fault(e) or (500, "the data could not be read or written; nothing was stored. Look at what Venzo printed where it was started")
        if status == 500:
            logging.getLogger("venzo").exception("storage", exc_info=e)
        return JSONResponse({"detail": words}, status)

    def seen(revision: Revision, hold: bool = False) -> dict[str, Any]:
        """An edit is answered at once, with such holds and tried remedies as are known; reading the job works the rest out."""
        with behind() if hold else urgent():
            derived = shop.derive(store, revision.plan, hold)
            snags, complete = offered(store, revision.plan, derived, TRYING if hold else 0.0)
        return view(revision, derived, store.shapes, library.news(store, revision.plan), snags, not complete)

    @app.get("/api/jobs")
    def jobs() -> list[dict[str, Any]]:
        """Every job, the last changed first."""
        return store.jobs()

    @app.post("/api/jobs", status_code=201)
    def start_job(new: NewJob) -> dict[str, Any]:
        """Start a job from the library."""
        return seen(shop.new_job(store, new.name, new.machine, new.material))

    @app.get("/api/jobs/{job}")
    def get_job(job: str, revision: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None) -> dict[str, Any]:
        """A job's plan and everything derived from it, at the newest or a given revision."""
        return seen(store.get(job, revision), True)

    @app.get("/api/jobs/{job}/history")
    def history(job: str, before: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None) -> list[dict[str, Any]]:
        """Revisions, newest first, 200 at a time; ``before``: only older than that one."""
        return store.history(job, before=before)

    @app.post("/api/jobs/{job}/commands")
    def edit(job: str, e: Edit) -> dict[str, Any]:
        """Apply a typed command; 409 when a later revision touched the same thing."""
        return seen(store.apply(job, e.base, e.command))

    @app.post("/api/jobs/{job}/undo")
    def undo(job: str) -> dict[str, Any]:
        """Take the last edit back (appends a revision)."""
        return seen(store.undo(job))

    @app.post("/api/jobs/{job}/redo")
    def redo(job: str) -> dict[str, Any]:
        """Bring back what was undone last."""
        return seen(store.redo(job))

    app.include_router(drawing_routes(store, seen))

    @app.post("/api/jobs/{job}/nest", status_code=202)
    def start_nest(job: str, ask: NestRequest) -> dict[str, Any]:
        """Start nesting a setup in the background; locked pieces stay."""
        revision = store.get(job)
        setup = revision.plan.setup(ask.setup)
        if setup is None:
            raise NotFound(f"job {job!r} has no setup {ask.setup!r}")
        if worker.busy(job, ask.setup):
            raise BadInput("a nest of this setup is running already; stop it first")
        problem = nest_problem(revision.plan, setup, store.shapes)
        problem.check()
        check_locked(revision.plan, problem)
        before = setup.nest.pieces if setup.nest else ()

        def done(r: Running) -> None:
            """Accept the result if the inputs still match and nobody moved a piece meanwhile."""
            if r.best is None:
                r.state, r.message = "failed", "stopped before the first layout"
                return
            now = store.get(job)
            mine = now.plan.setup(ask.setup)
            if mine is None or inputs_digest(nest_problem(now.plan, mine, store.shapes)) != inputs_digest(problem):
                r.state, r.message = "outdated", "parts, stock or spacing changed while it ran; nest again"
                return
            if (mine.nest.pieces if mine.nest else ()) != before:
                r.state, r.message = "outdated", "pieces were moved by hand while it ran, and are kept; nest again around them"
                return
            try:
                r.state, r.message = settle_nest(store, now, mine, problem, r.best, ask.afresh)
            except Conflict as e:
                r.state, r.message = "outdated", str(e)

        start = [] if ask.afresh or not before else [placement(q) for q in before]
        start = start if all(q.sheet in {s.id for s in problem.sheets} and q.part in {p.id for p in problem.parts} for q in start) else []
        running = Running(secrets.token_hex(4), job, ask.setup, problem, ask.seconds, done, start)
        searches[job, ask.setup] = running.id
        worker.start(running, ask.seed)
        return _search(running)

    @app.get("/api/jobs/{job}/nest")
    def nest_state(job: str, setup: str, after: int = -1) -> dict[str, Any]:
        """How the last nest of a setup stands; ``after``: number of improvements the screen has seen."""
        running = worker.get(searches.get((job, setup), ""))
        return {**_search(running, after), "ahead": worker.ahead(running)} if running else {"state": "none"}

    @app.post("/api/jobs/{job}/nest/stop")
    def stop_nest(job: str, setup: str) -> dict[str, Any]:
        """Stop and keep the best so far."""
        running = worker.busy(job, setup)
        if running:
            worker.stop(running)
        return {"state": "stopping" if running else "none"}

    @app.get("/api/jobs/{job}/proof")
    def proof(job: str) -> dict[str, Any]:
        """Programs read back and held against the plan, by setup and sheet."""
        with behind():
            return proven(store.get(job).plan)

    def from_zero(d: DerivedSetup, s: SheetPlan, at: Array) -> list[float]:
        """A point of a sheet as the machine's display will show it, X and Y from the program's zero."""
        stock = d.setup.stock_of(s.sheet)
        dx, dy = datum_on_sheet(d.setup, stock) if stock else (0.0, 0.0)
        return [float(at[0]) - dx, float(at[1]) - dy, float(at[2])]

    def proven(plan: Plan) -> dict[str, Any]:
        out = {}
        for d in shop.derive(store, plan, hold=False).values():
            out[d.setup.id] = [
                {
                    "sheet": s.sheet,
                    "copy_no": s.copy_no,
                    "moves": p.moves,
                    "seconds": p.seconds,
                    "cut_length": p.cut_length,
                    "rapid_length": p.rapid_length,
                    "lowest": from_zero(d, s, p.lowest) if p.moves else None,
                    "highest": from_zero(d, s, p.highest) if p.moves else None,
                    "snags": [x.model_dump(mode="json") for x in p.snags],
                }
                for s, p in zip(d.sheets, shop.prove_setup(store, plan, d), strict=True)
            ]
        return out

    @app.get("/api/jobs/{job}/release.zip")
    def release(job: str) -> Response:
        """Programs, setup sheet and manifest as one archive. A setup with a stop gets no programs; the manifest says so."""
        revision = store.get(job)
        files, _manifest = shop.release(store, revision.plan, revision.number)
        return download(shop.zipped(files), f"{revision.plan.id}_r{revision.number}.zip", "application/zip")

    @app.get("/api/jobs/{job}/files/{name}")
    def one_file(job: str, name: str, look: bool = False) -> Response:
        """One program or paper of the release. ``look``: a program's text even while a stop is open, for reading on screen."""
        revision = store.get(job)
        if look:
            for d in shop.derive(store, revision.plan, hold=False).values():
                for f in programs(revision.plan, d):
                    if f.name == name:
                        return Response(f.text, media_type="text/plain")
        files, _manifest = shop.release(store, revision.plan, revision.number)
        body = next((b for n, b in files if n == name), None)
        if body is None:
            raise NotFound(f"the release has no file {name!r}: a stop is open, or the plan has changed")
        return download(body, name, "application/pdf" if name.endswith(".pdf") else "text/plain")

    app.include_router(library_routes(store))
    app.include_router(hold_routes(store))
    app.include_router(carve_routes(store))
    app.include_router(surfacing_routes(store))

    @app.get("/api/length")
    def length(text: Annotated[str, Query(max_length=200)], unit: str = "mm") -> dict[str, Any]:
        """Read a length as people write it: fractions, units, arithmetic."""
        mm = parse_length(text, unit)
        said = "the comma is read as a decimal point" if "," in text else ""
        return {"mm": mm, "shown": show_length(mm, "mm"), "inch": show_length(mm, "in"), "fraction": as_fraction(mm), "said": said}

    @app.get("/api/lengths")
    def lengths(text: Annotated[str, Query(max_length=4000)], unit: str = "mm") -> dict[str, list[float]]:
        """Read several lengths, parted by a comma and a space, a semicolon or spaces."""
        return {"mm": parse_lengths(text, unit)}

    @app.get("/api/corners")
    def corners(text: Annotated[str, Query(max_length=4000)], unit: str = "mm") -> dict[str, list[tuple[float, float]]]:
        """Read corners as X, Y pairs."""
        return {"mm": parse_corners(text, unit)}

    if WEB.exists():
        app.mount("/assets", StaticFiles(directory=WEB / "assets"), name="assets")

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> Response:
            """The page; its own router takes it from there."""
            if path.startswith("api/"):
                raise NotFound(f"there is nothing at /{path}")
            plain = WEB / path
            if len(path) < 200 and path and plain.is_file() and plain.resolve().is_relative_to(WEB.resolve()):
                return FileResponse(plain)
            return FileResponse(WEB / "index.html", headers={"cache-control": "no-cache"})

    return app


def _search(r: Running, after: int = -1) -> dict[str, Any]:
    """A search for the screen; the layout itself only when it is newer than what the screen has."""
    out: dict[str, Any] = {"state": r.state, "message": r.message, "steps": r.steps, "elapsed": r.elapsed, "seconds": r.seconds, "curve": r.curve, "limit": r.limit, "found": len(r.curve)}
    if r.best is not None and len(r.curve) > after:
        out["best"] = r.best.to_json()
    return out
