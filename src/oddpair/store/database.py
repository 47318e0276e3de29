"""Engine, sessions and migrations."""

from pathlib import Path

import orjson
from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session, sessionmaker

SessionFactory = sessionmaker[Session]
#: A plan made for five statements with a few ids each, and kept, would take hours for one with a hundred thousand.
_OPTIONS = "-c plan_cache_mode=force_custom_plan"


def make_engine(url: str) -> Engine:
    """Return an engine for a ``postgresql+psycopg://`` address; stale connections are noticed before use."""
    return create_engine(
        url, pool_pre_ping=True, pool_size=8, max_overflow=8, json_deserializer=orjson.loads, connect_args={"options": _OPTIONS}
    )  # fmt: skip


def make_sessions(engine: Engine) -> SessionFactory:
    """Return a factory of sessions; objects stay readable after commit."""
    return sessionmaker(engine, expire_on_commit=False)


def migrate(url: str) -> None:
    """Bring the database to the newest schema."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = url
    command.upgrade(config, "head")
