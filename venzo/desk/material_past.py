"""What the runs took of each material, month by month: sums over the records that count."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

from venzo.core.model import Document
from venzo.core.runs.records import SheetRun
from venzo.core.runs.sums import standing
from venzo.store.store import Store


class MonthOfMaterial(Document):
    """Whole sheets of a material that were cut in a month, and what became of them: areas (mm2) and masses
    (kg) by kind; ``cost``: None where a sheet had no price; ``unmeasured``: sheets of records without
    areas.
    """

    month: str
    material: str
    name: str
    sheets: int
    unmeasured: int
    sound: int
    spoilt: int
    area_mm2: dict[str, float]
    mass_kg: dict[str, float]
    utilisation: float | None
    cost: float | None


@dataclass
class _Sums:
    sheets: int = 0
    unmeasured: int = 0
    sound: int = 0
    spoilt: int = 0
    areas: Counter[str] = field(default_factory=Counter)
    masses: Counter[str] = field(default_factory=Counter)
    cost: float | None = 0.0

    def add(self, run: SheetRun) -> None:
        self.sheets += 1
        self.sound += sum(run.sound.values())
        self.spoilt += len(run.spoilt)
        if not run.area_mm2:
            self.unmeasured += 1
            self.cost = None
            return
        self.areas.update(run.area_mm2)  # type: ignore[arg-type]
        self.masses.update(run.mass_kg)  # type: ignore[arg-type]
        self.cost = None if self.cost is None or run.material_cost is None else self.cost + run.material_cost


def material_past(store: Store) -> list[MonthOfMaterial]:
    """The newest month first; in it the material of which most was cut first."""
    kept = store.runs()
    made = {k.number: k.made for k in kept}
    names = {m["id"]: str(m["name"]) for m in store.library("material")}
    sums: dict[tuple[str, str], _Sums] = {}
    for number, run in standing([(k.number, k.record) for k in kept]):
        if isinstance(run, SheetRun) and run.complete:
            at = (f"{made[number]:%Y-%m}", run.material)
            sums.setdefault(at, _Sums()).add(run)
    out = [
        MonthOfMaterial(
            month=month,
            material=material,
            name=names.get(material, material),
            sheets=s.sheets,
            unmeasured=s.unmeasured,
            sound=s.sound,
            spoilt=s.spoilt,
            area_mm2=dict(s.areas),
            mass_kg=dict(s.masses),
            utilisation=s.areas["parts"] / s.areas["sheet"] if s.areas["sheet"] else None,
            cost=s.cost,
        )
        for (month, material), s in sums.items()
    ]
    out.sort(key=lambda m: (-m.area_mm2.get("sheet", 0.0), m.name))
    return sorted(out, key=lambda m: m.month, reverse=True)
