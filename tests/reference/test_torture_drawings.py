"""Drawings of known area: every one is read right, or says with a *look* or a *stop* that it may not be. None
is wrong in silence.

Areas by exact formulas [EX]: polygons by the shoelace, circles and ellipses by pi a b, segments of circles by
r^2 (t - sin t) / 2, periodic splines by Green's theorem over scipy's B-spline. What a group code or attribute
means: DXF reference (ezdxf's documentation), SVG 1.1 and 2 (W3C). [M]
"""

import math

import ezdxf
import numpy as np
import pytest
from scipy.interpolate import BSpline

from tests.conftest import dxf
from venzo.core.parts.intake import HowRead, take_in
from venzo.core.snags import BadInput
from venzo.formats.drawing_file import read_file

PI = math.pi
CASES = {}


def case(name, data, areas, says=(), ending="dxf", how=None, tolerance=2e-4):
    """A drawing, the areas of its parts (largest first; None: it need not be read), and the rules of which
    one must speak.
    """
    assert name not in CASES, name
    CASES[name] = (data, areas, says, ending, how, tolerance)


def rect(w, h, x=0.0, y=0.0):
    return [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]


def poly(m, points, **a):
    return m.add_lwpolyline(points, close=True, dxfattribs=a)


def block(draw, name="B", base=(0, 0)):
    """A file whose block is drawn by ``draw``; the function returned inserts it."""

    def with_inserts(insert, units=4):
        def do(m):
            b = m.doc.blocks.new(name, base_point=base)
            draw(b)
            insert(m)

        return dxf(do, units)

    return with_inserts


# -- plain curves, turned, mirrored, scaled, nested

for r in (0.8, 12.5, 600.0):
    case(f"circle {r}", dxf(lambda m, r=r: m.add_circle((3, -7), r)), [PI * r * r])
    case(
        f"circle of two arcs {r}",
        dxf(lambda m, r=r: [m.add_arc((0, 0), r, 0, 180), m.add_arc((0, 0), r, 180, 360)]),
        [PI * r * r],
    )
    case(
        f"circle seen from below {r}",
        dxf(lambda m, r=r: m.add_circle((3, -7), r, dxfattribs={"extrusion": (0, 0, -1)})),
        [PI * r * r],
    )
for a, ratio in ((10.0, 0.5), (600.0, 0.3), (600.0, 0.95), (2.0, 0.1)):
    for turn in (0, 30):
        axis = (a * math.cos(math.radians(turn)), a * math.sin(math.radians(turn)))
        case(
            f"ellipse {a} {ratio} turned {turn}",
            dxf(lambda m, axis=axis, k=ratio: m.add_ellipse((5, 5), axis, k)),
            [PI * a * a * ratio],
            tolerance=2e-4 if a > 5 else 5e-3,
        )
    case(
        f"half an ellipse and its axis {a} {ratio}",
        dxf(lambda m, a=a, k=ratio: [m.add_ellipse((0, 0), (a, 0), k, 0, PI), m.add_line((-a, 0), (a, 0))]),
        [PI * a * a * ratio / 2],
        tolerance=2e-4 if a > 5 else 8e-3,
    )


def seg(b, c=60.0):
    """Area of a circular segment over a chord of ``c`` by its bulge, with its sign."""
    if abs(b) >= 1:
        return math.copysign(PI * c * c / 8, b)
    turn = 4 * math.atan(b)
    return (turn - math.sin(turn)) / 2 * (c / 2 / math.sin(2 * math.atan(abs(b)))) ** 2


