"""How soon is a job proven after an edit? Every part of the demo's largest job gets one tab more, one after
the other: seconds for the edit, for the proof of what it touches, and for the loads and what is left of the
first sheet; beside it the first proof of all.

    python -m benchmarks.proof
"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from venzo.core.edits import read_command
from venzo.demo.seed import seed
from venzo.desk import jobs
from venzo.desk.cut_stock import SheetAt, left_of
from venzo.desk.loads import loads_of
from venzo.store.store import Store

JOB = "estuary-hide-ribs-and-benches"


def timed(work: Callable[[], object]) -> float:
    """Seconds that something takes."""
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def main() -> None:
    """Run and print."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder) / "shop")
        seed(store, steps=8)
        plan = store.get(JOB).plan
        derived = jobs.derive(store, plan)["main"]
        first = timed(lambda: jobs.prove_setup(store, plan, derived))
        print(f"{JOB}: {len(derived.sheets)} sheets, {sum(len(s.cuts) for s in derived.sheets)} cuts")
        print(f"first proof of all: {first:.2f} s")
        edits, proofs, measured = [], [], []
        for part in plan.parts:
            tabs = next(
                (
                    len(c.cut.tabs)
                    for s in derived.sheets
                    for c in s.cuts
                    if c.piece.part == part.id and c.cut.contour == "outline"
                ),
                None,
            )
            if tabs is None:
                continue
            command = {"kind": "set-contour", "part": part.id, "contour": "outline", "tab_count": tabs + 1}
            edits.append(timed(lambda c=command: store.apply(JOB, store.head(JOB), read_command(c))))
            now = store.get(JOB).plan
            d = jobs.derive(store, now, hold=False)["main"]
            proofs.append(timed(lambda d=d, p=now: jobs.prove_setup(store, p, d)))
            sheet = d.sheets[0]
            at = SheetAt(setup="main", sheet=sheet.sheet, copy_no=sheet.copy_no)
            stock = d.setup.stock_of(sheet.sheet)

            def measure(d=d, p=now, sheet=sheet, stock=stock, at=at) -> None:
                loads_of(d.setup, sheet, stock)
                left_of(store, p, at)

            measured.append(timed(measure))
        for what, of in (("edit", edits), ("proof of all", proofs), ("loads and left of a sheet", measured)):
            print(f"{what}: median {statistics.median(of):.2f} s, slowest {max(of):.2f} s, {len(of)} edits")
        store.close()


if __name__ == "__main__":
    main()
