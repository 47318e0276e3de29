"""What a test works on: a database and a folder of its own, empty or a copy of a state."""

import os
import uuid
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import Engine, QueuePool, event

from oddpair.settings import Settings
from oddpair.store.database import SessionFactory, make_engine, make_sessions

from ..waiting import until

if TYPE_CHECKING:
    from .state import State, States

_sites: dict[str, "Site"] = {}


@dataclass
class Site:
    """A database that is there when it is first asked, and a folder; ``close`` removes the database."""

    states: "States"
    folder: Path
    database: str = field(default_factory=lambda: f"test_{os.getpid()}_{uuid.uuid4().hex[:8]}")
    begun: "State | None" = None
    wanted: "State | None" = None

    def __post_init__(self) -> None:
        _sites[self.database] = self

    def begin_with(self, state: "State") -> None:
        """Say which state the site is a copy of, before anything asks its database."""
        assert self.begun is None, f"the test has begun with '{self.begun.name}' already"
        # It is made now, if it has to be: the test may put other things in the place of those that make it.
        self.states.be_made(state)
        self.wanted = state

    def be_there(self) -> None:
        """Make the database and the files, if they are not there yet."""
        if self.begun is None:
            self.begun = self.wanted or self.states.empty
            self.states.copy(self.begun, self.database, self.folder)

    @property
    def url(self) -> str:
        """Return the ``postgresql://`` address of the database."""
        self.be_there()
        return self.states.server.url(self.database)

    @cached_property
    def _engine(self) -> Engine:
        return make_engine(self.states.server.url(self.database).replace("postgresql://", "postgresql+psycopg://", 1))

    @cached_property
    def sessions(self) -> SessionFactory:
        """Return sessions on the database."""
        return make_sessions(self._engine)

    @cached_property
    def settings(self) -> Settings:
        """Return settings with the folder, where nobody signs in and no front end is built."""
        return Settings(data=self.folder, web=self.folder / "none", sign_in=False)

    def close(self) -> None:
        """Leave the database, and remove it."""
        self.leave()
        if self.begun is not None:
            self.states.drop(self.database)
        del _sites[self.database]

    def leave(self) -> None:
        """Close all connections to the database, once whoever is still at work has given theirs back."""
        if "_engine" in self.__dict__:
            pool = self._engine.pool
            assert isinstance(pool, QueuePool)
            until(lambda: pool.checkedout() == 0)
            self._engine.dispose()


@event.listens_for(Engine, "do_connect")
def _be_there(dialect: object, record: object, positional: list[Any], named: dict[str, Any]) -> None:
    """Whoever connects first, through whichever engine, finds the database."""
    if site := _sites.get(named.get("dbname", "")):
        site.be_there()
