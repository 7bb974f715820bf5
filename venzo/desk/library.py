"""The shop library as people use it: what it keeps, checked on the way in; cutters merged rather than
doubled; what plans have not adopted yet.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, JsonValue, ValidationError

from venzo.core.cuts.operations import RecipeSteps
from venzo.core.edits.fields import with_changes
from venzo.core.feeds.adviser import advise
from venzo.core.feeds.windows import SPEEDS, energy
from venzo.core.holding.strength import HoldRules
from venzo.core.memo import memo
from venzo.core.model import Document, Fields, Id, Point, Value, digest
from venzo.core.plan import Plan, Setup
from venzo.core.rules.house import HouseRules
from venzo.core.rules.recipes import house_recipes
from venzo.core.snags import BadInput, plain_error
from venzo.core.stock.known import KNOWN
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.assembly import NOSE
from venzo.core.tooling.cutter import Cutter, Feeds, Holder, same_cutter
from venzo.core.tooling.head import HeadSetting
from venzo.core.tooling.usual import usual_cutters
from venzo.core.voice import counted
from venzo.desk import runs
from venzo.desk.runs import worn
from venzo.formats.cutters_csv import Offer, offers, read_cutters, write_cutters
from venzo.formats.cutting_chart_csv import read_chart, write_chart
from venzo.store.store import NotFound, Store

KINDS: dict[str, type[Value]] = {
    "machine": Machine,
    "material": Material,
    "cutter": Cutter,
    "holder": Holder,
    "head": HeadSetting,
    "recipe": RecipeSteps,
}
SHOWN = ("machine", "material", "cutter", "holder", "head", "recipe", "stock", "rules")


def cutters(store: Store) -> list[Cutter]:
    """The shop's cutters, with the wear that their runs come to."""
    metres = worn(store)
    return [Cutter.model_validate({**c, "metres": metres.get(c["id"], 0.0)}) for c in store.library("cutter")]


def rules(store: Store) -> HouseRules:
    """The shop's house rules."""
    kept = store.library("rules")
    return (
        HouseRules.model_validate({k: v for k, v in kept[0].items() if k != "id"}) if kept else HouseRules()
    )


def shop_machine(store: Store, pinned: Machine) -> Machine:
    """A machine as the shop has it now; one that is not in the library any more as a plan keeps it."""
    shop = next((m for m in store.library("machine") if m["id"] == pinned.id), None)
    return Machine.model_validate(shop) if shop else pinned


class InForce(Document):
    """Energy (J/mm3) and edge speed (m/min) that count for a material, its own or the family's, with their
    sources.
    """

    energy: float
    energy_source: str
    speed: Point
    speed_source: str


class MaterialEntry(Material):
    """A material with what is in force for it."""

    in_force: InForce | None = None


class CutterEntry(Cutter):
    """A cutter with the right half of its outline for the drawing."""

    outline: Annotated[list[Point], Field(alias="silhouette")] = []


class StockEntry(Stock):
    """A kind of sheet and the material it is of."""

    material: Id


class RulesEntry(HouseRules):
    """The house rules, as the one entry of their shelf."""

    id: Id = "house"


class LibraryDocument(Document):
    """The whole library, and the materials that Venzo knows."""

    machine: list[Machine]
    material: list[MaterialEntry]
    cutter: list[CutterEntry]
    holder: list[Holder]
    head: list[HeadSetting]
    recipe: list[RecipeSteps]
    stock: list[StockEntry]
    rules: list[RulesEntry]
    known: list[Material]


Shelved = Machine | Material | Cutter | Holder | HeadSetting | RecipeSteps | HouseRules


def everything(store: Store) -> LibraryDocument:
    """The whole library."""
    kept = {kind: store.library(kind) for kind in SHOWN}
    materials = [Material.model_validate(m) for m in kept["material"]]
    return LibraryDocument(
        machine=[Machine.model_validate(m) for m in kept["machine"]],
        material=[MaterialEntry.model_construct(**{**dict(m), "in_force": in_force(m)}) for m in materials],
        cutter=[
            CutterEntry.model_construct(**{**dict(c), "outline": c.silhouette()}) for c in cutters(store)
        ],
        holder=[Holder.model_validate(h) for h in kept["holder"]],
        head=[HeadSetting.model_validate(h) for h in kept["head"]],
        recipe=[RecipeSteps.model_validate(x) for x in kept["recipe"]],
        stock=[StockEntry.model_validate(s) for s in kept["stock"]],
        rules=[RulesEntry.model_construct(**{**dict(rules(store)), "id": "house"})],
        known=list(KNOWN),
    )


