"""Who may talk to the server, and how much: every refusal is a plain answer, none a fault of the server."""

import pytest

from tests.support.web import web_over
from venzo.api import guard


@pytest.fixture
def client(store):
    return web_over(store, raise_server_exceptions=False)


@pytest.mark.parametrize(
    ("method", "path", "headers", "status"),
    [
        ("POST", "/api/jobs", {"origin": "http://[::1"}, 403),
        ("POST", "/api/jobs", {"origin": "null"}, 403),
        ("POST", "/api/jobs", {"origin": "http://elsewhere.example"}, 403),
        ("POST", "/api/jobs", {"sec-fetch-site": "cross-site"}, 403),
        ("POST", "/api/jobs", {"sec-fetch-site": "same-site"}, 403),
        ("GET", "/api/jobs", {"sec-fetch-site": "cross-site"}, 403),
        ("GET", "/api/jobs", {"sec-fetch-site": "same-origin"}, 200),
        ("GET", "/api/jobs", {"host": "evil.example"}, 403),
        ("GET", "/" + "a" * 3000, {}, 414),
        ("GET", "/" + "a" * 1500, {}, (200, 404)),
        ("GET", "/api/jobs/x%00y", {}, (404, 414)),
        ("POST", "/api/jobs", {"content-length": "12x"}, 400),
        ("POST", "/api/jobs", {"content-length": "9" * 12}, 413),
        ("GET", "/api/jobs/none?revision=99999999999999999999", {}, 422),
        ("GET", "/api/jobs/none?revision=0", {}, 422),
        ("GET", "/api/jobs/none/history?before=99999999999999999999", {}, 422),
    ],
)
def test_what_is_not_let_through(client, method, path, headers, status):
    answer = client.request(
        method, path, headers=headers, content=b'{"name": "x"}' if method == "POST" else None
    )
    assert answer.status_code in (status if isinstance(status, tuple) else (status,)), answer.text
    assert answer.status_code < 500


def test_bodies_in_pieces_are_counted(client, monkeypatch):
    """A body without a stated length passed the limit: it is counted as it comes."""
    monkeypatch.setattr(guard, "LARGEST_BODY", 100_000)
    read = 0

    def pieces():
        nonlocal read
        for _ in range(1000):
            read += 10_000
            yield b" " * 10_000

    answer = client.post("/api/jobs", content=pieces(), headers={"content-type": "application/json"})
    assert answer.status_code == 413 and "drop fewer files" in answer.json()["detail"]


def test_a_part_of_an_unknown_shape_is_refused(client):
    job = client.post("/api/jobs", json={"name": "job"}).json()["id"]
    for source in ("0" * 32, "../../etc/passwd", ""):
        recipe = {"kind": "inset", "source": source, "distance": -5}
        for path, body in (
            ("/api/made/draw", recipe),
            (f"/api/jobs/{job}/made", {"setup": "main", "recipe": recipe}),
        ):
            answer = client.post(path, json=body)
            assert answer.status_code in (404, 422) and len(answer.json()["detail"]) > 15, answer.text
