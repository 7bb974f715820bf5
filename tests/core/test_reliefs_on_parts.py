"""Reliefs set on parts: from a model to cuts, proof and what is refused."""

import io
import re
import zipfile

import numpy as np
import pytest
import trimesh
from PIL import Image

from tests.support.breadth import spread
from tests.support.relief_sweep import dense, heights_on, spared_to
from tests.support.trial import TrialJob, disc, rect
from venzo.core.cuts.cut import ReliefCut
from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z
from venzo.core.edits import AcceptNest, ChangeSteps, SetContour, read_command
from venzo.core.edits.asks import AlterPart, ChangeModel
from venzo.core.plan import AcceptedNest, Piece
from venzo.core.relief.height_grid import grid_mesh
from venzo.core.relief.kept_surface import packed, unpacked
from venzo.core.relief.mesh import Mesh
from venzo.core.snags import BadInput
from venzo.desk import archives, drawings, jobs, models, releases
from venzo.store.store import Store

EGG = trimesh.creation.icosphere(4, 30).apply_scale((1.5, 1, 0.3)).export(file_type="stl")


def number(job):
    return job.store.get(job.job).number


def carved(store, *spots, model=EGG, name="egg.stl", part=None, **more):
    """A job with a board on which a relief is set, its steps added by the remedy."""
    job = TrialJob(store, (part or rect(160, 120), list(spots) or [(50, 50)]), **more)
    models.set_model(store, job.job, number(job), job.part(), name, model)
    add = next(s for s in job.derived.snags if s.rule == "cuts.no-operation")
    job.do(read_command(add.remedies[0].command))
    return job


def proofs(job):
    return [s for p in jobs.prove_setup(job.store, job.plan, job.derived) for s in p.snags]


def stops(job):
    return [s for s in job.derived.snags if s.severity == "stop"]


def reliefs(job):
    return [c for c in job.sheet.cuts if isinstance(c.cut, ReliefCut)]


def lies(job, rotation=0.0, mirrored=False):
    """The piece turned, its middle in the middle of the sheet; where its frame lies then."""
    w = np.radians(rotation)
    turn = np.array([[np.cos(w), -np.sin(w)], [np.sin(w), np.cos(w)]])
    x, y = np.array([300.0, 200.0]) - turn @ np.array([-80.0 if mirrored else 80.0, 60.0])
    piece = Piece(
        part=job.part(), copy_no=0, sheet="own", sheet_copy=0, x=x, y=y, rotation=rotation, mirrored=mirrored
    )
    job.do(AcceptNest(setup="main", nest=AcceptedNest(pieces=(piece,), inputs="by hand")))
    return x, y


def test_a_model_becomes_a_feature_with_rough_and_finish_steps_and_passes_the_proof(store):
    job = carved(store)
    shape = store.shapes[job.plan.parts[0].shape]
    (f,) = shape.features
    assert (f.kind, f.name) == ("relief", "relief 1")
    # 90 x 60 x 18 in a board of 160 x 120 x 17.6: its own size in plan, half the board deep
    assert f.contour.bbox == pytest.approx((35, 30, 125, 90), abs=0.2) and f.depth == pytest.approx(8.8)
    assert [c.cut.kind for c in job.sheet.cuts] == ["relief rough", "relief finish", "profile"]
    assert not stops(job) and [s.rule for s in proofs(job)] == ["proof.clear"]
    text = "\n".join(p.text for p in jobs.programs(job.plan, job.derived))
    assert "T" in text and min(float(z) for z in re.findall(r"Z(-[0-9.]+)", text)) < -8.7


LYING = [(30.0, True), (0.0, False), (90.0, False), (30.0, False), (0.0, True), (90.0, True)]


