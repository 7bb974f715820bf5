"""Carvings as programs and pictures: what the command line and the API share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, TypedDict

import numpy as np
import shapely
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import Carving, carve, judged
from venzo.core.carving.carve import Depths as Depths
from venzo.core.carving.medial import CHORD
from venzo.core.carving.proof import carving_snags
from venzo.core.carving.sweep import Surface, flat, sweep
from venzo.core.carving.toolpath import bit_moves, mill_moves
from venzo.core.cuts.follow import follow_moves
from venzo.core.cuts.moves import CX, CY, RAPID, X, Y, lengths
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array, Contour
from venzo.core.motion.time import Axes, path_time
from venzo.core.parts.intake import HowRead, take_in
from venzo.core.snags import BadInput, PlainSnag, Snag, note
from venzo.core.stock.dialect import Dialect
from venzo.formats.drawing_file import read_file
from venzo.formats.gcode import ToolRun, read, write

RETRACT, CLEARANCE = 3.0, 10.0
"""mm/s2 and mm/min that times are reckoned with where no machine is named."""


@dataclass(frozen=True)
class Feeds:
    """mm/min and rpm of a program made without a library."""

    feed: float = 2400.0
    plunge: float = 900.0
    rpm: float = 18_000.0

    def __post_init__(self) -> None:
        for name, v, most in (
            ("--feed", self.feed, 60_000),
            ("--plunge", self.plunge, 60_000),
            ("--rpm", self.rpm, 60_000),
        ):
            if not 0 < v <= most:
                raise BadInput(f"{name} {v:g}: give a number above 0 and up to {most}")


class MadePrint(TypedDict):
    """What ``venzo vcarve`` and ``venzo surface`` print (CONTRACT)."""

    cut_length_mm: float
    time_s: float
    max_depth_mm: float
    snags: list[PlainSnag]


@dataclass(frozen=True)
class Made:
    """A program with its figures."""

    text: str
    cut_length: float
    seconds: float
    deepest: float
    snags: list[Snag]

    def to_json(self) -> MadePrint:
        """The document that is printed of it."""
        return {
            "cut_length_mm": round(self.cut_length, 3),
            "time_s": round(self.seconds, 2),
            "max_depth_mm": round(self.deepest, 4),
            "snags": [s.plain() for s in self.snags],
        }


def drawn_area(
    data: bytes, name: str, units: str = "auto", join: float = 0.05
) -> tuple[BaseGeometry, list[Contour], list[Snag]]:
    """Every closed region of a drawing file as one area (mm), its open lines, and what reading it gave cause
    to say.

    Raises:
        BadInput: unreadable, or nothing closed in it.
    """
    drawing = read_file(data, name)
    how = HowRead.model_validate(
        {"units": units, "join": join, "roles": {c.layer: "cut" for c in drawing.chains}}
    )
    found = take_in(drawing, name, how)
    if not found.regions and not found.open_contours:
        why = next((s.message for s in found.snags if s.severity == "stop"), f"{name}: nothing closed in it")
        raise BadInput(why)
    return (
        shapely.union_all([r.polygon(CHORD).buffer(0) for r in found.regions]),
        found.open_contours,
        [s for s in found.snags if s.severity != "stop" and s.rule != "intake.open"],
    )


def totals(runs: Sequence[ToolRun], axes: Axes = Axes()) -> tuple[float, float]:
    """Cutting length (mm) and time (s) of tool runs."""
    cut = seconds = 0.0
    for r in runs:
        for _label, m in r.cuts:
            d = lengths(m)
            cut += float(d[m[:, 0] != RAPID].sum())
            seconds += path_time(m, axes)[0]
    return cut, seconds


def runs_of(
    c: Carving,
    feeds: Feeds,
    bit_number: int = 2,
    mill_number: int = 1,
    retract: float = RETRACT,
    mill_step: float | None = None,
) -> list[ToolRun]:
    """The end mill's run, if there is one, and the bit's."""
    out = []
    milled = mill_moves(c, retract, feeds.feed, feeds.plunge, mill_step)
    if milled:
        out.append(
            ToolRun(
                mill_number,
                f"end mill {c.depths.clear:g} mm",
                feeds.rpm,
                [(f"floor {k + 1}", m) for k, m in enumerate(milled)],
            )
        )
    passes = bit_moves(c, retract, feeds.feed, feeds.plunge)
    if passes:
        point = (
            f", flat {c.bit.tip:g} mm"
            if c.bit.tip
            else f", point R{c.bit.tip_radius:g}"
            if c.bit.tip_radius
            else ""
        )
        name = f"V bit {c.bit.angle:g} degrees, {c.bit.diameter:g} mm{point}"
        out.append(
            ToolRun(
                bit_number,
                name,
                feeds.rpm,
                [(f"carving, pass {k + 1} of {len(passes)}", m) for k, m in enumerate(passes)],
            )
        )
    return out


def program(
    c: Carving,
    feeds: Feeds,
    title: str,
    inch: bool = False,
    lines: Sequence[Contour] = (),
    line_depth: float | None = None,
    thickness: float | None = None,
    shift: tuple[float, float] = (0.0, 0.0),
) -> Made:
    """One file: T1 the end mill where floors are cleared, T2 the bit; without floors the bit is T1.

    Open ``lines`` are engraved at ``line_depth`` (mm) with the bit. ``shift``: added to every x and y.
    """
    snags = judged(c, thickness)
    both = bool(c.cleared)
    runs = runs_of(c, feeds, 2 if both else 1, mill_step=(c.depths.clear or 1.0))
    if lines and line_depth:
        track = Track(RETRACT, feeds.feed, feeds.plunge)
        moves = follow_moves(_nearest_next(lines), (-line_depth,), "plunge", 0.0, track)
        number, name = (runs[-1].number, runs[-1].name) if runs else (1, f"V bit {c.bit.angle:g} degrees")
        runs.append(ToolRun(number, name, feeds.rpm, [("open lines", moves)]))
    elif lines:
        snags.append(
            note(
                "carve.open",
                f"{len(lines)} open line{'s' * (len(lines) != 1)} left out; give a depth for lines to engrave"
                " them",
            )
        )
    unit = "inch" if inch else "millimetre"
    header = [
        f"VENZO carving {title}",
        f"X0 Y0 as drawn; Z0 top of the material; units {unit}",
        *(f"T{r.number} {r.name}" for r in runs),
        f"deepest {c.deepest:.2f} mm",
        "mask against dust; the point is sharp even at rest",
    ]
    if shift != (0.0, 0.0):
        runs = [
            ToolRun(r.number, r.name, r.rpm, [(label, moved(m, *shift)) for label, m in r.cuts]) for r in runs
        ]
    cut, seconds = totals(runs)
    text = write(_one_run_a_tool(runs), Dialect(inch=inch), header, CLEARANCE, 0.0)
    engraved = (
        [LineString(line.points(0.01)).buffer(float(c.bit.radius(line_depth)) + 0.01) for line in lines]
        if line_depth
        else []
    )
    snags += proven(text, title, c, engraved, 1 if both else None, shift)
    return Made(text, cut, seconds, max(c.deepest, line_depth or 0.0 if lines else 0.0), snags)


def proven(
    text: str,
    name: str,
    c: Carving,
    engraved: Sequence[BaseGeometry] = (),
    mill: int | None = None,
    shift: tuple[float, float] = (0.0, 0.0),
    loaded: int = 0,
) -> list[Snag]:
    """The written program read back and held against the walls of its carving.

    ``mill``: the end mill's number; ``engraved``: what lines take beside it; ``loaded``: the cutter in the
    collet at its start.
    """
    if not c.polygons and not engraved:
        return []
    blocks = [
        (
            (c.depths.clear or 0.0) / 2 if mill is not None and (b.tool or loaded) == mill else None,
            moved(b.moves, -shift[0], -shift[1]),
        )
        for b in read(text, name).blocks
    ]
    return carving_snags([*c.polygons, *engraved], c.bit, c.depths.below, blocks)


def moved(moves: Array, dx: float, dy: float) -> Array:
    """Moves shifted in the plane, mm."""
    out = moves.copy()
    out[:, [X, CX]] += dx
    out[:, [Y, CY]] += dy
    return out


def _one_run_a_tool(runs: Sequence[ToolRun]) -> list[ToolRun]:
    out: list[ToolRun] = []
    for r in runs:
        if out and out[-1].number == r.number and out[-1].rpm == r.rpm:
            out[-1].cuts.extend(r.cuts)
        else:
            out.append(ToolRun(r.number, r.name, r.rpm, list(r.cuts)))
    return out


def _nearest_next(lines: Sequence[Contour]) -> list[Contour]:
    """Open lines in an order of short hops, each from its nearer end."""
    left = list(lines)
    here = np.zeros(2)
    out = []
    while left:
        ends = np.array([[c.at(0.0)[:2], c.at(c.length)[:2]] for c in left])
        i, k = divmod(int(np.argmin(np.hypot(ends[:, :, 0] - here[0], ends[:, :, 1] - here[1]))), 2)
        c = left.pop(i)
        c = c.reversed() if k else c
        out.append(c)
        here = np.array(c.at(c.length)[:2])
    return out


def vcarve(
    data: bytes,
    name: str,
    bit: Bit,
    depths: Depths,
    feeds: Feeds,
    *,
    units: str = "auto",
    join: float = 0.05,
    inch: bool = False,
    line_depth: float | None = None,
    thickness: float | None = None,
) -> Made:
    """The program that carves a drawing file.

    Raises:
        BadInput: with file, thing, number and remedy.
    """
    area, lines, snags = drawn_area(data, name, units, join)
    if area.is_empty:
        if not line_depth:
            raise BadInput(
                f"{name}: only open lines in it; close the outlines, raise the join tolerance, or give a"
                " depth for engraving lines"
            )
        c = Carving(bit, depths, (), (), (), (), shapely.MultiPolygon(), None, (), 0.0, 0.0, 0.0, 0.0, (), "")
    else:
        try:
            c = carve(area, bit, depths, lift=feeds.feed / 60 * (2 * RETRACT / (feeds.plunge / 60) + 0.3))
        except BadInput as e:
            raise BadInput(f"{name}: {e}") from e
    made = program(c, feeds, name, inch, lines, line_depth, thickness)
    return Made(made.text, made.cut_length, made.seconds, made.deepest, [*snags, *made.snags])


def carved_surface(
    runs: Sequence[tuple[Bit | None, float, Array]], box: tuple[float, float, float, float], cell: float
) -> Surface:
    """The surface that runs leave: (bit or None, end mill's radius, moves) each."""
    s = flat(box, cell)
    for bit, radius, moves in runs:
        sweep(s, moves, bit, radius)
    return s


def lit(
    s: Surface,
    colour: tuple[int, int, int] = (206, 172, 122),
    azimuth: float = 135.0,
    altitude: float = 50.0,
    sharp: float = 1.0,
) -> Any:
    """A picture (Pillow image, Y up) of a surface lit from the side: Lambert's law, with depth darkened a
    little so that floors read.

    Args:
        colour: of the material.
        azimuth, altitude: where the light stands, degrees from X counter-clockwise and over the horizon.
        sharp: exaggeration of heights.
    """
    from PIL import Image

    z = s.heights * sharp
    gy, gx = np.gradient(z, s.cell)
    a, h = np.radians(azimuth), np.radians(altitude)
    light = np.array([np.cos(a) * np.cos(h), np.sin(a) * np.cos(h), np.sin(h)])
    shade = (-gx * light[0] - gy * light[1] + light[2]) / np.sqrt(gx**2 + gy**2 + 1)
    shade = np.clip(shade / light[2], 0, 1.6)
    deep = np.clip(1 + s.heights / max(1e-6, -float(s.heights.min()) or 1.0) * 0.22, 0.5, 1)
    k = np.clip(0.3 + 0.7 * shade, 0, 1.35) * deep
    rgb = np.clip(np.array(colour)[None, None, :] * k[:, :, None], 0, 255).astype(np.uint8)
    return Image.fromarray(rgb[::-1])
