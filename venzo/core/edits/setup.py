"""Commands on a setup and its stock."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from venzo.core.edits.base import followed, laid_setup, setup_of, swapped, with_fields, with_setup
from venzo.core.model import Id, Name, Point, Value
from venzo.core.plan import Plan
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.stock.zeros import Datum, HomeZero, JigZero, SquareZero, on_table
from venzo.core.tooling.cutter import Cutter, Holder


def _check_outline(stock: Stock) -> None:
    """Raise BadInput where a remnant's outline crosses itself or leaves its box."""
    from shapely.geometry import Polygon

    ring = Polygon(stock.outline) if len(stock.outline) > 2 else None
    if ring is None or not ring.is_valid or ring.area < 1.0:
        raise BadInput(
            f"{stock.name}: the outline needs at least three corners and must not cross itself; check the"
            " order of its corners"
        )
    x0, y0, x1, y1 = ring.bounds
    over = max(-x0, -y0, x1 - stock.width, y1 - stock.height)
    if over > 1e-6:
        raise BadInput(
            f"{stock.name}: the outline reaches {over:.1f} mm outside its {stock.width:g} x {stock.height:g}"
            " mm box; enlarge the box or correct the corner"
        )
    if ring.buffer(-stock.margin).is_empty:
        raise BadInput(f"{stock.name}: a margin of {stock.margin:g} mm leaves nothing inside the outline")


class SetStock(Value):
    """Add a line of stock to a setup or replace the one with the same id."""

    kind: Literal["set-stock"] = "set-stock"
    setup: Id
    stock: Stock

    def touches(self) -> set[str]:
        return {f"stock/{self.setup}/{self.stock.id}"}

    def says(self, plan: Plan) -> str:
        return f"{self.stock.name}: {self.stock.thickness:.2f} mm, {self.stock.quantity} on hand"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        if self.stock.outline:
            _check_outline(self.stock)
        if 2 * self.stock.margin >= min(self.stock.width, self.stock.height):
            raise BadInput(
                f"{self.stock.name}: a margin of {self.stock.margin:g} mm leaves nothing of a"
                f" {self.stock.width:g} x {self.stock.height:g} mm sheet"
            )
        return with_fields(
            plan,
            setups=swapped(
                plan.setups, followed(s, s.model_copy(update={"stock": swapped(s.stock, self.stock)}))
            ),
        )


class RemoveStock(Value):
    """Take a line of stock out of a setup, with the pieces on it."""

    kind: Literal["remove-stock"] = "remove-stock"
    setup: Id
    stock: Id

    def touches(self) -> set[str]:
        return {f"stock/{self.setup}/{self.stock}", f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        return f"stock {self.stock} taken out"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        if s.stock_of(self.stock) is None:
            raise BadInput(f"the setup has no stock {self.stock!r} any more")
        nest = (
            s.nest.model_copy(update={"pieces": tuple(q for q in s.nest.pieces if q.sheet != self.stock)})
            if s.nest
            else None
        )
        return with_setup(plan, s, stock=tuple(k for k in s.stock if k.id != self.stock), nest=nest)


class SetSetup(Value):
    """Change a setup: only the fields given. Machine, material, cutters and rules are snapshots adopted from
    the library.
    """

    kind: Literal["set-setup"] = "set-setup"
    setup: Id
    name: Name | None = None
    machine: Machine | None = None
    material: Material | None = None
    cutters: tuple[Cutter, ...] | None = None
    holders: Annotated[tuple[Holder, ...], Field(max_length=200)] | None = None
    rules: HouseRules | None = None
    datum: Datum | None = None
    z_zero: Literal["top", "bed"] | None = None
    sheet_at: Point | None = None
    zones_on: tuple[Id, ...] | None = None
    allow_in_holes: bool | None = None
    guillotine: bool | None = None
    same_layouts: bool | None = None

    def _given(self) -> dict[str, Any]:
        return {
            k: v
            for k in type(self).model_fields
            if k not in ("kind", "setup") and (v := getattr(self, k)) is not None
        }

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/{k}" for k in self._given()}

    def says(self, plan: Plan) -> str:
        words = {
            "datum": "zero",
            "z_zero": "Z zero",
            "sheet_at": "place of the sheet",
            "zones_on": "vacuum zones",
            "allow_in_holes": "parts in holes",
            "guillotine": "cuts from edge to edge",
            "same_layouts": "one layout on several sheets",
        }
        return (
            f"{setup_of(plan, self.setup).name}: {', '.join(words.get(k, k) for k in self._given())} changed"
        )

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        given = self._given()
        if "sheet_at" in given and max(map(abs, given["sheet_at"])) > 100_000:
            raise BadInput("place of the sheet: more than 100 m from the table's corner")
        table = given.get("machine", s.machine)
        if (table.head is None) != (s.machine.head is None):
            now, then = ("a kerf table", "a router") if s.machine.head else ("a router", "a kerf table")
            raise BadInput(f"{s.name} is cut on {now}; add a setup for {then}, and move its parts there")
        zero = given.get("datum", s.datum)
        if isinstance(zero, SquareZero | JigZero | HomeZero):
            on_table(zero, given.get("machine", s.machine))  # it must be there
        if "cutters" in given:
            ids = [c.id for c in given["cutters"]]
            used = {o.cutter for o in s.operations} | {
                o.cutter for c in plan.steps if (p := plan.part(c.part)) and p.setup == s.id for o in c.steps
            }
            used -= set(ids)
            if used:
                raise BadInput(
                    f"cutter {sorted(used)[0]!r} is used by an operation; choose another cutter there first"
                )
        if "zones_on" in given:
            machine = given.get("machine", s.machine)
            unknown = set(given["zones_on"]) - {z.id for z in machine.zones}
            if unknown:
                raise BadInput(f"{machine.name} has no vacuum zone {sorted(unknown)[0]!r}")
        elif "machine" in given:
            given["zones_on"] = tuple(z.id for z in given["machine"].zones)
        return with_setup(plan, s, **given)
