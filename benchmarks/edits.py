"""What does an edit cost on a large job? A real server, asked over HTTP as the screen asks it: seconds to
the answer (median and 95th percentile) by kind of edit, bytes sent and answered, an unchanged read, the first
read after a restart, and memory before and after many edits.

    python -m benchmarks.edits [--parts 60] [--pieces 500] [--edits 40] [--many 0]
"""

from __future__ import annotations

import argparse
import json
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from typing import Any

from benchmarks.cuts_many import build
from benchmarks.start import free_port
from venzo.core.plan import Drawing
from venzo.demo.seed import seed_library
from venzo.store.store import Store


class Served:
    """A real server over a folder."""

    def __init__(self, folder: Path):
        self.folder = folder
        self.sent = self.answered = 0
        self.tag = ""
        """Of the job's answer that is held."""

    def up(self) -> float:
        """Start; seconds to the first answer."""
        port = free_port()
        self.base = f"http://127.0.0.1:{port}/api"
        command = [
            sys.executable,
            "-m",
            "venzo.cli",
            "serve",
            "--port",
            str(port),
            "--data",
            str(self.folder),
        ]
        began = time.perf_counter()
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        while True:
            try:
                self.ask("/jobs")
                return time.perf_counter() - began
            except OSError:
                time.sleep(0.01)

    def down(self) -> None:
        """Stop."""
        self.process.terminate()
        self.process.wait()

    def ask(self, path: str, body: Any = None) -> Any:
        """An answer, with the bytes that went and came noted."""
        data = None if body is None else json.dumps(body).encode()
        headers = {"content-type": "application/json", "x-holds": self.tag}
        request = urllib.request.Request(self.base + path, data, headers)
        with urllib.request.urlopen(request, timeout=600) as answer:
            came = answer.read()
        self.sent, self.answered = len(data or b""), len(came)
        answer = json.loads(came)
        if path.startswith("/jobs/"):
            self.tag = answer["tag"]
        return answer

    @property
    def memory(self) -> float:
        """Resident megabytes of the server."""
        status = Path(f"/proc/{self.process.pid}/status").read_text()
        return int(status.split("VmRSS:")[1].split()[0]) / 1024


def commands(k: int, piece: dict[str, Any]) -> dict[str, dict[str, Any]]:
    """One edit of each kind; ``k`` makes each of them new."""
    at = {"setup": "main", "part": piece["part"], "copy_no": piece["copy_no"], "sheet": piece["sheet"]}
    return {
        "a feed": {
            "kind": "change-steps",
            "setup": "main",
            "on": "outlines",
            "change": [{"id": "outlines", "fields": {"feed": 3000.0 + k}}],
        },
        "a piece moved": {
            "kind": "move-piece",
            **at,
            "sheet_copy": piece["sheet_copy"],
            "x": piece["x"] + 0.01 * (k % 50),
            "y": piece["y"],
            "rotation": piece["rotation"],
        },
        "a tab by hand": {
            "kind": "set-contour",
            "part": piece["part"],
            "contour": "outline",
            "tab_count": 3 + k % 3,
        },
        "one more wanted": {"kind": "change-quantity", "part": piece["part"], "order": "o", "more": 1},
        "the name": {"kind": "rename-job", "name": f"job {k}"},
    }


def told(seconds: list[float]) -> str:
    """Median and 95th percentile, ms."""
    ranked = sorted(seconds)
    p95 = ranked[min(len(ranked) - 1, round(0.95 * len(ranked)))]
    return f"median {statistics.median(seconds) * 1000:.0f} ms, p95 {p95 * 1000:.0f} ms"


def settled(served: Served) -> None:
    """Read the job until nothing is worked out any more."""
    while served.ask("/jobs/bench")["untried"]:
        pass


def written(folder: Path) -> None:
    """Wait until the server has written what it keeps: nothing more for five seconds."""
    size, since = -1, time.perf_counter()
    while time.perf_counter() - since < 5.0:
        now = sum(f.stat().st_size for f in folder.glob("derived.db*"))
        if now != size:
            size, since = now, time.perf_counter()
        time.sleep(0.2)


def main() -> None:
    """Run and print."""
    args = argparse.ArgumentParser()
    args.add_argument("--parts", type=int, default=60)
    args.add_argument("--pieces", type=int, default=500)
    args.add_argument("--edits", type=int, default=40)
    args.add_argument("--many", type=int, default=0, help="further quick edits, for the memory")
    a = args.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="venzo-edits-"))
    store = Store(folder)
    seed_library(store)
    plan, shapes = build(a.parts, a.pieces)
    for shape in shapes.values():
        store.shapes.put(shape)
    blob = store.blobs.put(b"0")
    drawing = Drawing(id="d", filename="d.dxf", blob=blob, units="mm", scale_mm=1.0)
    store.create(plan.model_copy(update={"drawings": (drawing,)}))
    store.close()
    served = Served(folder)
    print(f"{a.pieces} pieces of {a.parts} parts; server up in {served.up():.2f} s")
    began = time.perf_counter()
    job = served.ask("/jobs/bench?soon=true")
    whole = served.answered
    print(f"first look, nothing known: {time.perf_counter() - began:.2f} s")
    settled(served)
    print(f"all of it: {time.perf_counter() - began:.2f} s, {whole / 1e6:.2f} MB")
    reads = []
    for _ in range(8):
        began = time.perf_counter()
        number = served.ask("/jobs/bench")["revision"]
        reads.append(time.perf_counter() - began)
    print(f"an unchanged read: {told(reads)}, {served.answered / 1000:.0f} kB answered")
    piece = job["setups"][0]["pieces"][0]
    every: list[float] = []
    for kind in commands(0, piece):
        times = []
        for k in range(a.edits // 5 + 1):
            body = {"base": number, "command": commands(k + 1, piece)[kind]}
            began = time.perf_counter()
            number = served.ask("/jobs/bench/commands", body)["revision"]
            times.append(time.perf_counter() - began)
        every += times[1:]
        print(
            f"{kind}: {told(times[1:])}; {served.sent} bytes sent, {served.answered / 1000:.0f} kB answered"
        )
    print(f"all edits: {told(every)}")
    settled(served)
    memory = [served.memory]
    for k in range(a.many):
        body = {"base": number, "command": {"kind": "rename-job", "name": f"job {k}"}}
        number = served.ask("/jobs/bench/commands", body)["revision"]
        if (k + 1) % max(1, a.many // 5) == 0:
            memory.append(served.memory)
    print("memory, MB: " + ", ".join(f"{m:.0f}" for m in memory))
    written(folder)
    served.down()
    served.tag = ""
    up = served.up()
    began = time.perf_counter()
    served.ask("/jobs/bench?soon=true")
    first = time.perf_counter() - began
    settled(served)
    everything = time.perf_counter() - began
    print(f"after a restart: up in {up:.2f} s, first look {first:.2f} s, all {everything:.2f} s")
    served.down()


if __name__ == "__main__":
    main()
