"""What the database says reaches people in words of ours, wherever it comes from."""

import re
from pathlib import Path

import psycopg
import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from oddpair.core.errors import Busy, Conflict, OddPairError, OutOfSpace, Refused, Unavailable
from oddpair.services.transactions import transaction
from oddpair.store.database import SessionFactory
from oddpair.store.faults import translated

SOURCE = Path(__file__).parents[2] / "src" / "oddpair"
#: Classes of SQLSTATE that only a fault in the program brings about: they stay what they are, and the log tells them.
FAULTS_OF_OURS = {
    "00", "01", "02", "03", "09", "0A", "0B", "0F", "0L", "0P", "0Z", "10", "20", "21", "23", "24", "25", "26", "27", "28", "2B", "2D",
    "2F", "34", "38", "39", "3B", "3D", "3F", "40", "42", "44", "55", "57", "58", "72", "F0", "HV", "P0", "XX",
}  # fmt: skip


def states() -> list[type[psycopg.Error]]:
    found = [
        item for item in vars(psycopg.errors).values() if isinstance(item, type) and issubclass(item, psycopg.Error)
    ]
    return sorted({item for item in found if getattr(item, "sqlstate", None)}, key=lambda item: str(item.sqlstate))


def test_every_error_of_the_database_is_mapped_or_known_to_be_a_fault_of_ours() -> None:
    kinds = {str(kind.sqlstate): translated(kind()) for kind in states()}
    assert len(kinds) > 200
    unmapped = {state for state, ours in kinds.items() if ours is None and state[:2] not in FAULTS_OF_OURS}
    assert unmapped == set()
    expected = {
        "40P01": Busy, "55P03": Busy, "57014": Busy, "40001": Busy, "53300": Busy, "23505": Conflict, "23503": Conflict,
        "53100": OutOfSpace, "57P01": Unavailable, "57P02": Unavailable, "57P03": Unavailable, "08006": Unavailable,
        "54000": Refused, "54011": Refused, "22P02": Refused, "22021": Refused,
    }  # fmt: skip
    assert {state: type(kinds[state]) for state in expected} == expected
    assert isinstance(translated(psycopg.OperationalError("server closed the connection unexpectedly")), Unavailable)


def test_no_use_case_opens_a_transaction_that_lets_errors_of_the_driver_through() -> None:
    opening = re.compile(r"sessions\.begin\(|with sessions\(\)")
    found = {
        str(path.relative_to(SOURCE))
        for folder in ("services", "api", "jobs")
        for path in (SOURCE / folder).rglob("*.py")
        if opening.search(path.read_text(encoding="utf-8"))
    }
    assert found == {"services/transactions.py"}


@pytest.mark.parametrize(
    ("statement", "ours"),
    [
        ("SELECT pg_terminate_backend(pg_backend_pid())", Unavailable),
        ("SET LOCAL statement_timeout = 20; SELECT pg_sleep(5)", Busy),
        ("SELECT 'x'::int", Refused),
        ("INSERT INTO jobs (kind, register_id, title, arguments) VALUES ('run', 999, 'Run', '{}')", Conflict),
    ],
)
def test_errors_in_the_middle_of_a_transaction_become_ours(
    sessions: SessionFactory, statement: str, ours: type[OddPairError]
) -> None:
    def make_it_happen() -> None:
        with transaction(sessions) as session:
            for part in statement.split(";"):
                session.execute(text(part))

    with pytest.raises(ours):
        make_it_happen()
    with transaction(sessions) as session:
        assert session.scalar(text("SELECT 1")) == 1


def test_a_fault_of_ours_is_not_hidden(sessions: SessionFactory) -> None:
    with pytest.raises(DBAPIError, match="nowhere"), transaction(sessions) as session:
        session.execute(text("SELECT * FROM nowhere"))
