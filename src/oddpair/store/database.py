"""Engine, sessions and migrations."""

from pathlib import Path
from typing import Any

import orjson
import psycopg
from alembic import command
from alembic.config import Config
from sqlalchemy import URL, Engine, PoolProxiedConnection, create_engine
from sqlalchemy.orm import Session, sessionmaker

SessionFactory = sessionmaker[Session]
DriverConnection = psycopg.Connection[Any]
#: A plan made for five statements with a few ids each, and kept, would take hours for one with a hundred thousand.
_OPTIONS = "-c plan_cache_mode=force_custom_plan"


def make_engine(url: str) -> Engine:
    """Return an engine for a ``postgresql+psycopg://`` address; stale connections are noticed before use."""
    return create_engine(
        url, pool_pre_ping=True, pool_size=8, max_overflow=8, json_deserializer=orjson.loads, connect_args={"options": _OPTIONS}
    )  # fmt: skip


def make_quick_engine(url: URL) -> Engine:
    """Return an engine for single statements that are asked very often: nothing is begun or ended around them, and no connection is tried
    out before."""
    return create_engine(url, isolation_level="AUTOCOMMIT", pool_reset_on_return=None, pool_size=4, max_overflow=8)


def driver_of(pooled: PoolProxiedConnection) -> DriverConnection:
    """Return the driver's connection of a pooled one."""
    connection = pooled.driver_connection
    assert isinstance(connection, psycopg.Connection)
    return connection


def make_sessions(engine: Engine) -> SessionFactory:
    """Return a factory of sessions; objects stay readable after commit."""
    return sessionmaker(engine, expire_on_commit=False)


def migrate(url: str) -> None:
    """Bring the database to the newest schema."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = url
    command.upgrade(config, "head")
