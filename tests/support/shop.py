"""The demo shop that tests copy: seeded, and read once by a server, so that what it derives is on disk.

``make test`` makes it once for all its runs and names it in the environment.
"""

import json
import os
import sys
import time
import urllib.request
from pathlib import Path

from tests.support.server import Server
from tests.support.waiting import until
from venzo.demo.seed import seed
from venzo.store.store import Store

NAMED = "VENZO_TEST_SHOP"
ROOM = {"parts": "jobs/{}", "surface": "surfacing/{}", "run": "table-runs/{}"}
"""Where a job of a kind is read."""
LONGEST = 900
"""Seconds that tests wait for the shop."""
STEPS = 8
"""Of each nest: enough that all fits."""


def make_shop(folder: Path) -> None:
    """The demo shop in a folder; one that is there already is left."""
    if (folder / "made").exists():
        return
    store = Store(folder)
    seed(store, steps=STEPS)
    store.close()
    read_all(folder)
    (folder / "made").touch()


def read_all(folder: Path) -> None:
    """Every job with its proof, every board and every run of several jobs, as screens ask for them; a job as
    often as it takes until every hold is worked out and every remedy tried.
    """
    server = Server(folder)
    server.up()

    def read(path: str):
        return json.load(urllib.request.urlopen(f"{server.url}/api/{path}", timeout=120))

    for job in read("jobs"):
        read(ROOM[job["kind"]].format(job["id"]))
        if job["kind"] == "parts":
            until(lambda job=job: not _in_hand(read(f"jobs/{job['id']}")), 120)
            read(f"jobs/{job['id']}/proof")
    server.stop()


def _in_hand(job: dict) -> bool:
    """Are holds or tried remedies of this answer still being worked out?"""
    return job["untried"] or any(
        sheet["hold"] is None for setup in job["setups"] for sheet in setup["sheets"]
    )


def _young(making: Path) -> bool:
    """Is the shop being made? A mark that an interrupted run left behind is older than any making takes."""
    try:
        return time.time() - making.stat().st_mtime < LONGEST
    except OSError:
        return False


def made_before() -> Path | None:
    """The folder that ``make test`` made; while it is being made, beside the tests that need none, it is
    waited for.
    """
    named = os.environ.get(NAMED)
    if not named:
        return None
    folder, making = Path(named), Path(f"{named}.making")
    until(lambda: (folder / "made").exists() or not _young(making), LONGEST + 10)
    return folder if (folder / "made").exists() else None


if __name__ == "__main__":
    make_shop(Path(sys.argv[1]))
