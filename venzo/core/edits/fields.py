"""Commands that name what they change and nothing else, so that two quick edits never take each other back.

A browser sends only the fields a person changed; lists of things (steps, screws, fixings) are changed by what
is added, changed by id, dropped or put in order.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, ValidationError

from venzo.core.cuts.operations import Groove, On, Operation, ReliefFinish
from venzo.core.edits.base import part_of, setup_of, with_fields, with_setup
from venzo.core.edits.parts import SetQuantity
from venzo.core.edits.setup import SetStock
from venzo.core.holding.fixings import Fixing
from venzo.core.holding.screws import Screw
from venzo.core.model import Id, Value
from venzo.core.plan import Part, Plan, Setup, StepsChoice
from venzo.core.snags import BadInput, plain_error
from venzo.core.stock.lying import lying
from venzo.core.stock.machine import Place
from venzo.core.tooling.cutter import Cutter
from venzo.core.voice import counted

Fields = Annotated[dict[str, Any], Field(min_length=1, max_length=40)]
ThingId = Annotated[str, Field(min_length=1, max_length=80)]


WHOLE = "="
LEAST_EDGE, MOST_TURN = 50.0, 30.0
"""mm between a sheet's corner and the second point on its edge; degrees that a sheet may lie turned."""


class Changed(Value):
    """Fields of one thing of a list that change; nested values are merged."""

    id: ThingId
    fields: Fields


def merged(old: Any, fields: dict[str, Any]) -> dict[str, Any]:
    """A value's fields with some changed; a dictionary changes only what it names in the value it lies in, in
    a list by number. ``{"=": value}`` replaces a nested value as a whole.

    >>> merged({"a": 1, "b": {"c": 2, "d": 3}}, {"b": {"d": 4}})
    {'a': 1, 'b': {'c': 2, 'd': 4}}
    >>> merged({"a": [{"b": 1}, {"b": 2}]}, {"a": {"1": {"b": 3}}})
    {'a': [{'b': 1}, {'b': 3}]}

    Raises:
        BadInput: a number beyond the list.
    """
    now = old.model_dump(mode="json") if isinstance(old, BaseModel) else dict(old)
    for k, v in fields.items():
        was = now.get(k)
        if isinstance(v, dict) and list(v) == [WHOLE]:
            now[k] = v[WHOLE]
            continue
        if isinstance(v, dict) and isinstance(was, list):
            gone = [i for i in v if not (i.isdecimal() and int(i) < len(was) and isinstance(v[i], dict))]
            if gone:
                raise BadInput(
                    f"{k.replace('_', ' ')}: there is no {gone[0]!r} of its {len(was)} any more; look again"
                )
            now[k] = [
                merged(item, v[str(i)]) if str(i) in v and isinstance(item, dict) else item
                for i, item in enumerate(was)
            ]
        else:
            now[k] = merged(was, v) if isinstance(v, dict) and isinstance(was, dict) else v
    return now


def with_changes(old: Any, fields: dict[str, Any], what: str, kept: tuple[str, ...] = ("id", "kind")) -> Any:
    """A value with fields changed, checked.

    Raises:
        BadInput: a field that it has not or that must stay, or a value that is not valid there.
    """
    for k in fields:
        if k in kept:
            raise BadInput(f"{what}: its {k} stays as it is")
        if k not in type(old).model_fields:
            raise BadInput(f"{what} has no {k!r}")
    try:
        return type(old).model_validate(merged(old, fields))
    except ValidationError as e:
        raise BadInput(f"{what}: {plain_error(e)}") from e


def changed_list(
    items: Sequence[Any], add: Sequence[Any], change: Sequence[Changed], drop: Sequence[str], what: str
) -> list[Any]:
    """A list of things with ids, some added, changed or dropped.

    Raises:
        BadInput: one to change or drop is not there, or one to add is there already.
    """
    out = {i.id: i for i in items}
    for c in change:
        if c.id not in out:
            raise BadInput(f"there is no {what} {c.id!r} any more")
        out[c.id] = with_changes(out[c.id], c.fields, f"{what} {c.id}")
    for d in drop:
        if out.pop(d, None) is None:
            raise BadInput(f"there is no {what} {d!r} any more")
    for a in add:
        if a.id in out:
            raise BadInput(f"there is a {what} {a.id!r} already")
        out[a.id] = a
    return list(out.values())