for bulge in (0.2, 1.0, -0.35):
    points = [(0, 0, bulge), (60, 0, 0), (60, 80, 0), (0, 80, 0)]
    case(
        f"side with bulge {bulge}",
        dxf(lambda m, p=points: m.add_lwpolyline(p, format="xyb", close=True)),
        [60 * 80 + seg(bulge)],
    )
    case(
        f"old polyline with bulge {bulge}",
        dxf(lambda m, p=points: m.add_polyline2d(p, format="xyb", close=True)),
        [60 * 80 + seg(bulge)],
    )
    case(
        f"side with bulge {bulge} from below",
        dxf(
            lambda m, p=points: m.add_lwpolyline(
                p, format="xyb", close=True, dxfattribs={"extrusion": (0, 0, -1)}
            )
        ),
        [60 * 80 + seg(bulge)],
    )
for turn in (0, 37):
    for sx, sy in ((1, 1), (2, 2), (-1, 1), (1, -1), (3, 1), (-2, 0.5)):

        def put(m, t=turn, a=sx, b=sy):
            m.add_blockref("B", (100, 50), dxfattribs={"rotation": t, "xscale": a, "yscale": b})

        k = abs(sx * sy)
        case(
            f"block with a circle, turned {turn}, scaled {sx} {sy}",
            block(lambda b: b.add_circle((10, 0), 200))(put),
            [PI * 200**2 * k],
        )
        case(
            f"block with a plate, turned {turn}, scaled {sx} {sy}",
            block(lambda b: poly(b, rect(60, 40)), base=(7, 3))(put),
            [2400 * k],
        )
        case(
            f"block with arcs, turned {turn}, scaled {sx} {sy}",
            block(
                lambda b: b.add_lwpolyline(
                    [(0, 0, 0.3), (60, 0, 0), (60, 80, 0), (0, 80, 0)], format="xyb", close=True
                )
            )(put),
            [(4800 + seg(0.3)) * k],
        )
case(
    "array of a block",
    block(lambda b: poly(b, rect(20, 10)))(
        lambda m: m.add_blockref(
            "B",
            (0, 0),
            dxfattribs={"column_count": 3, "row_count": 2, "column_spacing": 50, "row_spacing": 40},
        )
    ),
    [200] * 6,
)


def nested(m):
    inner, outer = m.doc.blocks.new("INNER"), m.doc.blocks.new("OUTER")
    inner.add_circle((0, 0), 10)
    outer.add_blockref("INNER", (0, 0), dxfattribs={"xscale": 2, "yscale": 1})
    m.add_blockref("OUTER", (50, 50), dxfattribs={"rotation": 30, "xscale": 1.5, "yscale": 1.5})


case("a block within a block, stretched within turned", dxf(nested), [PI * 10 * 10 * 2 * 2.25])

# -- what is hidden is not cut


def hidden(how, on):
    def do(m):
        layer = m.doc.layers.add("SHOP")
        getattr(layer, how)()
        poly(m, rect(60, 40))
        b = m.doc.blocks.new("B")
        poly(b, rect(30, 20))
        m.add_blockref("B", (200, 0), dxfattribs={"layer": on})

    return dxf(do)


case("a block on a frozen layer", hidden("freeze", "SHOP"), [2400])
case("a block on a layer switched off", hidden("off", "SHOP"), [2400])
case("a block on a layer that is shown", hidden("freeze", "0"), [2400, 600])
case(
    "a plate on a frozen layer",
    dxf(
        lambda m: [
            m.doc.layers.add("X").freeze(),
            poly(m, rect(60, 40)),
            poly(m, rect(30, 20, 100), layer="X"),
        ]
    ),
    [2400],
)
case(
    "an invisible block",
    block(lambda b: poly(b, rect(30, 20)))(
        lambda m: [poly(m, rect(60, 40, 100)), m.add_blockref("B", (0, 0), dxfattribs={"invisible": 1})]
    ),
    [2400],
)

# -- splines


def periodic(points, degree=3):
    p = np.array([*points, *points[:degree]], dtype=float)
    knots = np.arange(len(p) + degree + 1, dtype=float)
    return p, knots


