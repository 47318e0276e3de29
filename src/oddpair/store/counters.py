"""The counters of a register: counted anew at the end of long work, kept by small steps between."""

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import Counters

#: What is true of a register now, from its rows.
COUNTED = """
    SELECT (SELECT count(*) FROM source_records WHERE register_id = :register_id AND state <> 'withdrawn') AS records,
           (SELECT count(*) FROM golden_records WHERE register_id = :register_id AND leads_to IS NULL AND withdrawn_at IS NULL) AS golden,
           (SELECT coalesce(sum(size), 0) FROM golden_records
            WHERE register_id = :register_id AND leads_to IS NULL AND withdrawn_at IS NULL) AS members,
           (SELECT count(*) FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing'
            WHERE r.register_id = :register_id AND d.state = 'open') AS waiting,
           (SELECT count(*) FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing'
            WHERE r.register_id = :register_id AND d.state = 'later') AS put_off
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
                waiting = n.waiting, put_off = n.put_off, records_version = c.records_version + :more
            FROM ({COUNTED}) n WHERE c.register_id = :register_id
        """),
        {"register_id": register_id, "more": int(records_changed)},
    )


def count_waiting(session: Session, register_id: int) -> None:
    """Set what waits at the desk of a register to what its doubts say."""
    session.flush()
    session.execute(
        text("""
            UPDATE counters c SET waiting = n.waiting, put_off = n.put_off FROM (
                SELECT count(*) FILTER (WHERE d.state = 'open') AS waiting, count(*) FILTER (WHERE d.state = 'later') AS put_off
                FROM runs r JOIN doubts d ON d.run_id = r.id AND d.state <> 'decided'
                WHERE r.register_id = :register_id AND r.state = 'standing'
            ) n WHERE c.register_id = :register_id
        """),
        {"register_id": register_id},
    )


def add_to(session: Session, register_id: int, *, golden: int = 0, without_golden: int = 0) -> None:
    """Change counters by what a small step did."""
    session.execute(
        text("""
            UPDATE counters SET golden = golden + :golden, without_golden = without_golden + :without WHERE register_id = :register_id
        """),
        {"register_id": register_id, "golden": golden, "without": without_golden},
    )