class ChangeSteps(Value):
    """Change the steps on a kind of feature: of the setup, or a part's own, or one contour's own. ``order``:
    ids from first to last; those not named keep their place behind.
    """

    kind: Literal["change-steps"] = "change-steps"
    setup: Id | None = None
    part: Id | None = None
    contour: Annotated[str, Field(max_length=200)] = ""
    on: On
    add: Annotated[tuple[Operation, ...], Field(max_length=12)] = ()
    change: Annotated[tuple[Changed, ...], Field(max_length=12)] = ()
    drop: Annotated[tuple[ThingId, ...], Field(max_length=12)] = ()
    order: Annotated[tuple[ThingId, ...], Field(max_length=24)] | None = None
    cutters: Annotated[tuple[Cutter, ...], Field(max_length=12)] = ()
    """Of the shop, that come into the setup where a step needs them."""

    def touches(self) -> set[str]:
        at = (
            f"choice/{self.part}/{self.contour or self.on}"
            if self.part
            else f"operation/{self.setup}/{self.on}"
        )
        own = {f"{at}/{c.id}/{k}" for c in self.change for k in c.fields} | {
            f"{at}/{i}" for i in (*self.drop, *(s.id for s in self.add))
        }
        own |= {f"{at}/{c.id}/{k}" for c in self.change if "depth" in c.fields for k in SAYS_DEPTH}
        return own | ({f"{at}/order"} if self.order is not None else set())

    def says(self, plan: Plan) -> str:
        p = plan.part(self.part) if self.part else None
        who = f"{p.name}, {self.contour or self.on}" if p else self.on
        if self.change:
            return (
                f"{who}:"
                f" {', '.join(dict.fromkeys(k.replace('_', ' ') for c in self.change for k in c.fields))}"
                " changed"
            )
        if self.add:
            return f"{who}: {' and '.join(s.kind for s in self.add)} added"
        return (
            f"{who}: {len(self.drop)} step{'s' * (len(self.drop) != 1)} taken out"
            if self.drop
            else f"{who}: steps in another order"
        )

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part) if self.part else None
        s = setup_of(plan, p.setup if p else self.setup or "")
        old = self._steps(plan, s, p)
        wanted = {v for c in self.change if isinstance(v := c.fields.get("cutter"), str)} | {
            o.cutter for o in self.add
        }
        coming = [c for c in self.cutters if c.id in wanted and s.cutter(c.id) is None]
        for c in coming:
            same = next((o for o in s.cutters if o.number == c.number), None)
            if same is not None:
                raise BadInput(
                    f"{c.name} and {same.name} of this job are both T{c.number}; give one another number in"
                    " the library"
                )
        if coming:
            plan = with_setup(plan, s, cutters=(*s.cutters, *coming))
            s = setup_of(plan, s.id)
        change = tuple(
            c.model_copy(
                update={
                    "fields": {
                        **_with_tabs(s, old, c),
                        **_no_longer_says_depth(s, old, c),
                        **_no_longer_weighed(old, c),
                    }
                }
            )
            for c in self.change
        )
        new = changed_list(old, self.add, change, self.drop, "step")
        for o in new:
            cutter = s.cutter(o.cutter)
            if o.on != self.on:
                raise BadInput(f"step {o.id} is on {o.on}, not on {self.on}")
            if cutter is None:
                raise BadInput(f"the setup has no cutter {o.cutter!r}; adopt it from the library first")
            if getattr(o, "bowl", None) and s.cutter(o.bowl) is None:
                raise BadInput(f"the setup has no bowl cutter {o.bowl!r}; adopt it from the library first")
        if self.order is not None:
            place = {i: k for k, i in enumerate(self.order)}
            new.sort(key=lambda o: place.get(o.id, len(place)))
        if p is not None:
            choice = StepsChoice(part=p.id, on=self.on, contour=self.contour, steps=tuple(new))
            rest = tuple(c for c in plan.steps if c.key != choice.key)
            return with_fields(plan, steps=(*rest, choice) if new else rest)
        others = [o for o in s.operations if o.on != self.on]
        taken = {o.id for o in others} & {o.id for o in self.add}
        if taken:
            raise BadInput(f"there is a step {sorted(taken)[0]!r} already")
        recipes = s.recipes if new else tuple(r for r in s.recipes if r.on != self.on)
        return with_setup(plan, s, operations=(*others, *new), recipes=recipes)

    def _steps(self, plan: Plan, s: Setup, p: Part | None) -> Sequence[Any]:
        if p is None:
            return s.steps_on(self.on)
        own = next(
            (c.steps for c in plan.steps if c.part == p.id and c.on == self.on and c.contour == self.contour),
            (),
        )
        if not own and not self.add:
            raise BadInput(f"{p.name}: its {self.contour or self.on} has no steps of its own any more")
        return own