def spline_area(points, degree=3):
    p, knots = periodic(points, degree)
    t = np.linspace(knots[degree], knots[len(p)], 40_001)
    c = BSpline(knots, p, degree)
    xy, d = c(t), c.derivative()(t)
    return abs(np.trapezoid(xy[:, 0] * d[:, 1] - xy[:, 1] * d[:, 0], t)) / 2


def add_periodic(m, points, degree=3):
    p, knots = periodic(points, degree)
    s = m.add_spline(degree=degree)
    s.control_points, s.knots = [(x, y, 0) for x, y in p], knots.tolist()
    s.closed = True
    return s


BLOB = [(0, 0), (80, -20), (140, 30), (120, 100), (40, 120), (-30, 60)]
for scale in (0.2, 1.0, 6.0):
    blob = [(x * scale, y * scale) for x, y in BLOB]
    for degree in (2, 3):
        case(
            f"periodic spline of degree {degree}, scale {scale}",
            dxf(lambda m, b=blob, d=degree: add_periodic(m, b, d)),
            [spline_area(blob, degree)],
            tolerance=4e-4,
        )


def nurbs_circle(m, r):
    w = math.sqrt(0.5)
    pts = [(1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0), (-1, -1), (0, -1), (1, -1), (1, 0)]
    s = m.add_rational_spline(
        [(x * r, y * r, 0) for x, y in pts],
        [1, w, 1, w, 1, w, 1, w, 1],
        degree=2,
        knots=[0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4],
    )
    return s


for r in (10.0, 500.0):
    case(f"rational spline that is a circle {r}", dxf(lambda m, r=r: nurbs_circle(m, r)), [PI * r * r])

# -- hatches


def hatch(edges=None, loops=()):
    def do(m):
        h = m.add_hatch()
        for points in loops:
            h.paths.add_polyline_path(points, is_closed=True)
        if edges:
            edges(h.paths.add_edge_path())

    return dxf(do)


case("hatch of a polygon", hatch(loops=[rect(60, 40)]), [2400])
case("hatch with a hole", hatch(loops=[rect(60, 40), rect(20, 10, 5, 5)]), [2200])
case(
    "hatch with a bulge",
    hatch(loops=[[(0, 0, 1.0), (600, 0, 0), (600, 800, 0), (0, 800, 0)]]),
    [600 * 800 + PI * 300**2 / 2],
)
case(
    "hatch of a whole ellipse",
    hatch(lambda p: p.add_ellipse((0, 0), (600, 0), 0.4, 0, 360)),
    [PI * 600 * 240],
)
case("hatch of a whole circle", hatch(lambda p: p.add_arc((0, 0), 600, 0, 360)), [PI * 600 * 600])
case(
    "hatch of half a circle",
    hatch(lambda p: [p.add_arc((0, 0), 600, 0, 180), p.add_line((-600, 0), (600, 0))]),
    [PI * 600 * 600 / 2],
)

# -- nearly the same outline twice

for inset in (0.0, 0.0005, 0.003, 0.01, 0.05, 0.1):
    case(
        f"outline drawn again {inset} mm further in",
        dxf(lambda m, d=inset: [poly(m, rect(100, 60)), poly(m, rect(100 - 2 * d, 60 - 2 * d, d, d))]),
        [6000],
        ("intake.near-twins",) if inset > 0.02 else (),
        tolerance=8e-3,
    )
    case(
        f"circle drawn again {inset} mm smaller",
        dxf(lambda m, d=inset: [m.add_circle((0, 0), 40), m.add_circle((0, 0), 40 - d)]),
        [PI * 1600],
        ("intake.near-twins",) if inset > 0.02 else (),
        tolerance=8e-3,
    )
case(
    "a thin ring that is meant",
    dxf(lambda m: [m.add_circle((0, 0), 40), m.add_circle((0, 0), 38)]),
    [PI * (1600 - 38**2)],
)

# -- outlines that cross

