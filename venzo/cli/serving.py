"""Commands that start Venzo for a browser, and what installing runs."""

from __future__ import annotations

import sys
import threading
from pathlib import Path

from venzo.cli.shared import Data, app, folder_of
from venzo.core.snags import BadInput


@app.command()
def serve(host: str = "127.0.0.1", port: int = 8321, data: Data = None) -> None:
    """Start Venzo on this machine without demo data."""
    _serve(host, port, folder_of(data), False)


@app.command()
def demo(host: str = "127.0.0.1", port: int = 8321, data: Data = None) -> None:
    """Start Venzo with the demo shop, Marram Works."""
    _serve(host, port, folder_of(data, "demo"), True)


@app.command()
def warm() -> None:
    """Compile the hot kernels into their cache, so that the first nest starts at once (run at install)."""
    from venzo.work.warm import compile_kernels

    compile_kernels()


def _serve(host: str, port: int, folder: Path, with_demo: bool) -> None:
    if host not in ("127.0.0.1", "localhost", "::1"):
        raise BadInput(
            f"--host {host}: another host is served only with accounts set up, which this version does not"
            " have; use 127.0.0.1"
        )
    if not 1 <= port <= 65535:
        raise BadInput(f"--port {port}: use a port from 1 to 65535")
    import socket

    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host if host != "localhost" else "127.0.0.1", port))
        except OSError as e:
            raise BadInput(f"port {port} is taken by another program; choose one with --port") from e
    import uvicorn

    from venzo.api.app import make_app
    from venzo.core.memo import keep_with
    from venzo.store.derived import Derived
    from venzo.store.folder import UNUSED, hold_folder
    from venzo.store.store import Store

    store = Store(folder)
    held = hold_folder(folder)
    derived = Derived(folder)
    keep_with(derived)
    if with_demo:
        from venzo.demo.seed import seed

        if not store.jobs():
            print("Setting up the demo shop ...", file=sys.stderr)
        seed(store)
    elif not store.library("machine"):
        print("A new shop: the first page asks for your machine and what you cut.", file=sys.stderr)
    threading.Thread(target=lambda: (store.name_jobs(), store.collect(UNUSED)), daemon=True).start()
    print(f"Venzo is at http://{host}:{port}  (data in {folder}; stop with Ctrl-C)", file=sys.stderr)
    uvicorn.run(
        make_app(store, f"{host}:{port}"),
        host=host,
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=2,  # screens that hear of changes stay connected until then
    )
    keep_with(None)
    derived.close()
    held.close()
