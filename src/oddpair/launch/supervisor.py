"""Starts PostgreSQL, the web process, the worker, the plan bench and the standing index, and stops them in the right order."""

import fcntl
import os
import signal
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from types import FrameType

import psycopg

from ..services.demo import demo_is_loaded, load_demo
from ..services.people.accounts import link_at, link_for_first
from ..services.transactions import open_sessions, transaction
from ..settings import Settings
from ..store.database import migrate
from .children import Child
from .postgres import PrivatePostgres, port_is_free
from .privileges import LaunchError, application_can_be_read_by_user, give_to_server_user, server_user

#: What the last start left is waited for so long: a killed web process keeps its port for a moment.
_LEFT_TIMEOUT_S = 15.0
_READY_TIMEOUT_S, _ASK_TIMEOUT_S, _SAY_AFTER_S = 180.0, 5.0, 10.0


def say(text: str) -> None:
    """Tell the person at the terminal what is going on."""
    print(f"odd-pair: {text}", flush=True)


class _Stop(Exception):
    """A signal asked for the end."""


def _raise_stop(number: int, frame: FrameType | None) -> None:
    raise _Stop


def _wait_for(free: Callable[[], bool], what: str, most_s: float) -> bool:
    """Wait a while until something that the last start may have left is free, and say what for."""
    deadline, announced = time.monotonic() + most_s, False
    while not free():
        if time.monotonic() > deadline:
            return False
        if not announced:
            say(f"waiting for {what}, which the last start may have left")
            announced = True
        time.sleep(0.1)
    return True


@contextmanager
def only_one(folder: Path) -> Iterator[None]:
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


def _own_folders(settings: Settings) -> None:
    """Make the folders of delivered files, secrets and the log, which nobody but their owner may read."""
    settings.data.chmod(0o755 if server_user() else 0o700)
    for folder in (settings.deliveries, settings.kept, settings.bench_socket.parent, settings.data / "secrets"):
        folder.mkdir(mode=0o700, exist_ok=True)
        if application_can_be_read_by_user():
            for path in (folder, *folder.rglob("*")):
                give_to_server_user(path)
        for path in folder.rglob("*"):
            path.chmod(0o700 if path.is_dir() else 0o600)
        folder.chmod(0o700)
    for folder in (settings.incoming, settings.outgoing):
        # Other programs put files in and fetch them: who may, the folder's rights say, which are left as they are.
        if not folder.exists():
            folder.mkdir(mode=0o750, parents=True)
        if application_can_be_read_by_user() and settings.data in folder.parents:
            for path in (folder, *(path for path in folder.rglob("*") if path.is_dir())):
                give_to_server_user(path)
    log = settings.data / "odd-pair.log"
    log.touch(mode=0o600)
    log.chmod(0o600)
    cache = os.environ.get("NUMBA_CACHE_DIR")
    if cache and server_user() and application_can_be_read_by_user() and Path(cache).is_dir():
        for path in (Path(cache), *Path(cache).rglob("*")):
            give_to_server_user(path)


def _wait_for_answer(port: int, web: Child) -> None:
    """Wait until the web process and its database answer; what they need is not more than a line."""
    began, announced = time.monotonic(), False
    while time.monotonic() < began + _READY_TIMEOUT_S:
        if web.has_ended:
            raise LaunchError(f"the web process ended; its log is {web.log}")
        address = f"http://127.0.0.1:{port}/api/health"
        with suppress(urllib.error.URLError, OSError), urllib.request.urlopen(address, timeout=_ASK_TIMEOUT_S):
            return
        if not announced and time.monotonic() > began + _SAY_AFTER_S:
            say("waiting for the web process to answer")
            announced = True
        time.sleep(0.05)
    raise LaunchError(f"the web process did not answer within {_READY_TIMEOUT_S:.0f} s; its log is {web.log}")


