"""Source records: pages of them, and samples."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any
from typing import cast as type_cast

from sqlalchemy import ColumnElement, Text, TextClause, and_, cast, func, select, text, tuple_
from sqlalchemy.orm import Session

from .bulk import as_array
from .counters import counters_of
from .keyset import Page, read_cursor, turned
from .maintenance import by_index
from .record_filter import Filter
from .tables import DeliveryRecord, Source, SourceRecord
from .word_search import MOST_FOUND

#: Records that count: all but those whose deliveries were taken back.
PRESENT = SourceRecord.state != "withdrawn"
#: Records of one source are counted up to this many: a person asks whether there are many, not for the last of them.
MOST_COUNTED = 20_000


@dataclass(frozen=True, slots=True)
class RecordRow:
    """A record in a list."""

    id: int
    source: str
    source_key: str
    state: str
    delivered: dict[str, Any]
    fields: dict[str, Any]
    tidy: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Asked:
    """Which records: those ``found`` by words, of a source, of a delivery, with a field like that.

    ``words`` that very many records hold are asked of each record on the way through the others.
    """

    found: tuple[int, ...] | None = None
    source: str = ""
    only: Filter | None = None
    delivery_id: int = 0
    words: str = ""


def _chosen(register_id: int, asked: Asked) -> list[ColumnElement[bool]]:
    conditions: list[ColumnElement[bool]] = [SourceRecord.register_id == register_id, PRESENT]
    if asked.found is not None:
        conditions.append(
            cast_to_condition(
                text("source_records.id = ANY(CAST(:found AS bigint[]))").bindparams(found=as_array(asked.found))
            )
        )
    if asked.words:
        holds = "EXISTS (SELECT FROM record_words w WHERE w.record_id = source_records.id AND w.words @@ CAST(:words AS tsquery))"
        conditions.append(cast_to_condition(text(holds).bindparams(words=asked.words)))
    if asked.delivery_id:
        brought = select(DeliveryRecord.record_id).where(
            DeliveryRecord.delivery_id == asked.delivery_id, DeliveryRecord.version_id.is_not(None)
        )
        conditions.append(SourceRecord.id.in_(brought))
    if asked.only:
        condition, values = asked.only.condition()
        conditions.append(cast_to_condition(text(condition).bindparams(**values)))
    return conditions


def cast_to_condition(part: TextClause) -> ColumnElement[bool]:
    """Return a part of a query written out as a condition like any other."""
    return type_cast(ColumnElement[bool], part)


def records_page(
    session: Session, register_id: int, sources: Sequence[Source], asked: Asked, *, cursor: str = "", limit: int
) -> Page[RecordRow]:
    """Return a page of records by source name and source's id."""
    back, place = read_cursor(cursor)
    if asked.found is not None:
        found = _of_found(session, register_id, asked, place, back=back, limit=limit + 1)
    else:
        found = _source_by_source(session, register_id, sources, asked, place, back=back, limit=limit + 1)
    return turned(found, limit=limit, back=back, cursor=cursor)


_Found = list[tuple[RecordRow, tuple[str, str]]]


def _row(record: SourceRecord, source: str) -> tuple[RecordRow, tuple[str, str]]:
    row = RecordRow(record.id, source, record.source_key, record.state, record.delivered, record.fields, record.tidy)
    return row, (source, record.source_key)


def _of_found(
    session: Session, register_id: int, asked: Asked, place: Sequence[str], *, back: bool, limit: int
) -> _Found:
    """Return records of those that were found by words, few enough to be put in order as a whole."""
    by = (Source.name, SourceRecord.source_key)
    query = select(SourceRecord, Source.name).join(Source, Source.id == SourceRecord.source_id)
    query = query.where(*_chosen(register_id, asked))
    if asked.source:
        query = query.where(Source.name == asked.source)
    if place:
        query = query.where(tuple_(*by) < tuple_(*place) if back else tuple_(*by) > tuple_(*place))
    order = [column.desc() for column in by] if back else list(by)
    return [_row(record, source) for record, source in session.execute(query.order_by(*order).limit(limit))]