def in_force(m: Material) -> InForce:
    """Energy and edge speed that count for a material."""
    e, why = energy(m)
    low, high, source = SPEEDS[m.family]
    speed_source = (m.speed_source or "the material's entry") if m.surface_speed else source
    return InForce(
        energy=e, energy_source=why, speed=m.surface_speed or (low, high), speed_source=speed_source
    )


def put(store: Store, kind: str, item: Fields) -> Shelved:
    """Add an entry, or replace the one with its id as a whole.

    A recipe gets the next version. A cutter must keep its number to itself, and must not be another entry's
    double.

    Raises:
        BadInput: the entry is not valid, its tool number is taken, it doubles another cutter, or it is the
        whole of the house rules without naming them all.
    """
    with store.shelf:
        if kind == "rules":
            missing = [k for k in HouseRules.model_fields if k not in item]
            if missing:
                raise BadInput(
                    f"house rules: {len(missing)} of them are not named ({', '.join(missing[:3])} ...);"
                    " change only those that you mean, by PATCH"
                )
            return keep_rules(
                store,
                checked(HouseRules, {k: v for k, v in item.items() if k != "id"}, "house rules"),
                "house rules replaced",
            )
        if kind not in KINDS:
            raise NotFound(f"the library keeps no {kind!r}")
        value = checked(
            KINDS[kind], {k: v for k, v in item.items() if k not in ("silhouette", "in_force")}, kind
        )
        there = any(i["id"] == value.id for i in store.library(kind))  # type: ignore[attr-defined]
        return shelve(store, kind, value, "replaced" if there else "added")


def change(store: Store, kind: str, item: str, fields: Fields) -> Shelved:
    """Change only the fields named of an entry; nested ones are merged.

    Raises:
        NotFound: no such entry.
        BadInput: a field it has not, or what comes of it is not valid.
    """
    with store.shelf:
        words = f"{', '.join(k.replace('_', ' ') for k in fields)} changed"
        if kind == "rules":
            return keep_rules(
                store, with_changes(rules(store), fields, "house rules", ()), f"house rules: {words}"
            )
        if kind not in KINDS:
            raise NotFound(f"the library keeps no {kind!r}")
        found = next((i for i in store.library(kind) if i["id"] == item), None)
        if found is None:
            raise NotFound(f"the library has no {kind} {item!r}")
        old = KINDS[kind].model_validate(found)
        return shelve(store, kind, with_changes(old, fields, found.get("name", item), ("id",)), words)


def keep_rules(store: Store, new: HouseRules, says: str) -> HouseRules:
    """Keep the shop's rules; ``says``: for the library's history."""
    kept = store.library("rules")
    store.put_library(
        "rules", {"id": kept[0]["id"] if kept else "house", **new.model_dump(mode="json")}, says
    )
    return new


def shelve(store: Store, kind: str, value: Any, words: str) -> Shelved:
    """Check an entry against the others and keep it; ``words``: what became of it, for the history.

    Raises:
        BadInput: its tool number is taken, it doubles another cutter, or a recipe needs a cutter that is not
        there.
    """
    if isinstance(value, Cutter):
        for other in cutters(store):
            if other.id == value.id:
                continue
            if other.number == value.number:
                free = next(n for n in range(1, 1000) if n not in {c.number for c in cutters(store)})
                raise BadInput(
                    f"T{value.number} is {other.name}; every cutter has its own number (T{free} is free)"
                )
            if same_cutter(other, value):
                raise BadInput(
                    f"{value.name} has the measures of {other.name} (T{other.number}); one cutter is one"
                    " entry: change that one"
                )
    if isinstance(value, RecipeSteps):
        known = {c.id: c for c in cutters(store)}
        for s in value.steps:
            if s.cutter not in known:
                raise BadInput(f"recipe {value.name}: the library has no cutter {s.cutter!r}")
        old = next((r for r in store.library("recipe") if r["id"] == value.id), None)
        value = value.model_copy(
            update={"version": old["version"] + 1 if old else 1, "rules": rules(store).name}
        )
    if isinstance(value, Cutter):
        return _keep_cutter(store, value, f"{value.name}: {words}")
    store.put_library(kind, value.model_dump(mode="json"), f"{value.name}: {words}")
    return value


def _keep_cutter(store: Store, cutter: Cutter, says: str) -> Cutter:
    """Keep a cutter's entry; wear that it brings is booked, since wear is a sum over records."""
    known = worn(store).get(cutter.id, 0.0)
    store.put_library("cutter", cutter.model_copy(update={"metres": 0.0}).model_dump(mode="json"), says)
    if cutter.metres < known:
        runs.book_wear(store, cutter.id, cutter.metres, True)
    elif cutter.metres > known:
        runs.book_wear(store, cutter.id, round(cutter.metres - known, 3))
    return cutter


