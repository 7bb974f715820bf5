"""Insets: as a groove on the part itself, as a part of its own over its parent, its corners given back."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon

from tests.support.trial import TrialJob, rect
from venzo.core.cuts.operations import Groove
from venzo.core.edits import SetSteps
from venzo.core.edits.asks import AlterPart
from venzo.core.parts.alter import InsetGroove, alter
from venzo.core.parts.corners import fillets
from venzo.core.parts.made import Inset, Panel, Sources
from venzo.core.snags import BadInput
from venzo.desk import drawings


@given(st.floats(60, 300), st.floats(50, 200), st.floats(0, 20), st.floats(4, 20), st.floats(0.5, 8))
def test_an_inset_groove_runs_at_its_distance_inside_the_outline_at_its_depth(w, h, radius, inset, depth):
    panel = Panel(width=w, height=h, corner="rounded" if radius else "square", size=radius)
    assume(2 * radius < min(w, h) - 1)
    (part,) = panel.make(None).parts
    shape, lost, removed = alter(part.shape, [InsetGroove(distance=inset, depth=depth)])
    outline = part.shape.region.outline
    edge = Polygon(outline.points(0.001))
    if 2 * inset >= min(w, h):
        assert lost and not shape.features
        return
    (groove,) = shape.features
    assert not lost and removed == [0.0] and groove.kind == "groove" and groove.depth == depth
    points = [Point(*p) for p in groove.contour.points(0.05)]
    assert all(edge.contains(p) and abs(edge.exterior.distance(p) - inset) < 0.02 for p in points)
    assert shape.region.outline is outline


def test_an_inset_groove_is_cut_and_dropped_again(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    b.do(SetSteps(setup="main", on="grooves", steps=(Groove(id="g", on="grooves", cutter="up-4"),)))
    ask = AlterPart(part=b.part(), add=InsetGroove(distance=15, depth=3))
    drawings.alter_part(b.store, b.job, b.store.head(b.job), ask)
    assert not b.said("cuts.closed-line"), "what it means was said when it was made"
    (cut,) = [c for c in b.sheet.cuts if c.cut.kind == "groove"]
    # 200 x 120 less 15 all round, sharp corners: 2 x (170 + 90)
    assert cut.cut.levels[-1] == -3 and cut.cut.path.length == pytest.approx(520, abs=0.1)
    with pytest.raises(BadInput, match="nothing is left"):
        drawings.alter_part(
            b.store,
            b.job,
            b.store.head(b.job),
            AlterPart(part=b.part(), add=InsetGroove(distance=61, depth=3)),
        )
    drawings.alter_part(b.store, b.job, b.store.head(b.job), AlterPart(part=b.part(), alterations=()))
    assert not [c for c in b.sheet.cuts if c.cut.kind == "groove"]


def test_corners_that_an_inset_swallowed_are_given_back_in_one_key():
    (panel,) = Panel(width=200, height=100, corner="rounded", size=8).make(None).parts
    sources = Sources(lambda _digest: panel.shape, lambda _name: None)
    recipe = Inset(source="x", distance=-12)
    made = recipe.make(sources)
    (offer,) = made.offers
    assert "sharp now" in made.notes[0] and offer.label == "Give the corners 8 mm back"
    again = recipe.model_copy(update=dict(offer.fields)).make(sources)
    assert not again.offers and not again.notes
    got = {round(f.radius, 3) for f in fillets(again.parts[0].shape.region.outline, False)}
    assert got == {8.0}
    # drawn over what it came from: the parent lies 12 mm around it
    x0, y0, x1, y1 = again.parts[0].parent[0].bbox
    assert (x0, y0) == pytest.approx((-12, -12)) and (x1, y1) == pytest.approx((188, 88))
