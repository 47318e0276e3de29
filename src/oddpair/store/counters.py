"""The counters of a register: counted anew at the end of long work, kept by small steps between."""

from collections import Counter
from collections.abc import Sequence

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import Counters

#: In which states a doubt waits for somebody to decide it.
_FOR_PEOPLE = ("open", "later")
#: What is true of a register now, from its rows.
COUNTED = """
    SELECT (SELECT count(*) FROM source_records WHERE register_id = :register_id AND state <> 'withdrawn') AS records,
           (SELECT count(*) FROM golden_records WHERE register_id = :register_id AND leads_to IS NULL AND withdrawn_at IS NULL) AS golden,
           (SELECT coalesce(sum(size), 0) FROM golden_records
            WHERE register_id = :register_id AND leads_to IS NULL AND withdrawn_at IS NULL) AS members,
           (SELECT count(*) FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing'
            WHERE r.register_id = :register_id AND d.state = 'open') AS waiting,
           (SELECT count(*) FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing'
            WHERE r.register_id = :register_id AND d.state = 'later') AS put_off,
           (SELECT coalesce(jsonb_object_agg(kind, number), '{}') FROM (
                SELECT d.kind, count(*) AS number FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing'
                WHERE r.register_id = :register_id AND d.state IN ('open', 'later') GROUP BY d.kind
            ) of_kind) AS kinds
"""


def counters_of(session: Session, register_id: int) -> Counters:
    """Return the counters of a register."""
    return session.scalars(
        select(Counters).where(Counters.register_id == register_id).execution_options(populate_existing=True)
    ).one()


def count_anew(session: Session, register_id: int, *, records_changed: bool = False) -> None:
    """Set the counters of a register to what its rows say; tell that its records changed."""
    session.flush()
    session.execute(
        text(f"""
            UPDATE counters c SET records = n.records, golden = n.golden, without_golden = n.records - n.members,
                waiting = n.waiting, put_off = n.put_off, kinds = n.kinds, records_version = c.records_version + :more
            FROM ({COUNTED}) n WHERE c.register_id = :register_id
        """),
        {"register_id": register_id, "more": int(records_changed)},
    )


def count_waiting(session: Session, register_id: int) -> None:
    """Set what waits at the desk of a register to what its doubts say."""
    session.flush()
    session.execute(
        text("""
            UPDATE counters c SET waiting = n.waiting, put_off = n.put_off, kinds = n.kinds FROM (
                SELECT coalesce(sum(open), 0) AS waiting, coalesce(sum(later), 0) AS put_off,
                       coalesce(jsonb_object_agg(kind, open + later) FILTER (WHERE kind IS NOT NULL), '{}') AS kinds
                FROM (
                    SELECT d.kind, count(*) FILTER (WHERE d.state = 'open') AS open, count(*) FILTER (WHERE d.state = 'later') AS later
                    FROM runs r JOIN doubts d ON d.run_id = r.id AND d.state IN ('open', 'later')
                    WHERE r.register_id = :register_id AND r.state = 'standing' GROUP BY d.kind
                ) of_kind
            ) n WHERE c.register_id = :register_id
        """),
        {"register_id": register_id},
    )


def count_changed(
    session: Session, register_id: int, before: Sequence[tuple[str, str]], after: Sequence[tuple[str, str]]
) -> None:
    """Change the counters of what waits by doubts, given as (kind, state) before and after, that a small step changed."""
    states = Counter(state for _, state in after)
    states.subtract(state for _, state in before)
    kinds = Counter(kind for kind, state in after if state in _FOR_PEOPLE)
    kinds.subtract(kind for kind, state in before if state in _FOR_PEOPLE)
    changed = {kind: more for kind, more in kinds.items() if more}
    if not (changed or states["open"] or states["later"]):
        return
    session.execute(
        text("""
            UPDATE counters SET waiting = waiting + :waiting, put_off = put_off + :put_off, kinds = (
                SELECT coalesce(jsonb_object_agg(kind, number) FILTER (WHERE number <> 0), '{}') FROM (
                    SELECT kind, sum(number) AS number FROM (
                        SELECT key AS kind, value::bigint AS number FROM jsonb_each_text(kinds)
                        UNION ALL SELECT * FROM unnest(CAST(:kinds AS text[]), CAST(:more AS bigint[]))
                    ) stated GROUP BY kind
                ) summed
            ) WHERE register_id = :register_id
        """),
        {
            "register_id": register_id, "waiting": states["open"], "put_off": states["later"],
            "kinds": list(changed), "more": list(changed.values()),
        },
    )  # fmt: skip


def add_to(session: Session, register_id: int, *, golden: int = 0, without_golden: int = 0) -> None:
    """Change counters by what a small step did."""
    session.execute(
        text("""
            UPDATE counters SET golden = golden + :golden, without_golden = without_golden + :without WHERE register_id = :register_id
        """),
        {"register_id": register_id, "golden": golden, "without": without_golden},
    )