STOP = ("intake.crossing",)
PLATE = rect(200, 120)
case(
    "two holes that overlap",
    dxf(lambda m: [poly(m, PLATE), m.add_circle((60, 60), 20), m.add_circle((80, 60), 20)]),
    None,
    STOP,
)
case("a hole over the edge", dxf(lambda m: [poly(m, PLATE), m.add_circle((198, 60), 15)]), None, STOP)
case("a notch over the edge", dxf(lambda m: [poly(m, PLATE), poly(m, rect(30, 20, 185, 40))]), None, STOP)
case(
    "a hole shaped like a bow-tie",
    dxf(lambda m: [poly(m, PLATE), poly(m, [(50, 40), (90, 80), (90, 40), (50, 80)])]),
    None,
    STOP,
)
case(
    "an outline shaped like a bow-tie",
    dxf(lambda m: poly(m, [(0, 0), (100, 80), (100, 0), (0, 80)])),
    None,
    STOP,
)
TWIST = [(0, 0), (200, 0), (200, 120), (103, 120), (100, 123), (103, 123), (100, 120), (0, 120)]
case("an outline with a twist of 3 mm", dxf(lambda m: poly(m, TWIST)), None, STOP)
case(
    "a hole with a twist of 3 mm",
    dxf(lambda m: [poly(m, rect(300, 200, -50, -30)), poly(m, TWIST)]),
    None,
    STOP,
)
case(
    "a bow-tie over the edge",
    dxf(lambda m: [poly(m, PLATE), poly(m, [(180, 40), (220, 80), (220, 40), (180, 80)])]),
    None,
    STOP,
)
case(
    "a line out and back, closed",
    dxf(lambda m: [poly(m, PLATE), poly(m, [(40, 40), (90, 40), (60, 40)])]),
    [24_000],
)
case("two plates that overlap", dxf(lambda m: [poly(m, PLATE), poly(m, rect(200, 120, 150, 60))]), None, STOP)
case(
    "two holes that touch in a point",
    dxf(lambda m: [poly(m, PLATE), poly(m, rect(20, 20, 40, 40)), poly(m, rect(20, 20, 60, 60))]),
    [24_000 - 800],
)
case(
    "three plates in each other",
    dxf(lambda m: [poly(m, rect(200, 120)), poly(m, rect(100, 80, 20, 20)), poly(m, rect(40, 30, 40, 40))]),
    [24_000 - 8000, 1200],
)

# -- units

for code, mm in (
    (1, 25.4),
    (2, 304.8),
    (4, 1.0),
    (5, 10.0),
    (6, 1000.0),
    (8, 25.4e-6),
    (9, 0.0254),
    (10, 914.4),
    (13, 1e-3),
    (14, 100.0),
    (3, 1609344.0),
):
    side = 254.0 / mm
    case(f"unit code {code}", dxf(lambda m, s=side: poly(m, rect(s, s / 2)), code), [254.0 * 127])


def measure(metric, side):
    def do(m):
        m.doc.header["$MEASUREMENT"] = metric
        poly(m, rect(side, side / 2))

    return dxf(do, 0)


case("no unit, metric by its header, 10 long", measure(1, 10.0), [50.0], ("intake.unit",))
case("no unit, metric by its header, 5.5 long", measure(1, 5.5), [5.5 * 2.75], ("intake.unit",))
case("no unit, inch by its header, 10 long", measure(0, 10.0), [50.0 * 25.4**2], ("intake.unit",))

# -- lines drawn twice, over each other, in pieces