def _with_tabs(s: Setup, steps: Sequence[Any], c: Changed) -> dict[str, Any]:
    """The fields, with tabs that name only a few of their own measures filled up from those in force."""
    tabs = c.fields.get("tabs")
    step = next((o for o in steps if o.id == c.id), None)
    if not isinstance(tabs, dict) or step is None or getattr(step, "tabs", None) is not None:
        return c.fields
    return {**c.fields, "tabs": {**s.house_tabs(step.on).model_dump(mode="json"), **tabs}}


SAYS_DEPTH = ("width", "skin")
"""Fields of a step along a line that may say its depth in place of ``depth``."""


def _no_longer_says_depth(s: Setup, steps: Sequence[Any], c: Changed) -> dict[str, None]:
    """What said a step's depth until now, taken back where a depth is said in its place."""
    step = next((o for o in steps if o.id == c.id), None)
    if "depth" not in c.fields or not isinstance(step, Groove):
        return {}
    gone: dict[str, None] = {}
    if step.skin and "skin" not in c.fields:
        gone["skin"] = None
    cutter = s.cutter(c.fields["cutter"] if isinstance(c.fields.get("cutter"), str) else step.cutter)
    if step.width and "width" not in c.fields and cutter and cutter.deeper_is_wider(step.width):
        gone["width"] = None
    return gone


WEIGHED = ("cutter", "step_over", "cusp", "pattern", "ways", "over")
"""Fields of a finishing step that what was weighed of it depends on."""


def _no_longer_weighed(steps: Sequence[Any], c: Changed) -> dict[str, str]:
    """What was recorded of finish or sand, taken back where the step becomes another one."""
    step = next((o for o in steps if o.id == c.id), None)
    other = any(k in c.fields for k in WEIGHED) and "note" not in c.fields
    return {"note": ""} if isinstance(step, ReliefFinish) and step.note and other else {}


class ChangeQuantity(Value):
    """More or fewer pieces of a part than an order wants now."""

    kind: Literal["change-quantity"] = "change-quantity"
    part: Id
    order: Id
    more: Annotated[int, Field(ge=-1000, le=1000)]

    def touches(self) -> set[str]:
        return set()  # it relies on nothing: whatever was wanted, it is so many more

    def says(self, plan: Plan) -> str:
        return (
            f"{part_of(plan, self.part).name}: {abs(self.more)} {'more' if self.more > 0 else 'fewer'} wanted"
        )

    def apply(self, plan: Plan) -> Plan:
        line = next((v for v in part_of(plan, self.part).lines if v.order == self.order), None)
        wanted = (line.quantity if line else 0) + self.more
        if not 0 <= wanted <= 10_000:
            raise BadInput(
                f"{part_of(plan, self.part).name}: {counted(wanted, 'piece')}; a whole number from 0"
                " to 10,000"
            )
        return SetQuantity(part=self.part, order=self.order, quantity=wanted).apply(plan)


class ChangeScrews(Value):
    """Add, change or take out screws and nails."""

    kind: Literal["change-screws"] = "change-screws"
    setup: Id
    add: Annotated[tuple[Screw, ...], Field(max_length=400)] = ()
    change: Annotated[tuple[Changed, ...], Field(max_length=400)] = ()
    drop: Annotated[tuple[ThingId, ...], Field(max_length=400)] = ()

    def touches(self) -> set[str]:
        return _touched(f"setup/{self.setup}/screws", self.add, self.change, self.drop)

    def says(self, plan: Plan) -> str:
        return _counted("screw", self.add, self.change, self.drop)

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        return with_setup(plan, s, screws=changed_list(s.screws, self.add, self.change, self.drop, "screw"))


class ChangeFixings(Value):
    """Add, change or take away clamps, cams, pins, tape, pods, fixture boards and covers."""

    kind: Literal["change-fixings"] = "change-fixings"
    setup: Id
    add: Annotated[tuple[Fixing, ...], Field(max_length=200)] = ()
    change: Annotated[tuple[Changed, ...], Field(max_length=200)] = ()
    drop: Annotated[tuple[ThingId, ...], Field(max_length=200)] = ()

    def touches(self) -> set[str]:
        return _touched(f"setup/{self.setup}/fixings", self.add, self.change, self.drop)

    def says(self, plan: Plan) -> str:
        return _counted("fixing", self.add, self.change, self.drop)

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        return with_setup(
            plan, s, fixings=changed_list(s.fixings, self.add, self.change, self.drop, "fixing")
        )


def _touched(at: str, add: Sequence[Any], change: Sequence[Changed], drop: Sequence[str]) -> set[str]:
    return {f"{at}/{c.id}/{k}" for c in change for k in c.fields} | {
        f"{at}/{i}" for i in (*drop, *(a.id for a in add))
    }