def _source_by_source(
    session: Session,
    register_id: int,
    sources: Sequence[Source],
    asked: Asked,
    place: Sequence[str],
    *,
    back: bool,
    limit: int,
) -> _Found:
    """Return records of one source after the other, so that the index by source and id serves the order."""
    of_source = [item for item in sources if not asked.source or item.name == asked.source]
    found: _Found = []
    for item in sorted(of_source, key=lambda item: item.name, reverse=back):
        query = select(SourceRecord).where(*_chosen(register_id, asked), SourceRecord.source_id == item.id)
        if place and item.name == place[0]:
            query = query.where(SourceRecord.source_key < place[1] if back else SourceRecord.source_key > place[1])
        elif place and (item.name > place[0]) == back:
            continue
        order = SourceRecord.source_key.desc() if back else SourceRecord.source_key.asc()
        found += [
            _row(record, item.name) for record in session.scalars(query.order_by(order).limit(limit - len(found)))
        ]
        if len(found) == limit:
            break
    return found


def count_records(session: Session, register_id: int, asked: Asked, most_found: int = MOST_FOUND) -> int:
    """Return how many records are asked for; MOST_COUNTED at most of those of a source, ``most_found`` of those with words."""
    if asked == Asked():
        return counters_of(session, register_id).records
    query = select(SourceRecord.id).where(*_chosen(register_id, asked))
    if asked.source:
        own = select(Source.id).where(Source.register_id == register_id, Source.name == asked.source)
        query = query.where(SourceRecord.source_id == own.scalar_subquery())
    if asked == Asked(source=asked.source):
        query = query.limit(MOST_COUNTED)
    if asked.words:
        query = query.limit(most_found)
    with by_index(session):
        return session.scalar(select(func.count()).select_from(query.subquery())) or 0


def sample_of_tidy(
    session: Session, register_id: int, size: int
) -> tuple[int, Sequence[tuple[str, str, dict[str, Any]]]]:
    """Return (how many records a register has; source name, source key and tidy values of at most ``size`` of them).

    They are drawn at random, and the same as long as the records are.
    """
    own = and_(SourceRecord.register_id == register_id, PRESENT)
    total = counters_of(session, register_id).records
    query = (
        select(Source.name, SourceRecord.source_key, SourceRecord.tidy)
        .join(Source, Source.id == SourceRecord.source_id)
        .where(own)
        .order_by(func.md5(cast(SourceRecord.id, Text)), SourceRecord.id)
        .limit(size)
    )
    return total, [(row[0], row[1], row[2]) for row in session.execute(query)]


def some_tidy_values(session: Session, register_id: int, wanted: int) -> Iterator[tuple[int, str, dict[str, str]]]:
    """Yield (id, source, tidy values) of about so many records of a register: blocks of the table drawn at random, always the same."""
    held = counters_of(session, register_id).records
    every = session.execute(text("SELECT reltuples FROM pg_class WHERE oid = 'source_records'::regclass")).scalar_one()
    share = 100.0 if every < 20 * wanted else min(100.0, 150.0 * wanted / max(held, 1))
    query = text("""
        SELECT s.id, o.name, s.tidy FROM source_records s TABLESAMPLE SYSTEM (:share) REPEATABLE (1) JOIN sources o ON o.id = s.source_id
        WHERE s.register_id = :register_id AND s.state <> 'withdrawn' LIMIT :wanted
    """)
    for row in session.execute(query, {"share": share, "register_id": register_id, "wanted": wanted}):
        yield row[0], row[1], row[2]


def golden_key_of(session: Session, source_id: int, source_key: str) -> str | None:
    """Return the key of the golden record that a record of a source belongs to, or None."""
    query = text("""
        SELECT g.key FROM source_records s JOIN golden_members m ON m.record_id = s.id JOIN golden_records g ON g.id = m.golden_id
        WHERE s.source_id = :source_id AND s.source_key = :source_key
    """)
    key: str | None = session.scalar(query, {"source_id": source_id, "source_key": source_key})
    return key