case(
    "circle of arcs that overlap",
    dxf(lambda m: [m.add_arc((0, 0), 30, 0, 200), m.add_arc((0, 0), 30, 170, 370)]),
    [PI * 900],
)
case(
    "circle of three arcs that overlap",
    dxf(lambda m: [m.add_arc((0, 0), 30, a, a + 140) for a in (0, 120, 240)]),
    [PI * 900],
)
case(
    "circle and an arc on it",
    dxf(lambda m: [m.add_circle((0, 0), 30), m.add_arc((0, 0), 30, 20, 80)]),
    [PI * 900],
)
SIDES = [((0, 0), (60, 0)), ((60, 0), (60, 40)), ((60, 40), (0, 40)), ((0, 40), (0, 0))]
case("four lines", dxf(lambda m: [m.add_line(a, b) for a, b in SIDES]), [2400])
case("four lines, each twice", dxf(lambda m: [m.add_line(a, b) for a, b in SIDES for _ in "12"]), [2400])
case(
    "four lines, each twice, once backwards",
    dxf(lambda m: [m.add_line(*(s if k else s[::-1])) for s in SIDES for k in (0, 1)]),
    [2400],
)
case(
    "a side in two pieces that overlap",
    dxf(
        lambda m: [
            m.add_line((0, 0), (40, 0)),
            m.add_line((20, 0), (60, 0)),
            *(m.add_line(a, b) for a, b in SIDES[1:]),
        ]
    ),
    [2400],
)
case(
    "a side drawn again in part",
    dxf(lambda m: [m.add_line((10, 0), (30, 0)), *(m.add_line(a, b) for a, b in SIDES)]),
    [2400],
)
for gap in (0.01, 0.03):
    case(
        f"four lines with gaps of {gap}",
        dxf(
            lambda m, g=gap: [
                m.add_line((a[0] + g * (b[0] > a[0]), a[1] + g * (b[1] > a[1])), b) for a, b in SIDES
            ]
        ),
        [2400],
        tolerance=2e-3,
    )
case(
    "four lines with gaps and all twice",
    dxf(lambda m: [m.add_line((a[0] + 0.02 * (b[0] > a[0]), a[1]), b) for a, b in SIDES for _ in "12"]),
    [2400],
    tolerance=2e-3,
)
case(
    "a plate exploded, with holes of lines",
    dxf(
        lambda m: (
            [m.add_line((a[0] * 3, a[1] * 3), (b[0] * 3, b[1] * 3)) for a, b in SIDES]
            + [
                m.add_line((a[0] / 30 + x, a[1] / 20 + 50), (b[0] / 30 + x, b[1] / 20 + 50))
                for x in (20, 60, 100)
                for a, b in SIDES
            ]
        )
    ),
    [21_600 - 12],
)

# -- faces

case("solid", dxf(lambda m: m.add_solid([(0, 0), (60, 0), (0, 40), (60, 40)])), [2400])
case("3D face", dxf(lambda m: m.add_3dface([(0, 0), (60, 0), (60, 40), (0, 40)])), [2400])
case("trace", dxf(lambda m: m.add_trace([(0, 0), (60, 0), (0, 40), (60, 40)])), [2400])


def polyface(m):
    mesh = m.add_polyface()
    mesh.append_faces(
        [
            [(0, 0, 0), (60, 0, 0), (60, 40, 0), (0, 40, 0)],
            [(60, 0, 0), (100, 0, 0), (100, 40, 0), (60, 40, 0)],
        ]
    )


case("flat polyface of two faces", dxf(polyface), [4000])

# -- SVG


def svg(body, size='width="100mm" height="100mm" viewBox="0 0 100 100"', more=""):
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size}'
        f" {more}>{body}</svg>".encode()
    )


def picture(name, body, areas, says=(), **k):
    case(f"svg {name}", svg(body, **k), areas, says, "svg")


STAR = "M50 5 L79 91 L3 38 L97 38 L21 91 Z"
star = np.array([[50, 5], [79, 91], [3, 38], [97, 38], [21, 91]], dtype=float)


def star_areas():
    from shapely.geometry import LineString, Polygon
    from shapely.ops import polygonize, unary_union

    faces = list(polygonize(unary_union(LineString([*star, star[0]]))))
    middle = next(f for f in faces if f.contains(Polygon(star).convex_hull.centroid))
    return (
        sum(f.area for f in faces),
        middle.area,
        sorted((f.area for f in faces if f is not middle), reverse=True),
    )


