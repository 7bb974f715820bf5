"""An empty shop with the demo's library: made once a process, and copied for every test that wants one."""

import shutil
import tempfile
from functools import cache
from pathlib import Path

from venzo.demo.seed import seed_library
from venzo.store.store import Store


@cache
def _made() -> tempfile.TemporaryDirectory:
    """A folder with such a shop, gone when the process ends."""
    kept = tempfile.TemporaryDirectory(prefix="venzo-library-")
    store = Store(Path(kept.name) / "shop")
    seed_library(store)
    store.close()
    return kept


def library_shop(folder: Path) -> Store:
    """A shop of its own in a folder that is not there yet, or is empty."""
    shutil.copytree(Path(_made().name) / "shop", folder, dirs_exist_ok=True)
    return Store(folder)
