"""A query against a PostgreSQL database, read only, whose rows become a CSV file that is kept like any delivered one."""

import csv
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

import psycopg

from ..core.errors import InputError
from .database_address import checked_address
from .table import unique_headers

_CONNECT_S = 6
_TRIED_ROWS, _TRIED_S = 20, 5
_ROWS_AT_ONCE = 1_000
_NO_PASSFILE = "/nonexistent/passwords"
#: Given where there is no password: the server must not fall back to the passwords of the user it runs as.
_NO_PASSWORD = "none"

Values = list[str]


@dataclass(frozen=True, slots=True, repr=False)
class DatabaseQuery:
    """An address (without any secret), a password, one query, and which private hosts may be asked. It never shows its
    password; the query should be asked as a user who may only read."""

    address: str
    sql: str
    password: str = ""
    allowed_hosts: tuple[str, ...] = ()

    def __repr__(self) -> str:
        return f"DatabaseQuery({self.address!r}, {self.sql!r})"


@contextmanager
def _rows(query: DatabaseQuery, timeout_s: int) -> Iterator[tuple[list[str], Iterator[Values]]]:
    """Give (columns, rows as text) of a query; nothing it does can change the database."""
    options = f"-c default_transaction_read_only=on -c statement_timeout={timeout_s}s"
    try:
        with psycopg.connect(
            checked_address(query.address, query.allowed_hosts),
            password=query.password or _NO_PASSWORD,
            passfile=_NO_PASSFILE,
            gssencmode="disable",
            connect_timeout=_CONNECT_S,
            options=options,
            application_name="odd-pair",
        ) as connection:
            _check_single(connection, query.sql)
            connection.read_only = True
            connection.execute(b"DECLARE rows NO SCROLL CURSOR FOR " + query.sql.strip().rstrip(";").encode())
            first = connection.execute(f"FETCH FORWARD {_ROWS_AT_ONCE} FROM rows")
            columns = [item.name for item in first.description or ()]
            yield columns, _fetched(connection, first)
            connection.rollback()
    except psycopg.OperationalError as error:
        raise InputError(f"the database cannot be asked: {_message_of(error)}") from error
    except psycopg.Error as error:
        raise InputError(f"the query was refused: {_message_of(error)}") from error


def _check_single(connection: "psycopg.Connection[tuple[object, ...]]", sql: str) -> None:
    """Refuse anything but one statement: only one can be prepared, so none can hide behind it."""
    result = connection.pgconn.prepare(b"", sql.encode())
    if result.status != psycopg.pq.ExecStatus.COMMAND_OK:
        message = result.error_message.decode("utf-8", "replace")
        raise InputError(f"the query was refused: {' '.join(message.split())[:400]}")


def _message_of(error: psycopg.Error) -> str:
    return " ".join((error.diag.message_primary or str(error)).split())[:400]


def _fetched(
    connection: "psycopg.Connection[tuple[object, ...]]", cursor: "psycopg.Cursor[tuple[object, ...]]"
) -> Iterator[Values]:
    while (result := cursor.pgresult) is not None and result.ntuples:
        for row in range(result.ntuples):
            # Every value in the database's own text form, as it would stand in a file.
            yield [
                (result.get_value(row, column) or b"").decode("utf-8", "replace") for column in range(result.nfields)
            ]
        cursor = connection.execute(f"FETCH FORWARD {_ROWS_AT_ONCE} FROM rows")


def try_query(query: DatabaseQuery) -> tuple[list[str], list[Values]]:
    """Return the columns and the first rows of a query; raise InputError if it cannot be run."""
    with _rows(query, timeout_s=_TRIED_S) as (columns, rows):
        return list(unique_headers(columns, "query")), list(islice(rows, _TRIED_ROWS))


def write_query(query: DatabaseQuery, path: Path, most_bytes: int) -> int:
    """Write all rows of a query to a CSV file and return how many there are; raise InputError, leaving no file behind.

    No more than ``most_bytes`` are written: a query that gives more is refused, as a larger file would be.
    """
    count = written = 0
    try:
        with _rows(query, timeout_s=1800) as (columns, rows), path.open("x", encoding="utf-8", newline="") as file:
            writer = csv.writer(file)
            writer.writerow(unique_headers(columns, "query"))
            for row in rows:
                written += sum(map(len, row)) + len(row)
                if written > most_bytes:
                    raise InputError(f"the query gives more than {most_bytes} letters, the most that can be brought in")
                writer.writerow([value.replace("\0", "") for value in row])
                count += 1
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    if not count:
        path.unlink(missing_ok=True)
        raise InputError("the query gives no rows")
    return count
