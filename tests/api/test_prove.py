"""``venzo prove`` (CONTRACT): programs against a sheet with numbers that can be reckoned by hand, and against
a stored job's plan.
"""

import json
import math

import pytest
from typer.testing import CliRunner

from venzo.cli import app
from venzo.core.snags import BadInput
from venzo.desk import jobs
from venzo.desk.jobs import programs

HEAD = "%\n(by hand)\nG21 G90 G17\nS18000 M3\nG0 X20 Y20\nG0 Z5\n"
SLOT = "G1 Z-5 F600\nG1 X80 F3000\nG0 Z5\n"
END = "M5\nM30\n%\n"


def run(*args):
    r = CliRunner().invoke(app, ["prove", *map(str, args), "--json"])
    if isinstance(r.exception, BadInput):
        return 2, str(r.exception)
    return r.exit_code, json.loads(r.stdout)


@pytest.fixture
def nc(tmp_path):
    def write(text, name="p.nc"):
        (tmp_path / name).write_text(text)
        return tmp_path / name

    return write


def rules(document, severity="stop"):
    return {s["rule"] for s in document["snags"] if s["severity"] == severity}


def test_lengths_extents_and_time_of_a_slot(nc):
    code, d = run(nc(HEAD + SLOT + END), "--sheet", "100x60x18", "--tool", "flat:6")
    assert code == 0 and d["snags"] == [] and d["tools"] == [0]
    assert d["removed_mm3"] == pytest.approx((60 * 6 + math.pi * 9) * 5, rel=0.005)
    assert d["extents_mm"] == {"min": [20.0, 20.0, -5.0], "max": [80.0, 20.0, 5.0]}
    assert d["cut_length_mm"] == pytest.approx(5 + 60) and d["rapid_length_mm"] == pytest.approx(10), (
        "5 of the 10 mm down lie over the sheet"
    )
    v, a = (
        50.0,
        800.0,
        # [EX] trapezoids from rest to rest: 10 mm at 10 mm/s, 60 mm at 50 mm/s, 10 mm at 333 mm/s;
        # square corners
        # are passed at sqrt(a r)
    )
    loose = 10 / 10 + 60 / v + v / a + 2 * math.sqrt(10 / a)
    assert d["time_s"] == pytest.approx(loose, rel=0.06)


def test_arcs_bulge_and_helices_are_cut_as_far_as_they_lie_below(nc):
    text = HEAD + "G1 Z0 F600\nG3 X20 Y20 I20 J0 Z-4 F1200\nG3 X20 Y20 I20 J0\nG0 Z5\n" + END
    code, d = run(nc(text), "--sheet", "100x60x18", "--tool", "1=flat:6")
    round_ = 2 * math.pi * 20
    assert code == 0 and d["cut_length_mm"] == pytest.approx(math.hypot(round_, 4) + round_, abs=0.05)
    assert d["extents_mm"]["max"][:2] == pytest.approx([60, 40], abs=1e-3) and d["extents_mm"]["min"][
        :2
    ] == pytest.approx([20, 0], abs=1e-3)


def test_zero_on_the_bed_origin_inch_and_incremental(nc):
    bed = HEAD.replace("Z5", "Z23") + "G1 Z13 F600\nG1 X80 F3000\nG0 Z23\n" + END
    assert run(nc(bed), "--sheet", "100x60x18", "--tool", "flat:6", "--zero", "bed")[1][
        "cut_length_mm"
    ] == pytest.approx(65)
    centre = HEAD.replace("X20 Y20", "X-30 Y0") + "G1 Z-5 F600\nG1 X30 F3000\nG0 Z5\n" + END
    code, d = run(nc(centre), "--sheet", "100x60x18", "--tool", "flat:6", "--origin", "50,30")
    assert code == 0 and d["cut_length_mm"] == pytest.approx(65)
    inch = "G20 G90\nS18000 M3\nG0 X1 Y1\nG0 Z0.2\nG1 Z-0.2 F24\nG91\nG1 X2 F120\nG90\nG0 Z0.2\n" + END
    code, d = run(nc(inch), "--sheet", "100x60x18", "--tool", "flat:6")
    assert (
        code == 0
        and d["extents_mm"]["max"][0] == pytest.approx(76.2)
        and d["cut_length_mm"] == pytest.approx(25.4 * 2.2)
    )


