"""One voice for lengths: a job in inches has no millimetre on its papers and in its programs, one in
millimetres no inch.
"""

import io
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.support.trial import TrialJob, rect
from venzo.core.cuts.moves import KIND, RAPID, lengths
from venzo.core.voice import in_unit, thickness
from venzo.desk import releases
from venzo.desk.jobs import programs

MM = re.compile(r"\d ?mm\b|\bmillimet|m/min", re.I)
INCH = re.compile(r"\d ?in\b|\binch|/(?:2|4|8|16|32|64)\b", re.I)


def inch_job(store, inch):
    b = TrialJob(
        store,
        (rect(203.2, 101.6, [(50.8, 50.8, 12.7)]), [(50.8, 50.8), (304.8, 50.8)]),
        sheet=(609.6, 406.4),
        thick=18.256,
    ).outline({})
    unit = "inch" if inch else "metric"
    b.do(
        {
            "kind": "change-setup",
            "setup": "main",
            "machine": {"name": "Router", "dialect": {"inch": inch, "name": f"RS-274, {unit}"}},
        }
    )
    b.do({"kind": "change-setup", "setup": "main", "rules": {"file_names": "{size}_{job}_s{sheet}_{order}"}})
    named = [{**c.model_dump(mode="json"), "name": f"T{c.number} {c.kind}"} for c in b.setup.cutters]
    b.do({"kind": "set-setup", "setup": "main", "name": "ply", "cutters": named})
    b.do({"kind": "change-stock", "setup": "main", "stock": "own", "fields": {"readings": [18.256, 18.3]}})
    return b


@pytest.mark.parametrize(("inch", "never", "has"), [(True, MM, "in"), (False, INCH, "mm")])
def test_papers_and_programs_speak_one_unit(store, inch, never, has):
    b = inch_job(store, inch)
    files, _manifest = releases.release(store, b.plan, store.get(b.job).number)
    read = 0
    for name, data in files:
        if name.endswith(".pdf"):
            text = "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(data)).pages)
        elif name.endswith(b.setup.machine.dialect.ending):
            text = data.decode()
            assert ("G20" if inch else "G21") in text and name.startswith("24x16" if inch else "610x406")
        else:
            continue
        read += 1
        found = [
            line for line in text.splitlines() if never.search(line) and not (not inch and "23/32" in line)
        ]
        assert not found and re.search(rf"\d {has}\b", text), (name, found)
    assert read >= 2


def test_one_time_one_length_one_count(store):
    """The files' times add up to the tape's, changes counted once; the length of cut holds no fast move; tabs
    are counted once a contour.
    """
    b = TrialJob(store, (rect(200, 120, [(60, 60, 20)]), [(60, 60), (320, 60)])).outline(
        {"side_allowance": 0.5}, {"cutter": "comp-8"}
    )
    b.do({"kind": "change-setup", "setup": "main", "machine": {"dialect": {"tool_change": False}}})
    sheet = b.sheet
    files = programs(b.plan, b.derived)
    assert sum(f.seconds for f in files) == pytest.approx(sheet.seconds, rel=1e-9) and sum(
        c.takes for c in sheet.cuts
    ) == pytest.approx(sheet.seconds)
    for c in sheet.cuts:
        fast = c.cut.moves[:, KIND] == RAPID
        assert c.cut.cut_length == pytest.approx(lengths(c.cut.moves)[~fast].sum())
    assert b.derived.yields.seconds == pytest.approx(sheet.seconds)


@given(
    st.floats(0.01, 3000),
    st.sampled_from(
        [
            "a web {} mm wide",
            "sheet {0} x {0} mm",
            "between {} to 7 mm",
            "T1 runs at {} m/min (9 in/min)",
            "{} mm2 uncut in 2 places",
        ]
    ),
)
def test_every_number_of_a_text_is_brought_over(mm, text):
    said = in_unit(text.format(f"{mm:.2f}"), "in")
    assert not MM.search(said) and "in" in said
    if "web" in text:
        assert float(said.split()[2]) == pytest.approx(mm / 25.4, abs=0.006)


def test_a_fraction_is_only_said_where_it_is_one():
    assert (
        thickness(17.6, "in") == "0.693 in"
        and thickness(17.4625, "in") == "0.688 in (11/16 in)"
        and thickness(1.016, "in") == "0.04 in"
    )
    assert thickness(17.6, "mm") == "17.6 mm"


def test_every_place_in_a_sentence_has_its_unit():
    """A place without one stays in millimetres where all else is brought into inches."""
    import re
    from pathlib import Path

    import venzo

    pair = re.compile(r"at \{[\w.]*x:\.\df\}, \{[\w.]*y:\.\df\}(?! mm|, \{[\w-]+(?::[.\w]+)?\} mm)")
    core = Path(venzo.__file__).parent / "core"
    bare = [f"{f.name}: {m.group()}" for f in core.rglob("*.py") for m in pair.finditer(f.read_text())]
    assert bare == []
    assert pair.search('f"the screw at {s.x:.0f}, {s.y:.0f} lies"'), "it would be found"
