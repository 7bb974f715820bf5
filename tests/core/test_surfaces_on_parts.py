"""Reliefs made here on parts: their forms asked for and changed, what they lie on, what is said of them."""

import io

import numpy as np
import pytest
from PIL import Image

from tests.support.breadth import spread
from tests.support.trial import TrialJob, rect
from venzo.core.cuts.cut import ReliefCut
from venzo.core.edits import ChangeStock, read_command
from venzo.core.edits.asks import AlterPart, ChangeForms, ChangeModel, MakeSurface
from venzo.core.relief.kept_surface import mesh_of
from venzo.core.snags import BadInput
from venzo.desk import archives, drawings, jobs, models
from venzo.store.store import Store


def number(job):
    return job.store.get(job.job).number


def made(store, kind="dome", on="outline", part=None, steps=True, **more):
    job = TrialJob(store, (part or rect(120, 80), [(50, 50)]), **more)
    models.make_surface(store, job.job, number(job), MakeSurface(part=job.part(), form=kind, on=on))
    add = next((s for s in job.derived.snags if s.rule == "cuts.no-operation"), None)
    if steps and add is not None:
        job.do(read_command(add.remedies[0].command))
    return job


def relief(job):
    return next(f for f in job.store.shapes[job.plan.parts[0].shape].features if f.kind == "relief")


def change(job, **fields):
    return models.change_model(
        job.store, job.job, number(job), ChangeModel(part=job.part(), number=0, fields=fields)
    )


def forms(job, **ask):
    return models.change_forms(job.store, job.job, number(job), ChangeForms(part=job.part(), number=0, **ask))


FORMS = ["dome", "dish", "plateau", "ramp", "bead", "rounded edge", "swept section"]


@pytest.mark.parametrize("kind", spread(FORMS, 3))
def test_every_form_is_made_at_once_roughed_finished_and_proven(store, kind):
    job = made(store, kind, part=rect(70, 50))
    f = relief(job)
    assert f.contour.bbox == pytest.approx((5, 5, 65, 45), abs=0.01)
    assert 0.5 < f.depth < 17.6
    assert sum(isinstance(c.cut, ReliefCut) for c in job.sheet.cuts) in (1, 2)
    assert not [s for s in job.derived.snags if s.severity == "stop"]
    said = [s.rule for p in jobs.prove_setup(store, job.plan, job.derived) for s in p.snags]
    assert said == ["proof.clear"]


def test_measures_are_changed_one_by_one_and_undone(store):
    job = made(store, steps=False)
    assert relief(job).depth == pytest.approx(4.4, abs=0.01)
    change(job, forms={"0": {"height": 6.0}})
    assert relief(job).depth == pytest.approx(6.0, abs=0.01)
    forms(job, add="plateau")
    assert relief(job).depth == pytest.approx(10.4, abs=0.01)
    change(job, forms={"1": {"together": "higher"}}, sits=1.0)
    assert relief(job).depth == pytest.approx(7.0, abs=0.01)
    forms(job, move=(1, 0))
    assert [g.kind for g in job.plan.parts[0].alterations[0].forms] == ["plateau", "dome"]
    forms(job, drop=0)
    forms(job, add="bead")
    before = relief(job).surface
    store.undo(job.job)
    assert relief(job).surface != before
    assert [g.kind for g in job.plan.parts[0].alterations[0].forms] == ["dome"]


