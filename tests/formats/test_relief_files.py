"""Models and pictures of heights in: four kinds of file, units, what is broken; the command's contract."""

import io
import json
import re
import struct
import subprocess
import sys
import zipfile

import numpy as np
import pytest
import trimesh
from PIL import Image

from tests.support.command import venzo
from venzo.core.relief.block import Block, Sitting, set_in, sized
from venzo.core.relief.height_grid import grid_mesh
from venzo.core.relief.mesh import MOST_TRIANGLES, Mesh
from venzo.core.snags import BadInput
from venzo.formats.height_picture import MOST_PLACES, read_heights, stairs
from venzo.formats.meshes import read_mesh

UPRIGHT = trimesh.Trimesh([[0, 0, 0], [0, 1, 0], [0, 0, 1]], [[0, 1, 2]])
EGG = trimesh.creation.icosphere(3, 10).apply_scale((1.2, 1, 0.5))


def picture(values, mode=None, kind="PNG"):
    out = io.BytesIO()
    Image.fromarray(values, mode).save(out, kind) if mode else Image.fromarray(values).save(out, kind)
    return out.getvalue()


@pytest.mark.parametrize("kind", ["stl", "obj", "ply", "3mf"])
def test_one_model_from_four_kinds_of_file(kind):
    data = EGG.export(file_type=kind)
    mesh = read_mesh(data.encode() if isinstance(data, str) else data, f"egg.{kind.upper()}")
    assert len(mesh.faces) == len(EGG.faces) and mesh.closed
    assert np.allclose(mesh.box, EGG.bounds, atol=1e-5)
    assert mesh.outline.area == pytest.approx(np.pi * 12 * 10, rel=0.01)


def test_ascii_files_and_faces_of_four_corners():
    text = trimesh.exchange.stl.export_stl_ascii(EGG).encode()
    assert len(read_mesh(text, "egg.stl").faces) == len(EGG.faces)
    square = b"v 0 0 0\nv 10 0 0\nv 10 10 0\nv 0 10 2\nf 1 2 3 4\nmtllib away.mtl\nusemtl wood\n"
    assert len(read_mesh(square, "square.obj").faces) == 2


def test_a_3mf_file_says_its_unit():
    written = zipfile.ZipFile(io.BytesIO(trimesh.creation.box((1, 2, 3)).export(file_type="3mf")))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as inches:
        for name in written.namelist():
            inches.writestr(name, written.read(name).replace(b'unit="millimeter"', b'unit="inch"'))
    mesh = read_mesh(out.getvalue(), "box.3mf")
    assert np.ptp(mesh.points, axis=0) == pytest.approx([25.4, 50.8, 76.2], abs=1e-3)


def broken_stl():
    data = bytearray(EGG.export(file_type="stl"))
    struct.pack_into("<f", data, 84 + 12, float("nan"))
    return bytes(data)


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.stl", b"", "empty"),
        ("a.stl", b"   \n", "empty"),
        ("a.stl", b"solid x\nendsolid x\n", "a.stl"),
        ("a.stl", EGG.export(file_type="stl")[:200], "a.stl"),
        ("a.stl", broken_stl(), "no number"),
        ("a.ply", b"ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\n"
                  b"property float z\nend_header\n0 0 0\n", "a.ply"),
        ("a.obj", b"v 0 0 0\nv 1 0 0\n", "a.obj"),
        ("a.obj", b"\x00\xff\xfe nonsense", "a.obj"),
        ("a.3mf", b"PK\x03\x04 not a zip", "a.3mf"),
        ("a.step", b"ISO-10303-21;", ".stl"),
        ("a.stl", UPRIGHT.export(file_type="stl"), "no area"),
    ],
)  # fmt: skip
def test_what_is_no_model_is_refused_in_a_line(name, data, says):
    with pytest.raises(BadInput, match=says) as e:
        read_mesh(data, name)
    assert "\n" not in str(e.value) and name in str(e.value)


def test_too_many_faces_and_faces_of_corners_that_are_not_there():
    with pytest.raises(BadInput, match="coarser"):
        Mesh.of("big", np.zeros((3, 3)), np.zeros((MOST_TRIANGLES + 1, 3), dtype=np.int64))
    with pytest.raises(BadInput, match="not there"):
        Mesh.of("m", np.eye(3), np.array([[0, 1, 7]]))