def _counted(what: str, add: Sequence[Any], change: Sequence[Changed], drop: Sequence[str]) -> str:
    words = [(len(add), "put down"), (len(change), "changed"), (len(drop), "taken away")]
    return ", ".join(f"{n} {what}{'s' * (n != 1)} {how}" for n, how in words if n) or f"no {what} changed"


class ChangeStock(Value):
    """Change fields of a line of stock."""

    kind: Literal["change-stock"] = "change-stock"
    setup: Id
    stock: Id
    fields: Fields

    def touches(self) -> set[str]:
        return {f"stock/{self.setup}/{self.stock}/{k}" for k in self.fields}

    def says(self, plan: Plan) -> str:
        s = plan.setup(self.setup)
        stock = s.stock_of(self.stock) if s else None
        return (
            f"{stock.name if stock else self.stock}: {', '.join(k.replace('_', ' ') for k in self.fields)}"
            " changed"
        )

    def apply(self, plan: Plan) -> Plan:
        stock = setup_of(plan, self.setup).stock_of(self.stock)
        if stock is None:
            raise BadInput(f"the setup has no stock {self.stock!r} any more")
        return SetStock(setup=self.setup, stock=with_changes(stock, self.fields, stock.name)).apply(plan)


class ChangeSetup(Value):
    """Change fields of a setup's own copies of machine and house rules, and switch vacuum zones on or off;
    nothing else of them changes.
    """

    kind: Literal["change-setup"] = "change-setup"
    setup: Id
    machine: Fields | None = None
    rules: Fields | None = None
    zones: Annotated[dict[Id, bool], Field(max_length=100)] | None = None
    corner: (
        Annotated[
            dict[Literal["x", "y"], Annotated[float, Field(ge=-100_000, le=100_000)]], Field(max_length=2)
        ]
        | None
    ) = None
    """Where the sheet's corner lies on the table, mm."""
    edge: Place | Literal["straight"] | None = None
    """A second point read on the lower edge of a sheet that lies crooked, on the table, mm."""

    def touches(self) -> set[str]:
        at = f"setup/{self.setup}"
        return (
            {f"{at}/machine/{k}" for k in self.machine or ()}
            | {f"{at}/rules/{k}" for k in self.rules or ()}
            | {f"{at}/zones_on/{z}" for z in self.zones or ()}
            | {f"{at}/sheet_at/{k}" for k in self.corner or ()}
            | ({f"{at}/edge_at"} if self.edge else set())
        )

    def says(self, plan: Plan) -> str:
        name = setup_of(plan, self.setup).name
        fields = [
            *(self.machine or ()),
            *(self.rules or ()),
            *(["place of the sheet"] if self.corner else []),
            *(["turn of the sheet"] if self.edge else []),
            *(f"zone {z} {'on' if on else 'off'}" for z, on in (self.zones or {}).items()),
        ]
        named = ", ".join(f.replace("_", " ") for f in fields) or "nothing"
        return (
            f"{name}: {named}{' changed' if self.machine or self.rules or self.corner or self.edge else ''}"
        )

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        machine = with_changes(s.machine, self.machine, s.machine.name) if self.machine else s.machine
        rules = with_changes(s.rules, self.rules, "house rules", ()) if self.rules else s.rules
        known = [z.id for z in machine.zones]
        unknown = [z for z in self.zones or () if z not in known]
        if unknown:
            raise BadInput(f"{machine.name} has no vacuum zone {unknown[0]!r}")
        on = (set(s.zones_on) & set(known)) | {z for z, wanted in (self.zones or {}).items() if wanted}
        on -= {z for z, wanted in (self.zones or {}).items() if not wanted}
        at = (self.corner or {}).get("x", s.sheet_at[0]), (self.corner or {}).get("y", s.sheet_at[1])
        edge = s.edge_at if self.edge is None else None if self.edge == "straight" else self.edge
        if edge is not None:
            _check_edge(at, edge)
        zones = tuple(z for z in known if z in on)
        return with_setup(plan, s, machine=machine, rules=rules, zones_on=zones, sheet_at=at, edge_at=edge)


def _check_edge(corner: Place, edge: Place) -> None:
    """Refuse a second point from which no turn can be read."""
    far, lies = math.dist(corner, edge), lying(corner, edge)
    if far < LEAST_EDGE:
        raise BadInput(
            f"the second point lies {far:.1f} mm from the corner: too near to read a turn; take one at the"
            " far end of the lower edge"
        )
    if abs(math.degrees(lies.turn)) > MOST_TURN:
        raise BadInput(
            f"the sheet would lie turned by {math.degrees(lies.turn):.1f} degrees, more than {MOST_TURN:g}:"
            " the second point is read on the lower edge, right of the corner"
        )