def test_lines_of_the_drawing_become_forms_and_are_cut_no_more_by_themselves(store):
    job = made(store, "plateau", part=rect(120, 80, pocket=(60, 40, 15)), steps=False)
    pocket = next(f.name for f in store.shapes[job.plan.parts[0].shape].features if f.kind == "pocket")
    change(job, forms={"0": {"on": {"=": {"kind": "drawn", "names": [pocket]}}, "draft": 0}})
    assert [f.kind for f in store.shapes[job.plan.parts[0].shape].features] == ["relief"]
    mesh = mesh_of(relief(job), {})
    assert mesh.box[1][2] == pytest.approx(4.4)
    top = mesh.points[mesh.points[:, 2] > 4.3][:, :2]
    span = np.ptp(top, axis=0)
    assert (span > 20).all()
    drawings.alter_part(store, job.job, number(job), AlterPart(part=job.part(), drop=0))
    assert [f.kind for f in store.shapes[job.plan.parts[0].shape].features] == ["pocket"]


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"forms": {"0": {"height": 0}}}, "greater than or equal"),
        ({"forms": {"4": {"height": 3}}}, "no '4'"),
        ({"forms": {"0": {"on": {"=": {"kind": "drawn", "names": ["pocket 9"]}}}}}, "no line 'pocket 9'"),
        ({"field": {"inset": 45.0}}, "nothing is left"),
        ({"field": {"inset": -5.0}}, "beyond the part"),
        ({"forms": {"0": {"colour": 1}}}, "colour"),
        ({"forms": {"=": []}}, "at least 1"),
    ],
)
def test_what_cannot_be_made_is_refused_and_nothing_is_lost(store, fields, says):
    job = made(store, steps=False)
    before = number(job)
    with pytest.raises(BadInput, match=says):
        change(job, **fields)
    with pytest.raises(BadInput, match="needs one form"):
        forms(job, drop=0)
    with pytest.raises(BadInput, match="no form 3"):
        forms(job, move=(2, 0))
    with pytest.raises(BadInput, match="no alteration 4"):
        drawings.alter_part(store, job.job, before, AlterPart(part=job.part(), drop=3))
    with pytest.raises(BadInput, match="no line 'gone'"):
        models.make_surface(store, job.job, before, MakeSurface(part=job.part(), on="gone"))
    assert number(job) == before


def test_a_texture_comes_with_its_picture_into_an_archive_and_back(store, tmp_path):
    job = made(store, machine="small-bench")
    out = io.BytesIO()
    Image.fromarray(np.tile(np.array([0, 255], np.uint8), (8, 4))).save(out, "PNG")
    models.add_texture(store, job.job, number(job), job.part(), 0, "weave.png", out.getvalue())
    assert len(job.plan.surfaces) == 1 and relief(job).depth == pytest.approx(5.4, abs=0.2)
    store.collect()
    data = archives.export(store, store.get(job.job))
    other = Store(tmp_path / "other")
    back = archives.bring_in(other, data, "a.zip")
    assert back.same, back.differs
    with pytest.raises(BadInput, match="a texture is a picture"):
        models.add_texture(store, job.job, number(job), job.part(), 0, "egg.stl", b"solid")


def test_flat_spots_stairs_and_overlaps_are_said_and_the_remedy_mends(store):
    job = made(store)
    stock = job.plan.setups[0].stock[0].id
    job.do(ChangeStock(setup="main", stock=stock, fields={"readings": [17.4, 17.9]}))
    said = next(s for s in job.derived.snags if s.rule == "relief.flat-spots")
    assert "0.50 mm" in said.message
    models.change_model(store, job.job, number(job), ChangeModel.model_validate(said.remedies[0].command))
    assert job.plan.parts[0].alterations[0].sits == 1.0
    assert "relief.flat-spots" not in {s.rule for s in job.derived.snags}
    x = np.linspace(0, 255, 90).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(np.tile(x, (60, 1))).save(out, "PNG")
    models.set_model(store, job.job, number(job), job.part(), "ramp.png", out.getvalue())
    rules = {s.rule for s in job.derived.snags}
    assert "relief.overlap" in rules and "relief.stairs" not in rules  # 5 mm: 0.0196 a grey
    models.change_model(
        store, job.job, number(job), ChangeModel(part=job.part(), number=1, fields={"height": 8.0})
    )
    assert "relief.stairs" in {s.rule for s in job.derived.snags}
