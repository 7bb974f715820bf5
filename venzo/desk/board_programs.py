"""Programs and papers of boards to surface: one or several in a program, in shifts, face by face."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from venzo.core.model import Document
from venzo.core.proof.world import Given, World, world_snags
from venzo.core.snags import BadInput, Snag
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.grid import Grid
from venzo.core.stock.lying import Lying
from venzo.core.stock.machine import Machine
from venzo.core.surfacing.board import SurfaceSetup
from venzo.core.surfacing.faces import turned, turning
from venzo.core.surfacing.rows import CLEAR, Room
from venzo.desk.grids import Marker, grid_program
from venzo.desk.spoilboards import (
    Side,
    as_it_lies,
    axes_of,
    faces_of,
    flat_of,
    grid_of,
    height_of,
    machine_of,
    machine_snags,
    passes_in,
    planned,
    shifts_of,
    state_of,
    surface_setup,
    two_faced,
)
from venzo.desk.surfacing import Placed, program, reach_of
from venzo.formats.rs274 import interpret
from venzo.store.store import Store

PROUD = 0.3
"""mm that a board may stand over the one on which Z is touched off for all."""
DEPTHS = {"depth", "passes", "finish_depth", "start"}
"""Of how a second face is cut: what is its own where boards share a program."""


def placed(store: Store, bench_id: str, others: list[str], face: Side = 1) -> list[Placed]:
    """Boards of one program, each at its square of the first one's grid, or at the corner alone; second faces
    as deep as each of them asks.
    """
    first = as_it_lies(store, surface_setup(store, bench_id), face)
    if not others:
        return [Placed(first.board, planned(store, first), (0.0, 0.0))]
    m = machine_of(store, first)
    grid = grid_of(first, m)
    out = []
    for b in [first, *(as_it_lies(store, surface_setup(store, o), face) for o in others)]:
        if b.square is None:
            raise BadInput(
                f"{b.board.name}: several boards in one program lie on numbered squares; say which is its"
            )
        at = grid.corner(*grid.square(b.square))
        here = b.board.model_copy(update={"x": at[0], "y": at[1]})
        if abs(b.how.start - first.how.start) > 1e-6:
            raise BadInput(
                f"{b.board.name} starts {b.how.start:g} mm down, {first.board.name} {first.how.start:g} mm:"
                " one program cuts both alike; surface them apart, or set Z anew"
            )
        higher = (
            b.board.thickness - first.board.thickness if face == 2 else _now(store, b) - _now(store, first)
        )
        if first.how.touch != "table" and higher > PROUD:
            thicker = f"{b.board.name} is {higher:.2f} mm thicker than {first.board.name}"
            raise BadInput(f"{thicker}, on which Z is touched off: start from {b.board.name}")
        # X0 Y0 of the program is the grid's corner
        zero = (at[0] - grid.at[0], at[1] - grid.at[1])
        how = first.how if face == 1 else first.how.model_copy(update=b.how.model_dump(include=DEPTHS))
        lies = b.model_copy(update={"board": here, "how": how})
        out.append(Placed(b.board, passes_in(lies, m, Room(reach_of(m, here))), zero))
    # the cutter goes down beside a board: there must be room for it beside every other
    room = max(first.how.cutter + 2 * CLEAR, first.how.overrun)
    for one, two in combinations(out, 2):
        a, o = (box(k.at[0], k.at[1], k.at[0] + k.board.width, k.at[1] + k.board.height) for k in (one, two))
        if a.distance(o) < room:
            words = "lie on one another" if a.intersects(o) else f"lie {a.distance(o):.0f} mm apart"
            raise BadInput(
                f"{one.board.name} and {two.board.name} {words}; the cutter goes down between them and needs"
                f" {room:.0f} mm: give them squares further apart"
            )
    return out


def _now(store: Store, b: SurfaceSetup) -> float:
    """Thickness of a board as its ledger leaves it, mm."""
    return state_of(store, b).thickness


def programs(
    store: Store, bench_id: str, others: list[str] | None = None, face: Side | None = None
) -> list[tuple[str, str]]:
    """(file name, text) of a board's programs: of one face, or of all that are planned, one a shift where it
    is longer than the table.

    Raises:
        BadInput: a stop stands in the way.
    """
    b = surface_setup(store, bench_id)
    both: tuple[Side, ...] = (1, 2) if b.second is not None and b.board.kind == "board" else (1,)
    sides = (face,) if face else both
    return [made for side in sides for made in _face_programs(store, b, others or [], side, len(both) > 1)]


def _face_programs(
    store: Store, whole: SurfaceSetup, others: list[str], face: Side, named: bool
) -> list[tuple[str, str]]:
    """The programs of one face; ``named``: their names say which."""
    b, m = as_it_lies(store, whole, face), machine_of(store, whole)
    together = [b, *(as_it_lies(store, surface_setup(store, o), face) for o in others)]
    for one in together:
        asked = one.model_copy(update={"how": b.how}) if face == 1 else one
        _refuse(
            [*planned(store, asked).snags, *_ledger_snags(store, asked, face), *machine_snags(one, m)], one
        )
    dialect, clearance = (m.dialect if m else Dialect()), height_of(m, together)
    stem, ending = f"surface_{b.id}" + (f"_face-{face}" if named else ""), dialect.ending
    parts = shifts_of(store, b)
    if len(parts) == 1 or others:
        lying = placed(store, b.id, others, face)
        title = f"{b.board.name}{', second face' if face == 2 else ''}"
        made = program(lying, b.how, title, dialect, clearance, axes_of(m))
        if others:
            _refuse([*made.snags, *met_on_table(grid_of(b, m), m, made.text)])
        return [(f"{stem}.{ending}", made.text)]
    out = []
    far = 1e6
    for s in parts:
        # planned on the whole board, so that the cutter never goes straight down on the part that lies beyond
        # this shift
        x0, x1 = s.start if s.number > 1 else -far, s.end if s.number < len(parts) else far
        reach = reach_of(m, b.board.model_copy(update={"x": b.board.x - s.mark}))
        zone: BaseGeometry = box(x0, -far, x1, far)
        own = box(x0 + b.overlap / 2, -far, x1 - b.overlap / 2, far)
        room = Room(zone.intersection(reach) if reach is not None else zone, wanted=own)
        named_board = b.board.model_copy(
            update={
                "name": (
                    f"{b.board.name}, shift {s.number} of {len(parts)}: line at {s.mark:.0f} mm on the"
                    " table's zero"
                )
            }
        )
        shown = Placed(named_board, passes_in(b, m, room), (-s.mark, 0.0))
        made = program([shown], b.how, named_board.name, dialect, clearance, axes_of(m))
        out.append((f"{stem}_shift-{s.number}.{ending}", made.text))
    return out


def _ledger_snags(store: Store, b: SurfaceSetup, face: Side) -> Sequence[Snag]:
    """What the ledger says against a face; the second is held against its thickness by its faces."""
    return state_of(store, b).snags if face == 1 else ()


def board_grid(store: Store, bench_id: str, depth: float = 0.3) -> tuple[str, str]:
    """File name and program that draws the numbered grid of the table a board lies on with a pen."""
    b = surface_setup(store, bench_id)
    m = machine_of(store, b)
    if m is None:
        raise BadInput(f"{b.board.name} lies on no machine of the library: whose table is to be marked?")
    return grid_program(m.model_copy(update={"grid": grid_of(b, m)}), Marker(depth=depth))


def met_on_table(grid: Grid, m: Machine | None, text: str) -> list[Snag]:
    """What a program of several boards meets on the table: its edge, its dead areas."""
    if m is None:
        return []
    world = World(
        m.width,
        m.height,
        1e3,
        {},
        reach=(0.0, 0.0, m.width, m.height),
        z_span=m.z_travel,
        dead=m.dead_areas,
        axes=m.axes,
        lies=Lying(grid.at),
    )
    found = world_snags(world, [Given("boards", interpret(text, "boards", m.dialect))])
    return [s for s in found if s.rule == "proof.table"]


def _refuse(snags: Sequence[Snag], of: SurfaceSetup | None = None) -> None:
    """Raise BadInput with the first stop."""
    stops = [s.message for s in snags if s.severity == "stop"]
    if stops:
        raise BadInput(f"{f'{of.board.name}: ' if of else ''}no program while this stands: {stops[0]}")


class OnSquare(Document):
    """A board of a set: where it lies and what stays uncut of it, mm2."""

    name: str
    square: int
    uncut: float
    entries: int
    """Runs that cannot start clear of the work and ramp in on it."""


class TogetherDocument(Document):
    """Several boards in one program, planned where they lie: s, mm."""

    boards: list[OnSquare]
    seconds: float
    cut_length: float
    snags: list[Snag]


def together(store: Store, bench_id: str, others: list[str], face: Side = 1) -> TogetherDocument:
    """What comes of a face of several boards in one program.

    Raises:
        BadInput: they cannot lie so.
    """
    b = surface_setup(store, bench_id)
    m = machine_of(store, b)
    lying = placed(store, bench_id, others, face)
    clearance = height_of(m, [b, *(surface_setup(store, o) for o in others)])
    how = as_it_lies(store, b, face).how
    made = program(lying, how, b.board.name, m.dialect if m else Dialect(), clearance, axes_of(m))
    squares_of = [surface_setup(store, i).square or 0 for i in (bench_id, *others)]
    return TogetherDocument(
        boards=[
            OnSquare(
                name=p.board.name,
                square=n,
                uncut=p.plan.uncut.area,
                entries=sum(sum(layer.ramped) for layer in p.plan.layers),
            )
            for p, n in zip(lying, squares_of, strict=True)
        ],
        seconds=made.seconds,
        cut_length=made.cut_length,
        snags=[*made.snags, *met_on_table(grid_of(b, m), m, made.text)],
    )


def paper(store: Store, board: str, others: list[str] | None = None) -> tuple[str, bytes]:
    """The surfacing sheet of a board, with the names of its programs, as a PDF with its name; of several
    boards in one program with the whole set.
    """
    from venzo.formats.surfacing_sheet import OnPaper, SecondOnPaper, surfacing_sheet

    b = surface_setup(store, board)
    p, st = planned(store, b), state_of(store, b)
    files = [] if stops(store, b) else [n for n, _t in programs(store, board, others)]
    the_set = together(store, board, others) if others else None
    lines = [
        f"{x.name} on square {x.square}: {x.uncut / 100:.1f} cm2 stay uncut"
        if x.uncut > 1
        else f"{x.name} on square {x.square}"
        for x in (the_set.boards if the_set else ())
    ]
    second = None
    if two_faced(store, b):
        f = faces_of(store, b)
        lies = turned(b, f)
        second = SecondOnPaper(lies, planned(store, lies), f, turning(b, f))
    data = surfacing_sheet(OnPaper(b, p, st, flat_of(b), machine_of(store, b), files, lines, second))
    return f"surface_{b.id}.pdf", data


def stops(store: Store, b: SurfaceSetup) -> list[str]:
    """What forbids that a board's programs are cut, in sentences."""
    found = [*planned(store, b).snags, *state_of(store, b).snags, *machine_snags(b, machine_of(store, b))]
    said = [s.message for s in found if s.severity == "stop"]
    if b.second is None or b.board.kind != "board":
        return said
    try:
        lies = as_it_lies(store, b, 2)
    except BadInput as e:
        return [*said, str(e)]
    found = [*planned(store, lies).snags, *machine_snags(lies, machine_of(store, b))]
    return [*said, *(f"second face: {s.message}" for s in found if s.severity == "stop")]