def checked(model: type[Value], data: Mapping[str, Any], kind: str) -> Any:
    """A value of a model; what is wrong with it in one line, beginning with what it is.

    Raises:
        BadInput: it is not valid.
    """
    try:
        return model.model_validate(data)
    except ValidationError as e:
        raise BadInput(f"{kind}: {plain_error(e)}") from e


def remove(store: Store, kind: str, item: str) -> None:
    """Take an entry out; plans that were made with it keep their own copy. A cutter that a recipe needs
    stays.
    """
    with store.shelf:
        found = next((i for i in store.library(kind) if i["id"] == item), None) if kind in KINDS else None
        if found is None:
            raise NotFound(f"the library has no {kind} {item!r}")
        if kind == "cutter":
            uses = [
                r["name"] for r in store.library("recipe") if any(s["cutter"] == item for s in r["steps"])
            ]
            if uses:
                raise BadInput(f"recipe {uses[0]!r} cuts with it; change the recipe first")
        if kind in ("machine", "material") and len(store.library(kind)) == 1:
            raise BadInput(f"the library needs at least one {kind}")
        store.drop_library(kind, item, f"{found.get('name', item)} taken out")


def undo(store: Store) -> str:
    """Take back the last change of the library; what it was, in words."""
    return store.undo_library(SHOWN)


class LibraryChange(Document):
    """A change of the library; ``made``: when, UTC; ``undoes``: the change that it took back; ``author``: who
    said to be working.
    """

    number: int
    kind: str
    item: str
    says: str
    made: str
    undone: bool
    undoes: int | None
    author: str


def history(store: Store, before: int | None = None) -> list[LibraryChange]:
    """Changes of the library, newest first, 200 at a time; ``before``: only older than that number."""
    return [LibraryChange(**line) for line in store.library_history(SHOWN, before=before)]


def cutters_csv(store: Store) -> str:
    """All cutters as CSV."""
    return write_cutters(cutters(store))


def import_cutters(
    store: Store, data: bytes, name: str, take: bool = False, leave: frozenset[int] = frozenset()
) -> list[Offer]:
    """What a CSV file of cutters would change; with ``take``, done, but for the lines in ``leave``."""
    read = read_cutters(data, name)
    with store.shelf:
        found = offers([(n, c) for n, c in read if n not in leave], cutters(store))
        if take:
            for o in found:
                if o.action != "same":
                    _keep_cutter(store, o.cutter, f"{o.cutter.name}: from {name}")
    return found


def _head(store: Store, head: str) -> HeadSetting:
    found = next((h for h in store.library("head") if h["id"] == head), None)
    if found is None:
        raise NotFound(f"the library has no head setting {head!r}")
    return HeadSetting.model_validate(found)


def chart_csv(store: Store, head: str) -> str:
    """A head setting's cutting chart as CSV.

    Raises:
        NotFound: no such head setting.
    """
    return write_chart(_head(store, head).chart)


def import_chart(store: Store, head: str, data: bytes, name: str) -> HeadSetting:
    """Put a cutting chart from CSV in place of a head setting's own.

    Raises:
        NotFound: no such head setting.
        BadInput: naming line and column of what cannot be read.
    """
    with store.shelf:
        now = _head(store, head)
        rows = [r.model_dump(mode="json") for r in read_chart(data, name)]
        value = checked(HeadSetting, {**now.model_dump(mode="json"), "chart": rows}, "head setting")
        shelve(store, "head", value, f"cutting chart of {name}, {counted(len(rows), 'row')}")
        return value


def book_wear(store: Store, cutter_id: str, metres: float, sharpened: bool = False) -> Cutter:
    """Add metres to a cutter's wear, or begin anew where it was sharpened or replaced.

    Raises:
        NotFound: no such cutter.
        BadInput: metres below nothing or beyond reason.
    """
    with store.shelf:
        found = next((c for c in cutters(store) if c.id == cutter_id), None)
        if found is None:
            raise NotFound(f"the library has no cutter {cutter_id!r}")
        if not 0 <= metres <= 1e6:
            raise BadInput(f"{found.name}: {metres:g} m; give metres from 0 to 1,000,000")
        runs.book_wear(store, cutter_id, round(metres, 3), sharpened)
        return next(c for c in cutters(store) if c.id == cutter_id)


