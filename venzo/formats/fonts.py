"""Fonts in: TrueType and OpenType, and text as outlines with the font's own kerning."""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from venzo.core.geometry.bezier import bezier_points
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.united import united
from venzo.core.snags import BadInput
from venzo.core.tolerances import FLATTEN

FOLDER = Path(__file__).parent / "font_files"
BUNDLED = {"plain": "barlow-600.ttf", "serif": "vollkorn-600.ttf", "mono": "spline-mono-500.ttf"}
"""Open fonts that ship with Venzo, by the name people choose them by."""
LARGEST = 16 * 1024 * 1024
MOST_LETTERS = 2000


@dataclass(frozen=True)
class Letter:
    """A letter of a set line: contours about its own origin, where that lies on the line (mm), and its
    advance.
    """

    contours: list[Contour]
    x: float
    y: float
    advance: float


class Font:
    """A font that text can be set in.

    Args:
        data: bytes of a TTF or OTF file.
        name: for messages.

    Raises:
        BadInput: not a font, or one without outlines.
    """

    def __init__(self, data: bytes, name: str = "font"):
        import uharfbuzz as hb
        from fontTools.ttLib import TTFont

        if len(data) > LARGEST:
            raise BadInput(
                f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST // 1024**2} MB for a font"
            )
        try:
            self.table = TTFont(io.BytesIO(data), fontNumber=0, lazy=True)
            self.glyphs = self.table.getGlyphSet()
            self.order = self.table.getGlyphOrder()
            self.em = float(self.table["head"].unitsPerEm)
            os2 = self.table.get("OS/2")
            self.cap = float(getattr(os2, "sCapHeight", 0) or 0.7 * self.em)
            self._shaper = hb.Font(hb.Face(data))
        except Exception as e:  # in the hands of a damaged file the library may raise anything
            raise BadInput(
                f"{name}: not a readable TTF or OTF font ({type(e).__name__}); choose another file"
            ) from e
        self.name = name
        self._kept: dict[tuple[str, float], list[Contour]] = {}

    def outlines(
        self, text: str, cap_height: float, chord: float = FLATTEN
    ) -> tuple[list[Contour], float, list[str]]:
        """One line of text with its baseline from (0, 0) along X, capitals ``cap_height`` mm high.

        Returns:
            closed contours (curves refitted to lines and arcs), the line's advance in mm, and the letters
            that the font lacks.

        Raises:
            BadInput: no letters, too many, or a cap height that is not within 0.1 to 5000 mm.
        """
        found, advance, missing = self.letters(text, cap_height, chord)
        return [c.moved(g.x, g.y) for g in found for c in g.contours], advance, missing

    def letters(
        self, text: str, cap_height: float, chord: float = FLATTEN
    ) -> tuple[list[Letter], float, list[str]]:
        """The same letter by letter, each on its own origin, so that they can be set along a curve. Kerning
        and ligatures are the font's own.
        """
        import uharfbuzz as hb

        if not text.strip():
            raise BadInput("the text is empty; type at least one letter")
        if len(text) > MOST_LETTERS:
            raise BadInput(f"{len(text)} letters are over the limit of {MOST_LETTERS} on one line")
        if not 0.1 <= cap_height <= 5000:
            raise BadInput(f"a cap height of {cap_height:g} mm is outside 0.1 to 5000 mm")
        buffer = hb.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        hb.shape(self._shaper, buffer, {"kern": True, "liga": True})
        scale = cap_height / self.cap
        out: list[Letter] = []
        x = 0.0
        missing: list[str] = []
        for info, at in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            if info.codepoint == 0:
                missing.append(text[info.cluster])
            else:
                try:
                    glyph = self._glyph(self.order[info.codepoint], chord / scale)
                except Exception as e:  # in the hands of a damaged file the library may raise anything
                    raise BadInput(
                        f"{self.name}: the outline of {text[info.cluster]!r} is damaged; choose another font"
                    ) from e
                out.append(
                    Letter(
                        [c.scaled(scale) for c in glyph],
                        (x + at.x_offset) * scale,
                        at.y_offset * scale,
                        at.x_advance * scale,
                    )
                )
            x += at.x_advance
        return out, x * scale, missing

    def _glyph(self, name: str, chord: float) -> list[Contour]:
        """Outlines of one glyph in font units; strokes that overlap (script faces are drawn so) made one, as
        a printer fills them.
        """
        key = (name, round(chord, 9))
        if key not in self._kept:
            if len(self._kept) > 4000:
                self._kept.clear()
            found = self._drawn(name, chord)
            solid = united(found, "nonzero", chord) if found else []
            whole, drawn = sum(c.area for c in solid), abs(sum(c.area for c in found))
            self._kept[key] = solid if abs(whole - drawn) > 1e-3 * max(whole, drawn) else found
        return self._kept[key]

    def _drawn(self, name: str, chord: float) -> list[Contour]:
        """Outlines of one glyph as the font has them."""
        from fontTools.pens.recordingPen import DecomposingRecordingPen

        pen = DecomposingRecordingPen(self.glyphs)
        self.glyphs[name].draw(pen)
        out: list[Contour] = []
        run: list[np.ndarray] = []

        def end() -> None:
            if run:
                p = np.concatenate(run)
                p = p[:-1] if len(p) > 1 and np.allclose(p[0], p[-1]) else p
                if len(p) > 2:
                    out.append(fit(p, True, chord))
            run.clear()

        here = np.zeros(2)
        for kind, args in pen.value:
            pts = [np.array(a, dtype=float) for a in args if a is not None]
            if kind == "moveTo":
                end()
                run.append(pts[0][None, :])
            elif kind == "lineTo":
                run.append(pts[0][None, :])
            elif kind == "qCurveTo":
                # off-curve points imply on-curve points half way between them
                if args[-1] is None:  # a closed curve without any on-curve point
                    here = (pts[-1] + pts[0]) / 2
                    run.append(here[None, :])
                    pts = [*pts, here]
                for i, control in enumerate(pts[:-1]):
                    to = pts[-1] if i == len(pts) - 2 else (control + pts[i + 1]) / 2
                    run.append(bezier_points(np.array([here, control, to]), chord)[1:])
                    here = to
            elif kind == "curveTo":
                run.append(bezier_points(np.array([here, *pts]), chord)[1:])
            elif kind in ("closePath", "endPath"):
                end()
                continue
            here = pts[-1] if pts else here
        end()
        return out


@lru_cache(maxsize=16)
def bundled(name: str) -> Font:
    """A font that ships with Venzo.

    Raises:
        BadInput: no such font.
    """
    if name not in BUNDLED:
        raise BadInput(f"there is no font {name!r}; the fonts are {', '.join(BUNDLED)}")
    return Font((FOLDER / BUNDLED[name]).read_bytes(), name)
