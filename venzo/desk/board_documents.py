"""What the surfacing bench draws of a board: its passes, its heights, its faces, how it stands."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon

from venzo.core.memo import memo
from venzo.core.model import Document, Fields, digest
from venzo.core.snags import BadInput, Snag, look, note
from venzo.core.stock.grid import Grid
from venzo.core.stock.machine import Machine
from venzo.core.surfacing.board import Reading, SurfaceSetup
from venzo.core.surfacing.faces import turned, turning
from venzo.core.surfacing.flatness import Flatness
from venzo.core.surfacing.ledger import State, standing_entries
from venzo.core.surfacing.passes import Layer, Passes
from venzo.core.surfacing.shifts import Shift
from venzo.core.surfacing.tradeoff import Choice, Way, choices, elsewhere, ways, worth
from venzo.core.tooling.cutter import Cutter
from venzo.desk.spoilboards import (
    LedgerLine,
    axes_of,
    entries,
    faces_of,
    flat_of,
    grid_of,
    ledger_lines,
    machine_of,
    machine_snags,
    planned,
    revision_of,
    shifts_of,
    state_of,
    two_faced,
)
from venzo.devices.probe import SimulatedProbe
from venzo.store.store import Store

Span = tuple[float, float]


class RunDrawn(Document):
    """A run of a pass as SVG path data; ``outside``: it goes down where nothing stands, beside the board or
    on what is cut already.
    """

    d: str
    outside: bool
    start: Span


class PassDocument(Document):
    """A pass over the board: mm, s; ``touched``: share of it that cuts, where readings tell."""

    name: str
    depth: float
    takes: float
    step_over: float
    rows: int
    cut_length: float
    seconds: float
    touched: float | None
    runs: list[RunDrawn]


class BoardState(Document):
    """How a board stands after its ledger: mm, m."""

    thickness: float
    removed: float
    since_zero: float
    metres: float
    score: float
    flat: float | None
    cover: float | None
    due: bool
    passes_left: int | None


class FlatnessDocument(Document):
    """What the readings tell: tilt and droop (mm), what is left over, the grid of heights between ``x`` and
    ``y``.
    """

    tilt: tuple[float, ...]
    droop: tuple[float, ...]
    rest: float
    range: float
    least: float
    high: Reading
    low: Reading
    x: Span
    y: Span
    z: list[list[float]]


class SecondDocument(Document):
    """The second face of a board: how it lies and is cut then, and what is done between the faces; mm, s."""

    bench: SurfaceSetup
    layers: list[PassDocument]
    cut_length: float
    seconds: float
    travel: float
    deepest: float
    uncut: list[list[Span]]
    choices: list[Choice]
    worth: float | None
    ways: list[Way]
    snags: list[Snag]
    turning: list[str]
    leaves: float
    """Thickness after it."""
    booked: float
    """Taken off it already."""


class FacesDocument(Document):
    """Both faces of a board: what each takes and leaves, mm; ``wrong``: why it cannot be planed so."""

    first: float = 0.0
    after_first: float = 0.0
    second: float = 0.0
    after_second: float = 0.0
    says: list[str] = []
    wrong: str = ""


class CutterNews(Document):
    """What the shop library says newer of a board's cutter, and the fields that take it over."""

    name: str
    changes: list[str]
    how: Fields


class BoardLine(Document):
    """A board in the list, and how it stands."""

    id: str
    name: str
    kind: str
    machine: str | None
    square: int | None
    width: float
    height: float
    thickness: float
    due: bool
    metres: float
    score: float


class BoardDocument(Document):
    """Everything that the bench's screen draws of a board, and the revision of its job."""

    revision: int
    says: str
    can_undo: bool
    can_redo: bool
    bench: SurfaceSetup
    machine: Machine | None
    layers: list[PassDocument]
    skipped: list[str]
    cut_length: float
    seconds: float
    travel: float
    deepest: float
    uncut: list[list[Span]]
    state: BoardState
    flatness: FlatnessDocument | None
    choices: list[Choice]
    worth: float | None
    ways: list[Way]
    snags: list[Snag]
    ledger: list[LedgerLine]
    shifts: list[Shift]
    grid: Grid
    """The numbered grid it lies on."""
    own_grid: bool
    """The grid is the bench's own, made of its pitch: its machine has none."""
    faces: FacesDocument | None
    second: SecondDocument | None
    news: CutterNews | None


def line_of(store: Store, b: SurfaceSetup) -> BoardLine:
    """A board for the list."""
    st = state_of(store, b)
    own = {k: getattr(b.board, k) for k in ("name", "kind", "machine", "width", "height")}
    return BoardLine(
        id=b.id,
        square=b.square,
        **own,
        **{k: getattr(st, k) for k in ("thickness", "due", "metres", "score")},
    )


def view(store: Store, b: SurfaceSetup) -> BoardDocument:
    """Everything the bench's screen draws."""
    p, st, flat, m = planned(store, b), state_of(store, b), flat_of(b), machine_of(store, b)
    found, best = _weighed(b, m)
    at = revision_of(store, b.id)
    return BoardDocument(
        revision=at.number,
        says=at.says,
        can_undo=at.can_undo,
        can_redo=at.can_redo,
        bench=b,
        machine=m,
        layers=[_pass(x) for x in p.layers],
        skipped=list(p.skipped),
        cut_length=p.cut_length,
        seconds=p.seconds,
        travel=p.travel,
        deepest=p.deepest,
        uncut=_outlines(p),
        state=BoardState(**{k: v for k, v in vars(st).items() if k != "snags"}),
        flatness=_flat(flat),
        choices=list(found),
        worth=best,
        ways=ways(found, b.how.passes),
        snags=_ranked(
            (*p.snags, *elsewhere(b.board, b.how, p.seconds, False), *st.snags, *_more(store, b, st))
        ),
        ledger=ledger_lines(store, b.id)[::-1],
        shifts=list(shifts_of(store, b)),
        grid=grid_of(b, m),
        own_grid=m is None or m.grid is None,
        faces=_faces(store, b),
        second=_second(store, b, m),
        news=news(store, b),
    )