def start(settings: Settings, *, demo: bool, demo_scale: float = 1.0, wait_for_port_s: float = _LEFT_TIMEOUT_S) -> None:
    """Run the whole application until a signal stops it; raise LaunchError with the reason if it cannot start.

    A port in use is waited for, as a web process that was killed keeps it for a moment.
    """
    if not _wait_for(lambda: port_is_free(settings.port), f"port {settings.port}", wait_for_port_s):
        raise LaunchError(f"port {settings.port} is in use; choose another with --port, or stop what uses it")
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _raise_stop)
    folder = settings.data
    with only_one(folder):
        _own_folders(settings)
        postgres = PrivatePostgres(folder / "postgres", settings.database_port)
        children: list[Child] = []
        try:
            say(f"starting the database in {folder}")
            url = postgres.start(say)
            settings = settings.model_copy(update={"database_url": url})
            migrate(settings.sqlalchemy_url)
            if demo:
                _load_demo(settings, demo_scale)
                _own_folders(settings)
            if not application_can_be_read_by_user():
                say("the program lies where only root may read it, so its web process runs as root")
            environment, log = _environment(settings), folder / "odd-pair.log"
            web = Child("the web process", "oddpair.launch.web", environment, log)
            worker = Child("the worker", "oddpair.jobs.worker", environment, log)
            bench = Child("the bench", "oddpair.launch.bench", environment, log)
            index = Child("the standing index", "oddpair.launch.standing_index", environment, log)
            children += [web, worker, bench, index]
            web.start()
            worker.start()
            # A person waits for the pages; without the bench they say so, and without the index they look by themselves.
            _wait_for_answer(settings.port, web)
            bench.start()
            index.start()
            say(f"ready at {settings.own_address}  (Ctrl C stops it)")
            _say_who_signs_in(settings, demo=demo)
            _watch(postgres, children)
        except _Stop:
            say("stopping")
        finally:
            for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
                signal.signal(number, signal.SIG_IGN)
            for child in children:
                child.stop()
            postgres.stop()


def _watch(postgres: PrivatePostgres, children: list[Child]) -> None:
    """Start again whatever ends; the database at its old port, where web and worker find it again by themselves."""
    pause_s = 1.0
    while True:
        time.sleep(0.3)
        if postgres.has_ended():
            say(f"the database ended unexpectedly; it is started again. Its log is {postgres.log}")
            try:
                postgres.start(say)
                say("the database is there again")
                pause_s = 1.0
            except (LaunchError, psycopg.Error, OSError) as error:
                # Whatever is in the way, a full disk say, may be gone the next time.
                say(f"{error}; tried again in {pause_s:g} s")
                time.sleep(pause_s)
                pause_s = min(pause_s * 2, 60.0)
        for child in children:
            child.watch(say)


def _environment(settings: Settings) -> dict[str, str]:
    return {
        **os.environ,
        "HOME": "/tmp" if server_user() and application_can_be_read_by_user() else os.environ.get("HOME", "/tmp"),
        "ODD_PAIR_DATA": str(settings.data),
        "ODD_PAIR_PORT": str(settings.port),
        "ODD_PAIR_DATABASE_URL": settings.database_url,
    }


def _say_who_signs_in(settings: Settings, *, demo: bool) -> None:
    """Tell by which link the first account is made; where the demo's people are, that they need no password."""
    if not settings.sign_in:
        say("nobody signs in: whoever uses this machine may do everything")
        return
    with open_sessions(settings.sqlalchemy_url) as sessions, transaction(sessions) as session:
        secret = link_for_first(session)
    if secret:
        say(f"make the first account, once, within three days: {link_at(settings.own_address, secret)}")
    elif demo and not settings.beyond_loopback:
        say("the demo's made-up people sign in without a password, on this machine only")


def _load_demo(settings: Settings, scale: float) -> None:
    with open_sessions(settings.sqlalchemy_url) as sessions:
        if not demo_is_loaded(sessions):
            say("making and loading the demo data of the Kittiwake Chandlery Group (about 20 s, once)")
            load_demo(sessions, settings.data / "demo", settings.deliveries, say, scale)


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
        migrate(url.replace("postgresql://", "postgresql+psycopg://", 1))
    try:
        yield url.replace("postgresql://", "postgresql+psycopg://", 1)
    finally:
        postgres.stop()
