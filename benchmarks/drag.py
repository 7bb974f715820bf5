"""How quickly does the Nest station say whether a dragged piece collides? Usage: python -m benchmarks.drag
[PIECES]

A job of so many pieces on one sheet is nested; then a piece is dragged across it in headless Chromium while
the machine is idle and while a nest is running. Prints milliseconds per answer (snapping to contact included,
in the browser) and the browser's frames.
"""

from __future__ import annotations

import json
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import sync_playwright

from tests.conftest import dxf

ARGS = [
    "--no-sandbox",
    "--disable-quic",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def _drawing() -> bytes:
    def draw(m) -> None:
        m.add_lwpolyline([(0, 0), (110, 0), (110, 40), (40, 40), (40, 90), (0, 90)], close=True)
        m.add_circle((300, 40), 38)
        m.add_circle((300, 40), 20)
        m.add_lwpolyline([(500, 0), (620, 0), (560, 80)], close=True)
        m.add_lwpolyline(
            [(700, 0, 0, 0, 0.4), (780, 0, 0, 0, 0), (790, 60, 0, 0, -0.3), (700, 60, 0, 0, 0)],
            close=True,
            format="xyseb",
        )

    return dxf(draw)


def main(pieces: int) -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as folder:
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            port = s.getsockname()[1]
        url = f"http://127.0.0.1:{port}/api"
        server = subprocess.Popen(
            [str(Path(sys.executable).parent / "venzo"), "demo", "--port", str(port), "--data", folder],
            stderr=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
        )

        def call(path: str, body: object = None) -> dict:
            data = None if body is None else json.dumps(body).encode()
            return json.load(
                urllib.request.urlopen(
                    urllib.request.Request(url + path, data, {"content-type": "application/json"}), timeout=60
                )
            )

        try:
            for _ in range(1200):
                try:
                    call("/jobs")
                    break
                except OSError:
                    time.sleep(0.1)
            library = call("/library")
            job = call(
                "/jobs",
                {
                    "name": "drag",
                    "machine": library["machine"][0]["id"],
                    "material": library["material"][0]["id"],
                },
            )["id"]
            body = (
                b'--x\r\nContent-Disposition: form-data; name="files"; filename="drag.dxf"\r\n\r\n'
                + _drawing()
                + b"\r\n"
            )
            body += (
                b"--x\r\nContent-Disposition: form-data;"
                b' name="setup"\r\n\r\nmain\r\n--x\r\nContent-Disposition: form-data;'
                b' name="units"\r\n\r\nmm\r\n--x--\r\n'
            )
            urllib.request.urlopen(
                urllib.request.Request(
                    f"{url}/jobs/{job}/drawings", body, {"content-type": "multipart/form-data; boundary=x"}
                )
            )
            plan = call(f"/jobs/{job}")
            order = {"kind": "add-order", "order": {"id": "many", "name": "many"}}
            plan = call(f"/jobs/{job}/commands", {"base": plan["revision"], "command": order})
            for p in plan["parts"]:
                many = {
                    "kind": "set-quantity",
                    "part": p["id"],
                    "order": "many",
                    "quantity": pieces // len(plan["parts"]),
                }
                plan = call(f"/jobs/{job}/commands", {"base": plan["revision"], "command": many})
            stock = {
                "id": "large",
                "name": "Large",
                "width": 2900,
                "height": 1500,
                "quantity": 1,
                "nominal": 18,
            }
            call(
                f"/jobs/{job}/commands",
                {"base": plan["revision"], "command": {"kind": "set-stock", "setup": "main", "stock": stock}},
            )
            call(f"/jobs/{job}/nest", {"setup": "main", "seconds": 6})
            while call(f"/jobs/{job}/nest?setup=main")["state"] in ("waiting", "running"):
                time.sleep(0.3)
            placed = len(call(f"/jobs/{job}")["setups"][0]["pieces"])
            with sync_playwright() as p:
                browser = p.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.goto(f"http://127.0.0.1:{port}/job/{job}/nest")
                page.wait_for_selector("[data-piece]")
                print(
                    f"{placed} pieces placed\n\n| | answers | median, ms | 95 %, ms | slowest, ms |\n| --- |"
                    " --- | --- | --- | --- |"
                )
                for what, busy in (("idle", False), ("while a nest is running", True)):
                    if busy:
                        call(f"/jobs/{job}/nest", {"setup": "main", "seconds": 60})
                        page.reload()
                        page.get_by_role("button", name="The layout in the plan").click()
                        time.sleep(3)
                    page.evaluate("performance.clearMeasures('venzo-drag')")
                    table = page.get_by_test_id("table").bounding_box()
                    spot = page.evaluate(f"""() => {{
                        const el = document.querySelectorAll('[data-piece]')[{placed // 2}];
                        const r = el.getBoundingClientRect();
                        for (let i = 1; i < 20; i++) for (let j = 1; j < 20; j++) {{
                            const x = r.x + r.width * i / 20, y = r.y + r.height * j / 20;
                            if (document.elementFromPoint(x, y) === el) return [x, y];
                        }}
                    }}""")
                    assert table and spot
                    page.mouse.move(*spot)
                    page.mouse.down()
                    for k in range(60):
                        page.mouse.move(
                            table["x"] + table["width"] * (0.2 + 0.6 * k / 60),
                            table["y"] + table["height"] * (0.35 + 0.3 * (k % 20) / 20),
                        )
                    times = sorted(
                        page.evaluate("performance.getEntriesByName('venzo-drag').map((m) => m.duration)")
                    )
                    page.mouse.up()
                    if times:
                        print(
                            f"| {what} | {len(times)} | {times[len(times) // 2]:.1f} |"
                            f" {times[int(len(times) * 0.95)]:.1f} | {times[-1]:.1f} |",
                            flush=True,
                        )
                    page.wait_for_timeout(800)
                browser.close()
        finally:
            server.kill()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 300)
