"""Programs held against a sheet, or against a stored job's plan: what ``venzo prove`` does (CONTRACT)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NotRequired, TypedDict

from pydantic import ValidationError

from venzo.core.derive import DerivedSetup
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan
from venzo.core.proof.check import prove
from venzo.core.proof.compare import likeness, planned_sections, read_sections
from venzo.core.proof.program import Reading
from venzo.core.proof.removal import removed_volume
from venzo.core.proof.world import Axes, Figures, Given, World, figures, world_snags
from venzo.core.release.programs import ProgramFile, tool_runs
from venzo.core.release.programs import programs as listed
from venzo.core.snags import BadInput, PlainSnag, Snag, note, plain_error
from venzo.core.stock.lying import Lying
from venzo.core.tooling.assembly import Assembly
from venzo.core.tooling.cutter import Cutter, Kind
from venzo.desk import kerf_jobs
from venzo.desk.jobs import as_program, derive, subject_of
from venzo.formats.rs274 import interpret
from venzo.store.store import Store

KINDS: dict[str, tuple[Kind, int]] = {
    "flat": ("up-cut", 1),
    "ball": ("ball", 1),
    "bull": ("bowl", 2),
    "vee": ("v-bit", 2),
    "taper": ("tapered ball", 3),
    "surfacing": ("surfacing", 1),
    "drill": ("drill", 2),
}
"""Kinds of ``--tool`` with how many numbers each takes."""
USUAL = {"vee": 90.0, "drill": 118.0}
"""Angles taken where none is given, degrees."""
LONG = 1e4
"""mm; a cutting edge that is not named is long enough."""


class Extents(TypedDict):
    """Where the tip went, mm."""

    min: list[float]
    max: list[float]


class ProofPrint(TypedDict):
    """What ``venzo prove`` prints (CONTRACT). ``removed_mm3`` is null where a cutter is not named."""

    moves: int
    extents_mm: Extents | None
    cut_length_mm: float
    rapid_length_mm: float
    time_s: float
    tools: list[int]
    removed_mm3: float | None
    snags: list[PlainSnag]
    file: NotRequired[str]


@dataclass(frozen=True)
class Proven:
    """What came of it: sums over the programs, snags, and the file of the plan that was meant."""

    sums: Figures
    snags: tuple[Snag, ...]
    file: str = ""
    removed: float | None = None
    """mm3 taken off the sheet."""

    def to_json(self) -> ProofPrint:
        """The document that ``venzo prove`` prints."""
        out: ProofPrint = {
            "moves": self.sums.moves,
            "extents_mm": (
                {
                    "min": [round(float(v), 4) for v in self.sums.lowest],
                    "max": [round(float(v), 4) for v in self.sums.highest],
                }
                if self.sums.moves
                else None
            ),
            "cut_length_mm": round(self.sums.cut_length, 3),
            "rapid_length_mm": round(self.sums.rapid_length, 3),
            "time_s": round(self.sums.seconds, 3),
            "tools": self.sums.tools,
            "removed_mm3": None if self.removed is None else round(self.removed, 1),
            "snags": [s.plain() for s in self.snags],
        }
        if self.file:
            out["file"] = self.file
        return out


def numbers(text: str, what: str, count: int, between: str) -> list[float]:
    """So many numbers from an option's text.

    Raises:
        BadInput: naming the option.

    >>> numbers("1219.2x2438.4x18", "--sheet", 3, "x")
    [1219.2, 2438.4, 18.0]
    """
    try:
        out = [float(v) for v in text.lower().split(between)]
    except ValueError:
        out = []
    if len(out) != count or any(not abs(v) < 1e6 for v in out):
        shape = between.join(["WIDTH", "HEIGHT", "THICKNESS"][:count] if count == 3 else ["X", "Y"])
        raise BadInput(f"{what} {text}: give {shape} in mm")
    return out


def tool(text: str) -> tuple[int | None, Assembly]:
    """A cutter from ``[N=]kind:numbers[:edge=MM:out=MM:nut=MM]``; its number, None: it serves all.

    Raises:
        BadInput: naming the option.

    >>> n, t = tool("2=vee:12.7:60:edge=10")
    >>> n, t.cutter.kind, t.cutter.angle, t.edge
    (2, 'v-bit', 60.0, 10.0)
    """
    number, _eq, rest = text.partition("=") if "=" in text.split(":")[0] else ("", "", text)
    fields = rest.split(":")
    kind = fields[0].strip().lower()
    if kind not in KINDS:
        raise BadInput(f"--tool {text}: {fields[0]!r} is not a kind; use one of {', '.join(KINDS)}")
    plain = [f for f in fields[1:] if "=" not in f]
    named = dict(f.split("=", 1) for f in fields[1:] if "=" in f)
    unknown = set(named) - {"edge", "out", "nut"}
    least = KINDS[kind][1] - (kind in USUAL)
    try:
        n = int(number) if number else None
        v = [float(x) for x in plain]
        more = {k: float(x) for k, x in named.items()}
    except ValueError:
        v, more, n = [], {}, None
        least = 99
    if (
        unknown
        or not least <= len(v) <= KINDS[kind][1]
        or any(not 0 < x < 1e4 for x in (*v, *more.values()))
        or (n is not None and not 1 <= n <= 999)
    ):
        example = {
            "flat": "1=flat:6.35",
            "ball": "ball:6",
            "bull": "bull:12:2",
            "vee": "2=vee:12.7:60",
            "taper": "taper:1:5:6",
            "surfacing": "surfacing:50",
            "drill": "drill:5:118",
        }[kind]
        raise BadInput(
            f"--tool {text}: give it as in {example}, lengths in mm, and if need be :edge=MM:out=MM:nut=MM"
        )
    return n, Assembly(
        _cutter(kind, v, n or 1, more.get("edge", LONG), text),
        more.get("edge"),
        more.get("out"),
        more.get("nut"),
    )


def _cutter(kind: str, v: list[float], number: int, edge: float, text: str) -> Cutter:
    diameter = v[2] if kind == "taper" else v[0]
    more: dict[str, float] = {}
    if kind == "bull":
        more["corner_radius"] = v[1]
    elif kind in USUAL:
        more["angle"] = v[1] if len(v) > 1 else USUAL[kind]
    elif kind == "taper":
        more.update(tip=2 * v[0], angle=2 * v[1])
    try:
        return Cutter(
            id=f"t{number}",
            number=number,
            name=f"T{number}, {diameter:g} mm {kind}",
            kind=KINDS[kind][0],
            diameter=diameter,
            cutting_length=edge,
            centre_cutting=kind != "surfacing",
            **more,
        )  # type: ignore[arg-type]
    except ValidationError as e:
        raise BadInput(f"--tool {text}: {plain_error(e)}") from e


def world_of(sheet: str, tools: Sequence[str], envelope: str | None, sheet_at: str, axes: Axes) -> World:
    """The world that the options of ``venzo prove`` tell of."""
    w, h, t = numbers(sheet, "--sheet", 3, "x")
    if min(w, h, t) <= 0 or max(w, h) > 20_000 or t > 500:
        raise BadInput(f"--sheet {sheet}: a sheet above 0, up to 20000 mm long and 500 mm thick")
    named: dict[int, Assembly] = {}
    every: Assembly | None = None
    for text in tools:
        n, found = tool(text)
        if n is None:
            if every is not None:
                raise BadInput(f"--tool {text}: only one cutter may stand without a number; write N=")
            every = found
        elif n in named:
            raise BadInput(f"--tool {text}: T{n} is given twice")
        else:
            named[n] = found
    reach, span, lies = None, None, Lying()
    if envelope:
        ex, ey, span = numbers(envelope, "--envelope", 3, "x")
        x, y = numbers(sheet_at, "--sheet-at", 2, ",")
        reach, lies = (0.0, 0.0, ex, ey), Lying((x, y))
    return World(w, h, t, named, every, reach, span, axes=axes, lies=lies)


def prove_programs(
    files: Sequence[tuple[str, str]], world: World, origin: tuple[float, float], bed: bool
) -> Proven:
    """Programs (name, text) run in order on one sheet.

    Raises:
        BadInput: a file is no program.
    """
    loaded, given = (
        (next(iter(world.tools)) if len(world.tools) == 1 and world.any_tool is None else 0),
        [],
    )  # the one cutter there is, is in the collet
    for name, text in files:
        reading = interpret(text, name)
        given.append(Given(name, reading, loaded, *origin, world.thickness if bed else 0.0))
        loaded = next((b.tool for b in reversed(reading.blocks) if b.tool), loaded)
    snags = world_snags(world, given)
    rank = {"stop": 0, "look": 1, "note": 2}
    snags.sort(key=lambda s: rank[s.severity])
    return Proven(figures(given, world.axes), tuple(snags), removed=removed_volume(world, given))


def _read_for(plan: Plan, text: str, name: str) -> Reading:
    """A program as the machine of one of the plan's setups reads it: the one that understands most of it."""
    dialects = dict.fromkeys(s.machine.dialect for s in plan.setups)
    readings = [interpret(text, name, d) for d in dialects] or [interpret(text, name)]
    return min(readings, key=lambda r: len(r.faults))


