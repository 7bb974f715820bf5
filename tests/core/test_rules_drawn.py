"""A house rule's figure shows what the rule does: its measures are as long as they say."""

import math
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from venzo.core.rules.drawn import SCENES, DrawnFor, drawn
from venzo.core.rules.house import HouseRules

FAMILIES = ("wood", "plastic", "aluminium", "steel")
MEASURED = re.compile(r"^([\d.]+) mm$")
ENLARGED = "deflection_limit"

ons = st.builds(
    DrawnFor,
    st.sampled_from(FAMILIES),
    st.floats(0.5, 60).map(lambda v: round(v, 2)),
    st.floats(0.5, 120).map(lambda v: round(v, 2)),
)
house = st.builds(
    HouseRules,
    step_down=st.sampled_from(["by material", "one diameter", "half diameter"]),
    accepted_excess=st.floats(0, 0.5),
    step_over=st.floats(0.05, 0.95),
    web=st.floats(0, 40),
    between=st.sampled_from(["one kerf", "skeleton"]),
    bore_upto=st.floats(1, 8),
    undrawn_depth=st.none() | st.floats(0.1, 1),
    ramp_length=st.floats(5, 200),
)


@given(house, ons)
def test_every_measure_is_as_long_as_it_says(rules, on):
    for d in drawn(rules, on):
        for m in d.marks:
            assert all(math.isfinite(v) for p in m.points for v in p), d.rule
            found = MEASURED.match(m.text)
            if m.role == "measure" and found and d.rule != ENLARGED:
                long = math.dist(m.points[0], m.points[-1])
                assert long == pytest.approx(float(found[1]), abs=6e-4), (d.rule, m)


@given(house, ons)
def test_what_is_said_has_the_numbers_of_the_plan(rules, on):
    """The planner's own functions, with the numbers that a step would get."""
    said = {d.rule: d.says for d in drawn(rules, on)}
    most = rules.largest_step(on.family, on.diameter)
    n = rules.passes(on.thickness, most)
    assert (f"{n} passes of" in said["step_down"]) == (n > 1)
    assert f"{round(on.thickness / n, 3):g} mm" in said["step_down"]
    rough = rules.largest_step(on.family, on.diameter, "roughing")
    assert said["roughing_double"].endswith(f"{round(rough, 3):g} mm")
    assert f"{rules.plunge_feed(4800.0):g} mm/min" in said["plunge"]


def test_rules_of_thousands_of_passes_are_drawn_all_the_same():
    """A peck or a pass of a thousandth of a millimetre is said, not drawn line by line."""
    least = dict.fromkeys(FAMILIES, 1e-6)
    rules = HouseRules(step_factor=least, peck=least, carve_step=least, step_over=0.021, ramp_length=1e-3)
    for d in drawn(rules, DrawnFor("wood", 6.0, 18.0)):
        assert len(d.marks) < 400, d.rule


def test_a_rule_without_a_number_for_a_material_has_no_figure():
    here = {f: {d.rule for d in drawn(HouseRules(), DrawnFor(f, 6.0, 18.0))} for f in FAMILIES}
    assert here["wood"] == set(SCENES)
    assert here["wood"] - here["steel"] == {"side_allowance", "overshoot"}


def test_climb_and_conventional_go_opposite_ways_along_the_same_edge():
    """Spindle turning right, seen from above: climb has the piece to the right of its way (common
    practice)."""
    both = [
        {d.rule: d for d in drawn(HouseRules(rough_direction={"wood": way}), DrawnFor("wood", 6.0, 18.0))}
        for way in ("climb", "conventional")
    ]
    for scenes, ahead, side in zip(both, (1, -1), ("right", "left"), strict=True):
        arrow = next(m for m in reversed(scenes["rough_direction"].marks) if m.role == "path")
        assert math.copysign(1, arrow.points[1][0] - arrow.points[0][0]) == ahead
        assert f"to the {side} of the way" in scenes["rough_direction"].says
        # the tooth at the piece runs against the way in climb: the arc of the turn is clockwise
        turn = next(m for m in scenes["rough_direction"].marks if m.role == "path")
        (x0, y0), (x1, y1) = turn.points[:2]
        middle = 3.0
        assert x0 * (y1 - middle) - x1 * (y0 - middle) < 0


def test_every_field_of_the_shelf_s_figures_is_a_house_rule():
    assert set(SCENES) <= set(HouseRules.model_fields)
