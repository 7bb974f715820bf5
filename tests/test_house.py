"""The house itself: who imports whom, and what each room says of itself."""

import ast
import doctest
import graphlib
import subprocess
import sys
from pathlib import Path

import grimp
import pytest

from venzo.core.route import MATTERS

ROOT = Path(__file__).parents[1] / "venzo"
ROOMS = sorted(p.parent for p in (ROOT / "core").glob("*/__init__.py"))


@pytest.fixture(scope="module")
def graph():
    return grimp.build_graph("venzo", include_external_packages=True)


def test_no_modules_import_each_other_in_a_circle(graph):
    own = {m for m in graph.modules if m.startswith("venzo")}
    imports = {m: graph.find_modules_directly_imported_by(m) & own for m in own}
    assert list(graphlib.TopologicalSorter(imports).static_order())


@pytest.mark.parametrize(
    ("library", "module"),
    [("pyclipr", "venzo.core.geometry.clip"), ("pyvoronoi", "venzo.core.geometry.voronoi")],
)
def test_one_module_alone_knows_a_library_that_may_be_replaced(graph, library, module):
    assert graph.find_modules_that_directly_import(library) == {module}


@pytest.mark.parametrize("room", ROOMS, ids=lambda p: p.name)
def test_each_room_of_the_core_opens_with_what_lives_there_and_an_example(room):
    told = ast.get_docstring(ast.parse((room / "__init__.py").read_text())) or ""
    assert told and doctest.DocTestParser().get_examples(told)


def test_no_two_modules_of_the_core_share_a_name():
    """A newcomer who is told a file's name finds one file."""
    names = [p.stem for p in (ROOT / "core").rglob("*.py") if p.stem != "__init__"]
    assert sorted({n for n in names if names.count(n) > 1}) == []


def test_every_matter_that_is_spoken_of_has_a_station_on_the_screen():
    """A rule whose first word no station lists is counted at Release and shown nowhere."""
    shown = {word for words in MATTERS.values() for word in words}
    said = set()
    for path in ROOT.rglob("*.py"):
        for n in ast.walk(ast.parse(path.read_text())):
            called = n.func.id if isinstance(n, ast.Call) and isinstance(n.func, ast.Name) else ""
            if called in ("stop", "look", "note", "Snag") and n.args and isinstance(n.args[0], ast.Constant):
                said.add(str(n.args[0].value).split(".")[0])
    # boards to surface have a bench of their own, loads and programs from elsewhere are told at Prove
    elsewhere = {"surface", "flat", "ledger", "load", "left"}
    assert said - shown - elsewhere == set()


def test_the_server_starts_without_what_only_some_work_asks_for():
    """A compiler, graphs, splines and readers of papers take a second to load; who needs them loads them."""
    slow = ("numba", "networkx", "scipy.interpolate", "pypdf", "fontTools", "trimesh", "ezdxf")
    loaded = subprocess.run(
        [sys.executable, "-c", "import sys, venzo.api.app; print(*sys.modules)"],
        capture_output=True,
        text=True,
        check=True,
        cwd=ROOT.parent,
    ).stdout.split()
    assert [name for name in slow if name in loaded] == []
