"""All that is kept of some records: found, and erased. The records are in the temporary table ``forgotten``, the golden records that they
belong or ever belonged to in ``forgotten_golden``."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copy_ids
from .loading import ERASED_DIGEST

#: Acts of the journal that say nothing of what a record holds.
_SILENT = ("merge", "load", "run", "recognise", "take back", "put back", "plan", "policy", "forget")
_ABOUT = f"""
    SELECT j.id FROM journal j WHERE j.personal IS NOT NULL AND j.kind <> ALL(ARRAY{list(_SILENT)})
        AND j.data->>'act' IS DISTINCT FROM 'forget' AND j.id IN (
        SELECT journal_id FROM journal_touches t JOIN forgotten f ON t.what = 'record' AND t.touched = f.id
        UNION SELECT journal_id FROM journal_touches t JOIN forgotten_golden g ON t.what = 'golden' AND t.touched = g.id
        UNION SELECT journal_id FROM decisions d JOIN forgotten f ON f.id = d.left_id
        UNION SELECT journal_id FROM decisions d JOIN forgotten f ON f.id = d.right_id
        UNION SELECT g.journal_id FROM group_decisions g JOIN group_members m ON m.group_id = g.id JOIN forgotten f ON f.id = m.record_id
    )
"""


def choose(session: Session, record_ids: Iterable[int]) -> list[int]:
    """Put records, and the golden records that they belong or ever belonged to, into the temporary tables; return the latter."""
    copy_ids(session, "forgotten", record_ids)
    golden = session.scalars(
        text("""
            SELECT golden_id FROM golden_members m JOIN forgotten f ON f.id = m.record_id
            UNION SELECT from_golden FROM moves m JOIN forgotten f ON f.id = m.record_id WHERE from_golden IS NOT NULL
            UNION SELECT to_golden FROM moves m JOIN forgotten f ON f.id = m.record_id WHERE to_golden IS NOT NULL ORDER BY 1
        """)
    ).all()
    copy_ids(session, "forgotten_golden", golden)
    return list(golden)


def spellings(session: Session) -> list[Mapping[str, str]]:
    """Return every version of the records' values, as delivered and mapped and as corrected."""
    rows = session.scalars(
        text("""
            SELECT v.fields FROM record_versions v JOIN forgotten f ON f.id = v.record_id
            UNION SELECT s.fields FROM source_records s JOIN forgotten f ON f.id = s.id
        """)
    )
    return [dict(row) for row in rows]


def counts(session: Session) -> dict[str, int]:
    """Return how many rows of each kind hold values of the records."""
    queries = {
        "record versions": "SELECT count(*) FROM record_versions v JOIN forgotten f ON f.id = v.record_id",
        "corrections": "SELECT count(*) FROM corrections c JOIN forgotten f ON f.id = c.record_id",
        "golden records": "SELECT count(*) FROM forgotten_golden",
        "earlier golden values": "SELECT count(*) FROM golden_versions v JOIN forgotten_golden g ON g.id = v.golden_id",
        "pins": "SELECT count(*) FROM pins p JOIN forgotten_golden g ON g.id = p.golden_id",
        "decisions": "SELECT count(*) FROM decisions WHERE left_id IN (SELECT id FROM forgotten) OR right_id IN (SELECT id FROM forgotten)",
        "decisions about groups": "SELECT count(DISTINCT group_id) FROM group_members m JOIN forgotten f ON f.id = m.record_id",
    }
    return {what: session.scalar(text(query)) or 0 for what, query in queries.items()}


@dataclass(frozen=True, slots=True)
class Place:
    """Where texts are looked into: ``query`` gives (id, text) of those of a register that hold one of some patterns."""

    what: str
    query: str


_HOLDS = "lower({0}) LIKE ANY(:patterns)"
PLACES = (
    Place("entries of the journal", f"""
        SELECT id, personal::text FROM journal WHERE chain = :register_id AND personal IS NOT NULL
            AND kind <> ALL(ARRAY{list(_SILENT)}) AND {_HOLDS.format("personal::text")}"""),
    Place("rejected rows", f"""
        SELECT r.id, coalesce(r.cells::text, '') || ' ' || r.value || ' ' || r.reason FROM rejected_rows r
        JOIN deliveries d ON d.id = r.delivery_id JOIN sources s ON s.id = d.source_id
        WHERE s.register_id = :register_id AND {_HOLDS.format("coalesce(r.cells::text, '') || ' ' || r.value || ' ' || r.reason")}"""),
    Place("entered records", f"""
        SELECT id, values::text || ' ' || reason FROM entries WHERE register_id = :register_id
            AND {_HOLDS.format("values::text || ' ' || reason")}"""),
    Place("rows of counterpart lists", f"""
        SELECT c.list_id * 10000000000 + c.row, c.cells::text FROM counterpart_rows c JOIN counterpart_lists l ON l.id = c.list_id
        WHERE l.register_id = :register_id AND {_HOLDS.format("c.cells::text")}"""),
    Place("proposals", f"""
        SELECT id, summary || ' ' || shows::text || ' ' || arguments::text FROM proposals
        WHERE register_id = :register_id AND {_HOLDS.format("summary || ' ' || shows::text || ' ' || arguments::text")}"""),
)  # fmt: skip