@pytest.mark.parametrize(("rotation", "mirrored"), spread(LYING, 3))
def test_however_the_piece_lies_the_surface_comes_out(store, rotation, mirrored):
    """A model without any symmetry; swept here, held against its own triangles laid by this test."""
    model = trimesh.convex.convex_hull(
        trimesh.PointCloud([[0, 0, 0], [60, 0, 0], [60, 40, 0], [0, 40, 0], [12, 10, 9], [50, 8, 3.0]])
    )
    job = carved(store, model=model.export(file_type="stl"))
    x, y = lies(job, rotation, mirrored)
    assert [s.rule for s in proofs(job)] == ["proof.clear"]
    flip = np.diag([-1.0 if mirrored else 1.0, 1.0, 1.0])
    w = np.radians(rotation)
    turn = np.array([[np.cos(w), -np.sin(w), 0], [np.sin(w), np.cos(w), 0], [0, 0, 1]])
    scale = 8.8 / 9.0  # lowered to half the board
    own = (model.triangles + (50, 40, 0)) * (1, 1, scale) - (0, 0, 8.8)
    laid = own @ flip.T @ turn.T + (x, y, 0)
    rng = np.random.default_rng(2)
    at = laid.mean(axis=1)[rng.integers(0, len(laid), 300)][:, :2] + rng.uniform(-4, 4, (300, 2))
    top = heights_on(laid, at)
    at, top = at[np.isfinite(top)], top[np.isfinite(top)]
    got = np.zeros(len(at))
    for c, kind in zip(reliefs(job), ("flat", "ball"), strict=True):
        way = dense(c.moves[:, [X, Y, Z]], c.moves[:, KIND] != RAPID, 0.05)
        got = np.minimum(got, spared_to(way, at, 0.02, kind, 6.0))
    assert (got >= top - 2e-3).all()
    inner = np.isfinite(got) & (np.median(got - top) < 0.1)
    assert inner.any() and np.percentile(got - top, 60) < 0.12


def test_a_relief_over_the_whole_part_and_a_disc(store):
    job = carved(store, part=rect(90, 60))
    job_size = job.plan.parts[0].alterations[0].size
    assert job_size == pytest.approx((81, 54))  # a tenth is left
    ask = ChangeModel(
        part=job.part(), number=0, fields={"size": [90.0, 60.0], "at": [0.0, 0.0], "height": 8.0}
    )
    models.change_model(store, job.job, number(job), ask)
    assert not stops(job) and [s.rule for s in proofs(job)] == ["proof.clear"]
    assert "relief.edge" in {s.rule for s in job.derived.snags}
    round_one = carved(store, part=disc(50))
    assert not stops(round_one) and [s.rule for s in proofs(round_one)] == ["proof.clear"]


def test_a_planted_dip_into_the_surface_is_found(store):
    """A program that goes 0.1 mm deeper at one place of the finishing pass."""
    job = carved(store)
    d = job.derived
    file = next(p for p in jobs.programs(job.plan, d) if "relief finish" in p.text)
    lines = file.text.splitlines()
    k = next(k for k in range(1400, len(lines)) if re.search(r"Z-[1-7]\.", lines[k]))
    lines[k] = re.sub(r"Z(-[0-9.]+)", lambda m: f"Z{float(m[1]) - 0.15:.3f}", lines[k])
    planted = file.__class__(**{**vars(file), "text": "\n".join(lines) + "\n"})
    subject, own = jobs._read_back(store, job.plan, d, d.sheets[0], [planted])
    from venzo.core.proof.check import prove

    rules = {s.rule for s in prove(subject, own).snags if s.severity == "stop"}
    assert "proof.gouge" in rules
    subject, own = jobs._read_back(store, job.plan, d, d.sheets[0], [file])
    assert not [s for s in prove(subject, own).snags if s.severity == "stop"]