whole, middle, points_of_star = star_areas()
picture("star, nonzero", f'<path d="{STAR}"/>', [whole])
picture("star, even-odd", f'<path fill-rule="evenodd" d="{STAR}"/>', points_of_star)
picture("star, even-odd by style", f'<path style="fill-rule:evenodd" d="{STAR}"/>', points_of_star)
picture("ring by even-odd", '<path fill-rule="evenodd" d="M0 0H60V40H0Z M10 10H50V30H10Z"/>', [2400 - 800])
picture("ring by turning the other way", '<path d="M0 0H60V40H0Z M10 10V30H50V10Z"/>', [2400 - 800])
picture("two loops the same way, nonzero", '<path d="M0 0H60V40H0Z M10 10H50V30H10Z"/>', [2400])
picture("rect", '<rect x="5" y="5" width="60" height="40"/>', [2400])
picture("rounded rect", '<rect width="60" height="40" rx="8"/>', [2400 - (4 - PI) * 64])
picture("rect with two radii", '<rect width="60" height="40" rx="10" ry="5"/>', [2400 - (4 - PI) * 50])
picture("circle", '<circle cx="50" cy="50" r="40"/>', [PI * 1600])
picture("circle by percent", '<circle cx="50%" cy="50%" r="40%"/>', [PI * 1600])
picture("rect by percent", '<rect x="10%" y="10%" width="60%" height="40%"/>', [2400])
picture("ellipse by percent", '<ellipse cx="50%" cy="50%" rx="40%" ry="20%"/>', [PI * 800])
picture("rect in em", '<rect font-size="10" width="6em" height="4em"/>', [2400])
picture("rect in mm", '<rect width="60mm" height="40mm"/>', [2400], size='width="100mm" height="100mm"')
picture("ellipse", '<ellipse cx="50" cy="50" rx="40" ry="15"/>', [PI * 600])
picture(
    "ellipse turned", '<ellipse cx="50" cy="50" rx="40" ry="15" transform="rotate(33 50 50)"/>', [PI * 600]
)
picture("circle skewed", '<circle cx="40" cy="50" r="30" transform="skewX(20)"/>', [PI * 900])
picture("circle stretched", '<circle cx="20" cy="50" r="20" transform="scale(2 1)"/>', [PI * 800])
picture("arc path", '<path d="M10 50 A40 40 0 0 1 90 50 Z"/>', [PI * 800])
picture("large arc path", '<path d="M50 50 L90 50 A40 40 0 1 1 50 10 Z"/>', [PI * 1600 * 3 / 4])
picture("polygon", '<polygon points="0,0 60,0 60,40 0,40"/>', [2400])
picture(
    "group moved and scaled",
    '<g transform="translate(10 10) scale(0.5)"><rect width="60" height="40"/></g>',
    [600],
)
picture(
    "use",
    '<defs><rect id="r" width="20" height="10"/></defs><use href="#r" x="10"/><use xlink:href="#r" y="50"/>',
    [200, 200],
)
picture(
    "symbol with a viewBox",
    '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol><use href="#s" width="50"'
    ' height="50"/>',
    [2500],
)
picture(
    "symbol with a viewBox, wide",
    '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol><use href="#s" width="80"'
    ' height="40"/>',
    [1600],
)
picture(
    "symbol not used",
    '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol><rect width="60"'
    ' height="40"/>',
    [2400],
)
picture(
    "svg within svg",
    '<svg x="10" y="10" width="50" height="50" viewBox="0 0 10 10"><rect width="10" height="10"/></svg>',
    [2500],
)
picture(
    "stretched to its size",
    '<rect width="50" height="50"/>',
    [100 * 50],
    size='width="200mm" height="100mm" viewBox="0 0 100 100"',
    more='preserveAspectRatio="none"',
)
picture(
    "fitted into its size",
    '<rect width="50" height="50"/>',
    [2500],
    size='width="200mm" height="100mm" viewBox="0 0 100 100"',
)
picture(
    "filling its size",
    '<rect width="50" height="50"/>',
    [10_000],
    size='width="200mm" height="100mm" viewBox="0 0 100 100"',
    more='preserveAspectRatio="xMidYMid slice"',
)
picture(
    "inches",
    '<rect width="3" height="2"/>',
    [6 * 25.4**2],
    size='width="10in" height="10in" viewBox="0 0 10 10"',
)
picture(
    "a viewBox that begins elsewhere",
    '<rect x="-20" y="-10" width="60" height="40"/>',
    [2400],
    size='width="100mm" height="100mm" viewBox="-50 -50 100 100"',
)
picture(
    "painted by nothing",
    '<rect width="60" height="40"/><rect x="70" width="20" height="20" fill="none" stroke="none"/>',
    [2400],
    ("intake.unpainted",),
)
picture(
    "painted by nothing, by style",
    '<rect width="60" height="40"/><rect x="70" width="20" height="20" style="fill:none;stroke:none"/>',
    [2400],
    ("intake.unpainted",),
)
picture(
    "not displayed",
    '<rect width="60" height="40"/><g display="none"><rect x="70" width="20" height="20"/></g>',
    [2400],
)
picture(
    "hidden",
    '<rect width="60" height="40"/><rect x="70" width="20" height="20" visibility="hidden"/>',
    [2400],
)
picture(
    "in definitions only", '<defs><rect width="90" height="90"/></defs><rect width="60" height="40"/>', [2400]
)
picture(
    "clipped",
    '<clipPath id="c"><rect width="30" height="40"/></clipPath><rect width="60" height="40"'
    ' clip-path="url(#c)"/>',
    None,
    ("intake.clip",),
)
picture("quadratic curve", '<path d="M0 0 Q50 100 100 0 Z"/>', [100 * 100 / 3])
picture("cubic curve", '<path d="M0 0 C0 80 100 80 100 0 Z"/>', [100 * 80 * 0.6])
picture("smooth curves", '<path d="M0 50 Q25 0 50 50 T100 50 L100 100 L0 100 Z"/>', [5000])
picture("relative commands", '<path d="m10 10 h60 v40 h-60 z m10 10 v20 h40 v-20 z"/>', [2400 - 800])
picture("one subpath after another", '<path d="M0 0H20V20H0Z M40 0H60V20H40Z"/>', [400, 400])


def test_the_set_is_large_enough():
    assert len(CASES) >= 150, len(CASES)


@pytest.mark.parametrize("name", CASES)
def test_a_drawing_of_known_area(name):
    data, areas, says, ending, how, tolerance = CASES[name]
    try:
        got = take_in(read_file(data, f"drawing.{ending}"), f"drawing.{ending}", how or HowRead())
    except BadInput as e:
        pytest.fail(str(e))
    rules = {s.rule: s.severity for s in got.snags}
    assert not says or set(says) & rules.keys(), f"must say one of {says}, said {rules}"
    if areas is None:
        assert any(rules.get(r) in ("stop", "look") for r in says), rules
        return
    found = sorted((a for p in got.parts for a in [p.shape.region.area] * p.quantity), reverse=True)
    assert len(found) == len(areas) and np.allclose(found, areas, rtol=tolerance), (
        f"read {np.round(found, 3)}, is {np.round(areas, 3)}; said {rules}"
    )


def test_the_files_are_what_they_say():
    """The file library reads its own files back with the entities that were drawn."""
    import io

    for data, *_rest in (v for v in CASES.values() if v[3] == "dxf"):
        assert len(ezdxf.read(io.StringIO(data.decode())).modelspace()) > 0
