"""Random cases on which a test once failed: the long check adds what it finds to ``found.json``, and each
passes ever after.
"""

import importlib
import inspect
import json
from pathlib import Path

import hypothesis
import pytest
from hypothesis.errors import DidNotReproduce

FOUND = json.loads((Path(__file__).parent / "found.json").read_text())
"""[{"test": "tests/x/test_y.py::test_z", "version": of hypothesis, "blob": what it prints}]"""
_HELD = "_hypothesis_internal_use_reproduce_failure"


@pytest.mark.parametrize(
    "case", FOUND, ids=[f"{c['test'].rpartition('::')[2]}-{k}" for k, c in enumerate(FOUND)]
)
def test_a_case_that_failed_once_passes(case, request):
    if case["version"] != hypothesis.__version__:
        pytest.skip(f"kept by hypothesis {case['version']}")
    path, _sep, name = case["test"].partition("::")
    test = getattr(importlib.import_module(path.removesuffix(".py").replace("/", ".")), name)
    fixtures = {k: request.getfixturevalue(k) for k in inspect.signature(test).parameters}
    setattr(test, _HELD, (case["version"], case["blob"].encode()))
    try:
        test(**fixtures)
    except DidNotReproduce:
        return
    finally:
        delattr(test, _HELD)


def test_the_list_is_sound():
    assert all(
        set(c) == {"test", "version", "blob"}
        and (Path(__file__).parents[1] / c["test"].split("::")[0]).exists()
        for c in FOUND
    )
