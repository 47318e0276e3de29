"""Starts PostgreSQL, the web process and the worker, and stops them in the right order."""

import fcntl
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

from ..services.demo import demo_is_loaded, load_demo
from ..settings import Settings
from ..store.database import make_engine, make_sessions, migrate
from .postgres import LaunchError, PrivatePostgres, port_is_free

_READY_TIMEOUT_S = 60.0
_STOP_TIMEOUT_S = 6.0


def say(text: str) -> None:
    """Tell the person at the terminal what is going on."""
    print(f"odd-pair: {text}", flush=True)


class _Stop(Exception):
    """A signal asked for the end."""


def _raise_stop(number: int, frame: FrameType | None) -> None:
    raise _Stop


@contextmanager
def _only_one(folder: Path) -> Iterator[None]:
    """Hold the data folder for this process alone."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / "lock").open("a+")
    except OSError as error:
        raise LaunchError(
            f"the data folder {folder} cannot be used ({error.strerror}); choose another with --data"
        ) from error
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise LaunchError(
                f"Odd Pair is running with the data in {folder} already; stop it first or choose another --data"
            ) from error
        yield


def _start_process(module: str, environment: dict[str, str], log: Path) -> subprocess.Popen[bytes]:
    """Start a Python module in a session of its own, so that Ctrl C reaches it through us only."""
    with log.open("ab") as out:
        return subprocess.Popen(
            ["setpriv", "--pdeathsig", "KILL", "--", sys.executable, "-m", module],
            env=environment, stdin=subprocess.DEVNULL, stdout=out, stderr=out, start_new_session=True,
        )  # fmt: skip


def _stop_process(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        process.send_signal(signal.SIGTERM)
        try:
            process.wait(_STOP_TIMEOUT_S)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def _wait_for_answer(port: int, process: subprocess.Popen[bytes], log: Path) -> None:
    deadline = time.monotonic() + _READY_TIMEOUT_S
    while time.monotonic() < deadline:
        if process.poll() is not None:
            raise LaunchError(f"the web process ended; its log is {log}")
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/registers", timeout=2):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.05)
    raise LaunchError(f"the web process did not answer within {_READY_TIMEOUT_S:.0f} s; its log is {log}")


def start(settings: Settings, *, demo: bool, demo_scale: float = 1.0) -> None:
    """Run the whole application until a signal stops it; raise LaunchError with the reason if it cannot start."""
    if not port_is_free(settings.port):
        raise LaunchError(f"port {settings.port} is in use; choose another with --port, or stop what uses it")
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _raise_stop)
    folder = settings.data
    with _only_one(folder):
        settings.deliveries.mkdir(parents=True, exist_ok=True)
        postgres = PrivatePostgres(folder / "postgres", settings.database_port)
        processes: list[subprocess.Popen[bytes]] = []
        try:
            say(f"starting the database in {folder}")
            url = postgres.start()
            settings = settings.model_copy(update={"database_url": url})
            migrate(settings.sqlalchemy_url)
            if demo:
                _load_demo(settings, demo_scale)
            environment = _environment(settings)
            log = folder / "odd-pair.log"
            processes.append(_start_process("oddpair.launch.web", environment, log))
            processes.append(_start_process("oddpair.jobs.worker", environment, log))
            _wait_for_answer(settings.port, processes[0], log)
            say(f"ready at http://127.0.0.1:{settings.port}  (Ctrl C stops it)")
            _watch(processes, log)
        except _Stop:
            say("stopping")
        finally:
            for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
                signal.signal(number, signal.SIG_IGN)
            for process in processes:
                _stop_process(process)
            postgres.stop()


def _watch(processes: list[subprocess.Popen[bytes]], log: Path) -> None:
    while True:
        time.sleep(0.5)
        for process in processes:
            if process.poll() is not None:
                raise LaunchError(
                    f"a process of Odd Pair ended unexpectedly (status {process.returncode}); the log is {log}"
                )


def _environment(settings: Settings) -> dict[str, str]:
    return {
        **os.environ,
        "ODD_PAIR_DATA": str(settings.data),
        "ODD_PAIR_PORT": str(settings.port),
        "ODD_PAIR_DATABASE_URL": settings.database_url,
    }


def _load_demo(settings: Settings, scale: float) -> None:
    engine = make_engine(settings.sqlalchemy_url)
    try:
        sessions = make_sessions(engine)
        if not demo_is_loaded(sessions):
            say("making and loading the demo data of the Kittiwake Chandlery Group (about 20 s, once)")
            load_demo(sessions, settings.data / "demo", settings.deliveries, say, scale)
    finally:
        engine.dispose()


@contextmanager
def database_of(settings: Settings) -> Iterator[str]:
    """Give the address of the database of a data folder, started for the while if Odd Pair is not running."""
    folder = settings.data / "postgres"
    if not (folder / "password").exists():
        raise LaunchError(
            f"there is no Odd Pair database in {settings.data}; start Odd Pair once, or name its folder with --data"
        )
    postgres = PrivatePostgres(folder)
    running = postgres.running_port()
    if running:
        postgres.port = running
        url = postgres.url("oddpair")
    else:
        url = postgres.start()
    try:
        yield url.replace("postgresql://", "postgresql+psycopg://", 1)
    finally:
        postgres.stop()
