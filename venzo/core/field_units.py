"""In which unit is a number of the library kept, and how is it said?"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

UNITS: dict[str, str] = {
    "mm": "at carve_step chatter clearance collets corner_radius cutting_length dead_areas"
    " deflection_limit depth deviation diameter engraving_depth finish floor_allowance height joint_clearance"
    " keep_clear lead_length least_web length lower max_depth nose offset overshoot pitch ramp_length rect"
    " retract ridge rise shank side_allowance skin spread_limit step_down stick_out thickness tip up_cut web"
    " cut_height first kerf nozzle pierce_height scatter width z_travel every tab_every below keep_side"
    " allowance over cusp edge fit least_floor placing size zero",
    "mm in a metre": "square",
    "mm/min": "feed plunge plunge_fixed rapid top_feed y_speed z_speed",
    "mm/s2": "acceleration y_acceleration z_acceleration",
    "mm/s3": "jerk",
    "m": "metres life",
    "m/min": "surface_speed",
    "s": "change_seconds stop_seconds tab_seconds dwell spindle_up lift pierce",
    "s/m": "skin_seconds_m edge_seconds_m",
    "min": "setup_minutes sheet_minutes turn_minutes set_up",
    "min/m2": "face_minutes_m2",
    "min/dm2": "ridge_minutes_dm2",
    "m2": "keep_area",
    "degrees": "angle",
    "rpm": "rpm rpm_min rpm_max",
    "N": "cam_force clamp_force nail_pull nail_shear pin_shear screw_pull screw_shear",
    "N/mm2": "stiffness tab_strength tape_pull tape_shear",
    "N/mm": "peel",
    "J/mm3": "specific_energy",
    "kg/m3": "density",
    "kPa": "pressure",
    "m3/h": "flow",
    "m3/h per m2 and kPa": "leak",
    "lines/s": "blocks",
    "characters": "longest",
    "kg/min": "abrasive",
    "l/min": "water",
    "": "accepted_excess bore_upto columns corner_feed count decimals feed_share flutes fold friction margin"
    " nominal_share number numbers peck power price price_m2 scrap_price rate_per_hour labour_per_hour"
    " remnant_share remnant_handling spoilt_share added_share rows slots step_factor step_over undrawn_depth"
    " version wall_feed jet_level abrasive_price gas_per_hour sizes starts",
}
"""Field names by unit; shares, counts, factors and sums of money are said bare."""
UNIT_OF = {name: unit for unit, names in UNITS.items() for name in names.split()}


def said(name: str, value: Any) -> str:
    """A value of a field in words, its numbers with their unit.

    >>> said("diameter", 6.0), said("collets", [6.0, 8.0]), said("holder", None), said("grained", True)
    ('6 mm', '6, 8 mm', 'nothing', 'yes')
    """
    if value is None or value in ("", [], {}):
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list | tuple):
        flat = all(not isinstance(v, list | tuple | Mapping) for v in value)
        unit = UNIT_OF.get(name, "")
        parts = [_bare(v) for v in value]
        return f"{', '.join(parts)} {unit}".strip() if flat else "; ".join(said(name, v) for v in value)
    if isinstance(value, Mapping):
        return ", ".join(f"{k.replace('_', ' ')} {said(k, v)}" for k, v in value.items())
    unit = UNIT_OF.get(name, "") if isinstance(value, int | float) else ""
    return f"{_bare(value)} {unit}".strip()


def _bare(value: Any) -> str:
    return f"{value:.10g}" if isinstance(value, float) else str(value)


def differences(before: Any, after: Any, name: str = "") -> list[tuple[str, str, str]]:
    """What differs between two documents: the field in words, how it was, how it is.

    Things in a list are told apart by their names; other lists are compared as wholes.

    >>> differences({"feeds": {"wood": {"rpm": 18000.0}}}, {"feeds": {"wood": {"rpm": 16000.0}}})
    [('feeds, wood, rpm', '18000 rpm', '16000 rpm')]
    """
    a, b = _by_name(before), _by_name(after)
    if isinstance(a, Mapping) and isinstance(b, Mapping):
        found = []
        for key in dict.fromkeys((*a, *b)):
            path = f"{name}, {key}" if name else str(key)
            found += differences(a.get(key), b.get(key), path)
        return found
    if before == after:
        return []
    leaf = name.rsplit(", ", 1)[-1]
    # a number kept by family stands under the name of its rule
    field = next((w for w in reversed(name.split(", ")) if w in UNIT_OF), leaf)
    return [(name.replace("_", " "), said(field, before), said(field, after))]


def _by_name(value: Any) -> Any:
    """A list of things with names as a mapping; anything else as it is."""
    if (
        isinstance(value, list | tuple)
        and value
        and all(isinstance(v, Mapping) and "name" in v for v in value)
    ):
        named = {str(v["name"]): v for v in value}
        return named if len(named) == len(value) else value
    return value