def test_steps_are_changed_and_what_makes_no_relief_is_said(store):
    job = carved(store)
    before = reliefs(job)[1].cut.cut_length
    change = {"kind": "change-steps", "setup": "main", "on": "reliefs"}
    job.do(
        ChangeSteps.model_validate(
            {**change, "change": [{"id": "relief finish", "fields": {"step_over": 0.2, "pattern": "spiral"}}]}
        )
    )
    assert reliefs(job)[1].cut.cut_length < 0.7 * before and [s.rule for s in proofs(job)] == ["proof.clear"]
    job.do(ChangeSteps.model_validate({**change, "drop": ["relief rough"]}))
    assert "relief.step" not in {s.rule for s in job.derived.snags}  # 8.8 mm is under 2 D of a 6 mm ball
    drill = next(c.id for c in job.setup.cutters if c.kind == "drill")
    with_drill = {"id": "relief finish", "fields": {"cutter": drill}}
    job.do(ChangeSteps.model_validate({**change, "change": [with_drill]}))
    assert {s.rule for s in stops(job)} & {"cuts.kind", "relief.refused"}
    job.do(SetContour(part=job.part(), contour="relief 1", omit=True))
    assert not stops(job) and not reliefs(job)


def test_a_picture_is_set_as_large_as_fits(store):
    x, y = np.meshgrid(np.linspace(-1, 1, 90), np.linspace(-1, 1, 60))
    out = io.BytesIO()
    Image.fromarray(((1 - np.clip(np.hypot(x, y), 0, 1)) * 65535).astype(np.uint16)).save(out, "PNG")
    job = carved(store, model=out.getvalue(), name="bowl.png")
    (a,) = job.plan.parts[0].alterations
    assert a.name == "bowl" and a.height == 5.0 and a.size[0] == pytest.approx(144, abs=0.1)
    assert a.size[0] / a.size[1] == pytest.approx(89 / 59, rel=1e-3)
    assert not stops(job) and [s.rule for s in proofs(job)] == ["proof.clear"]


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"at": [100.0, 30.0]}, "beyond the part"),
        ({"size": [400.0, 60.0]}, "beyond the part"),
        ({"size": [0.001, 60.0]}, "greater than or equal to 1"),
        ({"height": -1}, "greater than or equal to 0.05"),
        ({"surface": "0" * 32}, "stays as it is"),
        ({"colour": 3}, "colour"),
    ],
)
def test_what_would_not_fit_is_refused_and_nothing_is_lost(store, fields, says):
    job = carved(store)
    before = number(job)
    with pytest.raises(BadInput, match=says):
        models.change_model(store, job.job, before, ChangeModel(part=job.part(), number=0, fields=fields))
    with pytest.raises(BadInput, match="no relief"):
        models.change_model(
            store, job.job, before, ChangeModel(part=job.part(), number=3, fields={"sits": 1.0})
        )
    with pytest.raises(BadInput, match="no part"):
        models.set_model(store, job.job, before, "gone", "egg.stl", EGG)
    with pytest.raises(BadInput, match="flat"):
        models.set_model(store, job.job, before, job.part(), "f.stl", FLAT)
    assert number(job) == before


FLAT = trimesh.Trimesh([[0, 0, 1], [9, 0, 1], [0, 9, 1]], [[0, 1, 2]]).export(file_type="stl")


def test_deeper_than_the_board_is_a_stop_and_a_kerf_table_carves_nothing(store):
    job = carved(store)
    ask = ChangeModel(part=job.part(), number=0, fields={"height": 15.0, "sits": 3.0})
    models.change_model(store, job.job, number(job), ask)
    assert "relief.deeper" in {s.rule for s in stops(job)}
    steel = TrialJob(
        store, (rect(60, 60), [(20, 20)]), machine="slat-table", material="mild-steel", thick=2.0
    )
    with pytest.raises(BadInput, match="head carves no relief"):
        models.set_model(store, steel.job, number(steel), steel.part(), "egg.stl", EGG)


