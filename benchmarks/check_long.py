"""The long check: the random tests with many times the cases, and a report. Usage: python -m
benchmarks.check_long REPORT.md [WORD ...]

With words only the lines that hold one of them are run; the others stay in the report as they were, each with
its date.
"""

from __future__ import annotations

import json
import os
import re
import shlex
import subprocess
import sys
import tarfile
import tempfile
import time
from datetime import UTC, datetime
from importlib import metadata
from pathlib import Path

RUNS = [
    (
        "random nest problems, judged by benchmarks/check_layout.py",
        25,
        40,
        "tests/core/test_nesting.py::test_every_layout_passes_the_outside_judge",
    ),
    (
        "random nest problems with holes, keep-outs, remnants and two sheet sizes, improved",
        100,
        10,
        "tests/core/test_nest_search.py::test_random_problems_with_holes_keepouts_remnants_and_two_sizes",
    ),
    ("no-fit polygons and depth tables against shapely", 20, 60, "tests/core/test_nofit_tables.py"),
    ("layouts for a saw", 20, 8, "tests/core/test_nest_search.py::test_a_saw_can_cut_a_guillotine_layout"),
    (
        "rectangles against rectpack's packers, 25 sets; dissections",
        2,
        12,
        "tests/reference/test_rectangles.py",
    ),
    (
        "random plans, programs swept with shapely after an independent parser",
        10,
        12,
        "tests/reference/test_program_sweep.py::test_random_plans",
    ),
    ("random contours: area, walk, refit, offset, join", 5, 100, "tests/core/test_geometry.py"),
    ("random tabs, orders and moves", 5, 100, "tests/core/test_order_tabs_motion.py"),
    ("lines, grooves, drilled and bored holes", 5, 100, "tests/core/test_lines_and_rounds.py"),
    (
        "stories of edits, undo, redo, stale edits and restarts",
        20,
        4,
        "tests/store/test_history_machine.py",
    ),
    ("messy drawings, joints, reliefs, narrow places", 10, 60, "tests/core/test_parts.py"),
    ("shapes turned, stored, relieved, bridged, opened", 10, 50, "tests/core/test_part_shapes.py"),
    ("an open icon package, all of it", 2, 1000, "tests/reference/test_open_drawings.py"),
    (
        "carved surfaces against the ideal: 200 random polygons, letters, ornaments, inlays",
        2,
        100,
        "tests/reference/test_vcarve.py -k 'not icons and not latin'",
    ),
    (
        "1,000 open icons and ten fonts' whole Latin sets, carved",
        2,
        500,
        "tests/reference/test_vcarve.py -k 'icons or latin'",
    ),
    (
        "surfacing: sweeps, dead areas, tilted discs, planted tilt and droop",
        20,
        60,
        "tests/reference/test_surfacing.py",
    ),
    (
        "connectivity through time against a flood fill; orders against exact answers",
        5,
        10,
        "tests/reference/test_connectivity.py tests/reference/test_order.py",
    ),
    (
        "programs tampered with at random places, harm told by an independent reading",
        5,
        2,
        "tests/faults/test_tampered_programs.py",
    ),
    (
        "the stock body and what a cutter meets in it against exact geometry",
        20,
        20,
        "tests/reference/test_engagement.py",
    ),
    ("floors of carvings at strokes near the critical width", 2, 6, "tests/reference/test_carving_floors.py"),
    (
        "damaged drawings",
        5,
        100,
        "tests/formats/test_readers.py::test_damaged_files_never_end_in_a_stack_trace",
    ),
]


