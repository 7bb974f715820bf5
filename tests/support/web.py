"""The web over a store, for tests: its routes are put together once a process, which takes a third of a
second; each test has a store, searches, readers and answers of its own behind them.
"""

from __future__ import annotations

from functools import cache
from typing import Any

import pytest
from fastapi import FastAPI
from starlette.testclient import TestClient

from venzo.api import app as web
from venzo.store.store import Store

OWN = ("NestWorker", "Reader", "Answers", "WhatIfs")
"""What an application makes for itself."""


class _Behind:
    """Stands for a thing that is another one in the next test."""

    def __init__(self) -> None:
        self.__dict__["now"] = None

    def __getattr__(self, name: str) -> Any:
        return getattr(self.__dict__["now"], name)

    def __setattr__(self, name: str, value: Any) -> None:
        setattr(self.__dict__["now"], name, value)


@cache
def _made() -> tuple[FastAPI, dict[str, _Behind]]:
    behind = {name: _Behind() for name in (*OWN, "store")}
    with pytest.MonkeyPatch.context() as patch:
        for name in OWN:
            patch.setattr(web, name, lambda own=behind[name]: own)
        return web.make_app(behind["store"]), behind  # type: ignore[arg-type]


def web_over(store: Store, **client: Any) -> TestClient:
    """A client of the web over a store; the one before it is over then."""
    app, behind = _made()
    for name in OWN:
        behind[name].__dict__["now"] = getattr(web, name)()
    behind["store"].__dict__["now"] = store
    return TestClient(app, base_url="http://testserver", **client)
