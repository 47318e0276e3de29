"""An Odd Pair started by its own command, asked over HTTP; its processes can be killed in the middle of their work."""

import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx

from oddpair.launch.postgres import free_port

HOME = "/api/registers/chandlers"
_ENDED = ("done", "failed", "cancelled")


class Stand:
    """The application in a folder of its own, started by a command (``start``, or ``demo`` with its size), asked as the browser asks it."""

    def __init__(self, folder: Path, *command: str) -> None:
        self.folder, self.port, self._command = folder, free_port(), command or ("start",)
        self.output = folder.parent / "output.txt"
        self.url = f"http://127.0.0.1:{self.port}"
        self.client = httpx.Client(base_url=self.url, timeout=30)
        self.process = self.start()

    def start(self) -> "subprocess.Popen[bytes]":
        """Start, and expect to succeed the first time."""
        self.output.write_bytes(b"")
        process = self.start_into(self.output)
        deadline = time.monotonic() + 120
        while "ready at" not in (text := self.output.read_text()):
            assert process.poll() is None, text
            assert time.monotonic() < deadline, text
            time.sleep(0.05)
        return process

    def start_into(self, output: Path) -> "subprocess.Popen[bytes]":
        """Start the command; what it says is written into a file."""
        command = [
            sys.executable,
            "-m",
            "oddpair.cli",
            *self._command,
            "--data",
            str(self.folder),
            "--port",
            str(self.port),
        ]
        environment = {**os.environ, "ODD_PAIR_SIGN_IN": "off", "ODD_PAIR_INDEX_PROCESSES": "1"}
        with output.open("ab") as out:
            return subprocess.Popen(command, stdout=out, stderr=out, stdin=subprocess.DEVNULL, env=environment)

    def stop(self) -> int:
        """Stop by Ctrl C, if it runs; return the exit status."""
        self.client.close()
        if self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
        return self.process.wait(60)

    def ask(self, method: str, path: str, **request: Any) -> Any:
        """Return the answer; while something is started again the application says so, and is asked again."""
        deadline = time.monotonic() + 90
        while True:
            with suppress(httpx.TransportError):
                answer = self.client.request(method, path, **request)
                if answer.status_code not in (500, 502, 503, 504):
                    assert answer.is_success, answer.text
                    return answer.json() if answer.content else None
                assert answer.status_code == 503, answer.text
            assert time.monotonic() < deadline, f"{method} {path} is never answered: {self.output.read_text()}"
            time.sleep(0.1)

    def end_of(self, job: dict[str, Any]) -> dict[str, Any]:
        """Wait until a job has ended; return it."""
        deadline = time.monotonic() + 120
        while (found := self.ask("GET", f"/api/jobs/{job['id']}"))["status"] not in _ENDED:
            assert time.monotonic() < deadline, found
            time.sleep(0.05)
        return found

    def command(self, *arguments: str) -> str:
        """Run a command of ours on the folder; return what it says."""
        done = subprocess.run(
            [sys.executable, "-m", "oddpair.cli", *arguments, "--data", str(self.folder)],
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        assert done.returncode == 0, done.stdout + done.stderr
        return done.stdout

    def kill(self, what: str) -> None:
        """Kill a process with a signal that it cannot catch."""
        for number in self._processes(what):
            with suppress(ProcessLookupError):
                os.kill(number, signal.SIGKILL)
        if what == "start command":
            self.process.wait()
            self.process = self.start()

    def _processes(self, what: str) -> list[int]:
        postmaster = int((self.folder / "postgres/cluster/postmaster.pid").read_text().split()[0])
        match what:
            case "start command":
                return [self.process.pid]
            case "database server":
                return [postmaster]
            case "database process":
                while not (serving := [child for child in children_of(postmaster) if "odd_pair_app" in child[1]]):
                    time.sleep(0.05)
                busy = [number for number, command in serving if "idle" not in command]
                return [random.choice(busy or [number for number, _ in serving])]
        module = {
            "worker": "oddpair.jobs.worker",
            "web": "oddpair.launch.web",
            "index": "oddpair.launch.standing_index",
        }[what]
        return [number for number, command in children_of(self.process.pid) if module in command]


def children_of(parent: int) -> Iterator[tuple[int, str]]:
    """Yield (process, command line) of the children of a process."""
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            with suppress(OSError):
                if int((entry / "stat").read_text().rpartition(")")[2].split()[1]) == parent:
                    yield int(entry.name), (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
