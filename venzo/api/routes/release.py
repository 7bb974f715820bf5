"""Routes of proof and release: programs read back, programs and papers taken away."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from venzo.api.documents.jobs import Place, ProofDocument
from venzo.api.download import download
from venzo.api.leaving import while_asked_for
from venzo.api.routes.cut_stock import At
from venzo.core.derive import DerivedSetup
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.memo import Overtaken
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan
from venzo.core.proof.check import Proof
from venzo.desk import jobs, kerf_jobs, proof_record, releases
from venzo.desk.cut_stock import SheetAt
from venzo.desk.jobs import programs
from venzo.desk.program_lines import ProgramText, program_text
from venzo.store.store import Conflict, NotFound, Store


def _of_kerf(plan: Plan, d: DerivedSetup, sheet: KerfSheet) -> ProofDocument:
    """The proof of a kerf table's sheet: it has no heights."""
    return ProofDocument(
        sheet=sheet.sheet,
        copy_no=sheet.copy_no,
        moves=sum(len(c.moves) for c in sheet.run.cuts),
        seconds=sheet.run.time,
        cut_length=sheet.run.cut_length,
        rapid_length=sheet.run.hop_length + sheet.run.lift_length,
        lowest=None,
        highest=None,
        snags=tuple(kerf_jobs.prove(d, sheet, kerf_jobs.program(plan, d, sheet))),
    )


def _of_sheet(sheet: SheetPlan, p: Proof) -> ProofDocument:
    """The proof of a sheet: X and Y as the machine's display will show them, the lowest Z from the top of the
    stock.
    """
    low: Place = (float(p.lowest[0]), float(p.lowest[1]), p.deepest)
    high: Place = (float(p.highest[0]), float(p.highest[1]), float(p.highest[2]))
    return ProofDocument(
        sheet=sheet.sheet,
        copy_no=sheet.copy_no,
        moves=p.moves,
        seconds=p.seconds,
        cut_length=p.cut_length,
        rapid_length=p.rapid_length,
        lowest=low if p.moves else None,
        highest=high if p.moves else None,
        snags=tuple(p.snags),
    )


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/proof")
    def proof(request: Request, job: str) -> dict[str, list[ProofDocument]]:
        """Programs read back and held against the plan, by setup and sheet. A later edit ends it, and so does
        leaving it: what was asked before is of no use then.
        """
        asked = store.get(job)
        with while_asked_for(request, jobs.edited_since(store, job, asked.number)):
            try:
                return proven(asked.plan)
            except Overtaken:
                later = f"the job was edited while it was proven; ask again for change {store.head(job)}"
                raise Conflict(f"the proof of change {asked.number}", [later], store.head(job)) from None

    def proven(plan: Plan) -> dict[str, list[ProofDocument]]:
        out: dict[str, list[ProofDocument]] = {}
        for d in jobs.derive(store, plan, hold=False).values():
            if d.kerf:
                out[d.setup.id] = [_of_kerf(plan, d, k) for k in d.kerf]
                continue
            proofs = jobs.prove_setup(store, plan, d)
            out[d.setup.id] = [_of_sheet(s, p) for s, p in zip(d.sheets, proofs, strict=True)]
        return out

    @router.get("/jobs/{job}/proof/sheet")
    def of_sheet(job: str, at: At) -> proof_record.SheetVerdict:
        """The verdict on a sheet: every rule that spoke, and the last record that somebody looked."""
        return proof_record.verdict(store, store.get(job), at)

    @router.get("/jobs/{job}/proof/records")
    def looked(job: str) -> list[proof_record.SheetRecord]:
        """Who looked at the proof of each sheet, and what is otherwise since."""
        return proof_record.records(store, store.get(job))

    @router.post("/jobs/{job}/proof/sheet")
    def looked_at(job: str, said: proof_record.SheetLookedAt) -> proof_record.SheetVerdict:
        """Record that somebody looked at a sheet's proof as it was seen, and lets it go."""
        proof_record.look_at(store, job, said)
        at = SheetAt(setup=said.setup, sheet=said.sheet, copy_no=said.sheet_copy)
        return proof_record.verdict(store, store.get(job), at)

    @router.get("/jobs/{job}/release.zip")
    def release(request: Request, job: str) -> Response:
        """Programs, setup sheet and manifest as one archive. A setup with a stop gets no programs; the
        manifest says so.
        """
        revision = store.get(job)
        with while_asked_for(request):
            files, _manifest = releases.release(store, revision.plan, revision.number)
        return download(jobs.zipped(files), f"{revision.plan.id}_r{revision.number}.zip", "application/zip")

    @router.get("/jobs/{job}/programs/{name}")
    def lines(job: str, name: str) -> ProgramText:
        """A program line by line, with where on the tape each line stands, even while a stop is open."""
        return program_text(store, store.get(job).plan, name)

    @router.get("/jobs/{job}/files/{name}")
    def one_file(request: Request, job: str, name: str, look: bool = False) -> Response:
        """One program or paper of the release. ``look``: a program's text even while a stop is open, for
        reading on screen.
        """
        revision = store.get(job)
        if look:
            for d in jobs.derive(store, revision.plan, hold=False).values():
                for f in programs(revision.plan, d):
                    if f.name == name:
                        return Response(f.text, media_type="text/plain")
        with while_asked_for(request):
            files, _manifest = releases.release(store, revision.plan, revision.number)
        body = next((b for n, b in files if n == name), None)
        if body is None:
            raise NotFound(f"the release has no file {name!r}: a stop is open, or the plan has changed")
        return download(body, name, "application/pdf" if name.endswith(".pdf") else "text/plain")

    return router
