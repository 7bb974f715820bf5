"""Stores to test on: an empty shop with the demo's library, and the whole demo shop."""

from __future__ import annotations

import fcntl
import io
import os

import ezdxf
import pytest
from hypothesis import HealthCheck, settings
from hypothesis.internal.conjecture import providers

from tests.support.library_shop import library_shop
from tests.support.shop import made_before, make_shop
from venzo.store.store import Store

# servers of tests start readers and workers when they are asked for, not in case
os.environ.setdefault("VENZO_READY_AFTER", "100000")

MANY = int(os.environ.get("VENZO_LONG", "1"))
"""Times as many random cases in the long check (make check-long)."""

settings.register_profile(
    "venzo",
    deadline=None,
    max_examples=15 * min(MANY, 16),
    suppress_health_check=[HealthCheck.too_slow],
    derandomize=MANY == 1,
    print_blob=True,
)  # the same cases every time; the long check explores
settings.load_profile("venzo")
if MANY == 1:
    # values written in the code are tried too: which, hangs on the modules that a worker has loaded by then,
    # and the cases would be others from run to run
    providers._get_local_constants = providers.Constants


def pytest_collection_modifyitems(items):
    """What needs the demo shop comes last: ``make test`` makes it meanwhile."""
    items.sort(key=lambda item: "demo_folder" in getattr(item, "fixturenames", ()))


@pytest.fixture
def short_steps(monkeypatch):
    """Steps of the nest a quarter as long, where a test asks what a search does and not how well; whole ones
    in the long check.
    """
    if MANY > 1:
        return
    from venzo.core.nesting import improve, rectangles

    monkeypatch.setattr(improve, "BUDGET", improve.BUDGET // 4)
    monkeypatch.setattr(improve, "TRY_BUDGET", improve.TRY_BUDGET // 4)
    monkeypatch.setattr(rectangles, "ROUNDS", rectangles.ROUNDS // 4)
    monkeypatch.setattr(rectangles, "SHEET_BUDGETS", tuple(b // 4 for b in rectangles.SHEET_BUDGETS))


@pytest.fixture
def store(tmp_path):
    s = library_shop(tmp_path / "shop")
    yield s
    s.close()


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory, worker_id):
    """The demo shop's folder, to be copied and left as it is; all workers share one."""
    if made := made_before():
        return made
    base = tmp_path_factory.getbasetemp()
    folder = (base if worker_id == "master" else base.parent) / "demo"
    with open(f"{folder}.lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        make_shop(folder)
    return folder


@pytest.fixture
def demo(demo_folder, tmp_path):
    import shutil

    # what a server derived stays away: tests derive themselves
    shutil.copytree(demo_folder, tmp_path / "demo", ignore=shutil.ignore_patterns("derived*"))
    s = Store(tmp_path / "demo")
    yield s
    s.close()


@pytest.fixture
def known_demo(demo_folder, tmp_path):
    """The demo shop with what its server derived, which is of this very code: for tests that ask what is done
    with a plan, not what follows from it.
    """
    import shutil

    from venzo.core.memo import keep_with
    from venzo.store.derived import Derived

    shutil.copytree(demo_folder, tmp_path / "demo")
    s, kept = Store(tmp_path / "demo"), Derived(tmp_path / "demo")
    before = keep_with(kept)
    yield s
    keep_with(before)
    kept.close()
    s.close()


def dxf(draw, units: int = 4, version: str = "R2010") -> bytes:
    """A DXF file from a function that draws on the model space."""
    doc = ezdxf.new(version)
    doc.header["$INSUNITS"] = units
    draw(doc.modelspace())
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode()


def panel(width=300.0, height=200.0, holes=((60.0, 60.0, 20.0),), x=0.0, y=0.0) -> bytes:
    """A rectangular panel with round holes (x, y, radius)."""

    def draw(m):
        m.add_lwpolyline([(x, y), (x + width, y), (x + width, y + height), (x, y + height)], close=True)
        for hx, hy, r in holes:
            m.add_circle((x + hx, y + hy), r)

    return dxf(draw)
