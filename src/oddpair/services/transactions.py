"""Transactions as use cases are given them: what the database says in the middle of one becomes an error of ours."""

from collections.abc import Iterator
from contextlib import contextmanager

from psycopg import Error
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as NoConnectionFree
from sqlalchemy.orm import Session

from ..core.errors import Busy
from ..store.database import SessionFactory, make_engine, make_sessions
from ..store.faults import translated
from ..store.locks import wait_at_most

__all__ = ["Session", "SessionFactory", "sessions_of", "transaction"]


@contextmanager
def transaction(sessions: SessionFactory, *, patience_s: float = 0.0) -> Iterator[Session]:
    """Give a session whose transaction is committed at the end; raise Busy, Unavailable and so on instead of the driver's.

    With ``patience_s`` it gives up after so many seconds of waiting for what others hold.
    """
    try:
        with sessions.begin() as session:
            if patience_s:
                wait_at_most(session, patience_s)
            yield session
    except NoConnectionFree as error:
        raise Busy("All connections to the database are in use") from error
    except (DBAPIError, Error) as error:
        ours = translated(error)
        if ours is None:
            raise
        raise ours from error


def sessions_of(url: str) -> SessionFactory:
    """Return a factory of sessions on the database of a ``postgresql+psycopg://`` address."""
    return make_sessions(make_engine(url))