def test_several_programs_run_in_order_on_one_stock(nc):
    """A fast move through a slot that the first file has cut is no crash; without that file it is."""
    slot, through = nc(HEAD + SLOT + END, "a.nc"), nc(HEAD + "G0 Z-4\nG0 X80\nG0 Z5\n" + END, "b.nc")
    args = ("--sheet", "100x60x18", "--tool", "flat:6")
    code, d = run(slot, through, *args)
    assert (code, rules(d)) == (0, set())
    code, d = run(through, *args)
    assert code == 1 and rules(d) == {"proof.rapid"} and d["snags"][0]["where"] == {"file": "b.nc", "line": 7}
    assert rules(run(slot, nc(through.read_text().replace("X80", "X90"), "c.nc"), *args)[1]) == {
        "proof.rapid"
    }, "10 mm further it meets what stands"


@pytest.mark.parametrize(
    ("change", "rule"),
    [
        (lambda t: t.replace("Z-5", "Z-32"), "proof.deep"),
        (lambda t: t.replace("M3", "M4"), "proof.sense"),
        (lambda t: t.replace("S18000 M3", "S18000"), "proof.spindle"),
        (lambda t: t.replace(" F600", "").replace(" F3000", ""), "proof.feed"),
        (lambda t: t.replace("G1 X80", "G2 X80 Y20 I4 J0"), "proof.arc"),
        (lambda t: t.replace("G1 X80", "G81 X80"), "proof.unread"),
        (lambda t: t.replace("G1 X80", "/G1 X80"), "proof.skip"),
        (lambda t: t.replace("G1 X80", "M0\nG1 X80"), "proof.pause"),
        (lambda t: t.replace("G1 X80", "G0 X80"), "proof.rapid"),
        (lambda t: t.replace("S18000", "T4 M6\nS18000"), "proof.tool"),
    ],
)
def test_what_stops(nc, change, rule):
    code, d = run(nc(change(HEAD + SLOT + END)), "--sheet", "100x60x18", "--tool", "1=flat:6")
    assert code == 1 and rule in rules(d)
    assert all("line" in s["where"] for s in d["snags"] if s["rule"] == rule)


def test_looks_that_are_no_stops(nc):
    text = HEAD.replace("S18000 ", "") + SLOT.replace("Z-5", "Z-22")
    code, d = run(nc(text), "--sheet", "100x60x18", "--tool", "flat:6")
    assert code == 0 and rules(d, "look") == {"proof.deep", "proof.speed", "proof.end"}


def test_lifts_to_the_machines_top_and_lengths_of_cutters(nc):
    text = (
        HEAD.replace("G0 X20", "T1 M6\nG43 H1\nG0 X20")
        + SLOT
        + "G53 G0 Z0\nG0 X20 Y40\nG0 Z5\n"
        + SLOT
        + "G91 G28 Z0\nG90\n"
        + END
    )
    text = text.replace("S18000 M3\nT1 M6", "T1 M6\nS18000 M3")
    code, d = run(nc(text), "--sheet", "100x60x18", "--tool", "1=flat:6")
    assert (code, d["snags"]) == (0, []) and d["extents_mm"]["max"][2] == 5.0, (
        "what lies over the machine's own zero is not known"
    )
    assert rules(run(nc(text.replace("H1", "H2")), "--sheet", "100x60x18", "--tool", "1=flat:6")[1]) == {
        "proof.unread"
    }
    assert rules(
        run(nc(HEAD + SLOT + "G28\n" + END), "--sheet", "100x60x18", "--tool", "flat:6")[1], "look"
    ) == {"proof.away"}


