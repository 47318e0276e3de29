"""Transactions as use cases are given them: what the database says in the middle of one becomes an error of ours."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TypeVar
from weakref import finalize

from psycopg import Error, OperationalError
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as NoConnectionFree
from sqlalchemy.orm import Session

from ..core.errors import Busy, WaitsForSignOff
from ..store.database import DriverConnection, SessionFactory, driver_of, make_engine, make_quick_engine, make_sessions
from ..store.faults import translated
from ..store.locks import wait_at_most

__all__ = [
    "DriverConnection",
    "KeptInstead",
    "Session",
    "SessionFactory",
    "SingleStatements",
    "open_sessions",
    "transaction",
]
T = TypeVar("T")


class KeptInstead(WaitsForSignOff):
    """An act is given up, and what ``keep`` writes is kept in its place, in a transaction of its own; it returns the proposal's number."""

    def __init__(self, summary: str, why: str, keep: Callable[[Session], int]) -> None:
        super().__init__(summary, why)
        self.keep = keep


@contextmanager
def transaction(sessions: SessionFactory, *, patience_s: float = 0.0) -> Iterator[Session]:
    """Give a session whose transaction is committed at the end; raise Busy, Unavailable and so on instead of the driver's.

    With ``patience_s`` it gives up after so many seconds of waiting for what others hold. Where an act turns out to need a second yes, it
    is rolled back and its proposal is written instead.
    """
    with _in_our_words():
        try:
            with sessions.begin() as session:
                if patience_s:
                    wait_at_most(session, patience_s)
                yield session
        except KeptInstead as given_up:
            with sessions.begin() as session:
                if patience_s:
                    wait_at_most(session, patience_s)
                given_up.proposal_id = given_up.keep(session)
            raise


@contextmanager
def _in_our_words() -> Iterator[None]:
    try:
        yield
    except NoConnectionFree as error:
        raise Busy("All connections to the database are in use") from error
    except (DBAPIError, Error) as error:
        ours = translated(error)
        if ours is None:
            raise
        raise ours from error


class SingleStatements:
    """Connections each of whose statements is a transaction of its own, for what every request asks first: it costs one way to the
    database and back, a quarter of what a session costs."""

    def __init__(self, sessions: SessionFactory) -> None:
        self._engine = make_quick_engine(sessions.kw["bind"].url)
        # The connections are closed when nobody asks any more.
        self.close = finalize(self, self._engine.dispose)

    def ask(self, asked: Callable[[DriverConnection], T]) -> T:
        """Return what is asked over such a connection; one that went stale, as the database was started again, is replaced."""
        with _in_our_words():
            try:
                return self._asked(asked)
            except OperationalError:
                return self._asked(asked)

    def _asked(self, asked: Callable[[DriverConnection], T]) -> T:
        pooled = self._engine.raw_connection()
        try:
            return asked(driver_of(pooled))
        except OperationalError:
            pooled.invalidate()
            raise
        finally:
            pooled.close()


@contextmanager
def open_sessions(url: str) -> Iterator[SessionFactory]:
    """Give a factory of sessions on the database of a ``postgresql+psycopg://`` address; its connections are closed at the end."""
    engine = make_engine(url)
    try:
        yield make_sessions(engine)
    finally:
        engine.dispose()
