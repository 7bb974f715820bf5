"""Reliefs as programs: what the command line and the application share."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import PurePath
from typing import TypedDict

import numpy as np

from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z
from venzo.core.geometry.contour import Array
from venzo.core.motion.time import Axes
from venzo.core.proof.world import Given, figures
from venzo.core.release.file_names import slug
from venzo.core.relief.block import Block, Relief, Sitting, set_in
from venzo.core.relief.finishing import Finish, Pace, ReliefPass, above_edge, finish
from venzo.core.relief.height_grid import grid_mesh
from venzo.core.relief.left_on import Carved, carved
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.roughing import Rough, rough
from venzo.core.relief.tip import Tip
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput, PlainSnag, Snag, look, stop
from venzo.core.stock.dialect import Dialect
from venzo.core.tolerances import BUDGET
from venzo.core.tooling.assembly import Assembly
from venzo.desk.vcarve import CLEARANCE, Feeds
from venzo.formats import height_picture, meshes
from venzo.formats.gcode import ToolRun, write
from venzo.formats.rs274 import interpret

CLOSE = 1e-4
"""mm by which a written place may differ from the planned one, rounded as it is written."""
SELDOM = 0.01
"""Share of a way on which a cutter may take more than its rule before it is said."""
LEFT_SEEN = 0.5
"""mm; what stands higher above the model is named."""


class FilePrint(TypedDict):
    """One program of ``venzo relief`` (CONTRACT)."""

    name: str
    tool: str
    time_s: float
    cut_length_mm: float


class LeftPrint(TypedDict):
    """What the cutters leave above the model, vertical, mm."""

    p50: float
    p99: float
    max: float


class ReliefPrint(TypedDict):
    """What ``venzo relief`` prints (CONTRACT)."""

    files: list[FilePrint]
    lowest_z_mm: float
    cusp_mm: float
    left_mm: LeftPrint
    snags: list[PlainSnag]


@dataclass(frozen=True)
class ReliefFile:
    """A program of a relief."""

    name: str
    text: str
    tool: str
    seconds: float
    cut_length: float


@dataclass(frozen=True, eq=False)
class ReliefMade:
    """A relief's programs in running order, and what they leave."""

    relief: Relief
    passes: tuple[ReliefPass, ...]
    files: tuple[ReliefFile, ...]
    cusp: float
    carved: Carved
    snags: tuple[Snag, ...]

    def to_json(self) -> ReliefPrint:
        """The document that is printed of it."""
        return {
            "files": [
                {
                    "name": f.name,
                    "tool": f.tool,
                    "time_s": round(f.seconds, 2),
                    "cut_length_mm": round(f.cut_length, 2),
                }
                for f in self.files
            ],
            "lowest_z_mm": round(min((p.lowest for p in self.passes), default=0.0), 4),
            "cusp_mm": round(self.cusp, 5),
            "left_mm": {
                "p50": round(self.carved.share(50), 4),
                "p99": round(self.carved.share(99), 4),
                "max": round(self.carved.worst, 4),
            },
            "snags": [s.plain() for s in self.snags],
        }


@dataclass(frozen=True)
class HowMade:
    """How a relief is made. ``smooth``: pixels of a picture; ``rough_with`` None: it is finished at once."""

    finish_with: Assembly
    finish: Finish
    rough_with: Assembly | None
    rough: Rough
    feeds: Feeds
    smooth: float = 0.0
    inch: bool = False
    black_high: bool = False
    """Of a picture."""


def model_of(
    data: bytes, name: str, size: tuple[float, ...], smooth: float = 0.0, black_high: bool = False
) -> tuple[Mesh, list[Snag]]:
    """A model from a file of faces, or a picture of heights.

    Raises:
        BadInput: it cannot be read; a picture without three sizes.
    """
    if PurePath(name).suffix.lower() in height_picture.KINDS:
        if len(size) != 3:
            raise BadInput(f"{name}: a picture has no size of its own; give --size WxHxZ in mm")
        picture = height_picture.read_heights(data, name, smooth, black_high)
        said = [*picture.snags, *height_picture.stairs(picture, size[2], smooth)]
        return grid_mesh(name, picture.heights), said
    if smooth or black_high:
        raise BadInput(f"{name}: only pictures are smoothed or turned over; change a model where it was made")
    return meshes.read_mesh(data, name), []


