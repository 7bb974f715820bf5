"""Cut lists in and out: CSV with name, quantity and, if wanted, material, thickness, grain and face."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass

from venzo.core.edits import CutListLine
from venzo.core.plan import Part, Plan
from venzo.core.snags import BadInput
from venzo.core.units import parse_length

LARGEST = 4 * 1024 * 1024
_COLUMNS = {
    "name": ("name", "part", "description", "item", "piece"),
    "quantity": ("quantity", "qty", "count", "number", "pcs", "pieces", "no"),
    "material": ("material", "stock"),
    "thickness": ("thickness", "thick", "t"),
    "grain": ("grain",),
    "face": ("face", "side", "good face"),
}


@dataclass(frozen=True)
class Row:
    """One line of a cut list as written; ``line`` is its number in the file."""

    line: int
    name: str
    quantity: int | None
    material: str
    thickness: float | None
    grain: str
    face: str


def read_cut_list(data: bytes, name: str) -> list[Row]:
    """Read a cut list; the separator and the order of columns are found from its first line.

    Raises:
        BadInput: no name or quantity column, or a quantity that is no whole number from 0 to 10,000.
    """
    if len(data) > LARGEST:
        raise BadInput(
            f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST // 1024**2} MB for a cut list"
        )
    text = data.decode("utf-8-sig", "replace")
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(";\t,", key=first.count)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=separator))
    except csv.Error as e:
        raise BadInput(f"{name}: not a readable CSV file ({e}); save the list as CSV again") from e
    head = next((k for k, r in enumerate(rows) if any(c.strip() for c in r)), None)
    if head is None:
        raise BadInput(f"{name}: the cut list is empty; it needs a line with name and quantity")
    titles = [re.sub(r"[^a-z ]", "", c.lower()).strip() for c in rows[head]]
    column = {
        key: next((k for k, t in enumerate(titles) if t in words), None) for key, words in _COLUMNS.items()
    }
    if column["name"] is None or column["quantity"] is None:
        raise BadInput(
            f"{name}: the first line must name the columns, name and quantity at least; it says"
            f" {first.strip()[:60]!r}"
        )
    out = []
    for k, r in enumerate(rows[head + 1 :], head + 2):

        def cell(key: str, r: list[str] = r) -> str:
            i = column[key]
            return r[i].strip() if i is not None and i < len(r) else ""

        if not cell("name"):
            continue
        number = cell("quantity")
        if number and not re.fullmatch(r"\d{1,5}(\.0+)?", number):
            raise BadInput(
                f"{name}, line {k}: quantity {number!r} of {cell('name')} is no whole number; correct it"
            )
        quantity = int(float(number)) if number else None
        if quantity is not None and quantity > 10_000:
            raise BadInput(
                f"{name}, line {k}: {quantity} pieces of {cell('name')} are over the limit of 10,000"
            )
        try:
            thickness = parse_length(cell("thickness"), "mm") if cell("thickness") else None
        except BadInput as e:
            raise BadInput(f"{name}, line {k}: thickness: {e}") from e
        out.append(
            Row(
                k,
                cell("name"),
                quantity,
                cell("material"),
                thickness,
                cell("grain").lower(),
                cell("face").lower(),
            )
        )
    return out


def _plain(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", " ", re.sub(r"\.(dxf|svg|plt|hpgl)$", "", text.lower())).strip()


def match_cut_list(
    rows: Sequence[Row], parts: Sequence[Part], material: str, thicknesses: Sequence[float], name: str
) -> tuple[list[CutListLine], list[str]]:
    """Rows as edits of the parts of the same name, and what could not be applied.

    Grain: along or x (0), across or y (90), none. Face: either or both allows turning over, anything else
    forbids it.

    Raises:
        BadInput: no row names a part.
    """
    by_name = {_plain(p.name): p for p in parts}
    lines, said = [], []
    total: dict[str, int] = {}
    for r in rows:
        p = by_name.get(_plain(r.name))
        if p is None:
            said.append(f"{name}, line {r.line}: the job has no part named {r.name}")
            continue
        if (
            r.material
            and _plain(r.material) not in _plain(material)
            and _plain(material) not in _plain(r.material)
        ):
            said.append(f"{name}, line {r.line}: {r.name} asks for {r.material}; this setup cuts {material}")
        if r.thickness and thicknesses and min(abs(t - r.thickness) for t in thicknesses) > 0.1 * r.thickness:
            said.append(
                f"{name}, line {r.line}: {r.name} asks for {r.thickness:g} mm; the sheets measure"
                f" {', '.join(f'{t:.2f}' for t in thicknesses)} mm"
            )
        if r.quantity is not None:
            total[p.id] = total.get(p.id, 0) + r.quantity
        grain = {
            "along": 0,
            "x": 0,
            "length": 0,
            "0": 0,
            "across": 90,
            "y": 90,
            "width": 90,
            "90": 90,
            "none": "none",
            "any": "none",
            "no": "none",
        }.get(r.grain)
        mirror = None if not r.face else r.face in ("either", "both", "any")
        told = {"part": p.id, "quantity": total.get(p.id), "grain": grain, "mirror": mirror}
        lines.append(CutListLine.model_validate(told))
    if not lines:
        raise BadInput(
            f"{name}: none of its lines ({len(rows)}) names a part of this job"
            f" ({', '.join(p.name for p in parts[:6]) or 'no parts yet'}); take the drawings in first"
        )
    return lines, said


def cut_list_csv(plan: Plan) -> bytes:
    """The parts of a plan as a cut list, which ``read_cut_list`` reads again: a line a part."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(["name", "quantity", "material", "thickness", "grain", "face"])
    grains = {0: "along", 90: "across", None: "none"}
    for p in plan.parts:
        setup = plan.setup(p.setup)
        thick = next((s.thickness for s in setup.stock), None) if setup else None
        table.writerow(
            [
                p.name,
                p.quantity,
                setup.material.name if setup else "",
                f"{thick:.2f}" if thick is not None else "",
                grains[p.grain],
                "either" if p.mirror else "one",
            ]
        )
    return out.getvalue().encode()