def test_faults_of_a_mesh_are_said_with_their_size_and_place():
    box = trimesh.creation.box((40, 30, 6)).subdivide().subdivide()
    top = [k for k, c in enumerate(box.triangles_center) if c[2] > 2.9 and abs(c[0]) < 6 and abs(c[1]) < 5]
    holed = Mesh.of("holed", box.vertices, np.delete(box.faces, top, axis=0))
    said = {s.rule: s for s in holed.faults()}
    assert re.search(r"\d holes? in its surface", said["relief.holes"].message) and not holed.closed
    assert abs(said["relief.holes"].where["x"]) < 6
    faces = box.faces.copy()
    faces[3] = faces[3][::-1]
    assert "relief.flipped" in {s.rule for s in Mesh.of("flipped", box.vertices, faces).faults()}
    fin = np.vstack([box.faces, [box.faces[0][0], box.faces[0][1], len(box.vertices)]])
    with_fin = Mesh.of("fin", np.vstack([box.vertices, [0, 0, 20]]), fin)
    assert "relief.tangled" in {s.rule for s in with_fin.faults()}
    assert not Mesh.of("box", box.vertices, box.faces).faults()
    # a surface without an underside has a rim, and no hole
    assert not grid_mesh("g", np.zeros((9, 9))).placed((5, 5, 1), (0, 0, 0)).faults()


def test_a_model_in_another_unit_is_looked_at_unless_a_size_is_given():
    metres = Mesh.of("m", EGG.vertices / 1000, EGG.faces)
    rules = {s.rule for s in set_in(metres, Block(width=50, height=50, thickness=20), Sitting()).snags}
    assert "relief.unit" in rules
    sized_one = set_in(metres, Block(width=50, height=50, thickness=20), Sitting(size=(24.0,)))
    assert "relief.unit" not in {s.rule for s in sized_one.snags}
    assert np.ptp(sized_one.mesh.points, axis=0) == pytest.approx([24, 20, 10], rel=1e-6)


def test_inside_out_and_undercut_models_come_out_as_seen_from_above():
    mesh = Mesh.of("egg", EGG.vertices, EGG.faces)
    inside_out = Mesh.of("egg", EGG.vertices, EGG.faces[:, ::-1])
    block = Block(width=40, height=40, thickness=20)
    a, b = set_in(mesh, block, Sitting()), set_in(inside_out, block, Sitting())
    at = np.random.default_rng(1).uniform(8, 32, (200, 2))
    assert np.allclose(a.ground.heights(at), b.ground.heights(at), atol=1e-6)
    assert "relief.undercut" in {s.rule for s in a.snags}
    foot = Mesh.of("box", *(lambda m: (m.vertices, m.faces))(trimesh.creation.box((20, 20, 5))))
    assert not set_in(foot, block, Sitting()).snags


def test_where_it_sits_and_what_does_not_fit():
    mesh = Mesh.of("egg", EGG.vertices + (300, -20, 7), EGG.faces)
    r = set_in(mesh, Block(width=60, height=50, thickness=20), Sitting(depth=1.5, margin=3))
    low, high = r.mesh.box
    assert (low + high)[:2] / 2 == pytest.approx([30, 25]) and high[2] == pytest.approx(-1.5)
    assert r.boundary.bounds == pytest.approx((15, 12, 45, 38), abs=0.05)
    deep = set_in(mesh, Block(width=60, height=50, thickness=8), Sitting())
    assert {s.rule for s in deep.snags if s.severity == "stop"} == {"relief.deeper"} and deep.floor == -8
    wide = set_in(mesh, Block(width=20, height=50, thickness=20), Sitting())
    assert {s.rule for s in wide.snags if s.severity == "stop"} == {"relief.larger"}
    uneven = set_in(mesh, Block(width=60, height=50, thickness=20, spread=0.6), Sitting())
    assert next(s for s in uneven.snags if s.rule == "relief.flat-spots").message.endswith(
        "1.1 mm below the top"
    )
    with pytest.raises(BadInput, match="one, two or three"):
        sized(mesh, (0.0,))
    flat = Mesh.of("flat", np.array([[0, 0, 1], [5, 0, 1], [0, 5, 1.0]]), np.array([[0, 1, 2]]))
    with pytest.raises(BadInput, match="flat"):
        sized(flat, (5, 5, 5))


