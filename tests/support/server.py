"""The real command serving a folder."""

import os
import socket
import subprocess
import sys
import tempfile
import urllib.request
from pathlib import Path

from tests.support.waiting import until

ROOT = Path(__file__).parents[2]


class Server:
    """The real command serving a folder; it can be killed and started anew."""

    def __init__(self, folder: Path, **settings: str):
        self.folder, self.settings = folder, {**os.environ, **settings}
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            self.port = s.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.said = Path(tempfile.mkstemp(prefix="venzo-said-")[1])

    def up(self):
        command = [
            sys.executable,
            "-m",
            "venzo.cli",
            "serve",
            "--port",
            str(self.port),
            "--data",
            str(self.folder),
        ]
        with open(self.said, "ab") as said:
            self.process = subprocess.Popen(command, stderr=said, cwd=ROOT, env=self.settings)
        until(self.answers, 60)

    def answers(self):
        try:
            return urllib.request.urlopen(f"{self.url}/api/jobs", timeout=2).status == 200
        except OSError:
            return False

    def down(self):
        self.process.kill()
        self.process.wait()
        told = self.said.read_text(errors="replace")
        self.said.unlink()
        assert "Traceback" not in told, told[-4000:]

    def stop(self):
        """Asked to end: what is still to be written is written."""
        self.process.terminate()
        self.process.wait(30)
        self.down()

    def restart(self):
        self.down()
        self.up()
