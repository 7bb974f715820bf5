"""What sheet is meant? Stock as people say it in a line: sizes with crosses between them, then words.

>>> typed_stock("14 x 12 x 0.6 oak", "in")
TypedStock(width=355.6, height=304.8, thickness=15.24, name='oak', quantity=1)
>>> typed_stock("3 of 8' by 4' x 3/4 birch ply", "in").quantity
3
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from venzo.core.snags import BadInput
from venzo.core.units import parse_length, plain_signs

_CROSS = re.compile(r"\s*(?:[x*]|\bby\b)\s*(?=[\d.(])", re.I)
_COUNT = re.compile(r"^\s*(\d{1,5})\s*(?:of|pieces?|sheets?|boards?|off)\b[:,]?\s*", re.I)
_UNIT = r"(?:mm|cm|m|in|inch|inches|ft|foot|feet|thou|\"|')"
_SIZE = re.compile(rf"^\s*((?:[\d./\s-]*\d\.?(?:\s*{_UNIT}(?![a-z]))?\s*)+)", re.I)
LONGEST = 200


@dataclass(frozen=True)
class TypedStock:
    """A sheet as it was typed: mm along X and Y, thickness, what it is called, how many."""

    width: float
    height: float
    thickness: float
    name: str
    quantity: int = 1


def typed_stock(text: str, unit: str = "mm") -> TypedStock:
    """Read a line of stock: ``[3 of] width x height x thickness [words]``; each size as lengths are written.

    Raises:
        BadInput: it has no three sizes, or one of them is none that a sheet can have.
    """
    if len(text) > LONGEST:
        raise BadInput(f"a line of stock has at most {LONGEST} characters")
    plain = plain_signs(text).replace("\u00d7", "x")
    count = _COUNT.match(plain)
    rest = plain[count.end() :] if count else plain
    parts = _CROSS.split(rest)
    if len(parts) != 3:
        raise BadInput(
            f"{text.strip()!r}: a sheet has three sizes, as in 14 x 12 x 0.6 oak: width, height, thickness"
        )
    last = _SIZE.match(parts[2])
    if last is None:
        raise BadInput(f"{text.strip()!r}: the third size, the thickness, is missing")
    width, height, thick = (parse_length(p, unit) for p in (parts[0], parts[1], last.group(1)))
    name = " ".join(parts[2][last.end() :].split()).strip(" ,;")
    for what, mm, most in (("width", width, 20_000), ("height", height, 20_000), ("thickness", thick, 500)):
        if not 0 < mm <= most:
            raise BadInput(f"{text.strip()!r}: a {what} of {mm:g} mm; it is above 0 and at most {most} mm")
    if thick > min(width, height):
        raise BadInput(
            f"{text.strip()!r}: {thick:g} mm is thicker than the sheet is wide; width, height, thickness"
        )
    return TypedStock(width, height, thick, name[:120], int(count.group(1)) if count else 1)
