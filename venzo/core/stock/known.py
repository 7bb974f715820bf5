"""Materials that shops meet everywhere: density, hazard and what is known of cutting them, each number with
its source.
"""

from __future__ import annotations

from venzo.core.stock.material import ChipWindow, Material

_WOOD = (
    "Wood Handbook FPL-GTR-282, table of strength properties, specific gravity at 12 % moisture x 1120 kg/m3,"
    " from memory"
)
_SHEET = "supplier data sheets, from memory"
_DUST = "Wood dust harms the lungs: extraction on, mask where it escapes."


def _species(key: str, name: str, gravity: float, caution: str = _DUST) -> Material:
    return Material(
        id=key,
        name=name,
        family="wood",
        sort=f"{'soft' if gravity < 0.42 else 'hard'}wood",
        density=round(gravity * 1120, 1),
        density_source=_WOOD,
        grained=True,
        caution=caution,
    )


KNOWN: tuple[Material, ...] = (
    _species("red-oak", "Northern red oak", 0.63),
    _species(
        "white-oak",
        "White oak",
        0.68,
        f"{_DUST} Oak dust is a known cause of nasal cancer: keep it out of the air.",
    ),
    _species("black-cherry", "Black cherry", 0.50),
    _species(
        "black-walnut", "Black walnut", 0.55, f"{_DUST} Walnut dust irritates skin and is poison to horses."
    ),
    _species("sugar-maple", "Sugar maple", 0.63),
    _species("yellow-poplar", "Yellow-poplar", 0.42),
    _species("white-pine", "Eastern white pine", 0.35),
    Material(
        id="plywood",
        name="Birch plywood",
        family="wood",
        sort="panel",
        density=680,
        density_source=_SHEET,
        grained=True,
        caution="Fine birch dust irritates: extraction on; watch for smouldering chips in the bag.",
    ),
    Material(
        id="mdf",
        name="MDF",
        family="wood",
        sort="panel",
        density=750,
        density_source=_SHEET,
        caution="Very fine dust with resin: extraction and mask, always.",
        windows=(
            ChipWindow(rows=((3, 0.06, 0.18), (6, 0.15, 0.45), (12, 0.40, 0.80)), source="common practice"),
        ),
    ),
    Material(
        id="acrylic-cast",
        name="Acrylic, cast",
        family="plastic",
        sort="PMMA",
        density=1190,
        density_source=f"{_SHEET}; Machinery's Handbook",
        caution="Leave the film on while cutting; keep chips out of the cut.",
    ),
    Material(
        id="polycarbonate",
        name="Polycarbonate",
        family="plastic",
        sort="PC",
        density=1200,
        density_source=_SHEET,
        caution="Thin sheet: straight flutes, so that it is neither lifted nor pushed.",
    ),
    Material(
        id="hdpe",
        name="HDPE",
        family="plastic",
        sort="HDPE",
        density=950,
        density_source=_SHEET,
        caution="Long strings wind round the cutter: stop the spindle before clearing them.",
        windows=(
            ChipWindow(
                rows=((3, 0.05, 0.20), (6, 0.12, 0.40), (12, 0.20, 0.60)),
                source="common practice: soft, takes thick chips",
            ),
        ),
    ),
    Material(
        id="pvc",
        name="PVC, rigid",
        family="plastic",
        sort="PVC",
        density=1400,
        density_source=_SHEET,
        caution="Never let it burn: it gives off hydrogen chloride.",
    ),
    Material(
        id="aluminium-6061",
        name="Aluminium 6061",
        family="aluminium",
        sort="6061",
        density=2700,
        density_source=f"{_SHEET}; Machinery's Handbook",
        specific_energy=0.8,
        energy_source="Machinery's Handbook unit power, 0.7 to 0.9 J/mm3, from memory",
        caution="Mist or lubricant, clear the chips; aluminium dust can burn: no sparks in the extraction.",
    ),
    Material(
        id="steel-mild",
        name="Carbon steel, sheet",
        family="steel",
        sort="mild steel",
        density=7850,
        density_source=f"{_SHEET}; Machinery's Handbook",
        caution="For the kerf table; fumes and sparks: extraction, shields, no wood dust near.",
    ),
)


def find(name: str) -> Material | None:
    """A known material by id, name or sort, however it is spelt.

    >>> find("Red Oak").id, find("6061").name, find("cheese")
    ('red-oak', 'Aluminium 6061', None)
    """
    plain = "".join(ch for ch in name.lower() if ch.isalnum())
    exact = [
        m
        for m in KNOWN
        if plain in ("".join(ch for ch in t.lower() if ch.isalnum()) for t in (m.id, m.name, m.sort) if t)
    ]
    part = [
        m
        for m in KNOWN
        if len(plain) > 2
        and any(plain in "".join(ch for ch in t.lower() if ch.isalnum()) for t in (m.id, m.name))
    ]
    return next(iter(exact or part), None)
