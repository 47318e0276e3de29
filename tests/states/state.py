"""States: a database and files, made once per version of the code that makes them, and copied for each test.

In a session a state is a database of the server that others are made from (``CREATE DATABASE ... TEMPLATE``), which takes some ten
milliseconds. For the next session it is kept as a dump, under a hash of everything that has a part in making it.
"""

import fcntl
import inspect
import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache, cached_property
from hashlib import sha256
from pathlib import Path

import psycopg

from oddpair.launch.postgres import PrivatePostgres, program
from oddpair.launch.roles import APP_ROLE
from oddpair.store.database import migrate

from .server import as_admin
from .site import Site

_TESTS = Path(__file__).parents[1]
_SOURCES = _TESTS.parent / "src" / "oddpair"
#: What has a part in what a state holds.
_ROOMS = ("core", "files", "store", "demo", "services", "jobs", "api", "settings.py")
KEPT = _TESTS.parent / ".cache" / "test-states"


@dataclass(frozen=True)
class State:
    """What ``make`` makes of a copy of the state before; it may work on the site's database and folder only."""

    make: Callable[[Site], None]
    after: "State | None"

    @property
    def name(self) -> str:
        """Return a name that no other state has."""
        module = self.make.__module__.removeprefix("tests.").replace(".", "_")
        return f"{module}_{self.make.__name__}".lower()

    @cached_property
    def key(self) -> str:
        """Return a hash of everything that has a part in making the state."""
        file = Path(inspect.getsourcefile(inspect.unwrap(self.make)) or "")
        before = self.after.key if self.after else ""
        return sha256(f"{before} {_hash_of_product()} {file.read_text()}".encode()).hexdigest()[:16]


def state(*, after: State | None = None) -> Callable[[Callable[[Site], None]], State]:
    """Make a function that prepares a site a state, on top of another one or of an empty database."""
    return lambda make: State(make, after or empty)


def _migrated(site: Site) -> None:
    migrate(site.sessions.kw["bind"].url.render_as_string(hide_password=False))


empty = State(_migrated, None)


@cache
def _hash_of_product() -> str:
    found = sha256()
    for room in (*(_SOURCES / name for name in _ROOMS), _TESTS / "states"):
        for path in sorted(room.rglob("*")) if room.is_dir() else [room]:
            if path.is_file() and path.suffix != ".pyc":
                found.update(path.read_bytes())
    return found.hexdigest()


class States:
    """Hands out copies of states of a server that test processes share."""

    empty = empty

    def __init__(self, server: PrivatePostgres, kept: Path = KEPT) -> None:
        self.server, self._kept = server, kept
        self._there: set[str] = set()

    def copy(self, state: State, database: str, folder: Path) -> None:
        """Make a database that is a copy of the state's, and put copies of its files into the folder."""
        self.be_made(state)
        self._clone(_template(state), database)
        files = self._files(state)
        if files.is_dir():
            shutil.copytree(files, folder, dirs_exist_ok=True)

    def put(self, state: State, server: PrivatePostgres, folder: Path) -> None:
        """Put a copy of the state into the database ``oddpair`` of another server, which is empty, and its files into the folder."""
        self.be_made(state)
        self._run("pg_restore", "--exit-on-error", f"--dbname={server.url('oddpair')}", str(self._dump(state)))
        shutil.copytree(self._files(state), folder, dirs_exist_ok=True)

    def drop(self, database: str) -> None:
        """Remove a copy."""
        as_admin(self.server, f"DROP DATABASE IF EXISTS {database} WITH (FORCE)")

    def _clone(self, template: str, database: str) -> None:
        as_admin(self.server, f"CREATE DATABASE {database} TEMPLATE {template} STRATEGY file_copy OWNER {APP_ROLE}")

    def be_made(self, state: State) -> None:
        """Make, or take out of what is kept, the database that copies are made from; one process does it for all."""
        if state.name in self._there:
            return
        with self._alone_with(state):
            if not self._is_there(_template(state)):
                if not self._dump(state).exists():
                    self._make(state)
                else:
                    self._take_out(state)
        self._there.add(state.name)

    def _make(self, state: State) -> None:
        folder = self._files(state)
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        if state.after:
            site = Site(self, folder)
            site.begin_with(state.after)
            site.be_there()
        else:
            site = Site(self, folder, begun=state)
            as_admin(self.server, f"CREATE DATABASE {site.database} OWNER {APP_ROLE}")
        state.make(site)
        site.leave()
        dump = self._dump(state)
        aside = dump.with_suffix(".being-made")
        self._run("pg_dump", "--format=custom", "--compress=1", f"--file={aside}", self.server.url(site.database))
        aside.rename(dump)
        self._rename(site.database, state)
        self._forget_others(state)

    def _take_out(self, state: State) -> None:
        database = f"taken_out_{os.getpid()}"
        as_admin(self.server, f"CREATE DATABASE {database} OWNER {APP_ROLE}")
        self._run("pg_restore", "--exit-on-error", f"--dbname={self.server.url(database)}", str(self._dump(state)))
        self._rename(database, state)

    def _rename(self, database: str, state: State) -> None:
        """Make a database the one that copies are made from; nobody stays connected to it."""
        as_admin(
            self.server,
            f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{database}'",
            f"ALTER DATABASE {database} RENAME TO {_template(state)}",
            f"ALTER DATABASE {_template(state)} ALLOW_CONNECTIONS false",
        )

    def _forget_others(self, state: State) -> None:
        """Remove what is kept of the state as other code made it."""
        for path in self._kept.glob(f"{state.name}-*"):
            if state.key not in path.name:
                shutil.rmtree(path) if path.is_dir() else path.unlink()

    def _is_there(self, database: str) -> bool:
        with psycopg.connect(self.server.url("postgres", admin=True), autocommit=True) as connection:
            return bool(connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [database]).fetchone())

    @contextmanager
    def _alone_with(self, state: State) -> Iterator[None]:
        """Let one process at a time make a state."""
        self._kept.mkdir(parents=True, exist_ok=True)
        with (self._kept / f"{state.name}.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    def _dump(self, state: State) -> Path:
        return self._kept / f"{state.name}-{state.key}.dump"

    def _files(self, state: State) -> Path:
        return self._kept / f"{state.name}-{state.key}.files"

    def _run(self, name: str, *arguments: str) -> None:
        done = subprocess.run([program(name), *arguments], capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr


def _template(state: State) -> str:
    return f"template_{state.name}"[:60]