def odd_files() -> list[str]:
    """Every integration drawing in the source distribution of ezdxf (MIT licence): read, or refused with a
    reason; time and memory.
    """
    version = metadata.version("ezdxf")
    with tempfile.TemporaryDirectory() as folder:
        began = time.time()
        got = subprocess.run(
            [
                sys.executable,
                "-m",
                "pip",
                "download",
                "-q",
                "--no-deps",
                "--no-binary",
                ":all:",
                "-d",
                folder,
                f"ezdxf=={version}",
            ],
            capture_output=True,
        )
        archive = next(iter(Path(folder).glob("*.tar.gz")), None)
        if got.returncode or archive is None:
            return ["| odd, old and broken drawings | - | the source distribution could not be had | - |"]
        with tarfile.open(archive) as tar:
            members = [
                m
                for m in tar.getmembers()
                if "/integration_tests/data/" in m.name and m.name.lower().endswith((".dxf", ".plt"))
            ]
            tar.extractall(folder, members, filter="data")
        files = [str(Path(folder) / m.name) for m in members]
        code = (
            "import sys,resource,time\nfrom venzo.core.parts.intake import take_in\n"
            "from venzo.formats.drawing_file import read_file\nfrom venzo.core.snags import"
            " BadInput\nread=refused=0;slow=0\n"
            "for f in sys.argv[1:]:\n t=time.time()\n try: take_in(read_file(open(f,'rb').read(),f),f);"
            " read+=1\n except BadInput: refused+=1\n slow=max(slow,time.time()-t)\n"
            "print(read,refused,round(slow,1),resource.getrusage(resource.RUSAGE_SELF).ru_maxrss//1024)"
        )
        done = subprocess.run([sys.executable, "-c", code, *files], capture_output=True, text=True)
        said = done.stdout.split() if done.returncode == 0 else []
        words = (
            f"{said[0]} read, {said[1]} refused with a reason; the slowest {said[2]} s, {said[3]} MB at most"
            if said
            else "failed: " + done.stderr.strip().splitlines()[-1][:120]
        )
        return [
            f"| odd, old and broken drawings | {len(files)} files | {words} | {time.time() - began:.0f} |"
        ]


FOUND = Path("tests/found.json")
"""Random cases that failed, run by ``make test`` ever after (tests/test_found.py)."""


def keep_found(output: str) -> int:
    """Add the random cases that a run of pytest failed on to the list; returns how many were new."""
    known = json.loads(FOUND.read_text()) if FOUND.exists() else []
    tests = dict.fromkeys(re.findall(r"^FAILED (\S+?::\w+)", output, re.M))
    blobs = re.findall(r"@reproduce_failure\('([\d.]+)', b'([^']+)'\)", output)
    new = [{"test": t, "version": v, "blob": b} for t, (v, b) in zip(tests, blobs, strict=False)]
    new = [c for c in new if c not in known]
    FOUND.write_text(json.dumps([*known, *new], indent=1) + "\n")
    return len(new)


def main(report: Path, words: list[str]) -> int:
    """Run the lines of RUNS (those with one of ``words``, if given) and write the report; returns the number
    of failed lines.
    """
    kept = (
        {
            line.split(" | ")[0].strip("| "): line
            for line in report.read_text().splitlines()
            if line.startswith("| ")
        }
        if words and report.exists()
        else {}
    )
    today, failed = f"{datetime.now(UTC):%Y-%m-%d}", 0
    for what, times, base, target in RUNS:
        if words and not any(w in what for w in words):
            continue
        began = time.time()
        done = subprocess.run(
            [sys.executable, "-m", "pytest", *shlex.split(target)],
            env={**os.environ, "VENZO_LONG": str(times)},
            capture_output=True,
            text=True,
        )
        last = next(
            (line for line in reversed(done.stdout.splitlines()) if re.search(r"passed|failed|error", line)),
            "no result",
        )
        failed += done.returncode != 0
        kept[what] = (
            f"| {what} | {times * base} a test | {re.sub(r' in .*', '', last)} | {time.time() - began:.0f} |"
            f" {today} |"
        )
        print(kept[what], flush=True)
        if done.returncode:
            print(f"{keep_found(done.stdout)} failing cases kept in {FOUND}")
            print(done.stdout[-4000:])
    if not words:
        for row in odd_files():
            kept[row.split(" | ")[0].strip("| ")] = f"{row} {today} |"
    rows = [line for what, line in kept.items() if what not in ("what", "---")]
    text = [
        "# The long check",
        "",
        (
            "Written by `make check-long` on 2 cores; a line that was run again by itself has its own date."
            " Times are for orientation only."
        ),
        "",
        "| what | random cases | result | seconds | run on |",
        "| --- | --- | --- | --- | --- |",
        *rows,
        "",
    ]
    report.write_text("\n".join(text))
    return failed


if __name__ == "__main__":
    raise SystemExit(main(Path(sys.argv[1]), sys.argv[2:]))