def test_pictures_of_heights_of_every_depth():
    ramp = np.tile(np.linspace(0, 1, 64), (32, 1))
    ramp[0] = 1.0  # the top row: highest in Y
    eight, sixteen = (ramp * 255).round().astype(np.uint8), (ramp * 65535).round().astype(np.uint16)
    for data, name, steps in (
        (picture(eight), "a.png", 255),
        (picture(sixteen), "a.png", 65535),
        (picture(sixteen, kind="TIFF"), "a.tif", 65535),
        (picture(ramp.astype(np.float32), kind="TIFF"), "a.tiff", 65535),
        (picture(np.dstack([eight] * 3)), "a.PNG", 255),
    ):
        got = read_heights(data, name)
        assert got.steps == steps and got.heights.shape == (32, 64)
        assert np.abs(got.heights[::-1] - ramp).max() < 0.01
        assert (got.heights[-1] == got.heights[-1].max()).all(), "the picture's top is at the high Y"
    assert (
        np.abs(read_heights(picture(eight), "a.png", black_high=True).heights[::-1] + ramp - 1).max() < 0.01
    )


def test_what_can_be_seen_through_is_low():
    rgba = np.zeros((8, 8, 4), dtype=np.uint8)
    rgba[2:6, 2:6] = (255, 255, 255, 255)
    rgba[:2] = (255, 255, 255, 0)
    heights = read_heights(picture(rgba), "logo.png").heights
    assert heights.max() == 1 and heights[-1].max() == 0


def test_stairs_are_told_and_smoothed():
    coarse = (np.tile(np.linspace(0, 1, 400), (10, 1)) * 255).astype(np.uint8)
    rough = read_heights(picture(coarse), "a.png")
    assert [s.rule for s in stairs(rough, 12.0, 0)] == ["relief.stairs"] and not stairs(rough, 4.0, 0)
    smooth = read_heights(picture(coarse), "a.png", smooth=3)
    assert np.abs(np.diff(smooth.heights[5], 2)).max() < 0.3 * np.abs(np.diff(rough.heights[5], 2)).max()
    assert not stairs(smooth, 12.0, 3)


@pytest.mark.parametrize(
    ("data", "name", "says"),
    [
        (b"", "a.png", "read"),
        (b"\x89PNG\r\n\x1a\n broken", "a.png", "read"),
        (picture(np.full((9, 9), 77, np.uint8)), "a.png", "one grey"),
        (picture(np.zeros((1, 40), np.uint8)), "a.png", "2 x 2"),
        (b"GIF89a", "a.gif", ".png"),
        (picture(np.eye(40, dtype=np.uint8) * 255)[:-30], "a.png", "a.png"),
    ],
)
def test_what_is_no_picture_is_refused_in_a_line(data, name, says):
    with pytest.raises(BadInput, match=says) as e:
        read_heights(data, name)
    assert "\n" not in str(e.value)


def test_a_large_picture_is_averaged():
    big = np.tile((np.arange(1600) % 256).astype(np.uint8), (1600, 1))
    got = read_heights(picture(big), "a.png")
    assert got.heights.size <= MOST_PLACES and got.snags[0].rule == "relief.averaged"


# -- the command


def run(*words):
    done = venzo("relief", *words, "--json")
    assert "Traceback" not in done.stderr
    return done


@pytest.fixture(scope="module")
def egg(tmp_path_factory):
    path = tmp_path_factory.mktemp("relief") / "my egg.stl"
    path.write_bytes(EGG.export(file_type="stl"))
    return path


