"""A release: programs, papers and the word on what they contain, of a job of any kind."""

from __future__ import annotations

from datetime import datetime

from venzo.core.model import Document
from venzo.core.plan import Plan
from venzo.core.release.contents import Contents, contents
from venzo.core.release.file_names import slug
from venzo.core.release.programs import ProgramFile, Stamp
from venzo.core.surfacing.board import SurfaceSetup
from venzo.desk import board_programs, jobs, table_runs
from venzo.store.store import Store


def _board_files(store: Store, board: SurfaceSetup) -> list[tuple[str, bytes]]:
    """Programs and paper of a board; where something stops it the paper only."""
    held = board_programs.stops(store, board)
    ready = [] if held else board_programs.programs(store, board.id)
    return [
        *((name, text.encode("ascii", "replace")) for name, text in ready),
        board_programs.paper(store, board.id),
    ]


def _table_files(store: Store, run: str) -> list[tuple[str, bytes]]:
    """Programs and paper of a table with sheets of several jobs; where something stops it the paper only."""
    ready = table_runs.ready(store, run)
    return [*((name, text.encode("ascii", "replace")) for name, text in ready), table_runs.paper(store, run)]


class Manifest(Document):
    """What a release holds: by setup what is in it and what it leaves out, and the names of its files."""

    job: str
    revision: int
    setups: list[Contents]
    files: list[str]


def release(store: Store, plan: Plan, revision: int) -> tuple[list[tuple[str, bytes]], Manifest]:
    """Every file of a release with its manifest.

    A setup with a *stop* gets its papers but no programs: the manifest says so.
    """
    from venzo.formats.setup_sheet import setup_sheet

    files: list[tuple[str, bytes]] = []
    setups: list[Contents] = []
    stamp = _stamp(store, plan.id, revision)
    if plan.surface is not None:
        files = _board_files(store, plan.surface)
    if plan.run is not None:
        files = _table_files(store, plan.id)
    for derived in jobs.derive(store, plan).values():
        said = contents(plan, derived)
        ready: list[ProgramFile] = jobs.programs(plan, derived) if derived.sheets else []
        if ready and not said.stops:
            found = [
                s.message
                for proof in jobs.prove_setup(store, plan, derived)
                for s in proof.snags
                if s.severity == "stop"
            ]
            said = said.model_copy(update={"stops": found})
        if said.stops:
            withheld = [f"program {p.name}: withheld until every stop is cleared" for p in ready]
            said = said.model_copy(update={"leaves_out": [*said.leaves_out, *withheld]})
            held = ready
            ready = []
        else:
            held = []
        files += [(p.name, p.text.encode("ascii", "replace")) for p in ready]
        if derived.sheets:
            name = f"{slug(plan.name)}_{slug(derived.setup.name)}_setup-sheet.pdf"
            files.append((name, setup_sheet(plan, derived, ready or held, bool(ready), store.shapes, stamp)))
        setups.append(said)
    manifest = Manifest(job=plan.name, revision=revision, setups=setups, files=[n for n, _b in files])
    files.append(("release.json", manifest.model_dump_json(indent=1).encode()))
    return files, manifest


def _stamp(store: Store, job: str, revision: int) -> Stamp:
    """When and by whom a revision was made."""
    line = next(iter(store.history(job, 1, revision + 1)), None) if revision else None
    if line is None or line["revision"] != revision:
        return Stamp(revision)
    return Stamp(revision, datetime.fromisoformat(line["made"]), line["author"])