def with_feeds(store: Store, cutter: Cutter, material: Material) -> Cutter:
    """A cutter with feeds for a material's family: its own, else the middle of its window on the shop's first
    machine.

    Raises:
        BadInput: a jet, which has no spindle, or a cutter that has no window in this material.
    """
    if material.family in cutter.feeds:
        return cutter
    machine = next((Machine.model_validate(m) for m in store.library("machine")), None)
    a = advise(cutter, material, rules(store), machine)
    new = Feeds(
        rpm=round(a.rpm),
        feed=round(a.feed, 1),
        plunge=round(a.plunge, 1),
        source="proposed: the middle of its window",
    )
    return cutter.model_copy(update={"feeds": {**cutter.feeds, material.family: new}})


def propose_feeds(
    store: Store, only: str | None = None, material: str | None = None
) -> list[tuple[Cutter, list[str]]]:
    """Feeds for cutters that have none for a kind of material the shop works (or for one cutter and one
    material); kept, and told by cutter.

    A cutter that has feeds for some material was made for it: nothing is proposed for others, unless it is
    asked for.
    """
    out = []
    with store.shelf:
        known = [Material.model_validate(m) for m in store.library("material")]
        materials = (
            {m.family: m for m in reversed(known)}
            if material is None
            else {m.family: m for m in known if m.id == material}
        )
        for c in cutters(store):
            if (only is None and c.feeds) or (only is not None and c.id != only):
                continue
            new = c
            for m in materials.values():
                try:
                    new = with_feeds(store, new, m)
                except BadInput:
                    if only is not None:
                        raise
            families = [str(f) for f in new.feeds if f not in c.feeds]
            if families:
                store.put_library(
                    "cutter",
                    new.model_dump(mode="json"),
                    f"{c.name}: feeds proposed for {', '.join(families)}",
                )
                out.append((new, families))
    return out


class FirstStart(Value):
    """What a new shop says of itself: its machine, which known materials it cuts, and whether a usual rack of
    cutters is put in.
    """

    machine: Machine
    materials: Annotated[tuple[Id, ...], Field(min_length=1, max_length=len(KNOWN))]
    usual_cutters: bool = True
    unit: Literal["mm", "in"] = "mm"
    """Whether the usual rack has metric or inch sizes."""


def first_start(store: Store, said: FirstStart) -> list[Cutter]:
    """Set a new shop up: nothing is in its library but what it says, at no price and unmeasured. The cutters
    put in, with feeds proposed.

    Raises:
        BadInput: the library has a machine already, or a material is none of the known ones.
    """
    known = {m.id: m for m in KNOWN}
    with store.shelf:
        if store.library("machine"):
            raise BadInput("this shop has a machine already; change or add to it in the shop library")
        if strange := [m for m in said.materials if m not in known]:
            raise BadInput(f"{strange[0]!r} is none of the known materials ({', '.join(known)})")
        chosen = [known[m] for m in dict.fromkeys(said.materials)]
        there = {m["id"] for m in store.library("material")}
        for m in chosen:
            if m.id not in there:
                store.put_library(
                    "material", m.model_dump(mode="json"), f"{m.name}: put in at the first start"
                )
        if said.usual_cutters and not store.library("cutter"):
            for c in usual_cutters((m.family for m in chosen), said.unit):
                store.put_library(
                    "cutter", c.model_dump(mode="json"), f"{c.name}: put in at the first start, nominal"
                )
        put(store, "machine", said.machine.model_dump(mode="json"))
        propose_feeds(store)
        starter_recipes(store)
        return cutters(store)


def starter_recipes(store: Store) -> None:
    """Recipes that the shop's cutters and rules allow, where it has none yet."""
    if not store.library("recipe"):
        for r in house_recipes(cutters(store), rules(store)):
            store.put_library("recipe", r.model_dump(mode="json"))


class News(Document):
    """An entry that the library has newer than a plan's own copy: what differs, and the command that adopts
    it.
    """

    kind: str
    name: str
    changes: list[str]
    command: Fields


def news(store: Store, plan: Plan) -> dict[str, list[News]]:
    """By setup: entries that the library has newer than the plan's own copies, what differs, and the command
    that adopts them. Wear is no news.
    """
    key = digest(
        store.library_version,
        [
            s.model_dump(
                mode="json",
                include={
                    "id",
                    "cutters",
                    "holders",
                    "heads",
                    "material",
                    "machine",
                    "rules",
                    "recipes",
                    "zones_on",
                },
            )
            for s in plan.setups
        ],
    )
    return memo("news", key, lambda: _news(store, plan))