def test_the_command_s_contract(egg, tmp_path):
    out = tmp_path / "new" / "folder"
    done = run(
        egg, "--block", "40x36x20", "--depth", 1, "--boundary", 5, "--rough", "flat:6", "--allowance", 0.8,
        "--level", 2, "--finish", "taper:0.8:5:6", "--stepover", 15, "--pattern", "spiral", "--feed", 3000,
        "--plunge", 800, "--rpm", 16000, "--inch", "-o", out,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert set(told) == {"files", "lowest_z_mm", "cusp_mm", "left_mm", "snags"}
    names = [f["name"] for f in told["files"]]
    assert names == sorted(names) and names == sorted(p.name for p in out.iterdir())
    assert "rough" in names[0] and "finish" in names[1] and all(n.endswith(".nc") for n in names)
    assert all(set(f) == {"name", "tool", "time_s", "cut_length_mm"} for f in told["files"])
    assert told["lowest_z_mm"] == pytest.approx(-11.0, abs=0.02)  # the egg is 10 mm high
    assert told["cusp_mm"] == pytest.approx(0.8 - (0.64 - 0.12**2) ** 0.5, abs=1e-4)
    assert set(told["left_mm"]) == {"p50", "p99", "max"}
    text = [(out / n).read_text() for n in names]
    assert "G20" in text[0] and "T1 M6" in text[0] and "T2 M6" in text[1] and "S16000 M3" in text[1]
    # what the prover says of the same files agrees
    proof = subprocess.run(
        [sys.executable, "-m", "venzo.cli", "prove", *[str(out / n) for n in names], "--sheet", "40x36x20",
         "--tool", "1=flat:6", "--tool", "2=taper:0.8:5:6", "--json"],
        capture_output=True, text=True,
    )  # fmt: skip
    proven = json.loads(proof.stdout)
    assert not [s for s in proven["snags"] if s["severity"] == "stop"], proven["snags"]
    assert proven["time_s"] == pytest.approx(sum(f["time_s"] for f in told["files"]), rel=1e-3)
    assert proven["cut_length_mm"] == pytest.approx(sum(f["cut_length_mm"] for f in told["files"]), rel=1e-3)
    assert proven["extents_mm"]["min"][2] == pytest.approx(told["lowest_z_mm"], abs=0.002)


def test_a_stop_still_writes_and_bad_input_writes_nothing(egg, tmp_path):
    words = ["--rough", "flat:6", "--boundary", 5, "--finish", "ball:4", "--stepover", 20]
    deep = run(egg, "--block", "40x36x8", *words, "-o", tmp_path / "deep")
    assert deep.returncode == 1 and len(list((tmp_path / "deep").iterdir())) == 2
    told = json.loads(deep.stdout)
    assert told["lowest_z_mm"] >= -8 and "relief.deeper" in {s["rule"] for s in told["snags"]}
    for more, says in (
        (["--finish", "drill:6"], "--finish"),
        (["--finish", "ball:-2"], "--finish"),
        (["--finish", "taper:3:5:4"], "wider"),
        (["--finish", "ball:4", "--stepover", 0], "step_over"),
        (["--finish", "ball:4", "--size", "axb"], "--size"),
        (["--finish", "ball:4", "--size", "1x2x3x4"], "--size"),
        (["--finish", "ball:4", "--pattern", "zigzag"], "--pattern"),
        (["--finish", "ball:4", "--depth", -1], "depth"),
        (["--finish", "ball:4", "--rough", "vee:6:60"], "--rough"),
        (["--finish", "ball:4", "--smooth", 2], "pictures"),
    ):
        words = ["--block", "40x36x20", "--stepover", 20, "-o", tmp_path / "none", *more]
        done = run(egg, *words)
        assert done.returncode == 2 and done.stdout == "" and says in done.stderr, (more, done.stderr)
        assert len(done.stderr.strip().splitlines()) == 1
    assert not (tmp_path / "none").exists()


def test_a_picture_needs_its_sizes_and_has_them_exactly(tmp_path):
    file = tmp_path / "h.png"
    x, y = np.meshgrid(np.linspace(-1, 1, 80), np.linspace(-1, 1, 60))
    file.write_bytes(picture(((1 - np.clip(np.hypot(x, y), 0, 1)) * 65535).astype(np.uint16)))
    common = ["--block", "90x70x12", "--finish", "ball:3", "--stepover", 20, "-o", tmp_path / "o"]
    assert run(file, *common).returncode == 2
    done = run(file, "--size", "80x60x4", "--rough", "flat:6", *common)
    assert done.returncode == 0, done.stderr + done.stdout
    assert json.loads(done.stdout)["lowest_z_mm"] == pytest.approx(-4.0, abs=1e-3)
