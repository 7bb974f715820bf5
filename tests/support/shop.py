"""The demo shop that tests copy: seeded, and read once by a server, so that what it derives is on disk.

``make test`` makes it once for all its runs and names it in the environment.
"""

import json
import os
import sys
import urllib.request
from pathlib import Path

from tests.support.server import Server
from venzo.demo.seed import seed
from venzo.store.store import Store

NAMED = "VENZO_TEST_SHOP"
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
    """Every job and its proof, as screens ask for them."""
    server = Server(folder)
    server.up()
    for job in json.load(urllib.request.urlopen(f"{server.url}/api/jobs", timeout=60)):
        for path in (job["id"], f"{job['id']}/proof"):
            urllib.request.urlopen(f"{server.url}/api/jobs/{path}", timeout=120).read()
    server.stop()


def made_before() -> Path | None:
    """The folder that ``make test`` made."""
    named = os.environ.get(NAMED)
    return Path(named) if named and (Path(named) / "made").exists() else None


if __name__ == "__main__":
    make_shop(Path(sys.argv[1]))
