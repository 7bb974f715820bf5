"""The long check: the random tests with many times the cases, and a report. Usage: python -m bench.check_long REPORT.md"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

RUNS = [
    ("random nest problems, judged by bench/check_layout.py", 25, 40, "tests/core/test_nesting.py::test_every_layout_passes_the_outside_judge"),
    ("random plans, programs swept with shapely after an independent parser", 10, 12, "tests/reference/test_program_sweep.py::test_random_plans"),
    ("random contours: area, walk, refit, offset, join", 5, 100, "tests/core/test_geometry.py"),
    ("random tabs, orders and moves", 5, 100, "tests/core/test_order_tabs_motion.py"),
    ("damaged drawings", 5, 100, "tests/formats/test_readers.py::test_damaged_files_never_end_in_a_stack_trace"),
]


def main(report: Path) -> int:
    """Run every line of RUNS and write the report; returns the number of failed lines."""
    rows, failed = [], 0
    for what, times, base, target in RUNS:
        began = time.time()
        done = subprocess.run([sys.executable, "-m", "pytest", target], env={**os.environ, "VENZO_LONG": str(times)}, capture_output=True, text=True)
        last = next((line for line in reversed(done.stdout.splitlines()) if re.search(r"passed|failed|error", line)), "no result")
        failed += done.returncode != 0
        rows.append(f"| {what} | {times * base} a test | {re.sub(r' in .*', '', last)} | {time.time() - began:.0f} |")
        print(rows[-1], flush=True)
        if done.returncode:
            print(done.stdout[-4000:])
    text = ["# The long check", "", f"Written by `make check-long`, {datetime.now(UTC):%Y-%m-%d}, on 2 cores. Times are for orientation only.", "",
            "| what | random cases | result | seconds |", "| --- | --- | --- | --- |", *rows, ""]
    report.write_text("\n".join(text))
    return failed


if __name__ == "__main__":
    raise SystemExit(main(Path(sys.argv[1])))
