"""A query against a PostgreSQL database, read only, whose rows become a CSV file that is kept like any delivered one."""

import csv
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

import psycopg
from psycopg.conninfo import conninfo_to_dict, make_conninfo

from ..core.errors import InputError
from .table import unique_headers

_CONNECT_S = 6
_TRIED_ROWS = 20
_ROWS_AT_ONCE = 5_000
_SECRET_PARTS = frozenset({"password", "sslpassword", "passfile", "service"})
_KNOWN_PARTS = frozenset({"host", "hostaddr", "port", "dbname", "user", "sslmode", "sslrootcert", "connect_timeout"})

Values = list[str]


@dataclass(frozen=True, slots=True, repr=False)
class DatabaseQuery:
    """An address (without any secret), a password, and one query. It never shows its password."""

    address: str
    sql: str
    password: str = ""

    def __repr__(self) -> str:
        return f"DatabaseQuery({self.address!r}, {self.sql!r})"


def split_address(address: str, password: str = "") -> tuple[str, str]:
    """Return (the address without its password, the password): "postgresql://user@host:port/name" or "host=… dbname=…".

    Raises InputError without repeating the address, which may hold a secret.
    """
    try:
        parts = {key: str(value) for key, value in conninfo_to_dict(address.strip()).items() if value is not None}
    except psycopg.ProgrammingError as error:
        raise InputError(
            "this is no address of a PostgreSQL database (postgresql://user@host:port/database)"
        ) from error
    found = password or parts.get("password", "")
    unknown = sorted(set(parts) - _KNOWN_PARTS - _SECRET_PARTS)
    if unknown:
        raise InputError(f"'{unknown[0]}' cannot be set here, only {', '.join(sorted(_KNOWN_PARTS))}")
    kept = {key: value for key, value in parts.items() if key in _KNOWN_PARTS}
    if not kept.get("dbname") or not (kept.get("host") or kept.get("hostaddr")):
        raise InputError("the address must name a host and a database")
    return make_conninfo("", **kept), found


@contextmanager
def _rows(query: DatabaseQuery, timeout_s: int) -> Iterator[tuple[list[str], Iterator[Values]]]:
    """Give (columns, rows as text) of a query; nothing it does can change the database."""
    options = f"-c default_transaction_read_only=on -c statement_timeout={timeout_s}s"
    try:
        with psycopg.connect(
            query.address,
            password=query.password or None,
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
        raise InputError(f"the database cannot be asked: {_said(error)}") from error
    except psycopg.Error as error:
        raise InputError(f"the query was refused: {_said(error)}") from error


def _check_single(connection: "psycopg.Connection[tuple[object, ...]]", sql: str) -> None:
    """Refuse anything but one statement: only one can be prepared, so none can hide behind it."""
    result = connection.pgconn.prepare(b"", sql.encode())
    if result.status != psycopg.pq.ExecStatus.COMMAND_OK:
        said = result.error_message.decode("utf-8", "replace")
        raise InputError(f"the query was refused: {' '.join(said.split())[:400]}")


def _said(error: psycopg.Error) -> str:
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
    with _rows(query, timeout_s=20) as (columns, rows):
        return list(unique_headers(columns, "query")), list(islice(rows, _TRIED_ROWS))


def write_query(query: DatabaseQuery, path: Path) -> int:
    """Write all rows of a query to a CSV file and return how many there are; raise InputError, leaving no file behind."""
    count = 0
    try:
        with _rows(query, timeout_s=1800) as (columns, rows), path.open("x", encoding="utf-8", newline="") as file:
            writer = csv.writer(file)
            writer.writerow(unique_headers(columns, "query"))
            for row in rows:
                writer.writerow([value.replace("\0", "") for value in row])
                count += 1
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    if not count:
        path.unlink(missing_ok=True)
        raise InputError("the query gives no rows")
    return count
