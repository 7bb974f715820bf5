"""Routes of sheets of several jobs cut by one program."""

from __future__ import annotations

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from venzo.api.download import download
from venzo.core.model import Name
from venzo.desk import jobs, table_runs
from venzo.store.store import Store


class NewRun(BaseModel):
    """A run to start."""

    name: Name = Field(min_length=1)


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/table-runs")
    def listed() -> list[table_runs.TableLine]:
        """Every run of sheets of several jobs."""
        return table_runs.listed(store)

    @router.post("/table-runs", status_code=201)
    def start(new: NewRun) -> table_runs.TableDocument:
        """Start a run; nothing lies on its table yet."""
        return table_runs.document(store, table_runs.start(store, new.name).plan.id)

    @router.get("/table-runs/{run}")
    def one(run: str) -> table_runs.TableDocument:
        """A run, where its sheets lie, what is loaded when, and snags."""
        return table_runs.document(store, run)

    @router.get("/sheets/{job}")
    def sheets(job: str) -> list[table_runs.SheetChoice]:
        """The planned sheets of a job, to be laid on a table."""
        return table_runs.sheets_of(store, job)

    @router.get("/table-runs/{run}/program")
    def program(run: str) -> Response:
        """Its program; several files come as a zip."""
        files = table_runs.programs(store, run)
        if len(files) == 1:
            return download(files[0][1].encode("ascii", "replace"), files[0][0], "text/plain")
        zipped = jobs.zipped([(n, t.encode("ascii", "replace")) for n, t in files])
        return download(zipped, f"{run}.zip", "application/zip")

    @router.get("/table-runs/{run}/sheet.pdf")
    def sheet(run: str) -> Response:
        """The printed sheet of its table."""
        name, data = table_runs.paper(store, run)
        return download(data, name, "application/pdf")

    return router