def texts_with(
    session: Session, place: Place, register_id: int, patterns: Collection[str]
) -> Iterator[tuple[int, str]]:
    """Yield (id, text) of the texts in a place that hold one of some patterns."""
    escaped = [one.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") for one in sorted(patterns)]
    values = {"register_id": register_id, "patterns": [f"%{one}%" for one in escaped]}
    if escaped:
        for row in session.execute(text(place.query).execution_options(yield_per=2_000), values):
            yield row[0], row[1]


def journal_about(session: Session) -> list[int]:
    """Return the entries of the journal that are about the records or their golden records and say what they hold."""
    return list(session.scalars(text(_ABOUT)))


def proposals_about(session: Session, register_id: int) -> list[int]:
    """Return the proposals about the records, or their golden records."""
    rows = session.scalars(
        text("""
            SELECT p.id FROM proposals p WHERE p.register_id = :register_id AND EXISTS (
                SELECT FROM jsonb_array_elements(p.touches) t
                WHERE t->>0 = 'record' AND (t->>1)::bigint IN (SELECT id FROM forgotten)
                    OR t->>0 = 'golden' AND (t->>1)::bigint IN (SELECT id FROM forgotten_golden))
        """),
        {"register_id": register_id},
    )
    return list(rows)


def entries_of(session: Session) -> list[int]:
    """Return what people entered of which the records came."""
    query = """
        SELECT e.id FROM entries e WHERE e.delivery_id IN (
            SELECT delivery_id FROM delivery_records d JOIN forgotten f ON f.id = d.record_id)
    """
    return list(session.scalars(text(query)))


@dataclass(frozen=True, slots=True)
class KeptFile:
    """A file that is kept in the folder of deliveries: what it is of, its name when it came, under which name it is kept, and whether it is
    still needed."""

    what: str
    name: str
    stored_as: str
    needed: bool


def kept_files(session: Session, rejected: Sequence[int], list_rows: Sequence[int]) -> list[KeptFile]:
    """Return the files that brought the records, rejected rows or rows of counterpart lists."""
    rows = session.execute(
        text("""
            SELECT DISTINCT 'delivery of ' || s.name, d.file_name, d.stored_as, d.status = 'draft', d.id
            FROM deliveries d JOIN sources s ON s.id = d.source_id WHERE d.id IN (
                SELECT delivery_id FROM delivery_records r JOIN forgotten f ON f.id = r.record_id
                UNION SELECT delivery_id FROM record_versions v JOIN forgotten f ON f.id = v.record_id
                UNION SELECT delivery_id FROM rejected_rows WHERE id = ANY(:rejected)
            )
            UNION ALL
            SELECT DISTINCT 'counterpart list ' || l.name, l.file_name, l.stored_as, true, l.id
            FROM counterpart_lists l WHERE l.id = ANY(:lists)
            ORDER BY 1, 5
        """),
        {"rejected": list(rejected), "lists": sorted({number // 10_000_000_000 for number in list_rows})},
    )
    return [KeptFile(row[0], row[1], row[2], row[3]) for row in rows]


def told(session: Session, register_id: int) -> list[tuple[str, str]]:
    """Return (who was told, how) of those to whom golden records of the register went: they are not reached from here."""
    rows = session.execute(
        text("""
            SELECT address, 'by events' FROM receivers WHERE register_id = :id
            UNION ALL SELECT name, 'as a saved send-out' FROM saved WHERE register_id = :id AND kind = 'send-out' AND last_at IS NOT NULL
            UNION ALL SELECT s.name || ': ' || (SELECT string_agg(sent, ', ') FROM jsonb_array_elements_text(c.sends) sent),
                'as files, by a schedule'
                FROM schedules c JOIN sources s ON s.id = c.source_id WHERE s.register_id = :id AND c.sends <> '[]'
            ORDER BY 2, 1
        """),
        {"id": register_id},
    )
    return [(row[0], row[1]) for row in rows]


#: What is left of each row that held values. Of decisions only the side of the records goes: what the others hold is theirs.
_ERASE = (
    """
    INSERT INTO erased_keys (source_id, digest) SELECT r.source_id, {digest} FROM source_records r JOIN forgotten f ON f.id = r.id
        JOIN sources s ON s.id = r.source_id ON CONFLICT DO NOTHING
    """,
    "DELETE FROM delivery_records d USING forgotten f WHERE f.id = d.record_id",
    "UPDATE record_versions v SET delivered = '{}', fields = '{}', content_hash = '' FROM forgotten f WHERE f.id = v.record_id",
    """
    UPDATE corrections c SET was = '', value = '', withdrawn_at = coalesce(c.withdrawn_at, now())
        FROM forgotten f WHERE f.id = c.record_id
    """,
    """
    UPDATE source_records s SET source_key = 'erased ' || s.id, delivered = '{}', fields = '{}', tidy = '{}', content_hash = ''
        FROM forgotten f WHERE f.id = s.id
    """,
    "UPDATE decisions d SET remark = '', basis = jsonb_set(basis, '{left}', '{}') FROM forgotten f WHERE f.id = d.left_id",
    "UPDATE decisions d SET remark = '', basis = jsonb_set(basis, '{right}', '{}') FROM forgotten f WHERE f.id = d.right_id",
    "UPDATE group_decisions g SET remark = '' FROM group_members m JOIN forgotten f ON f.id = m.record_id WHERE m.group_id = g.id",
    "UPDATE group_members m SET basis = '{}' FROM forgotten f WHERE f.id = m.record_id",
    "DELETE FROM findings USING forgotten f WHERE f.id IN (one_record, other_record)",
    "UPDATE finding_verdicts v SET things = '{}', remark = '' FROM forgotten f WHERE f.id IN (v.one_record, v.other_record)",
    "DELETE FROM counterpart_candidates c USING forgotten f WHERE f.id = c.record_id",
    "UPDATE counterpart_rows c SET record_id = NULL, said_by = '' FROM forgotten f WHERE f.id = c.record_id",
)


def erase_records(session: Session) -> None:
    """Erase what the records and decisions about them hold, before their golden records are brought up to date."""
    session.execute(
        text("""
            UPDATE sources s SET erasing_salt = gen_random_uuid()::text || gen_random_uuid()::text
            WHERE erasing_salt = '' AND id IN (SELECT source_id FROM source_records r JOIN forgotten f ON f.id = r.id)
        """)
    )
    for statement in _ERASE:
        session.execute(text(statement.replace("{digest}", ERASED_DIGEST.format(key="r.source_key"))))


def erase_golden(session: Session) -> None:
    """Erase what golden records were, and what those hold that are no longer in force, after they were brought up to date."""
    session.flush()
    gone = "f.id = g.id AND (g.leads_to IS NOT NULL OR g.withdrawn_at IS NOT NULL)"
    others = f"golden_records g, forgotten_golden f WHERE {gone} AND"
    for statement in (
        "UPDATE golden_versions v SET values = '{}' FROM forgotten_golden f WHERE f.id = v.golden_id AND v.values IS NOT NULL",
        f"UPDATE golden_records g SET values = '{{}}', sort_name = '' FROM forgotten_golden f WHERE {gone}",
        f"DELETE FROM golden_words w USING {others} w.golden_id = g.id",
        f"UPDATE pins p SET value = '', reason = '' FROM {others} g.withdrawn_at IS NOT NULL AND p.golden_id = g.id",
    ):
        session.execute(text(statement))


@dataclass(frozen=True, slots=True)
class HeldPin:
    """A pin of a golden record that the records belong or belonged to; ``stands`` unless it was lifted."""

    id: int
    golden_id: int
    field: str
    value: str
    reason: str
    stands: bool


def pins_held(session: Session) -> list[HeldPin]:
    """Return the pins of the golden records, of those that went into others, too: theirs count there."""
    rows = session.execute(
        text("""
            SELECT p.id, p.golden_id, p.field, p.value, p.reason, p.lifted_at IS NULL
            FROM pins p JOIN forgotten_golden f ON f.id = p.golden_id ORDER BY p.id
        """)
    )
    return [HeldPin(*row) for row in rows]


_ERASE_TEXTS = {
    "entries of the journal": "UPDATE journal SET personal = NULL, salt = '' WHERE id = ANY(:ids)",
    "rejected rows": "UPDATE rejected_rows SET cells = NULL, value = '', reason = 'erased on request' WHERE id = ANY(:ids)",
    "entered records": "UPDATE entries SET values = '{}', reason = '', told = '{}', taken = '{}' WHERE id = ANY(:ids)",
    "rows of counterpart lists": """
        UPDATE counterpart_rows SET cells = '{}', note = 'erased on request' WHERE list_id * 10000000000 + row = ANY(:ids)""",
    "proposals": """
        UPDATE proposals SET summary = CASE act WHEN 'forget' THEN summary ELSE 'erased' END, shows = '[]', arguments = '{}', reason = ''
        WHERE id = ANY(:ids)""",
}  # fmt: skip


def erase_texts(session: Session, what: str, ids: Collection[int]) -> None:
    """Erase what texts in one of the places hold."""
    if ids:
        session.execute(text(_ERASE_TEXTS[what]), {"ids": sorted(ids)})


def erase_summaries(session: Session, register_id: int) -> None:
    """Erase what sums up values of the register: its profiles, and what came of trying rules."""
    session.execute(text("DELETE FROM profiles WHERE register_id = :id"), {"id": register_id})
    session.execute(
        text("UPDATE jobs SET result = NULL WHERE register_id = :id AND kind = 'try rules' AND result IS NOT NULL"),
        {"id": register_id},
    )
