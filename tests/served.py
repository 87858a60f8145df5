"""The application as it is served, in a process of its own: for what the test client cannot tell."""

import os
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
START_S = 120


class Served:
    """`make demo` on a free port with data of its own; stopped, started again, asked."""

    def __init__(self, data):
        self.data = data
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.process = None

    @property
    def database(self):
        return self.data / "fair-reach.sqlite3"

    @property
    def log(self):
        return (self.data / "said.txt").read_text()

    def start(self):
        """Start, unless it runs already."""
        if self.process is not None:
            return
        more = {"FAIR_REACH_DATA": str(self.data), "FAIR_REACH_WORKERS": "0", "PYTHONPATH": ""}
        with (self.data / "said.txt").open("a") as said:
            self.process = subprocess.Popen(
                [sys.executable, str(ROOT / "tools/demo.py"), "--port", str(self.port)],
                env={**os.environ, **more},
                stdout=said,
                stderr=said,
            )
        until = time.monotonic() + START_S
        while True:
            try:
                socket.create_connection(("127.0.0.1", self.port), 1).close()
                return
            except OSError:
                assert self.process.poll() is None, self.log
                assert time.monotonic() < until, self.log
                time.sleep(0.05)

    def stop(self):
        if self.process is not None:
            self.process.terminate()
            self.process.wait(30)
            self.process = None

    def get(self, path, **headers):
        """Status, address in the end and text of a page, without cookies."""
        named = {name.replace("_", "-"): value for name, value in headers.items()}
        try:
            with urllib.request.urlopen(urllib.request.Request(self.url + path, headers=named)) as answer:
                return answer.status, answer.url, answer.read().decode()
        except urllib.error.HTTPError as error:
            return error.code, error.url, error.read().decode()
