"""Versions of a part that a person keeps, with what was learned, and takes again."""

import pytest

from tests.core.test_surfaces_on_parts import change, made, number, relief
from tests.support.trial import rect
from venzo.core.edits.parts import KeepVersion, NotePart, TakeVersion
from venzo.core.snags import BadInput
from venzo.desk import drawings, models


def test_a_version_is_kept_with_its_note_and_taken_again(store):
    job = made(store)
    part = job.part()
    deep = relief(job).surface
    job.do(NotePart(part=part, note="the rim tore out across the grain"))
    job.do(KeepVersion(part=part))
    assert job.plan.parts[0].note == "" and len(job.plan.parts[0].versions) == 1
    change(job, forms={"0": {"height": 7.5}})
    assert relief(job).surface != deep
    seen = drawings.judgement(store, job.plan, part)
    assert seen.versions[0].note.startswith("the rim") and seen.versions[0].drawn == seen.drawn
    job.do(TakeVersion(part=part, version=0))
    assert relief(job).surface == deep and job.plan.parts[0].note.startswith("the rim")
    assert job.plan.parts[0].alterations[0].forms[0].height != 7.5
    store.undo(job.job)
    assert relief(job).surface != deep


def test_a_version_as_drawn_is_taken_again(store):
    job = made(store)
    part = job.part()
    first = job.plan.parts[0]
    drawings.alter_part(store, job.job, number(job), drawings.AlterPart(part=part, drop=0))
    job.do(KeepVersion(part=part))
    models.make_surface(store, job.job, number(job), models.MakeSurface(part=part, form="dish"))
    job.do(TakeVersion(part=part, version=0))
    p = job.plan.parts[0]
    assert p.alterations == () and p.shape == (first.drawn or first.shape)
    assert not store.shapes[p.shape].features


def test_models_of_kept_versions_stay_and_what_cannot_be_taken_is_said(store):
    from tests.core.test_reliefs_on_parts import EGG

    job = made(store, steps=False)
    part = job.part()
    models.set_model(store, job.job, number(job), part, "egg.stl", EGG)
    model = next(iter(job.plan.surfaces))
    job.do(KeepVersion(part=part))
    drawings.alter_part(store, job.job, number(job), drawings.AlterPart(part=part, drop=1))
    assert model in job.plan.surfaces
    store.collect()
    job.do(TakeVersion(part=part, version=0))
    assert store.shapes.surfaces[model] is not None
    with pytest.raises(BadInput, match="no version 2"):
        job.do(TakeVersion(part=part, version=1))
    drawings.take_drawing(store, job.job, number(job), "main", "part0.dxf", rect(130, 80))
    with pytest.raises(BadInput, match="another drawing"):
        job.do(TakeVersion(part=job.part(), version=0))
