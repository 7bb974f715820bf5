"""HPGL in: plotter files (PLT, HPGL, HPGL/2), read through the drawing library's plotter add-on."""

from __future__ import annotations

import math

import numpy as np

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.parts.drawing import LARGEST_FILE, MOST_ENTITIES, Drawing
from venzo.core.snags import BadInput
from venzo.core.tolerances import FLATTEN

PLOTTER_UNIT = 0.025
"""Millimetres in a plotter unit."""


def read(data: bytes, name: str) -> Drawing:
    """Read a plotter file; pens become layers.

    Raises:
        BadInput: empty, too large, or not a plotter file.
    """
    if not data.strip():
        raise BadInput(f"{name}: the file is empty; plot the drawing again")
    if len(data) > LARGEST_FILE:
        raise BadInput(f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB; split the plot")
    if not any(word in data for word in (b"PU", b"PD", b"PA", b"PR")):
        raise BadInput(f"{name}: no pen movements in it; this is not an HPGL plotter file")
    try:
        records = list(_record(data).recordings())
    except Exception as e:  # the add-on raises whatever it met; a person needs one line
        raise BadInput(f"{name}: the plotter file could not be read ({str(e)[:80] or type(e).__name__}); plot it again as HPGL/2") from e
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
            drawing.chains.append(fit(pts[:-1] if closed else pts, closed, FLATTEN, layer) if len(pts) > 2 else Contour.of(pts, False, layer))
    return drawing


def _record(data: bytes):
    """The strokes of the file, in plotter units.

    The modules are taken one by one: the add-on's front door prints to standard output where an optional package is missing.
    """
    from ezdxf.addons.hpgl2.backend import Recorder
    from ezdxf.addons.hpgl2.interpreter import Interpreter
    from ezdxf.addons.hpgl2.plotter import Plotter
    from ezdxf.addons.hpgl2.tokenizer import hpgl2_commands

    class Fine(Plotter):
        """Arcs with chords within FLATTEN instead of the coarse default of pen plotters, so that they can be refitted."""

        def plot_abs_circle(self, radius, chord_angle):
            super().plot_abs_circle(radius, min(chord_angle, _chord_angle(abs(radius))))

        def plot_abs_arc(self, center, sweep_angle, chord_angle):
            super().plot_abs_arc(center, sweep_angle, min(chord_angle, _chord_angle((self.user_location - center).magnitude)))

    commands = hpgl2_commands(data)
    if not commands:  # plain HPGL: the add-on waits for the switch into HPGL/2 mode
        commands = hpgl2_commands(b"\x1b%1B" + data)
    recorder = Recorder()
    Interpreter(Fine(recorder)).run(commands)
    return recorder.player()


def _chord_angle(radius: float) -> float:
    r = radius * PLOTTER_UNIT
    return math.degrees(2 * math.acos(max(0.0, 1 - FLATTEN / 2 / r))) if r > FLATTEN else 90.0


def _paths(record):
    """Point runs (n, 2) of one recorded stroke, outline or filled area, in plotter units."""
    for item in record if isinstance(record, tuple) else (record,):
        if hasattr(item, "to_path2d"):
            for sub in item.to_path2d().sub_paths():
                yield np.array([(v.x, v.y) for v in sub.flattening(FLATTEN / PLOTTER_UNIT, segments=8)])
        else:
            pts = np.array([(v.x, v.y) for v in item.vertices()])
            if len(pts) > 1:
                yield pts
