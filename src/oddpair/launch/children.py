"""Child processes that are started again when they end, with a growing pause, and ended when we are told to stop."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from .privileges import application_can_be_read_by_user, as_server_user

_STOP_TIMEOUT_S = 6.0
_FIRST_PAUSE_S, _LONGEST_PAUSE_S = 0.5, 30.0
#: Who has lived so long is well again: the pause before the next start begins anew.
_WELL_AFTER_S = 60.0


@dataclass(slots=True)
class Child:
    """A Python module as a process: ``name`` is what a person is told of it."""

    name: str
    module: str
    environment: Mapping[str, str]
    log: Path
    _process: subprocess.Popen[bytes] | None = field(default=None, init=False)
    _started_at: float = field(default=0.0, init=False)
    _pause_s: float = field(default=_FIRST_PAUSE_S, init=False)
    _start_again_at: float = field(default=0.0, init=False)

    def start(self) -> None:
        """Start the process, in a session of its own so that Ctrl C reaches it through us only; it dies with us."""
        privileges = as_server_user() if application_can_be_read_by_user() else []
        with open(self.log, "ab", opener=lambda path, flags: os.open(path, flags, 0o600)) as out:
            self._process = subprocess.Popen(
                [
                    "setpriv", "--pdeathsig", "KILL", *privileges, "--",
                    sys.executable, "-m", "oddpair.launch.process", self.module,
                ],
                env=dict(self.environment), stdin=subprocess.DEVNULL, stdout=out, stderr=out, start_new_session=True,
            )  # fmt: skip
        self._started_at = time.monotonic()

    @property
    def has_ended(self) -> bool:
        """Whether the process is not there any more."""
        return self._process is not None and self._process.poll() is not None

    def watch(self, say: Callable[[str], None]) -> None:
        """Start the process again if it has ended, after a pause that grows as long as it keeps ending."""
        now = time.monotonic()
        if self._start_again_at:
            if now >= self._start_again_at:
                self._start_again_at = 0.0
                self.start()
            return
        if not self.has_ended:
            return
        assert self._process is not None
        if now - self._started_at > _WELL_AFTER_S:
            self._pause_s = _FIRST_PAUSE_S
        say(
            f"{self.name} ended unexpectedly (status {self._process.returncode}); it is started again in {self._pause_s:g} s. "
            f"The log is {self.log}"
        )
        self._start_again_at = now + self._pause_s
        self._pause_s = min(self._pause_s * 2, _LONGEST_PAUSE_S)

    def stop(self) -> None:
        """End the process: asked first, then hard."""
        process = self._process
        if process is None or process.poll() is not None:
            return
        process.send_signal(signal.SIGTERM)
        try:
            process.wait(_STOP_TIMEOUT_S)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
