"""What takes long ends when whoever asked has gone, over a real connection; a later one gets it whole."""

import http.client
import json
import socket
import threading
import time
from contextlib import contextmanager

import pytest
import uvicorn
from fastapi import FastAPI, Request

from tests.support.waiting import until
from venzo.api.app import make_app
from venzo.api.leaving import while_asked_for
from venzo.core.memo import Overtaken, give_way, memo, urgent

STAGES = 150
STAGE = 0.02
"""s; all stages together take far longer than any test waits."""


class Work:
    """Work in many stages, and what became of it."""

    def __init__(self):
        self.begun, self.ended, self.stages = 0, [], 0

    def make(self):
        self.begun += 1
        self.stages = 0
        try:
            for _ in range(STAGES):
                give_way()
                time.sleep(STAGE)
                self.stages += 1
        except Overtaken:
            self.ended.append("left")
            raise
        self.ended.append("done")
        return "whole"


@contextmanager
def running(make):
    """The port at which an application is served by a real server."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(make(port), port=port, log_level="critical"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    until(lambda: server.started)
    yield port
    server.should_exit = True
    thread.join(10)


@pytest.fixture
def served():
    work, app = Work(), FastAPI()

    @app.get("/work")
    def do(request: Request, key: str) -> str:
        with while_asked_for(request):
            return memo("left work", key, work.make)

    with running(lambda _port: app) as port:
        yield work, port


def ask(port, key):
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    connection.request("GET", f"/work?key={key}")
    return connection


def test_work_ends_when_nobody_waits_for_it(served):
    work, port = served
    connection = ask(port, "alone")
    until(lambda: work.stages > 2)
    connection.close()
    until(lambda: work.ended == ["left"])
    assert work.stages < STAGES // 2


def test_one_who_still_waits_gets_it_though_another_left(served):
    work, port = served
    first = ask(port, "both")
    until(lambda: work.stages > 2)
    second = ask(port, "both")
    first.close()
    until(lambda: work.ended == ["left"])
    answer = second.getresponse()
    assert (answer.status, json.load(answer), work.begun) == (200, "whole", 2)


def test_it_gives_way_to_an_edit_meanwhile(served):
    work, port = served
    connection = ask(port, "way")
    until(lambda: work.stages > 2)
    with urgent():
        before = until(lambda: work.stages if _stands(work) else None, 10)
        assert work.stages == before
    until(lambda: work.stages > before)
    connection.close()
    until(lambda: work.ended == ["left"])


def _stands(work):
    before = work.stages
    time.sleep(6 * STAGE)
    return work.stages == before


def test_the_application_itself_ends_an_inlay_that_nobody_waits_for(demo, monkeypatch):
    """Through all that stands between a connection and a handler of Venzo."""
    work = Work()
    monkeypatch.setattr("venzo.desk.carving.inlay_view", lambda *_asked, **_more: work.make())
    with running(lambda port: make_app(demo, f"127.0.0.1:{port}")) as port:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        connection.request("GET", "/api/jobs/name-board-carved-oak/inlay?setup=main&part=any")
        until(lambda: work.stages > 2)
        connection.close()
        until(lambda: work.ended == ["left"])
        assert work.stages < STAGES // 2