def test_reliefs_are_dropped_undone_kept_by_the_collector_and_survive_an_archive(store, tmp_path):
    job = carved(store)
    kept = job.plan.parts[0].alterations[0].surface
    assert kept in job.plan.blobs
    store.collect()
    assert store.shapes.surfaces[kept].closed is not None and not stops(job)
    drawings.alter_part(store, job.job, number(job), AlterPart(part=job.part(), alterations=()))
    assert not store.shapes[job.plan.parts[0].shape].features and not reliefs(job)
    store.undo(job.job)
    assert len(reliefs(job)) == 2


def test_a_job_with_a_relief_goes_out_on_paper_and_into_an_archive_and_back(store, tmp_path):
    job = carved(store, machine="small-bench")
    revision = store.get(job.job)
    names = [n for n, _b in releases.release(store, job.plan, revision.number)[0]]
    assert any(n.endswith(".nc") for n in names) and any(n.endswith(".pdf") for n in names)
    data = archives.export(store, revision)
    inside = zipfile.ZipFile(io.BytesIO(data)).namelist()
    assert any(n.startswith("models/") for n in inside)
    other = Store(tmp_path / "other")
    back = archives.bring_in(other, data, "a.zip")
    assert back.same, back.differs
    plan = other.get(back.job).plan
    assert plan.surfaces == job.plan.surfaces
    again = jobs.derive(other, plan)["main"]
    assert [c.cut.key for c in again.sheets[0].cuts] == [c.cut.key for c in job.sheet.cuts]
    # a model that was altered on the way is refused, and nothing is stored
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as altered:
        for n in inside:
            body = zipfile.ZipFile(io.BytesIO(data)).read(n)
            altered.writestr(n, body[:-9] + b"x" * 9 if n.startswith("models/") else body)
    third = Store(tmp_path / "third")
    with pytest.raises(BadInput, match=r"model|length|bytes"):
        archives.bring_in(third, out.getvalue(), "a.zip")
    assert not third.jobs()


def test_equal_models_are_equal_bytes_and_damaged_ones_are_told():
    mesh = trimesh.creation.icosphere(2, 9)
    a, b = (packed(Mesh.of("m", mesh.vertices + (k, 0, 0), mesh.faces)) for k in (0, 64))
    assert a == b
    for wrong in (b"", b"PK\x03\x04", a[:-40], a[:200] + b"\0" * 50 + a[250:]):
        with pytest.raises(BadInput, match=r"damaged|number|face|corner"):
            unpacked(wrong, "egg")


def test_a_hole_and_a_pocket_through_a_relief_are_no_fault(store):
    board = rect(160, 120, holes=[(80, 60, 6)], pocket=(105, 55, 9))
    job = carved(store, part=board)
    assert not stops(job)
    kinds = [c.cut.kind for c in job.sheet.cuts]
    assert "pocket" in kinds and kinds.count("relief finish") == 1
    assert [s.rule for s in proofs(job)] == ["proof.clear"]


def test_two_reliefs_that_lie_over_one_another_are_found(store):
    job = carved(store)
    models.set_model(store, job.job, number(job), job.part(), "egg.stl", EGG)
    apart = ChangeModel(part=job.part(), number=1, fields={"size": [60.0, 40.0], "at": [98.0, 78.0]})
    models.change_model(store, job.job, number(job), apart)
    assert len({c.cut.contour for c in reliefs(job)}) == 2
    over = ChangeModel(part=job.part(), number=1, fields={"at": [60.0, 40.0]})
    models.change_model(store, job.job, number(job), over)
    assert "proof.gouge" in {s.rule for s in proofs(job)}


def grooved():
    """Ridges 4 mm apart with grooves 2 mm deep between them on one half, a plain slope on the other."""
    x, _y = np.meshgrid(np.linspace(0, 100, 401), np.linspace(0, 60, 121))
    z = np.where(x < 50, 2.0 * np.abs(np.sin(np.pi * x / 4.0)), 2.0 - 0.02 * (x - 50))
    return stl_of(z, 100, 60)


