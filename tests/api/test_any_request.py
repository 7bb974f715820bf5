"""Requests of any kind that the schema allows, and many that it does not, on jobs, parts and boards that are
there: never a server error, and no answer but those that the schema tells of.
"""

import json
import random
import tempfile
from pathlib import Path

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, reject, settings
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance
from starlette.testclient import TestClient

from tests.conftest import MANY
from venzo.api import app as web
from venzo.api.app import make_app
from venzo.store.store import Store

CASES = MANY
"""Requests to each operation."""


@pytest.fixture(scope="module")
def shop_folder(demo_folder, tmp_path_factory):
    import shutil

    folder = tmp_path_factory.mktemp("any") / "shop"
    shutil.copytree(demo_folder, folder)
    return folder


@pytest.fixture(scope="module")
def served(shop_folder):
    store = Store(shop_folder)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(web, "TRYING", 0.0)  # what remedies come to is asked elsewhere
        app = make_app(store)
        with TestClient(app, base_url="http://testserver") as client:
            yield app, client, store
    store.close()


def described():
    """The operations of the API, from a store that is thrown away."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        schema = make_app(store).openapi()
        store.close()
    return [result.ok() for result in schemathesis.openapi.from_dict(schema).get_all_operations()]


OPERATIONS = described()
CHECKS = [status_code_conformance, response_schema_conformance]
UNREAD = ("/api/corners",)
"""Its answer, a list of pairs, has a schema that the checker itself misreads."""
OPERATIONS = [o for o in OPERATIONS if not o.path.endswith("/changes")]  # its answer never ends


class Known:
    """Ids that are there, to be put in the place of invented ones."""

    def __init__(self, store):
        self.store = store
        self.plans = [store.get(j["id"]).plan for j in store.jobs() if j["kind"] == "parts"]
        """As they stand now: a request may have changed them."""

    def ids(self, rng, plan):
        part = rng.choice(plan.parts) if plan.parts else None
        setup = rng.choice(plan.setups)
        piece = rng.choice(setup.nest.pieces) if setup.nest and setup.nest.pieces else None
        return {
            "job": plan.id,
            "setup": setup.id,
            "part": part.id if part else "none",
            "contour": rng.choice(self.store.shapes[part.shape].names) if part else "outline",
            "drawing": rng.choice(plan.drawings).id if plan.drawings else "none",
            "piece": piece.id if piece else "none",
            "pieces": [piece.id] if piece else [],
            "stock": setup.stock[0].id if setup.stock else "none",
            "sheet": setup.stock[0].id if setup.stock else "none",
            "order": plan.orders[0].id,
            "cutter": rng.choice(setup.cutters).id if setup.cutters else "none",
            "head": setup.heads[0].id if setup.heads else "none",
            "board": "long-bed-spoilboard",
            "kind": rng.choice(["cutter", "machine", "material", "holder", "head", "recipe", "rules"]),
            "item": rng.choice([c.id for c in (*setup.cutters, *setup.heads)]),
            "material": setup.material.id,
            "machine": setup.machine.id,
            "base": self.store.get(plan.id).number,
        }

    def put_in(self, value, ids, rng):
        """A body with most of its ids made real."""
        if isinstance(value, dict):
            return {
                k: (
                    ids[k]
                    if k in ids and k != "kind" and type(v) in (str, int, list) and rng.random() < 0.9
                    else self.put_in(v, ids, rng)
                )
                for k, v in value.items()
            }
        return [self.put_in(v, ids, rng) for v in value] if isinstance(value, list) else value


@pytest.mark.parametrize("operation", OPERATIONS, ids=[o.label for o in OPERATIONS])
def test_no_request_ends_in_a_server_error(operation, served):
    _app, client, store = served

    @given(operation.as_strategy())
    @settings(
        max_examples=CASES,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        phases=[Phase.generate],
        report_multiple_bugs=False,
    )
    def ask(case):
        said = json.dumps(
            [case.path_parameters, case.body if isinstance(case.body, dict) else "", case.query],
            default=str,
            sort_keys=True,
        )
        rng = random.Random(said)
        known = Known(store)
        ids = known.ids(rng, rng.choice(known.plans))
        case.path_parameters = {
            k: ids[k] if k in ids and rng.random() < 0.9 else v
            for k, v in (case.path_parameters or {}).items()
        }
        case.query = {
            k: ids[k] if k in ids and rng.random() < 0.9 else v for k, v in (case.query or {}).items()
        }
        if isinstance(case.body, dict):
            case.body = known.put_in(case.body, ids, rng)
            if "seconds" in case.body:
                case.body["seconds"] = 0.05
        sent = case.as_transport_kwargs(base_url="http://testserver")
        try:
            answer = client.request(
                **{
                    k: v
                    for k, v in sent.items()
                    if k in ("method", "url", "headers", "params", "json", "data", "files", "cookies")
                }
            )
            answer.request.read()
        except (AttributeError, TypeError):  # a form that cannot be put into bytes at all
            reject()
        assert answer.status_code < 500, (case.method, case.path, answer.text[:400])
        case.validate_response(
            answer, checks=[status_code_conformance] if operation.path in UNREAD else CHECKS
        )

    ask()