def prove_against(store: Store, plan: Plan, name: str, text: str, on: str = "") -> Proven:
    """One program against the file of a plan that it resembles most (or that of the sheet ``on``,
    SHEET[:COPY]).

    Raises:
        BadInput: no program, or the plan has none to hold it against.
    """
    reading = _read_for(plan, text, name)
    tables = [d for d in derive(store, plan, hold=False).values() if d.kerf]
    routers = any(s.machine.head is None for s in plan.setups)
    if tables and not (routers and not reading.faults and _turns(reading)):
        return _against_kerfs(plan, tables, name, text, on)
    derived, sheet, file = _meant(store, plan, reading, on)
    subject = subject_of(store, plan, derived, sheet)
    program = as_program(subject, file, reading)
    proof = prove(subject, [program])
    snags = tuple(
        s if s.rule != "proof.clear" else note("proof.clear", f"{s.message}, as in {file.name}", s.where)
        for s in proof.snags
    )
    world = subject.world()
    removed = removed_volume(world, [program.given])
    return Proven(figures([program.given], world.axes), snags, file.name, removed)


def _turns(reading: Reading) -> bool:
    """Does a program give a spindle its speed? A head's goes on without."""
    return any(b.rpm > 1 for b in reading.blocks)


def _against_kerfs(plan: Plan, tables: Sequence[DerivedSetup], name: str, text: str, on: str) -> Proven:
    """A kerf table's program against the sheet that it differs least from."""
    wanted, _colon, copy = on.partition(":")
    best: tuple[int, Figures, list[Snag], str] | None = None
    for d in tables:
        for sheet in d.kerf:
            if wanted and (sheet.sheet != wanted or (copy and str(sheet.copy_no) != copy)):
                continue
            file = kerf_jobs.program(plan, d, sheet)
            found, sums = kerf_jobs.held_against(d, sheet, name, text)
            if best is None or len(found) < best[0]:
                best = (len(found), sums, found, file.name)
    if best is None:
        known = ", ".join(f"{k.sheet}:{k.copy_no}" for d in tables for k in d.kerf)
        raise BadInput(f"--on {on}: the plan cuts no such sheet; its sheets are {known}")
    _n, sums, found, file_name = best
    clear = note("proof.clear", f"the program does what the plan says, cut for cut, as in {file_name}")
    return Proven(sums, tuple(found or [clear]), file_name)


