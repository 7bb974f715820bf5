"""A release: programs, papers and the word on what they contain, of a job of any kind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property

from venzo.core.derive import DerivedSetup
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.plan import Plan
from venzo.core.release.contents import Contents, contents
from venzo.core.release.picking import cut_prints
from venzo.core.release.programs import Joined, ProgramFile, Stamp, joined
from venzo.core.snags import BadInput, Snag
from venzo.core.surfacing.board import SurfaceSetup
from venzo.desk import board_programs, jobs, kerf_jobs, table_runs
from venzo.desk.jobs import Earlier
from venzo.desk.papers import cut_list_of, one_set, papers_of
from venzo.desk.release_share import Manifest, Share
from venzo.formats.joined_program import join_programs
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


SECTIONS = "sections/"
"""Where the parts of a file for several sheets lie in a release."""


@dataclass(frozen=True)
class Made:
    """A release that was made: its files in order, what it holds, its programs by setup, and everything that
    was said of each setup.
    """

    files: list[tuple[str, bytes]]
    manifest: Manifest
    programs: dict[str, list[ProgramFile]]
    said: dict[str, list[Snag]]
    papers: dict[str, str]
    """Of a paper the setup that it is of."""
    joined: dict[str, tuple[str, Joined]]
    """Of a file for several sheets its setup, and its parts, which are kept beside it as sections."""


def release(store: Store, plan: Plan, revision: int) -> tuple[list[tuple[str, bytes]], Manifest]:
    """Every file of a release of the whole job with its manifest.

    A setup with a *stop* gets its papers but no programs: the manifest says so.
    """
    made = make(store, plan, revision, Share())
    return [(n, b) for n, b in made.files if not n.startswith(SECTIONS)], made.manifest


def make(store: Store, plan: Plan, revision: int, share: Share) -> Made:
    """Write, prove and list a release of a job or a part of it; setups of which nothing is released are left
    out.

    A setup with a *stop* gets its papers but no programs: the manifest says so.
    """
    files: list[tuple[str, bytes]] = []
    stamp = replace(_stamp(store, plan.id, revision), release=share.number)
    if plan.surface is not None:
        files = _board_files(store, plan.surface)
    if plan.run is not None:
        files = _table_files(store, plan.id)
    setups: list[Contents] = []
    programs: dict[str, list[ProgramFile]] = {}
    said: dict[str, list[Snag]] = {}
    papers: dict[str, str] = {}
    whole_files: dict[str, tuple[str, Joined]] = {}
    cuts: dict[str, dict[str, dict[str, str]]] = {}
    for whole in jobs.derive(store, plan).values():
        if whole.kerf:
            due = kerf_jobs.due(whole, share.before.get(whole.setup.id, {}), share.picked)
            if not due:
                continue
            kerf = _of_kerf_table(plan, whole, due, stamp)
            files += kerf.files
            programs[whole.setup.id], said[whole.setup.id] = kerf.programs, kerf.said
            papers |= kerf.papers
            cuts[whole.setup.id] = {f"{k.sheet}/{k.copy_no}": kerf_jobs.prints(k) for k in due}
            setups.append(kerf.told)
            continue
        derived, about = share.of(whole)
        if whole.sheets and not derived.sheets:
            continue
        one = _Setup(store, plan, derived, stamp, share.earlier.get(whole.setup.id, ()))
        held, snags = one.stops(about)
        told = contents(plan, derived).model_copy(update={"stops": held})
        ready = one.programs
        if held:
            withheld = [f"program {p.name}: withheld until every stop is cleared" for p in ready]
            told = told.model_copy(update={"leaves_out": [*told.leaves_out, *withheld]})
        files += [] if held else one.written()
        whole_files |= {} if held or one.joined is None else {one.joined.name: (whole.setup.id, one.joined)}
        sheets = one.papers(not held)
        files += sheets
        papers |= {name: whole.setup.id for name, _body in sheets}
        programs[whole.setup.id] = [] if held else ready
        said[whole.setup.id] = snags
        cuts[whole.setup.id] = {f"{s.sheet}/{s.copy_no}": cut_prints(s) for s in derived.sheets}
        setups.append(told)
    if setups:
        files += cut_list_of(store, plan, stamp)
    names = [n for n, _b in files if not n.startswith(SECTIONS)]
    manifest = Manifest(
        job=plan.name,
        revision=revision,
        setups=setups,
        files=names,
        cuts=cuts,
        dialects={s.id: s.machine.dialect for s in plan.setups if s.id in cuts},
        picked=share.picked,
    )
    files.append(("release.json", manifest.model_dump_json(indent=1).encode()))
    return Made(files, manifest, programs, said, papers, whole_files)


@dataclass(frozen=True)
class _Kerf:
    """What goes out of a setup on a kerf table."""

    files: list[tuple[str, bytes]]
    programs: list[ProgramFile]
    said: list[Snag]
    papers: dict[str, str]
    told: Contents


def _of_kerf_table(plan: Plan, derived: DerivedSetup, sheets: Sequence[KerfSheet], stamp: Stamp) -> _Kerf:
    """Programs and paper of sheets of a kerf table; with a *stop* the paper only."""
    said = [*derived.snags]
    if not any(s.severity == "stop" for s in said):
        said += kerf_jobs.proofs(plan, derived)
    held = [s.message for s in said if s.severity == "stop"]
    ready = kerf_jobs.programs(plan, derived, sheets)
    told = kerf_jobs.contents(plan, derived, sheets, held)
    if held:
        withheld = [f"program {p.name}: withheld until every stop is cleared" for p in ready]
        told = told.model_copy(update={"leaves_out": [*told.leaves_out, *withheld]})
    name, body = kerf_jobs.paper(plan, derived, sheets, bool(held), stamp)
    written = [] if held else [(p.name, p.text.encode("ascii", "replace")) for p in ready]
    return _Kerf([*written, (name, body)], [] if held else ready, said, {name: derived.setup.id}, told)


@dataclass(frozen=True)
class _Setup:
    """One setup that is released, or the part of it that is."""

    store: Store
    plan: Plan
    derived: DerivedSetup
    stamp: Stamp
    earlier: Sequence[Earlier]

    @cached_property
    def programs(self) -> list[ProgramFile]:
        return jobs.programs(self.plan, self.derived) if self.derived.sheets else []

    @cached_property
    def joined(self) -> Joined | None:
        """The one file that they go out as, if so."""
        return joined(self.plan, self.derived, self.programs)

    def written(self) -> list[tuple[str, bytes]]:
        """The programs as files; of a file for several sheets its sections too, which later parts are proven
        on.
        """
        every = [(p.name, p.text.encode("ascii", "replace")) for p in self.programs]
        if self.joined is None:
            return every
        apart = {f.name for _w, f in self.joined.parts}
        parts = [(words, f.text) for words, f in self.joined.parts]
        text = join_programs(parts, self.derived.setup.machine.dialect).encode("ascii", "replace")
        return [
            *((n, b) for n, b in every if n not in apart),
            (self.joined.name, text),
            *((f"{SECTIONS}{n}", b) for n, b in every if n in apart),
        ]

    def stops(self, about: Sequence[Snag]) -> tuple[list[str], list[Snag]]:
        """What withholds the programs, and all that is said; programs are read back only where nothing
        stops them before.
        """
        found = [*about, *self.derived.snags]
        if self.programs and not any(s.severity == "stop" for s in found):
            for sheet in self.derived.sheets:
                found += jobs.prove_sheet(self.store, self.plan, self.derived, sheet, self.earlier).snags
        return [s.message for s in found if s.severity == "stop"], found

    def papers(self, released: bool) -> list[tuple[str, bytes]]:
        files = self.programs
        if self.joined is not None:  # the sheets are run from the one file
            files = [replace(f, name=self.joined.name) if f.cuts else f for f in files]
        return papers_of(self.store, self.plan, self.derived, files, released, self.stamp)


def paper_set(store: Store, plan: Plan, revision: int) -> bytes:
    """The papers of a job as it stands, as one PDF.

    Raises:
        BadInput: nothing is nested yet.
    """
    files, _manifest = release(store, plan, revision)
    papers = [(n, b) for n, b in files if n.endswith(".pdf")]
    if not any("setup-sheet" in n or "kerf-sheet" in n for n, _b in papers) and plan.kind == "parts":
        raise BadInput(f"{plan.name}: nothing is nested yet, so there is nothing to print")
    return one_set(papers)


def _stamp(store: Store, job: str, revision: int) -> Stamp:
    """When and by whom a revision was made."""
    line = next(iter(store.history(job, 1, revision + 1)), None) if revision else None
    if line is None or line["revision"] != revision:
        return Stamp(revision)
    return Stamp(revision, datetime.fromisoformat(line["made"]), line["author"])