def relief(data: bytes, name: str, block: Block, sitting: Sitting, how: HowMade) -> ReliefMade:
    """The programs that carve a model from a block.

    Raises:
        BadInput: with file, thing, number and remedy.
    """
    mesh, said = model_of(data, name, sitting.size, how.smooth, how.black_high)
    if sitting.size and min(sitting.size) <= 0:
        raise BadInput(f"{name}: a size is above 0")
    set_one = set_in(mesh, block, sitting)
    pace = Pace(feed=how.feeds.feed, plunge=how.feeds.plunge)
    passes: list[ReliefPass] = []
    if how.rough_with is not None:
        passes.append(rough(set_one, how.rough_with.cutter, how.rough, pace, above_edge(how.rough_with)))
    passes.append(finish(set_one, how.finish_with.cutter, how.finish, pace, above_edge(how.finish_with)))
    passes = [p for p in passes if len(p.moves)]
    dialect = Dialect(inch=how.inch)
    written = _written(passes, PurePath(name).stem, block, how, dialect)
    with ThreadPoolExecutor(1) as beside:
        coming = beside.submit(carved, set_one, passes)
        read = [_read_back(f, p, dialect) for f, p in zip(written, passes, strict=True)]
        held = coming.result()
    files = [f for f, _said in read]
    read_back = [s for _f, told in read for s in told]
    snags = [
        *said,
        *set_one.snags,
        *_deep(held, passes, how.rough_with is not None),
        *_held_against(held),
        *read_back,
    ]
    tip = Tip.of(how.finish_with.cutter)
    cusp = tip.cusp(tip.across * how.finish.step_over)
    return ReliefMade(set_one, tuple(passes), tuple(files), cusp, held, tuple(snags))


def _written(
    passes: Sequence[ReliefPass], stem: str, block: Block, how: HowMade, dialect: Dialect
) -> list[tuple[str, str]]:
    """Names and texts of the programs."""
    out = []
    for n, p in enumerate(passes, 1):
        name = f"{n:02d}_{slug(stem)}_{p.kind}_{slug(p.cutter.name)}.nc"
        run = ToolRun(n, p.cutter.name, how.feeds.rpm, [(f"{p.kind} of the relief", p.moves)])
        header = [
            f"VENZO relief {stem}, file {n} of {len(passes)}: {p.kind} with {p.cutter.name}",
            f"X0 Y0 lower left corner of the block; Z0 its top; units {'inch' if how.inch else 'millimetre'}",
            f"block {block.width:g} x {block.height:g} x {block.thickness:g} mm; lowest {p.lowest:.3f} mm",
            "mask against dust; keep hands away until the spindle stands",
        ]
        text = write([run], dialect, header, CLEARANCE, 0.0)
        out.append((name, text))
    return out


def _read_back(
    written: tuple[str, str], planned: ReliefPass, dialect: Dialect
) -> tuple[ReliefFile, list[Snag]]:
    """A written program read as a controller does: its figures, and whether it goes where it was planned to
    and nowhere else.
    """
    name, text = written
    reading = interpret(text, name)
    out = [stop(f.rule, f"{name}, line {f.line}: {f.message}") for f in reading.faults]
    moves = np.vstack([b.moves for b in reading.blocks]) if reading.blocks else np.zeros((0, 7))
    told = moves[moves[:, KIND] != RAPID][:, [X, Y, Z]]
    meant = _as_written(planned.moves, dialect)
    if len(told) != len(meant) or (len(told) and np.abs(told - meant).max() > CLOSE):
        out.append(
            stop("relief.written", f"{name} does not go the planned way; do not run it, and report this")
        )
    sums = figures([Given(name, reading)], Axes())
    return ReliefFile(name, text, planned.cutter.name, sums.seconds, sums.cut_length), out


