"""The application: the web over one store, put together."""

from __future__ import annotations

import logging
import os
import threading
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from pydantic import JsonValue
from sqlalchemy.exc import DBAPIError

from venzo import __version__
from venzo.api.documents.common import FAULTS
from venzo.api.documents.job import JobDocument, view
from venzo.api.guard import Guard, Signed
from venzo.api.held import Answers, Holds
from venzo.api.routes import (
    archives,
    carving,
    changes,
    cut_stock,
    desk,
    dialects,
    drawings,
    holding,
    house_rules,
    jobs,
    kerf,
    lengths,
    library,
    library_past,
    nesting,
    rack,
    reckonings,
    release,
    releases,
    reliefs,
    runs,
    surfacing,
    table_runs,
    tables,
    what_ifs,
    yields,
)
from venzo.core.memo import Overtaken, behind, urgent
from venzo.core.snags import BadInput
from venzo.desk import jobs as work_on
from venzo.desk import library as shop_library
from venzo.desk.asking import WhatIfs
from venzo.desk.cards import remember
from venzo.desk.drawings import read_apart
from venzo.desk.remedies import offered
from venzo.store.faults import plain_fault
from venzo.store.store import Conflict, NotFound, Revision, Store
from venzo.work.nest_worker import NestWorker
from venzo.work.reader import Reader
from venzo.work.warm import load_kernels

TRYING = 1.5
"""s that remedies are tried for before a job is shown; the rest is tried when it is read again."""
FIRST_LOOK = float(os.environ.get("VENZO_READY_AFTER", "2"))
"""s after the start that whoever looks at a job first has the machine to himself; then readers, kernels and
the nest's worker are made ready. Who needs one sooner starts it. VENZO_READY_AFTER sets another.
"""
WEB = Path(__file__).parent.parent / "web_dist"


def make_app(store: Store, address: str = "testserver") -> FastAPI:
    """The web application over one store; ``address`` is the host and port it is reached at."""
    worker, reader, answers = NestWorker(), Reader(), Answers()
    asked = WhatIfs()

    @asynccontextmanager
    async def life(_app: FastAPI):
        ended = threading.Event()

        def ready() -> None:
            ended.wait(FIRST_LOOK)
            for warm in (reader.warm, load_kernels, worker.warm):
                if not ended.is_set():
                    warm()

        threading.Thread(target=ready, daemon=True).start()
        with read_apart(reader):
            yield
        ended.set()
        reader.close()
        worker.close()
        asked.close()

    def seen(revision: Revision, hold: bool = False) -> JobDocument:
        """An edit is answered at once, with such holds and tried remedies as are known; reading the job works
        the rest out.
        """
        with behind() if hold else urgent():
            follow = work_on.derived_of if hold else work_on.followed
            derived = follow(store, revision)
            snags, complete = offered(store, revision.plan, derived, TRYING if hold else 0.0)
        if hold:
            remember(store, revision, derived)
        news = shop_library.news(store, revision.plan)
        return answers.answer(view(revision, derived, store.shapes, news, snags, not complete))

    app = TypedApp(
        title="Venzo",
        version=__version__,
        lifespan=life,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses=FAULTS,
    )
    # a network is slower than the packing from about here on; events are never packed
    app.add_middleware(GZipMiddleware, minimum_size=4096, compresslevel=6)
    app.add_middleware(Signed)
    app.add_middleware(Holds)
    app.add_middleware(Guard, address=address)  # type: ignore[arg-type]
    _say_faults(app)
    app.include_router(jobs.routes(store, seen))
    app.include_router(rack.routes(store, seen))
    app.include_router(drawings.routes(store, seen))
    app.include_router(reliefs.routes(store, seen))
    app.include_router(nesting.routes(store, worker))
    app.include_router(what_ifs.routes(store, asked))
    for matter in (
        archives,
        dialects,
        desk,
        release,
        releases,
        runs,
        house_rules,
        library_past,  # before the shelves, whose paths take any word
        library,
        holding,
        kerf,
        carving,
        surfacing,
        tables,
        table_runs,
        changes,
        cut_stock,
        yields,
    ):
        app.include_router(matter.routes(store))
    app.include_router(lengths.routes())
    app.include_router(reckonings.routes())
    if WEB.exists():
        _serve_pages(app)
    return app


class TypedApp(FastAPI):
    """An application whose schema tells what a remedy carries: any command, or any ask.

    The core keeps a remedy's command as plain fields, since commands stand on the snags that carry them.
    """

    def openapi(self) -> dict[str, JsonValue]:
        """The schema, made once."""
        if self.openapi_schema is None:
            parts = super().openapi()["components"]["schemas"]
            able = [parts[body]["properties"]["command"]["oneOf"] for body in ("Edit", "Ask")]
            told = parts["Remedy"]["properties"]
            told["command"] = {"title": "Command", "anyOf": [one for kinds in able for one in kinds]}
        assert self.openapi_schema is not None
        return self.openapi_schema


def _say_faults(app: FastAPI) -> None:
    """Every fault is answered with one plain sentence under ``detail``."""

    @app.exception_handler(BadInput)
    async def _bad(_request: Request, e: BadInput) -> JSONResponse:
        return JSONResponse({"detail": str(e)}, 422)

    @app.exception_handler(RequestValidationError)
    async def _invalid(_request: Request, e: RequestValidationError) -> JSONResponse:
        first = e.errors()[0]
        where = " ".join(
            str(p) for p in first["loc"] if p not in ("body", "command", "query") and not isinstance(p, int)
        )
        return JSONResponse(
            {"detail": f"{where}: {first['msg'].removeprefix('Value error, ')}".strip(": ")}, 422
        )

    @app.exception_handler(NotFound)
    async def _missing(_request: Request, e: NotFound) -> JSONResponse:
        return JSONResponse({"detail": str(e.args[0])}, 404)

    @app.exception_handler(Conflict)
    async def _conflict(_request: Request, e: Conflict) -> JSONResponse:
        return JSONResponse({"detail": str(e), "mine": e.mine, "theirs": e.theirs, "head": e.head}, 409)

    @app.exception_handler(Overtaken)
    async def _left(_request: Request, _e: Overtaken) -> JSONResponse:
        return JSONResponse({"detail": "nobody waited for it any more; ask again"}, 409)

    @app.exception_handler(OSError)
    @app.exception_handler(DBAPIError)
    async def _disk(_request: Request, e: Exception) -> JSONResponse:
        status, words = plain_fault(e) or (
            500,
            (
                "the data could not be read or written; nothing was stored. Look at what Venzo printed where"
                " it was started"
            ),
        )
        if status == 500:
            logging.getLogger("venzo").exception("storage", exc_info=e)
        return JSONResponse({"detail": words}, status)


class NamedByContent(StaticFiles):
    """Files whose names change with what is in them: whoever has one need never ask again."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        """The file, to be kept."""
        answer = super().file_response(*args, **kwargs)
        answer.headers["cache-control"] = "public, max-age=31536000, immutable"
        return answer


def _serve_pages(app: FastAPI) -> None:
    """The built screen and whatever it is made of."""
    app.mount("/assets", NamedByContent(directory=WEB / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        """The page; its own router takes it from there."""
        if path.startswith("api/"):
            raise NotFound(f"there is nothing at /{path}")
        plain = WEB / path
        if len(path) < 200 and path and plain.is_file() and plain.resolve().is_relative_to(WEB.resolve()):
            return FileResponse(plain)
        return FileResponse(WEB / "index.html", headers={"cache-control": "no-cache"})
