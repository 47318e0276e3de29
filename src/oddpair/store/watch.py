"""What is decided in a register by whom and when, and what waits for whom: counts for who watches over the work."""

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import text
from sqlalchemy.orm import Session

#: A pause of more than so many seconds is no time spent on a doubt.
LONGEST_PAUSE_S = 600

_SAID = """
    SELECT actor, verdict, at FROM decisions
    WHERE register_id = :register_id AND at >= :since AND withdrawn_at IS NULL
    UNION ALL
    SELECT actor, verdict, at FROM group_decisions
    WHERE register_id = :register_id AND at >= :since AND withdrawn_at IS NULL
"""
_BY_DAY = text(f"""
    SELECT actor, (at AT TIME ZONE :zone)::date AS day, count(*) FILTER (WHERE verdict = 'same') AS same,
        count(*) FILTER (WHERE verdict = 'different') AS different, count(*) FILTER (WHERE verdict = 'later') AS later
    FROM ({_SAID}) said GROUP BY 1, 2 ORDER BY 2 DESC, lower(actor)
""")
_PACE = text(f"""
    SELECT actor, count(*) AS pauses, percentile_cont(0.5) WITHIN GROUP (ORDER BY pause) AS median_s
    FROM (
        SELECT actor, extract(epoch FROM at - lag(at) OVER (PARTITION BY actor ORDER BY at)) AS pause FROM ({_SAID}) said
    ) paused WHERE pause > 0 AND pause <= :longest GROUP BY actor ORDER BY lower(actor)
""")
_ASKED = text("""
    SELECT d.asked, count(*) AS waiting, count(*) FILTER (WHERE d.since < :late) AS late, min(d.since) AS oldest
    FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing'
    WHERE r.register_id = :register_id AND d.state = 'later' AND d.asked <> '' GROUP BY d.asked ORDER BY lower(d.asked)
""")
_LOOKS = text("""
    SELECT d.verdict, s.verdict FROM second_looks s JOIN decisions d ON d.id = s.decision_id
    WHERE s.register_id = :register_id AND s.at >= :since AND s.actor <> d.actor
""")


_PROPOSALS = text("""
    SELECT state, count(*), min(proposed_at) FROM proposals
    WHERE register_id = :register_id AND (state IN ('waiting', 'sent back') OR ended_at >= :since) GROUP BY state
""")


@dataclass(frozen=True, slots=True)
class ProposalCount:
    """How many proposals are in a state, and since when the oldest of them: all that wait or were sent back, of the rest those that ended
    since a moment."""

    state: str
    count: int
    oldest: datetime


@dataclass(frozen=True, slots=True)
class Day:
    """How much a person decided on a day and did not take back, by verdict."""

    actor: str
    day: date
    same: int
    different: int
    later: int


@dataclass(frozen=True, slots=True)
class Pace:
    """How long a decision took a person, in seconds: the middle one of so many, longer pauses left out."""

    actor: str
    pauses: int
    median_s: float


@dataclass(frozen=True, slots=True)
class AskedPerson:
    """How many doubts wait for a person who was asked, how many of them since before a moment, and since when the oldest."""

    name: str
    waiting: int
    late: int
    oldest: datetime


def days(session: Session, register_id: int, since: datetime, zone: str) -> list[Day]:
    """Return what was decided since a moment by person and day of a time zone, latest day first."""
    values = {"register_id": register_id, "since": since, "zone": zone}
    return [Day(*row) for row in session.execute(_BY_DAY, values)]


def paces(session: Session, register_id: int, since: datetime) -> list[Pace]:
    """Return how long decisions took since a moment, by person."""
    values = {"register_id": register_id, "since": since, "longest": LONGEST_PAUSE_S}
    return [Pace(row[0], row[1], float(row[2])) for row in session.execute(_PACE, values)]


def asked_people(session: Session, register_id: int, late: datetime) -> list[AskedPerson]:
    """Return what waits for people who were asked."""
    return [AskedPerson(*row) for row in session.execute(_ASKED, {"register_id": register_id, "late": late})]


def proposal_counts(session: Session, register_id: int, since: datetime) -> list[ProposalCount]:
    """Return how many proposals are in each state."""
    rows = session.execute(_PROPOSALS, {"register_id": register_id, "since": since})
    return sorted((ProposalCount(*row) for row in rows), key=lambda one: one.state)


def looked_again(session: Session, register_id: int, since: datetime) -> list[tuple[str, str]]:
    """Return (verdict, verdict of another person) of pairs that somebody else looked at again since a moment."""
    return [(row[0], row[1]) for row in session.execute(_LOOKS, {"register_id": register_id, "since": since})]
