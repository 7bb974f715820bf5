"""How soon is a shop at hand? Seconds from starting the real command to its first answer, to the first look
at a job, to all of the job, and to the same again; and what a bare web server of the same kind takes.

    python -m benchmarks.start FOLDER JOB [RUNS]

The folder is a shop that no server holds (``venzo demo --data FOLDER`` makes one).
"""

from __future__ import annotations

import os
import socket
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable

BARE = (
    "import sys, uvicorn\n"
    "from fastapi import FastAPI\n"
    "app = FastAPI()\n"
    "@app.get('/api/jobs')\n"
    "def jobs(): return []\n"
    "uvicorn.run(app, port=int(sys.argv[1]), log_level='warning')\n"
)


def free_port() -> int:
    """A port that nobody listens at."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def timed(work: Callable[[], object]) -> float:
    """Seconds that something takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def answers(url: str) -> None:
    """Ask until there is an answer."""
    while True:
        try:
            urllib.request.urlopen(url, timeout=60).read()
            return
        except OSError:
            time.sleep(0.01)


def once(command: list[str], port: int, paths: list[str]) -> list[float]:
    """Seconds to the first answer of a server, then to each of some paths in turn."""
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        base = f"http://127.0.0.1:{port}/api"
        found = [timed(lambda: answers(f"{base}/jobs"))]
        for path in paths:
            found.append(timed(lambda path=path: answers(base + path)))  # type: ignore[misc]
        return found
    finally:
        server.kill()
        server.wait()


def main(folder: str, job: str, runs: int = 5) -> None:
    """Print medians and ratios."""
    rows, bare = [], []
    with tempfile.NamedTemporaryFile("w", suffix=".py", delete=False) as f:
        f.write(BARE)
    for _ in range(runs):
        port = free_port()
        bare.append(once([sys.executable, f.name, str(port)], port, [])[0])
        port = free_port()
        command = [sys.executable, "-m", "venzo.cli", "serve", "--port", str(port), "--data", folder]
        at = f"/jobs/{job}"
        rows.append(once(command, port, [f"{at}?soon=true", at, at]))
    os.unlink(f.name)
    names = ("first answer", "first look at the job", "all of the job", "the same again")
    base = statistics.median(bare)
    print(f"a bare server of the same kind: {base:.2f} s to its first answer")
    for name, values in zip(names, zip(*rows, strict=True), strict=True):
        told = ", ".join(f"{v:.2f}" for v in sorted(values))
        middle = statistics.median(values)
        print(f"{name}: median {middle:.2f} s ({told}), {middle / base:.1f} x")


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2], int(sys.argv[3]) if len(sys.argv) > 3 else 5)
