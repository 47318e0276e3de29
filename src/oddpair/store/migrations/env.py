"""Alembic's environment: only the application's own schema is looked at; the queue's tables live in another."""

from alembic import context
from sqlalchemy import create_engine, pool

from oddpair.store.tables import Base


def _include_name(name: str | None, type_: str, _parents: object) -> bool:
    return type_ != "schema" or name is None


def _run() -> None:
    url = context.config.attributes.get("url") or context.config.get_main_option("sqlalchemy.url")
    engine = create_engine(str(url), poolclass=pool.NullPool)
    with engine.connect() as connection:
        context.configure(
            connection=connection,
            target_metadata=Base.metadata,
            include_schemas=True,
            include_name=_include_name,
            compare_type=True,
        )
        with context.begin_transaction():
            context.run_migrations()


_run()
