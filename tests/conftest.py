"""Shared fixtures: a private PostgreSQL for the whole session, and a fresh database for every test that asks for one."""

import os
import shutil
import tempfile
import uuid
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from hypothesis import HealthCheck, settings

from oddpair.launch.postgres import PrivatePostgres
from oddpair.store.database import SessionFactory, make_engine, make_sessions, migrate

settings.register_profile(
    "quick", max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True
)
settings.load_profile("quick")


def _sqlalchemy(url: str) -> str:
    return url.replace("postgresql://", "postgresql+psycopg://", 1)


@pytest.fixture(scope="session")
def postgres() -> Iterator[PrivatePostgres]:
    # The server may run as another user, who must be able to reach the folder.
    folder = Path(tempfile.mkdtemp(prefix="odd-pair-test-", dir="/var/tmp"))
    folder.chmod(0o755)
    server = PrivatePostgres(folder / "postgres", for_tests=True)
    try:
        migrate(_sqlalchemy(server.start()))
        with psycopg.connect(server.url("postgres", admin=True), autocommit=True) as connection:
            connection.execute("ALTER DATABASE oddpair RENAME TO template_oddpair")
        yield server
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def database_url(postgres: PrivatePostgres) -> Iterator[str]:
    name = f"test_{os.getpid()}_{uuid.uuid4().hex[:8]}"
    with psycopg.connect(postgres.url("postgres", admin=True), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE template_oddpair STRATEGY file_copy OWNER odd_pair_app")
        yield postgres.url(name)
        connection.execute(f"DROP DATABASE {name} WITH (FORCE)")


@pytest.fixture
def sessions(database_url: str) -> Iterator[SessionFactory]:
    engine = make_engine(_sqlalchemy(database_url))
    yield make_sessions(engine)
    engine.dispose()
