"""The application's role in the database: it owns its own tables and may do nothing else."""

from contextlib import suppress
from typing import Any

from psycopg import Connection, errors, sql

APP_ROLE = "odd_pair_app"


def ensure_role(connection: Connection[Any], password: str) -> None:
    """Make the application's role, or give it its password again; ``connection`` is that of a role that may do so."""
    known = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (APP_ROLE,)).fetchone()
    verb = "ALTER" if known else "CREATE"
    rights = "LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION NOBYPASSRLS"
    connection.execute(
        sql.SQL("{} ROLE {} WITH {} PASSWORD {}").format(
            sql.SQL(verb), sql.Identifier(APP_ROLE), sql.SQL(rights), sql.Literal(password)
        )
    )


def hand_over(connection: Connection[Any]) -> None:
    """Let the application's role own the database and what is in it: databases of earlier versions belong to another."""
    owner = connection.execute(
        "SELECT pg_get_userbyid(datdba) FROM pg_database WHERE datname = current_database()"
    ).fetchone()
    if owner and owner[0] == APP_ROLE:
        return
    name = connection.info.dbname
    with connection.transaction():
        # Sequences of identity columns follow their tables; the queue of earlier versions had others.
        for kind, catalogue, column in (
            ("TABLE", "pg_tables", "tablename"),
            ("SEQUENCE", "pg_sequences", "sequencename"),
        ):
            query = f"SELECT schemaname, {column} FROM {catalogue} WHERE schemaname IN ('public', 'queue')"
            for schema, item in connection.execute(query).fetchall():
                statement = sql.SQL("ALTER {} {} OWNER TO {}").format(
                    sql.SQL(kind), sql.Identifier(schema, item), sql.Identifier(APP_ROLE)
                )
                with suppress(errors.FeatureNotSupported), connection.transaction():
                    connection.execute(statement)
        if connection.execute("SELECT 1 FROM pg_namespace WHERE nspname = 'queue'").fetchone():
            connection.execute(sql.SQL("ALTER SCHEMA queue OWNER TO {}").format(sql.Identifier(APP_ROLE)))
        connection.execute(sql.SQL("ALTER SCHEMA public OWNER TO {}").format(sql.Identifier(APP_ROLE)))
        connection.execute(
            sql.SQL("ALTER DATABASE {} OWNER TO {}").format(sql.Identifier(name), sql.Identifier(APP_ROLE))
        )
