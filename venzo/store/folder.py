"""One server to a data folder: what it keeps in memory would not see what a second one writes."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path
from typing import IO

from venzo.core.snags import BadInput

UNUSED = 3600.0
"""Seconds after which a file that no plan names is removed when a server starts."""


def hold_folder(folder: Path) -> IO[str]:
    """Take a data folder for this process until it ends or the file returned is closed.

    Raises:
        BadInput: another process serves it.
    """
    path = folder / "served.lock"
    held = open(path, "a+")  # noqa: SIM115 - open as long as the folder is held
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        held.seek(0)
        who = held.read(80).strip()
        held.close()
        raise BadInput(
            f"{folder}: another Venzo{f' (process {who})' if who else ''} serves this data; use that one,"
            " stop it, or name another folder with --data"
        ) from None
    held.seek(0)
    held.truncate()
    held.write(str(os.getpid()))
    held.flush()
    return held