def test_envelope_edge_and_nut(nc):
    program = nc(HEAD + SLOT.replace("Z-5", "Z-12") + END)
    args = (program, "--sheet", "100x60x18", "--tool")
    assert run(*args, "flat:6", "--envelope", "200x100x60", "--sheet-at", "50,10")[0] == 0
    assert rules(run(*args, "flat:6", "--envelope", "200x100x60", "--sheet-at", "130,10")[1]) == {
        "proof.table"
    }
    assert rules(run(*args, "flat:6", "--envelope", "200x100x15")[1]) == {"proof.table"}
    assert rules(run(*args, "flat:6:edge=10")[1]) == {"proof.edge"}
    assert (
        rules(run(*args, "flat:6:out=10:nut=30")[1]) == {"proof.nut"}
        and run(*args, "flat:6:out=14:nut=30")[0] == 0
    )


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (("--sheet", "100x60", "--tool", "flat:6"), "--sheet 100x60"),
        (("--sheet", "100x60x18", "--tool", "spoon:6"), "not a kind"),
        (("--sheet", "100x60x18", "--tool", "bull:12"), "bull:12:2"),
        (("--sheet", "100x60x18"), "--tool"),
        (("--tool", "flat:6"), "--sheet"),
        (("--sheet", "100x60x18", "--tool", "flat:6", "--zero", "side"), "top or bed"),
        (("--sheet", "100x60x18", "--tool", "flat:6", "--accel", "0"), "--accel"),
        (("--sheet", "100x60x18", "--tool", "flat:6", "--jerk", "-1"), "--jerk"),
        (("--sheet", "100x60x18", "--tool", "1=flat:6", "--tool", "1=flat:8"), "twice"),
        (("--sheet", "100x60x18", "--tool", "flat:6", "--origin", "5"), "--origin 5"),
    ],
)
def test_bad_input_is_one_clear_line(nc, args, words):
    code, said = run(nc(HEAD + SLOT + END), *args)
    assert code == 2 and words in said and "\n" not in said


def test_no_program_at_all(nc, tmp_path):
    for text in ("Dear colleague,\nhere is the drawing.\n", "", "\x00\x01\x02"):
        code, said = run(nc(text), "--sheet", "100x60x18", "--tool", "flat:6")
        assert code == 2 and "no program" in said
    assert run(tmp_path / "gone.nc", "--sheet", "1x1x1", "--tool", "flat:6")[0] == 2


def test_a_file_of_a_job_is_held_against_its_plan(demo, nc):
    """The file it resembles most is named; whatever it does otherwise is a stop with its first line; another
    machine's way of writing the same is none.
    """
    folder = demo.folder if hasattr(demo, "folder") else demo.path
    job = "hinge-and-latch-plates"
    plan = demo.get(job).plan
    d = jobs.derive(demo, plan, hold=False)["main"]
    files = programs(plan, d)
    demo.close()
    for f in files:
        code, got = run(nc(f.text), "--job", job, "--data", folder)
        assert code == 0 and got["file"] == f.name and rules(got) == set()
    big = max(files, key=lambda f: len(f.text))
    lines = big.text.splitlines()
    at = next(k for k, s in enumerate(lines) if k > len(lines) // 2 and "Z-" in s)
    deeper = "\n".join([*lines[:at], lines[at].split("Z-")[0] + "Z-9.9", *lines[at + 1 :]])
    code, got = run(nc(deeper), "--job", job, "--data", folder)
    assert (
        code == 1
        and got["file"] == big.name
        and min(abs(s["where"].get("line", 0) - at - 1) for s in got["snags"] if s["severity"] == "stop") <= 1
    )
    spelt = "\n".join(
        f"N{k} {s.replace('G1 ', 'G01 ').lower()}" if not s.startswith(("(", "%")) else s
        for k, s in enumerate(lines)
    )
    assert run(nc(spelt), "--job", job, "--data", folder)[0] == 0
    code, said = run(nc(big.text), "--job", job, "--data", folder, "--on", "nothing:3")
    assert code == 2 and "its sheets are" in said
    assert run(nc(big.text), "--job", job, "--data", folder, "--on", f"{big.sheet}:0")[0] == 0
    assert "there is no job" in run(nc(big.text), "--job", "nobody", "--data", folder)[1]


def test_what_is_removed_is_of_the_sheet_once_and_unknown_where_a_cutter_is(nc):
    """Run twice, off the sheet and into the spoilboard: only the sheet counts, and once."""
    deep = nc(HEAD + "G1 Z-20 F600\nG1 X-40 F3000\nG1 X80\nG0 Z5\n" + END, "deep.nc")
    again = nc(HEAD + SLOT + END, "again.nc")
    sheet = ("--sheet", "100x60x18")
    _code, d = run(deep, again, *sheet, "--tool", "flat:6")
    assert d["removed_mm3"] == pytest.approx((80 * 6 + math.pi * 9 / 2) * 18, rel=0.005)
    other = nc(HEAD.replace("S18000", "T7 M6\nS18000") + SLOT + END, "other.nc")
    _code, d = run(other, *sheet, "--tool", "1=flat:6", "--tool", "2=ball:6")
    assert d["removed_mm3"] is None and "proof.tool" in rules(d)
