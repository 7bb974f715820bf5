"""What of core and desk was run by the tests of Python: lines and branches, room by room.

``make test`` measures while it tests and has this print it: ``python -m tests.support.branches FILE``.
Compiled modules are left out: what a compiler made of them cannot be watched.
"""

from __future__ import annotations

import json
import sys
from collections import Counter
from pathlib import Path

LEAST = 90.0
"""% of the core's lines and branches together that must be run."""
COUNTED = ("covered_lines", "missing_lines", "covered_branches", "missing_branches")
Figures = Counter[str]


def rooms(files: dict[str, dict[str, dict[str, int]]]) -> dict[str, Figures]:
    """Figures of each room, and of core and desk as wholes; ``files``: what was measured, by a file's path.

    >>> summary = dict(covered_lines=9, missing_lines=1, covered_branches=3, missing_branches=1)
    >>> sorted(rooms({"venzo/core/order/of_sheet.py": {"summary": summary}}))
    ['core', 'core/order']
    """
    found: dict[str, Figures] = {}
    for path, said in files.items():
        parts = Path(path).parts[1:-1]
        for room in {parts[0], "/".join(parts[:2])}:
            found.setdefault(room, Counter()).update({key: said["summary"][key] for key in COUNTED})
    return found


def share(f: Figures, *kinds: str) -> float:
    """% of what is counted that was run; all of nothing."""
    run = sum(f[f"covered_{kind}"] for kind in kinds)
    every = run + sum(f[f"missing_{kind}"] for kind in kinds)
    return 100.0 * run / every if every else 100.0


def table(found: dict[str, Figures]) -> str:
    """A line a room; wholes before their rooms.

    >>> one = Counter(covered_lines=9, missing_lines=1, covered_branches=3, missing_branches=1)
    >>> print(table({"core": one}))
    run by the tests           lines  branches  together
    core                      90.0 %    75.0 %    85.7 %
    """
    rows = [
        f"{'run by the tests':<22}" + "".join(f"{word:>10}" for word in ("lines", "branches", "together"))
    ]
    for room in sorted(found):
        shares = (share(found[room], *kinds) for kinds in (("lines",), ("branches",), ("lines", "branches")))
        rows.append(f"{room:<22}" + "".join(f"{each:8.1f} %" for each in shares))
    return "\n".join(rows)


def main(measured: str) -> int:
    """Print what was measured; 1 where too little of the core was run."""
    found = rooms(json.loads(Path(measured).read_text())["files"])
    print(table(found))
    together = share(found["core"], "lines", "branches")
    if together < LEAST:
        print(f"{together:.1f} % of the core's lines and branches are run by tests, less than {LEAST:g} %")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
