"""The desk with 5,000 jobs: how long is a page of it, found by words, over the same page of 50 jobs?

Usage: python -m benchmarks.desk [--jobs 5000]
"""

import argparse
import statistics
import tempfile
import time
from pathlib import Path

from fastapi.testclient import TestClient

from venzo.api.app import make_app
from venzo.core.plan import Order, Plan
from venzo.demo.seed import seed_library
from venzo.desk.jobs import new_setup
from venzo.store.store import Store

WHOSE = ("Reedbed Trust", "North Quay School", "Heron Lane", "Tideway Rowing", "Fenland Hides")
ASKED = ("", "heron", "hide birch", "no such word", "job 4711")


def filled(folder: Path, jobs: int) -> Store:
    """A shop with so many jobs."""
    store = Store(folder)
    seed_library(store)
    setup = new_setup(store)
    for n in range(jobs):
        order = Order(id="order-1", name=f"{WHOSE[n % len(WHOSE)]}, hide {n % 40}")
        store.create(Plan(id=f"job-{n}", name=f"Job {n}", orders=(order,), setups=(setup,)))
    return store


def median(store: Store, words: str) -> float:
    """Seconds that a page takes over HTTP, the middle of nine."""
    with TestClient(make_app(store), base_url="http://testserver") as c:
        c.get("/api/desk")
        times = []
        for _ in range(9):
            began = time.perf_counter()
            c.get("/api/desk", params={"words": words}).raise_for_status()
            times.append(time.perf_counter() - began)
    return statistics.median(times)


def main() -> None:
    """Print a line for each search."""
    a = argparse.ArgumentParser()
    a.add_argument("--jobs", type=int, default=5000)
    many = a.parse_args().jobs
    with tempfile.TemporaryDirectory() as t:
        few, all_of_them = filled(Path(t) / "few", 50), filled(Path(t) / "all", many)
        for words in ASKED:
            a50, b = median(few, words), median(all_of_them, words)
            print(
                f"{words!r}: {1000 * b:.0f} ms of {many} jobs, {1000 * a50:.0f} ms of 50, ratio {b / a50:.2f}"
            )


if __name__ == "__main__":
    main()
