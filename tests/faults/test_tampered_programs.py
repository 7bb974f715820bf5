"""Programs tampered with at random places: whatever does harm is found, with its line; what does none passes.

Harm is decided by ``judge``, an independent reading: another way by more than 0.02 mm, or another word that a
controller obeys. Never by the proof.
"""

import numpy as np
import pytest

from tests.conftest import MANY
from tests.faults.judge import harmful, trace
from tests.faults.tamper import HARMLESS, TAMPERED
from venzo.core.proof.check import prove
from venzo.core.snags import BadInput
from venzo.desk import jobs
from venzo.desk.jobs import programs
from venzo.formats.rs274 import interpret
from venzo.store.store import Store

PLACES = 2 * MANY if MANY > 1 else 6
LONGEST = 4000 if MANY > 1 else 1200
"""Lines of a program; longer ones (a carved board) where no short one will do, and in one place only."""
NEAR = 4
"""Lines by which the line that is named may be away from the first that does something else."""


@pytest.fixture(scope="module")
def shelf(demo_folder, tmp_path_factory):
    """Every program of the demo shop with what it is held against."""
    import shutil

    folder = tmp_path_factory.mktemp("faults") / "demo"
    shutil.copytree(demo_folder, folder)
    store = Store(folder)
    out = []
    for j in store.jobs():
        plan = store.get(j["id"]).plan
        for d in jobs.derive(store, plan, hold=False).values():
            for f in programs(plan, d):
                if f.guide == "spoilboard":  # run with no stock: proven on the board alone
                    continue
                sheet = next(s for s in d.sheets if f.serves(s))
                out.append((f, jobs.subject_of(store, plan, d, sheet)))
    yield out
    store.close()


def judged(shelf_item, text):
    """Stops of the proof for a text, None where the file is refused outright."""
    file, subject = shelf_item
    try:
        reading = interpret(text, file.name)
    except BadInput as e:
        return [str(e)]
    return [
        s for s in prove(subject, [jobs.as_program(subject, file, reading)]).snags if s.severity == "stop"
    ]


def first_other_line(before, after):
    """The first line of ``after`` at which it does anything else, by the independent reading; None: cannot be
    told by moves alone.
    """
    (m0, o0), (m1, o1) = trace(before), trace(after)
    if [w for w, _n in o0] != [w for w, _n in o1]:
        return None
    for a, b in zip(m0, m1, strict=False):
        if (
            a[0] != b[0]
            or np.abs(a[1][-1] - b[1][-1]).max() > 0.02
            or (len(a[1]) == len(b[1]) and np.abs(a[1] - b[1]).max() > 0.02)
        ):
            return b[2]
    return None


def places(kind, shelf, many):
    """(program, its text, the tampered text) at seeded random places."""
    rng = np.random.default_rng(sum(map(ord, kind)))
    apply, found = {**TAMPERED, **HARMLESS}[kind], 0
    for k in range(80 * many):
        item = shelf[int(rng.integers(len(shelf)))]
        lines = item[0].text.splitlines()
        first = MANY == 1 and k < 40  # short ones first; long ones where those did no harm
        if (first and (len(lines) > LONGEST or found >= 2)) or (MANY > 1 and len(lines) > LONGEST and found):
            continue
        new = apply(lines, rng)
        if new is None or new == lines:
            continue
        found += 1
        yield item, item[0].text, "\n".join(new) + "\n"
        if found == many:
            return


@pytest.mark.parametrize("kind", TAMPERED)
def test_what_does_harm_is_found_with_its_line(kind, shelf, record_property):
    harm = none = 0
    for item, before, after in places(kind, shelf, PLACES):
        stops = judged(item, after)
        if not harmful(before, after):
            none += 1
            continue
        harm += 1
        assert stops, f"{kind}: not found in {item[0].name}"
        if isinstance(stops[0], str):
            continue
        lines = [s.where["line"] for s in stops if s.where and "line" in s.where]
        assert lines, f"{kind}: no line named: {[s.message for s in stops]}"
        truly = first_other_line(before, after)
        if truly is not None:
            assert min(abs(n - truly) for n in lines) <= NEAR, (
                f"{kind}: lines {lines} named, {truly} is the first that differs"
            )
        if MANY == 1:
            break  # every kind did harm once; the long check goes on
    record_property("harmful found", harm)
    record_property("harmless", none)
    print(f"{kind}: {harm} harmful found, {none} without harm")
    assert harm, f"{kind} never did harm: the suite does not test it"


@pytest.mark.parametrize("kind", HARMLESS)
def test_what_does_no_harm_passes(kind, shelf):
    tried = 0
    for item, before, after in places(kind, shelf, PLACES // 2 if MANY > 1 else 1):
        assert not harmful(before, after), "the independent reading agrees"
        assert not judged(item, after), f"{kind}: a false stop in {item[0].name}"
        tried += 1
    assert tried


def test_the_suite_is_large_enough():
    assert len(TAMPERED) >= 30 and len(HARMLESS) >= 10
