"""While somebody waits for the answer to an edit nothing is done behind, from the planning on."""

import pytest

from tests.support.library_shop import library_shop
from tests.support.trial import TrialJob, rect
from tests.support.web import web_over
from venzo.core import memo
from venzo.store import store as stored


@pytest.mark.parametrize(
    ("command", "status", "planned"),
    [
        ({"kind": "rename-job", "name": "another"}, 200, [False]),
        ({"kind": "remove-part", "part": "no such part"}, 422, []),
    ],
    ids=["an edit", "refused"],
)
def test_an_edit_is_planned_while_nothing_else_is_done(tmp_path, monkeypatch, command, status, planned):
    shop = library_shop(tmp_path / "shop")
    job = TrialJob(shop, (rect(200, 120), [(40, 40)])).plan
    could_go_on, after, plan = [], [], stored.check_derives
    monkeypatch.setattr(stored, "check_derives", lambda *a: could_go_on.append(memo.quiet(-1.0)) or plan(*a))
    apply = shop.apply
    monkeypatch.setattr(shop, "apply", lambda *a: [apply(*a), after.append(memo.quiet(-1.0))][0])
    body = {"base": shop.head(job.id), "command": command}
    assert web_over(shop).post(f"/api/jobs/{job.id}/commands", json=body).status_code == status
    assert could_go_on == planned
    assert after == planned, "and so until it is answered"
    assert memo.quiet(-1.0), "afterwards it goes on"
    shop.close()