def _weighed(b: SurfaceSetup, m: Machine | None) -> tuple[list[Choice], float | None]:
    """The step-overs of one pass, and the quickest whose ridges are not felt."""
    found = memo(
        "tradeoff",
        digest("2", b.board, b.how, b.tilt_across, b.tilt_along, m),
        lambda: choices(b.board, b.how, b.tilt_across, b.tilt_along, axes_of(m)),
    )
    best = worth(found, b.ridge_limit)
    return found, best.share if best else None


def _ranked(snags: Sequence[Snag]) -> list[Snag]:
    rank = {"stop": 0, "look": 1, "note": 2}
    return sorted(snags, key=lambda s: rank[s.severity])


def _outlines(p: Passes) -> list[list[Span]]:
    """What stays uncut, its outer lines."""
    parts = [g for g in getattr(p.uncut, "geoms", [p.uncut]) if isinstance(g, Polygon) and not g.is_empty]
    return [shapely.get_coordinates(g.exterior).round(1).tolist() for g in parts]


def _second(store: Store, b: SurfaceSetup, m: Machine | None) -> SecondDocument | None:
    """The second face; None: none is planned, or the board is too thin for it (its faces say why)."""
    if not two_faced(store, b):
        return None
    f = faces_of(store, b)
    lies = turned(b, f)
    p = planned(store, lies)
    found, best = _weighed(lies, m)
    told = standing_entries(entries(store, b.id))
    return SecondDocument(
        bench=lies,
        layers=[_pass(x) for x in p.layers],
        cut_length=p.cut_length,
        seconds=p.seconds,
        travel=p.travel,
        deepest=p.deepest,
        uncut=_outlines(p),
        choices=list(found),
        worth=best,
        ways=ways(found, lies.how.passes),
        snags=_ranked(
            (
                *p.snags,
                *(s for s in f.snags if s.rule != "surface.first"),
                *elsewhere(lies.board, lies.how, p.seconds, True),
                *machine_snags(lies, m),
            )
        ),
        turning=turning(b, f),
        leaves=f.after_second,
        booked=sum(e.removed for _n, e in told if e.kind == "surfaced" and e.face == 2),
    )


def _pass(x: Layer) -> PassDocument:
    runs = [
        RunDrawn(
            d=_path(r.points),
            outside=not ramps,
            start=(round(float(r.points[0][0]), 1), round(float(r.points[0][1]), 1)),
        )
        for r, ramps in zip(x.runs, x.ramped, strict=True)
    ]
    return PassDocument(
        name=x.name,
        depth=x.depth,
        takes=x.takes,
        step_over=x.step_over,
        rows=x.rows,
        cut_length=x.cut_length,
        seconds=x.seconds,
        touched=x.touched,
        runs=runs,
    )


def news(store: Store, b: SurfaceSetup) -> CutterNews | None:
    """What the shop library says newer of a board's cutter; None where they agree, or the board names none of
    its cutters.
    """
    item = (
        next((c for c in store.library("cutter") if c["id"] == b.how.cutter_id), None)
        if b.how.cutter_id
        else None
    )
    if item is None:
        return None
    c = Cutter.model_validate(item)
    now: Fields = {"cutter": c.diameter, "cutter_name": c.name, "number": c.number}
    changed = {k: v for k, v in now.items() if getattr(b.how, k) != v}
    words = {"cutter": "diameter", "cutter_name": "name", "number": "number"}
    return CutterNews(name=c.name, changes=[words[k] for k in changed], how=changed) if changed else None


def _path(points: np.ndarray) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def _flat(f: Flatness | None) -> FlatnessDocument | None:
    if f is None:
        return None
    xs, ys, z = f.grid
    return FlatnessDocument(
        tilt=tuple(f.tilt),
        droop=tuple(f.droop),
        rest=f.rest,
        range=f.range,
        least=f.least_depth(),
        high=f.high,
        low=f.low,
        x=(round(float(xs[0]), 2), round(float(xs[-1]), 2)),
        y=(round(float(ys[0]), 2), round(float(ys[-1]), 2)),
        z=[[round(float(v), 3) for v in row] for row in z],
    )


def _faces(store: Store, b: SurfaceSetup) -> FacesDocument | None:
    if b.board.kind != "board":
        return None
    try:
        f = faces_of(store, b)
    except BadInput as e:
        return FacesDocument(wrong=str(e))
    return FacesDocument(
        first=f.first,
        after_first=f.after_first,
        second=f.second,
        after_second=f.after_second,
        says=[s.message for s in f.snags],
    )


def _more(store: Store, b: SurfaceSetup, st: State) -> list[Snag]:
    out: list[Snag] = []
    flat = flat_of(b)
    if b.simulated and b.readings:
        out.append(note("flat.simulated", SimulatedProbe.says))
    if abs(st.since_zero - b.how.start) > 1e-6:
        out.append(
            look(
                "ledger.start",
                f"the ledger says {st.since_zero:.2f} mm came off since Z was set to 0, the plan starts at"
                f" {b.how.start:.2f} mm: take the ledger's, or touch off anew",
            )
        )
    if flat and flat.range > 2.5:
        out.append(
            look(
                "flat.range",
                f"high and low spot differ by {flat.range:.2f} mm: before so much is cut away, look for what"
                " lies under it (chips, a swollen joint, a loose screw)",
            )
        )
    return [*out, *machine_snags(b, machine_of(store, b))]