def _meant(
    store: Store, plan: Plan, reading: Reading, on: str
) -> tuple[DerivedSetup, SheetPlan, ProgramFile]:
    """The file of a plan that a reading resembles most."""
    wanted, _colon, copy = on.partition(":")
    best: tuple[float, DerivedSetup, SheetPlan, ProgramFile] | None = None
    sheets: list[str] = []
    for d in derive(store, plan, hold=False).values():
        for f in listed(plan, d):
            for sheet in d.sheets:
                if not f.serves(sheet):
                    continue
                sheets.append(f"{sheet.sheet}:{sheet.copy_no}")
                if wanted and (sheet.sheet != wanted or (copy and str(sheet.copy_no) != copy)):
                    continue
                cutter = d.setup.cutter(f.cutters[0]) if f.cutters else None
                stock = d.setup.stock_of(sheet.sheet)
                top = 0.0 if f.z_zero == "top" or stock is None else stock.thickness
                want = planned_sections(tool_runs(plan, d.setup, sheet, f), d.setup.machine.clearance, top)
                like = likeness(want, read_sections(reading.blocks, cutter.number if cutter else 0))
                if best is None or like > best[0] + 1e-9:
                    best = (like, d, sheet, f)
    if best is None:
        known = ", ".join(dict.fromkeys(sheets)) or "none"
        raise BadInput(
            f"--on {on}: the plan cuts no such sheet; its sheets are {known}"
            if on
            else f"{plan.name}: the plan has no program yet; nest it first"
        )
    return best[1:]
