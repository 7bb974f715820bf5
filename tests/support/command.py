"""The command line within the process of a test: what it prints and how it ends, without a start for each.

Each command is run as a process of its own somewhere; where many ways to ask it are tried, this does.
"""

from __future__ import annotations

import contextlib
import io
import sys
from dataclasses import dataclass
from unittest import mock

from venzo.cli import main


@dataclass(frozen=True)
class Done:
    """As of a process."""

    returncode: int
    stdout: str
    stderr: str


def venzo(*words: object) -> Done:
    """``venzo`` with some words."""
    out, said = io.StringIO(), io.StringIO()
    code = 0
    with (
        mock.patch.object(sys, "argv", ["venzo", *map(str, words)]),
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(said),
    ):
        try:
            main()
        except SystemExit as e:
            code = e.code if isinstance(e.code, int) else 1
    return Done(code, out.getvalue(), said.getvalue())