def _as_written(moves: Array, dialect: Dialect) -> Array:
    """Places of the cutting moves, rounded as a dialect writes them; what that brings to one place is one."""
    scale = 1 / 25.4 if dialect.inch else 1.0
    digits = dialect.digits
    flat = (moves[:, [X, Y, Z]] * scale).ravel().tolist()
    at = np.array([float(f"{v:.{digits}f}") for v in flat]).reshape(-1, 3)
    goes = np.ones(len(at), dtype=bool)
    goes[1:] = (at[1:] != at[:-1]).any(axis=1)
    return at[goes & (moves[:, KIND] != RAPID)] / scale


def _deep(held: Carved, passes: Sequence[ReliefPass], asked: bool) -> list[Snag]:
    """Passes that take more at once than the shop's rule lets their cutter: measured by what stood there when
    they began. ``asked``: roughing was asked for, though nothing may have come of it.
    """
    rules = HouseRules()
    roughed = any(p.kind == "rough" for p in passes)
    out = []
    for p, bites in zip(passes, held.bites, strict=True):
        finishes = p.kind == "finish"
        most = rules.largest_step("wood", Tip.of(p.cutter).across if finishes else p.cutter.diameter)
        most *= 1 + rules.accepted_excess
        if not finishes and p.levels and -p.levels[0] > most:
            out.append(
                look(
                    "relief.level",
                    f"levels of {-p.levels[0]:.1f} mm with {p.cutter.name}: {most:.1f} mm is the rule for it"
                    " in wood; take lower ones",
                )
            )
        if p.kept_off > SELDOM / 10:
            out.append(
                look(
                    "relief.shank",
                    f"on {100 * p.kept_off:.1f} % of its way shank or nut of {p.cutter.name} keep the tip off"
                    " the surface, and what it cannot reach stays: clamp it further out, or take another",
                )
            )
        if not finishes or not len(bites):
            continue
        over = float((bites > most).mean())
        if not roughed and bites.max() > most:
            mend = (
                "roughing with its allowance came nowhere: give a wider margin or a smaller cutter"
                if asked
                else "rough it first"
            )
            out.append(
                stop(
                    "relief.step",
                    f"{p.cutter.name} would go {bites.max():.1f} mm deep in one pass; {most:.1f} mm is the"
                    f" rule for it in wood: {mend}",
                )
            )
        elif over > SELDOM:
            out.append(
                look(
                    "relief.bite",
                    f"{p.cutter.name} takes more than {most:.1f} mm at once on {100 * over:.0f} % of its way,"
                    f" up to {bites.max():.1f} mm, where roughing did not come: give it a wider margin, or"
                    " rough with a smaller cutter",
                )
            )
    return out


def _held_against(held: Carved) -> list[Snag]:
    """What the passes did to the model."""
    out: list[Snag] = []
    if held.deepest_in > BUDGET:
        out.append(
            stop(
                "relief.into",
                f"a cutter goes {held.deepest_in:.3f} mm into the model; do not run it, and report this",
            )
        )
    high = held.left > LEFT_SEEN
    if high.any():
        k = int(np.argmax(held.left))
        x, y = held.points[k]
        out.append(
            look(
                "relief.left",
                f"up to {held.worst:.2f} mm stay above the model, over {LEFT_SEEN:g} mm on"
                f" {100 * float(high.mean()):.1f} % of it, most at {x:.1f}, {y:.1f} mm: steep walls and"
                " corners that the cutter cannot come into, or the boundary keeps it from; take a smaller tip"
                " there, or a margin",
                {"x": round(float(x), 3), "y": round(float(y), 3)},
            )
        )
    return out
