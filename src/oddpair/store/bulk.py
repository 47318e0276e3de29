"""Bulk transfer by COPY, inside the session's transaction."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import islice
from typing import Any, LiteralString

import numpy as np
import numpy.typing as npt
from psycopg import Connection, sql
from psycopg.types.json import Jsonb
from sqlalchemy import text
from sqlalchemy.orm import Session

#: Lines on their way out hold JSON and numbers only, in which these letters never stand, so nothing is escaped.
FIELD_END = b"\x01"
#: How the server's text format says that there is no value.
NULL = "\\N"
_OUT = f"(FORMAT csv, DELIMITER '{FIELD_END.decode()}', QUOTE '\x02')"


def raw_connection(session: Session) -> Connection[Any]:
    """Return the session's psycopg connection; what is done on it belongs to the session's transaction."""
    connection = session.connection().connection.driver_connection
    assert isinstance(connection, Connection)
    return connection


def _copy_into(table: str, columns: Sequence[str]) -> sql.Composed:
    return sql.SQL("COPY {} ({}) FROM STDIN").format(
        sql.Identifier(table), sql.SQL(", ").join(sql.Identifier(column) for column in columns)
    )


def copy_lines(session: Session, table: str, columns: Sequence[str], lines: bytes) -> None:
    """COPY rows that are in the server's text format already: tabs between values, one row a line."""
    with raw_connection(session).cursor() as cursor, cursor.copy(_copy_into(table, columns)) as copy:
        copy.write(lines)


def copy_rows(session: Session, table: str, columns: Sequence[str], rows: Iterable[Sequence[Any]]) -> int:
    """COPY rows into a table; dicts and lists go in as JSON. Returns how many rows."""
    count = 0
    with raw_connection(session).cursor() as cursor, cursor.copy(_copy_into(table, columns)) as copy:
        for row in rows:
            copy.write_row([Jsonb(value) if isinstance(value, dict | list) else value for value in row])
            count += 1
    return count


def copy_numbers(session: Session, table: str, columns: Sequence[str], numbers: Sequence[npt.NDArray[Any]]) -> None:
    """COPY columns of whole numbers into a table."""
    lines = "\n".join(map("\t".join, zip(*(map(str, column.tolist()) for column in numbers), strict=True)))
    copy_lines(session, table, columns, (lines + "\n").encode() if lines else b"")


def copy_ids(session: Session, table: str, ids: Iterable[int]) -> None:
    """Make a temporary table of ids, so that a statement can join them, however many there are."""
    session.execute(text(f"CREATE TEMPORARY TABLE IF NOT EXISTS {table} (id bigint PRIMARY KEY) ON COMMIT DROP"))
    session.execute(text(f"TRUNCATE {table}"))
    copy_lines(session, table, ("id",), "".join(f"{number}\n" for number in sorted(set(ids))).encode())
    session.execute(text(f"ANALYZE {table}"))


def copied_out(session: Session, query: str, values: Mapping[str, Any]) -> Iterator[bytes]:
    """Yield lines of a query whose columns are JSON or numbers, with FIELD_END between them; the server goes on meanwhile."""
    rest = b""
    with raw_connection(session).cursor() as cursor, cursor.copy(f"COPY ({query}) TO STDOUT {_OUT}", values) as copy:
        for block in copy:
            lines = (rest + bytes(block)).split(b"\n")
            rest = lines.pop()
            yield from lines
    if rest:
        yield rest


def as_array(ids: Iterable[int]) -> str:
    """Return ids as the server writes an array, to be cast to one; the driver would look at every number for itself."""
    return f"{{{','.join(map(str, ids))}}}"


def both_among(one: str, other: str, ids: str) -> str:
    """Return a condition: that two columns are among the ids of a parameter, however many these are.

    An index on both columns would be asked for each id with each; and ids of another width than the column would be compared one by one.
    """
    among = f"ANY(CAST(:{ids} AS bigint[]))"
    return f"{one} = {among} AND {other} + 0 = {among}"


def in_parts(lines: Iterator[bytes], at_once: int) -> Iterator[list[bytes]]:
    """Yield lines so many at a time."""
    while part := list(islice(lines, at_once)):
        yield part


def number_columns(
    session: Session, columns: Sequence[str], query: LiteralString, values: Mapping[str, Any]
) -> tuple[npt.NDArray[np.int64], ...]:
    """Return the columns of a query that gives whole numbers under the names ``columns``, as arrays in its order."""
    # Arrays in the server's binary form: a header of 20 bytes, then for each number its length in four bytes and its eight.
    element = np.dtype([("length", ">i4"), ("number", ">i8")])
    arrays = sql.SQL(", ").join(sql.SQL("array_agg({}::bigint)").format(sql.Identifier(name)) for name in columns)
    with raw_connection(session).cursor(binary=True) as cursor:
        cursor.execute(sql.SQL("SELECT {} FROM (").format(arrays) + sql.SQL(query) + sql.SQL(") numbers"), values)
        result = cursor.pgresult
        found = [result.get_value(0, place) if result else None for place in range(len(columns))]
    return tuple(
        np.frombuffer(value, dtype=element, offset=20)["number"].astype(np.int64) if value else np.zeros(0, np.int64)
        for value in found
    )
