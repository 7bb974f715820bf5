"""HPGL in: plotter files (PLT, HPGL, HPGL/2), read through the drawing library's plotter add-on."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

import numpy as np

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.parts.drawing import LARGEST_FILE, MOST_ENTITIES, Drawing
from venzo.core.snags import BadInput
from venzo.core.tolerances import FLATTEN

LARGEST_RADIUS = 1e7
"""Plotter units (250 m); a larger arc is a damaged number."""
LONGEST_NUMBER = 12
"""Digits of one number in encoded lines."""
PLOTTER_UNIT = 0.025
"""Millimetres in a plotter unit."""


def read(data: bytes, name: str) -> Drawing:
    """Read a plotter file; pens become layers.

    Raises:
        BadInput: empty, too large, or not a plotter file.
    """
    records = _records(data, name)
    drawing = Drawing(unit="mm", scale_mm=None)
    for _kind, properties, record in records:
        drawing.entities += 1
        if drawing.entities > MOST_ENTITIES:
            raise BadInput(f"{name}: more than {MOST_ENTITIES} strokes; split the plot")
        layer = f"pen {properties.pen_index}"
        for path in _paths(record):
            pts = path * PLOTTER_UNIT
            keep = np.r_[True, np.hypot(*np.diff(pts, axis=0).T) > 1e-9]
            pts = pts[keep]
            if len(pts) < 2:
                continue
            closed = len(pts) > 3 and float(np.hypot(*(pts[0] - pts[-1]))) < 1e-9
            drawing.chains.append(
                fit(pts[:-1] if closed else pts, closed, FLATTEN, layer)
                if len(pts) > 2
                else Contour.of(pts, False, layer)
            )
    return drawing


def strokes(data: bytes, name: str) -> list[np.ndarray]:
    """Every pen line of a plotter file as points (n, 2), mm.

    Raises:
        BadInput: as ``read``.
    """
    found = [path * PLOTTER_UNIT for _k, _p, record in _records(data, name) for path in _paths(record)]
    return [pts for pts in found if len(pts) > 1]


def _records(data: bytes, name: str) -> list:
    """What a plotter file draws, stroke by stroke."""
    if not data.strip():
        raise BadInput(f"{name}: the file is empty; plot the drawing again")
    if len(data) > LARGEST_FILE:
        raise BadInput(
            f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB; split the"
            " plot"
        )
    if not any(word in data for word in (b"PU", b"PD", b"PA", b"PR")):
        raise BadInput(f"{name}: no pen movements in it; this is not an HPGL plotter file")
    try:
        return list(_record(data).recordings())
    except Exception as e:  # the add-on raises whatever it met; a person needs one line
        raise BadInput(
            f"{name}: the plotter file could not be read ({str(e)[:80] or type(e).__name__}); plot it again"
            " as HPGL/2"
        ) from e


def _record(data: bytes):
    """The strokes of the file, in plotter units.

    The modules are taken one by one: the add-on's front door prints to standard output where an optional
    package is missing.
    """
    from ezdxf.addons.hpgl2.backend import Recorder
    from ezdxf.addons.hpgl2.interpreter import Interpreter, to_floats
    from ezdxf.addons.hpgl2.plotter import Plotter
    from ezdxf.addons.hpgl2.tokenizer import hpgl2_commands
    from ezdxf.math import Vec2

    class Fine(Plotter):
        """Arcs with chords within FLATTEN instead of the coarse default of pen plotters, so that they can be
        refitted; once round at most.
        """

        def plot_abs_circle(self, radius, chord_angle):
            _no_larger(radius)
            super().plot_abs_circle(radius, min(abs(chord_angle) or 5.0, _chord_angle(abs(radius))))

        def plot_abs_arc(self, center, sweep_angle, chord_angle):
            radius = (self.user_location - center).magnitude
            _no_larger(radius, sweep_angle)
            turn = (
                sweep_angle
                if abs(sweep_angle) <= 360
                else math.copysign(360 + abs(sweep_angle) % 360, sweep_angle)
            )
            super().plot_abs_arc(center, turn, min(abs(chord_angle) or 5.0, _chord_angle(radius)))

    class Whole(Interpreter):
        """The add-on's interpreter with the rectangles and wedges that it leaves out, drawn by their edges,
        and with encoded lines checked before they are decoded.
        """

        def _edges(self, points):
            """A closed line through some points, from where the pen is and back to it."""
            here, down = self.plotter.user_location, self.plotter.is_pen_down
            self.plotter.pen_down()
            for x, y in (*points, (here.x, here.y)):
                self.plotter.plot_abs_polyline([Vec2(x, y)])
            self.plotter.is_pen_down = down

        def _rectangle(self, args, relative):
            v = list(to_floats(args))
            if len(v) >= 2:
                here = self.plotter.user_location
                x, y = (here.x + v[0], here.y + v[1]) if relative else (v[0], v[1])
                self._edges([(x, here.y), (x, y), (here.x, y)])

        def cmd_ea(self, args):
            self._rectangle(args, False)

        def cmd_er(self, args):
            self._rectangle(args, True)

        cmd_ra, cmd_rr = cmd_ea, cmd_er

        def cmd_ew(self, args):
            v = list(to_floats(args))
            if len(v) < 3:
                return
            here, (radius, start, sweep) = self.plotter.user_location, v[:3]
            _no_larger(radius, sweep)
            sweep = max(-360.0, min(360.0, sweep))
            n = max(2, math.ceil(abs(sweep) / _chord_angle(abs(radius))))
            turns = (math.radians(start + sweep * k / n) for k in range(n + 1))
            self._edges([(here.x + radius * math.cos(t), here.y + radius * math.sin(t)) for t in turns])

        cmd_wg = cmd_ew

        def cmd_pe(self, args):
            _check_encoded(args[0] if args else b"")
            super().cmd_pe(args)

    commands = hpgl2_commands(data)
    if not commands:  # plain HPGL: the add-on waits for the switch into HPGL/2 mode
        commands = hpgl2_commands(b"\x1b%1B" + data)
    if len(commands) > MOST_ENTITIES * 4:
        raise BadInput(f"more than {MOST_ENTITIES * 4:,} commands; split the plot")
    recorder = Recorder()
    Whole(Fine(recorder)).run(
        [type(c)(c.name, c.args if c.name in ("PE", "LB") else _numbers(c.args)) for c in commands]
    )
    return recorder.player()


def _numbers(args: Sequence[bytes]) -> tuple[bytes, ...]:
    """Numbers of a command, parted by commas, spaces or their signs."""
    return tuple(n for a in args for n in re.findall(rb"[-+]?(?:\d+\.?\d*|\.\d+)", a))


def _check_encoded(data: bytes) -> None:
    """Raise where encoded line data would be decoded without end, or to numbers beyond any plotter.

    Between its marks (: < > = 7) every byte is a digit from 63 up, and a number has few of them.
    """
    run, top = 0, 95 if b"7" in data else 191
    for c in data:
        if c in b":<>=7":
            run = 0
        elif c < 63:
            raise BadInput(f"an encoded line holds the byte {c}, which is no digit of it")
        else:
            run = 0 if c >= top else run + 1
        if run > LONGEST_NUMBER:
            raise BadInput(f"an encoded line holds a number of more than {LONGEST_NUMBER} digits")


def _no_larger(radius: float, sweep: float = 0.0) -> None:
    if not (abs(radius) <= LARGEST_RADIUS and abs(sweep) <= 1e6):
        raise BadInput(f"an arc of radius {abs(radius) * PLOTTER_UNIT / 1000:.3g} m over {sweep:.3g} degrees")


def _chord_angle(radius: float) -> float:
    r = radius * PLOTTER_UNIT
    return math.degrees(2 * math.acos(max(0.0, 1 - FLATTEN / 2 / r))) if r > FLATTEN else 90.0


def _paths(record):
    """Point runs (n, 2) of one recorded stroke, outline or filled area, in plotter units."""
    for item in record if isinstance(record, tuple) else (record,):
        if hasattr(item, "to_path"):
            for sub in item.to_path().sub_paths():
                yield np.array([(v.x, v.y) for v in sub.flattening(FLATTEN / PLOTTER_UNIT, segments=8)])
        else:
            pts = np.array([(v.x, v.y) for v in item.vertices()])
            if len(pts) > 1:
                yield pts
