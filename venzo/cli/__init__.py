"""The command line: the same abilities without a browser, a file a group of commands.

Exit codes: 0 done; 2 bad input; 1 done, but with a *stop* snag or pieces left unplaced.
"""

from __future__ import annotations

import sys

import typer

# each adds its commands
from venzo.cli import (  # noqa: F401
    archives,
    carving,
    cutting,
    drawings,
    jobs,
    kerf,
    nesting,
    proving,
    reckoning,
    relief,
    serving,
    surfacing,
)
from venzo.cli.shared import app
from venzo.core.snags import BadInput


def main() -> None:
    """Entry point: bad input is one clear line and exit code 2, never a stack trace."""
    try:
        code = app(standalone_mode=False)
        raise SystemExit(code if isinstance(code, int) else 0)
    except BadInput as e:
        print(" ".join(str(e).split()), file=sys.stderr)
        raise SystemExit(2) from None
    except typer.Exit as e:
        raise SystemExit(e.exit_code) from None
    except typer.Abort:
        raise SystemExit(2) from None
    except KeyboardInterrupt:
        raise SystemExit(130) from None
    except Exception as e:
        if hasattr(e, "format_message"):  # usage faults of the command line itself
            print(e.format_message(), file=sys.stderr)
            raise SystemExit(2) from None
        print(f"unexpected: {type(e).__name__}: {e}; please report it with the input", file=sys.stderr)
        raise SystemExit(2) from None