def _news(store: Store, plan: Plan) -> dict[str, list[News]]:
    own = {c.id: c for c in cutters(store)}
    materials = {m["id"]: Material.model_validate(m) for m in store.library("material")}
    machines = {m["id"]: Machine.model_validate(m) for m in store.library("machine")}
    holders = {h["id"]: Holder.model_validate(h) for h in store.library("holder")}
    heads = {h["id"]: HeadSetting.model_validate(h) for h in store.library("head")}
    house = rules(store)
    recipes = {r["id"]: RecipeSteps.model_validate(r) for r in store.library("recipe")}
    out: dict[str, list[News]] = {}
    for s in plan.setups:
        if s.turned_back is not None:  # it has all of it from the first face
            continue
        said: list[News] = []

        def offer(
            kind: str, old: Value, new: Value, command: Fields, skip: tuple[str, ...] = (), said: list = said
        ) -> None:
            a, b = (
                old.model_dump(mode="json", exclude=set(skip)),
                new.model_dump(mode="json", exclude=set(skip)),
            )
            if a != b:
                said.append(
                    News(
                        kind=kind,
                        name=b["name"],
                        changes=[k.replace("_", " ") for k in b if a.get(k) != b[k]],
                        command=command,
                    )
                )

        for c in s.cutters:
            if c.id in own:
                offer("cutter", c, own[c.id], _swap(s, own[c.id]), ("metres",))
        pinned = {h.id: h for h in s.holders}
        for i in dict.fromkeys(c.holder for c in s.cutters if c.holder in holders):
            assert i is not None
            new_holder = holders[i]
            all_of_them: list[JsonValue] = [
                h.model_dump(mode="json") for h in (pinned | {i: new_holder}).values()
            ]
            # one that was never pinned was taken for a usual nut
            old_holder = pinned.get(i, new_holder.model_copy(update={"nose": NOSE}))
            offer(
                "holder",
                old_holder,
                new_holder,
                {"kind": "set-setup", "setup": s.id, "holders": all_of_them},
            )
        for h in s.heads:
            if h.id in heads:
                adopt: Fields = {
                    "kind": "adopt-head",
                    "setup": s.id,
                    "head": heads[h.id].model_dump(mode="json"),
                }
                offer("head setting", h, heads[h.id], adopt)
        if s.material.id in materials:
            new = materials[s.material.id]
            offer(
                "material",
                s.material,
                new,
                {"kind": "set-setup", "setup": s.id, "material": new.model_dump(mode="json")},
            )
        if s.machine.id in machines:
            table = machines[s.machine.id]
            zones: list[JsonValue] = [z for z in s.zones_on if z in {k.id for k in table.zones}]
            measured = ("pump", "spoilboard") if s.machine.pump else ()  # a gauge read for this job stands
            table = table.model_copy(update={k: getattr(s.machine, k) for k in measured})
            offer(
                "machine",
                s.machine,
                table,
                {
                    "kind": "set-setup",
                    "setup": s.id,
                    "machine": table.model_dump(mode="json"),
                    "zones_on": zones,
                },
            )
        # what lies between the pieces is this job's own choice, and so are numbers that a pull scale gave it
        kept = house.model_copy(
            update={
                "between": s.rules.between,
                "hold": s.rules.hold if s.rules.hold != HoldRules() else house.hold,
            }
        )
        offer(
            "house rules",
            s.rules,
            kept,
            {"kind": "set-setup", "setup": s.id, "rules": kept.model_dump(mode="json")},
        )
        for r in s.recipes:
            later = recipes.get(r.id)
            if later and later.version > r.version:
                said.append(
                    News(
                        kind="recipe",
                        name=r.name,
                        changes=[f"version {later.version}, here {r.version}"],
                        command=apply_recipe(store, later, s.id),
                    )
                )
        out[s.id] = said
    return out


def _swap(s: Setup, new: Cutter) -> Fields:
    return {
        "kind": "set-setup",
        "setup": s.id,
        "cutters": [(new if c.id == new.id else c).model_dump(mode="json") for c in s.cutters],
    }


def apply_recipe(
    store: Store, recipe: RecipeSteps, setup: str | None = None, part: str | None = None, contour: str = ""
) -> Fields:
    """The command that puts a recipe's steps on a setup, a part or a contour; its cutters come with it."""
    needed = {s.cutter for s in recipe.steps} | {b for s in recipe.steps if (b := getattr(s, "bowl", None))}
    who = {"part": part, "contour": contour} if part else {"setup": setup}
    return {
        "kind": "set-steps",
        **who,
        "on": recipe.on,
        "recipe": recipe.model_dump(mode="json"),
        "cutters": [c.model_dump(mode="json") for c in cutters(store) if c.id in needed],
    }
