"""Forms put together into one surface of triangles.

The surface is parted where forms begin, end or bend, so that walls stand upright and rims are round; between
those lines it is a grid. Where two curved forms meet by *higher* or *lower* the line on which they do is as
fine as the grid.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.geometry.regions import regions
from venzo.core.relief.drop import Ground
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.surface_forms import (
    AForm,
    Bead,
    Dish,
    Dome,
    Formed,
    Laid,
    Line,
    Plateau,
    Ramp,
    RoundedEdge,
    SweptSection,
    Texture,
    Together,
    cap,
    rounded,
    steps_of_cap,
)
from venzo.core.snags import BadInput

CELLS = 90_000
"""Of the grid over a field, about."""
FINEST = 0.1
"""mm between its lines, at least."""
CHORD = 0.002
"""mm; arcs of outlines become chords within this."""
LEVEL = 8
"""A region that is level has squares so many times as wide: long thin triangles would be asked everywhere."""
UPRIGHT = 1e-3
"""mm: a wall that leans by no more stands upright."""
TILE = 12
"""Squares of the grid, each way, that are cut out together."""
MOST_CORNERS = 200_000
"""Of all outlines and of the lines at which forms bend."""


@dataclass(frozen=True, eq=False)
class _Piece:
    """One outline or line of a form. ``bends``: how far from its rim its section bends; ``height``: of places
    (n, 2); ``level``: is it level about a place?
    """

    together: Together
    area: BaseGeometry
    bends: Sequence[BaseGeometry]
    height: Callable[[Array], Array]
    level: Callable[[Array], bool]
    covers: Callable[[Array], bool] = field(default=lambda _at: True)

    def holds(self, at: Array) -> bool:
        """Does it lie over a place?"""
        return bool(shapely.contains_xy(self.area, *at)) and self.covers(at)


def formed_mesh(name: str, made: Formed, pictures: Mapping[str, Mesh]) -> Mesh:
    """The surface as a mesh, in the part's frame; ``pictures``: of textures, by digest.

    >>> from venzo.core.geometry.contour import Contour
    >>> disc = Line.of(Contour.circle(20, 20, 20))
    >>> made = Formed(field=disc, laid=(Laid(form=Dome(height=5), lines=(disc,)),))
    >>> mesh = formed_mesh("dome", made, {})
    >>> mesh.box[0].round(2).tolist(), mesh.box[1].round(2).tolist()
    ([0.0, 0.0, 0.0], [40.0, 40.0, 5.0])

    Raises:
        BadInput: a field without area, outlines too long, a texture whose picture is gone.
    """
    whole = Polygon(made.field.contour.points(CHORD)).buffer(0)
    if whole.geom_type != "Polygon" or whole.area < 1.0:
        raise BadInput(f"{name}: its field must be one closed outline of at least 1 mm2 that does not cross")
    pitch = max(FINEST, math.sqrt(whole.area / CELLS))
    pieces = [p for laid in made.laid for p in _pieces(laid, pitch, pictures)]
    points, faces = [], []
    many = 0
    for region in _parted(name, whole, pieces):
        at = np.array(region.representative_point().coords[0])
        over = [p for p in pieces if p.holds(at)]
        wide = LEVEL if all(p.level(at) for p in over) else 1
        places, corners = _gridded(region, wide * pitch)
        points.append(np.column_stack([places, _heights(places, over)]))
        faces.append(corners + many)
        many += len(places)
    return Mesh.of(name, np.vstack(points), np.vstack(faces))


def _heights(places: Array, over: Sequence[_Piece]) -> Array:
    z = np.zeros(len(places))
    for p in over:
        h = p.height(places)
        if p.together == "add":
            z = z + h
        elif p.together == "cut":
            z = z - h
        else:
            z = np.maximum(z, h) if p.together == "higher" else np.minimum(z, h)
    return z


def _parted(name: str, whole: Polygon, pieces: Sequence[_Piece]) -> list[Polygon]:
    """The field cut up along every line at which a form begins, ends or bends."""
    lines = [whole.boundary]
    for p in pieces:
        lines += [p.area.boundary, *p.bends]
    corners = int(shapely.get_num_coordinates(np.array(lines)).sum())
    if corners > MOST_CORNERS:
        raise BadInput(
            f"{name}: its outlines have {corners:,} corners with those at which forms bend; at most"
            f" {MOST_CORNERS:,} are taken: simplify them, or put fewer forms on it"
        )
    net = shapely.union_all(shapely.intersection(np.array(lines), whole))
    found = shapely.get_parts(shapely.polygonize(shapely.get_parts(net)))
    within = shapely.contains(whole.buffer(1e-6), found)
    return [g for g in found[within].tolist() if g.area > 1e-9]


def _triangles(areas: npt.NDArray[np.object_]) -> tuple[Array, npt.NDArray[np.int64]]:
    parts = shapely.get_parts(areas)
    parts = parts[(shapely.get_type_id(parts) == 3) & (shapely.area(parts) > 1e-10)]
    found = shapely.get_parts(shapely.constrained_delaunay_triangles(parts))
    if not len(found):
        return np.zeros((0, 2)), np.zeros((0, 3), dtype=np.int64)
    corners = shapely.get_coordinates(found).reshape(-1, 4, 2)[:, :3]
    u, v = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    back = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0] < 0
    corners[back] = corners[back][:, ::-1]
    return corners.reshape(-1, 2), np.arange(3 * len(corners)).reshape(-1, 3)


def _gridded(region: Polygon, pitch: float) -> tuple[Array, npt.NDArray[np.int64]]:
    """A region as squares of a grid that all regions share, cut at its rim."""
    x0, y0, x1, y1 = region.bounds
    i0, j0 = math.floor(x0 / pitch), math.floor(y0 / pitch)
    i1, j1 = math.ceil(x1 / pitch), math.ceil(y1 / pitch)
    columns, rows = i1 - i0, j1 - j0
    i, j = (v.ravel() for v in np.meshgrid(np.arange(columns), np.arange(rows)))
    left, low = (i0 + i) * pitch, (j0 + j) * pitch
    cut = _near_rim(region, pitch, (i0, j0), (rows, columns)).ravel()
    shapely.prepare(region)
    whole = ~cut
    whole[whole] = shapely.contains_xy(region, left[whole] + pitch / 2, low[whole] + pitch / 2)
    boxes = shapely.box(left[cut], low[cut], left[cut] + pitch, low[cut] + pitch)
    rim, on_rim = _triangles(_cut_out(region, boxes, i[cut] // TILE * rows + j[cut] // TILE))
    a = (j * (columns + 1) + i)[whole]
    b, c, d = a + 1, a + columns + 2, a + columns + 1
    # every second square parted the other way: no side is favoured
    other = ((i + j)[whole] + i0 + j0) % 2 == 1
    one = np.where(other[:, None], np.column_stack([a, b, d]), np.column_stack([a, b, c]))
    two = np.where(other[:, None], np.column_stack([b, c, d]), np.column_stack([a, c, d]))
    squares = np.vstack([one, two])
    used, squares = np.unique(squares, return_inverse=True)
    x, y = (i0 + used % (columns + 1)) * pitch, (j0 + used // (columns + 1)) * pitch
    nodes = np.column_stack([x, y])
    return np.vstack([nodes, rim]), np.vstack([squares.reshape(-1, 3), on_rim + len(nodes)])


def _cut_out(
    region: Polygon, boxes: npt.NDArray[np.object_], tile: npt.NDArray[np.int64]
) -> npt.NDArray[np.object_]:
    """What of a region lies in each of some boxes; ``tile``: boxes near one another have one number, so that
    each is held only against what of the region lies about it.
    """
    out = np.empty(len(boxes), dtype=object)
    order = np.argsort(tile, kind="stable")
    for own in np.split(order, np.flatnonzero(np.diff(tile[order])) + 1):
        if len(own):
            x0, y0, x1, y1 = shapely.total_bounds(boxes[own])
            about = shapely.intersection(region, shapely.box(x0, y0, x1, y1))
            out[own] = shapely.intersection(boxes[own], about)
    return out


def _near_rim(
    region: Polygon, pitch: float, first: tuple[int, int], shape: tuple[int, int]
) -> npt.NDArray[np.bool_]:
    """Squares (rows, columns) that a region's rim runs through, and those beside them; ``first``: column and
    row where they begin.
    """
    at = shapely.get_coordinates(region.segmentize(pitch))
    i, j = (np.floor(at[:, k] / pitch).astype(int) - first[k] for k in (0, 1))
    out = np.zeros((shape[0] + 2, shape[1] + 2), dtype=bool)
    for down in (0, 1, 2):
        for right in (0, 1, 2):
            out[np.clip(j + down, 0, shape[0] + 1), np.clip(i + right, 0, shape[1] + 1)] = True
    return out[1:-1, 1:-1]


def _pieces(laid: Laid, pitch: float, pictures: Mapping[str, Mesh]) -> Iterator[_Piece]:
    f = laid.form
    if isinstance(f, Bead | SweptSection):
        for line in laid.lines:
            yield _bead(f, line, pitch) if isinstance(f, Bead) else _swept(f, line)
        return
    closed = [line.contour.oriented(True) for line in laid.lines if line.closed]
    for r in regions(closed):
        area = r.polygon(CHORD).buffer(0)
        for part in shapely.get_parts(area).tolist():
            if part.area > 1e-6:
                yield _over(f, part, pitch, pictures)


def _over(f: AForm, area: Polygon, pitch: float, pictures: Mapping[str, Mesh]) -> _Piece:
    """A form over one closed area."""
    rim = _Lines.of(area.boundary)
    if isinstance(f, Ramp):
        return _Piece(f.together, area, (), _ramp(f, area), lambda _at: f.low == f.high)
    if isinstance(f, Texture):
        return _Piece(f.together, area, (), _texture(f, area, pictures), lambda _at: False)
    if isinstance(f, RoundedEdge):
        reach, steps = f.radius, steps_of_cap(f.radius, f.radius, 1.5 * pitch)

        def height(at: Array) -> Array:
            return rounded(rim.away(at), f.radius)

    elif isinstance(f, Plateau):
        reach, steps = f.height * math.tan(math.radians(f.draft)), []
        reach = reach if reach > UPRIGHT else 0.0

        def height(at: Array) -> Array:
            if not reach:
                return np.full(len(at), f.height)
            return f.height * np.clip(rim.away(at) / reach, 0.0, 1.0)

    else:
        assert isinstance(f, Dome | Dish)
        middle = float(shapely.maximum_inscribed_circle(area, tolerance=1e-3).length)
        reach = min(middle, f.rise or middle)
        high = f.height if isinstance(f, Dome) else f.depth
        sign = 1.0 if isinstance(f, Dome) else -1.0
        steps = steps_of_cap(reach, high, 1.5 * pitch)

        def height(at: Array) -> Array:
            return sign * cap(rim.away(at), reach, high)

    bends = [area.buffer(-d, quad_segs=32).boundary for d in (*steps, reach) if d > 0]
    has_top = not bends or not bends[-1].is_empty
    return _Piece(
        f.together,
        area,
        [b for b in bends if not b.is_empty],
        height,
        lambda at: has_top and float(rim.away(at[None])[0]) >= reach,
    )


def _ramp(f: Ramp, area: Polygon) -> Callable[[Array], Array]:
    along = np.array([math.cos(math.radians(f.angle)), math.sin(math.radians(f.angle))])
    s = shapely.get_coordinates(area) @ along
    begin, long = float(s.min()), float(max(np.ptp(s), 1e-9))
    return lambda at: f.low + (f.high - f.low) * (at @ along - begin) / long


def _texture(f: Texture, area: Polygon, pictures: Mapping[str, Mesh]) -> Callable[[Array], Array]:
    picture = pictures.get(f.surface)
    if picture is None:
        raise BadInput(f"texture {f.name}: its picture is not there any more; set it anew")
    low, high = picture.box
    span = np.maximum(high - low, 1e-9)
    tile = np.array([f.tile, f.tile * float(span[1] / span[0])])
    begin = np.array(area.bounds[:2])
    ground = Ground(picture.seen.triangles)

    def height(at: Array) -> Array:
        own = low[:2] + np.mod(at - begin, tile) / tile * span[:2]
        return f.height * np.clip((ground.heights(own) - low[2]) / span[2], 0.0, 1.0)

    return height


def _bead(f: Bead, line: Line, pitch: float) -> _Piece:
    middle = _drawn(line)
    half = f.width / 2
    area = middle.buffer(half, quad_segs=32)
    lines = _Lines.of(middle)
    steps = steps_of_cap(half, f.height, 1.5 * pitch)
    bends = [middle.buffer(half - d, quad_segs=32).boundary for d in steps if half - d > 1e-3]
    return _Piece(
        f.together,
        area,
        [middle, *bends],
        lambda at: cap(half - lines.away(at), half, f.height),
        lambda _at: False,
    )


def _swept(f: SweptSection, line: Line) -> _Piece:
    middle = _drawn(line)
    across, up = (np.array(v) for v in zip(*f.section, strict=True))
    reach = float(np.abs(across).max())
    lines = _Lines.of(middle)

    def within(at: Array) -> bool:
        s = lines.aside(at[None])[0]
        return bool(across[0] <= s <= across[-1])

    def level(at: Array) -> bool:
        s = float(lines.aside(at[None])[0])
        k = int(np.clip(np.searchsorted(across, s), 1, len(across) - 1))
        return bool(up[k] == up[k - 1])

    bends = [middle.buffer(abs(s), quad_segs=32, cap_style="flat").boundary for s in across if abs(s) > 1e-6]
    return _Piece(
        f.together,
        middle.buffer(reach, quad_segs=32, cap_style="flat"),
        [middle, *bends],
        lambda at: np.interp(lines.aside(at), across, up),
        level,
        within,
    )


def _drawn(line: Line) -> BaseGeometry:
    points = line.contour.points(CHORD)
    return shapely.LinearRing(points) if line.closed else shapely.LineString(points)


@dataclass(frozen=True, eq=False)
class _Lines:
    """Straight lines (m, 4) that places are measured from; ``follows``: the number of the line that begins
    where each ends, or its own.
    """

    rows: Array
    before: npt.NDArray[np.int64]
    follows: npt.NDArray[np.int64]

    @classmethod
    def of(cls, drawn: BaseGeometry) -> _Lines:
        rows, before, after = [], [], []
        many = 0
        for g in shapely.get_parts(drawn).tolist():
            at = shapely.get_coordinates(g)
            n = len(at) - 1
            own = np.arange(n)
            rows.append(np.column_stack([at[:-1], at[1:]]))
            ends = bool(g.is_closed)
            before.append(many + (np.roll(own, 1) if ends else np.maximum(own - 1, 0)))
            after.append(many + (np.roll(own, -1) if ends else np.minimum(own + 1, n - 1)))
            many += n
        return cls(np.ascontiguousarray(np.vstack(rows)), np.concatenate(before), np.concatenate(after))

    def _nearest(self, at: Array) -> tuple[Array, npt.NDArray[np.int64], Array]:
        from venzo.core.relief.aside_kernel import nearest

        n = len(at)
        away, which, share = np.empty(n), np.empty(n, dtype=np.int64), np.empty(n)
        nearest(np.ascontiguousarray(at), self.rows, away, which, share)
        return away, which, share

    def away(self, at: Array) -> Array:
        """How far places (n, 2) lie from the nearest line."""
        return self._nearest(at)[0]

    def aside(self, at: Array) -> Array:
        """The same, left of it above 0, right of it below; at a corner by the mean of both lines' ways."""
        away, which, share = self._nearest(at)
        way = self.rows[:, 2:] - self.rows[:, :2]
        way = way / np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-12)[:, None]
        own = way[which]
        own = np.where((share <= 0)[:, None], own + way[self.before[which]], own)
        own = np.where((share >= 1)[:, None], own + way[self.follows[which]], own)
        near = self.rows[which, :2] + (self.rows[which, 2:] - self.rows[which, :2]) * share[:, None]
        d = at - near
        return np.where(own[:, 0] * d[:, 1] - own[:, 1] * d[:, 0] >= 0, away, -away)