def stl_of(z, w, h):
    mesh = grid_mesh("m", z)
    ny, nx = z.shape
    return trimesh.Trimesh(mesh.points * (w / (nx - 1), h / (ny - 1), 1), mesh.faces).export(file_type="stl")


def test_what_finishing_takes_is_measured_though_a_roughing_step_stands_there(store):
    """A roughing cutter too wide for the margin does nothing: finishing would go all the way down at once."""
    post = trimesh.creation.box((60, 40, 15)).export(file_type="stl")
    job = carved(store, model=post, name="post.stl", thick=40.0)
    tight = {"margin": 3.5, "height": 15.0, "at": [50.0, 40.0]}
    models.change_model(store, job.job, number(job), ChangeModel(part=job.part(), number=0, fields=tight))
    said = {s.rule: s for s in job.derived.snags}
    assert "relief.nothing" in said and said["relief.step"].severity == "stop"
    assert "15.0 mm at once" in said["relief.step"].message
    room = ChangeModel(part=job.part(), number=0, fields={"margin": 6.35})
    models.change_model(store, job.job, number(job), room)
    assert not {"relief.step", "relief.bite"} & {s.rule for s in job.derived.snags}


def test_what_is_wrong_with_a_model_is_said_in_the_job(store):
    tiny = trimesh.creation.icosphere(3, 1.5).apply_scale((1, 1, 0.5))
    job = TrialJob(store, (rect(160, 120), [(50, 50)]))
    models.set_model(store, job.job, number(job), job.part(), "inches.stl", tiny.export(file_type="stl"))
    assert "relief 1" in {f.name for f in store.shapes[job.plan.parts[0].shape].features}
    add = next(s for s in job.derived.snags if s.rule == "cuts.no-operation")
    steps = next(r.command for r in add.remedies if r.label.startswith("Add reliefs"))
    job.do(read_command(steps))
    assert "relief.unit" in {s.rule for s in job.derived.snags}
    metres = tiny.copy().apply_scale(0.01).export(file_type="stl")
    with pytest.raises(BadInput, match="drawn in metres"):
        models.set_model(store, job.job, number(job), job.part(), "metres.stl", metres)


def test_a_smaller_tip_goes_only_where_the_larger_left_something(store):
    job = carved(store, model=grooved(), name="ridges.stl")
    fine = job.setup.cutters[0].model_copy(
        update={"id": "ball-2", "number": 29, "name": "2 mm ball", "kind": "ball", "diameter": 2.0}
    )
    rest = {"kind": "relief finish", "id": "rest", "on": "reliefs", "cutter": "ball-2", "over": 0.2}
    change = {"kind": "change-steps", "setup": "main", "on": "reliefs", "add": [rest]}
    job.do(read_command({**change, "cutters": [fine.model_dump(mode="json")]}))
    whole, only = reliefs(job)  # roughing with its allowance rests on the ridges: said, and nothing done
    assert only.cut.operation == "rest" and [s.rule for s in proofs(job)] == ["proof.clear"]
    at = only.moves[only.moves[:, KIND] != RAPID][:, [X, Y]]
    x0 = 50 + 30  # the relief's left on the sheet: piece at 50, relief 100 wide on 160
    assert at[:, 0].max() < x0 + 50 + 2.5, "the plain half is left alone"
    full = ChangeSteps.model_validate(
        {**change, "add": [], "change": [{"id": "rest", "fields": {"over": None}}]}
    )
    job.do(full)
    assert only.cut.cut_length < 0.7 * reliefs(job)[1].cut.cut_length
    coarse = ChangeSteps.model_validate(
        {**change, "add": [], "change": [{"id": "rest", "fields": {"over": 5.0}}]}
    )
    job.do(coarse)
    assert "relief.nothing" in {s.rule for s in job.derived.snags} and len(reliefs(job)) == 1
    assert whole.cut.cut_length > 0
