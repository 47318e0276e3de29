"""Findings page by page, what a person says of one, and the report."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...store import findings as store
from ...store.counterparts import Described, described
from ...store.keyset import Page
from ...store.tables import Finding, FindingPlanRow, FindingVerdict, Register
from ..golden.send_out import OutTable
from .plans import other_register, plan_named
from .run_plan import EXPLAINED, OPEN, STATES, thing_key

_AT_ONCE = 1_000


@dataclass(frozen=True, slots=True)
class ShownFinding:
    """A finding: both records with their values, what they share, how it stands and who said so."""

    place: int
    one: Described
    other: Described
    score: float
    things: Sequence[Mapping[str, Any]]
    state: str
    said_by: str
    remark: str
    again: str


def findings_page(
    session: Session, slug: str, name: str, *, state: str = "", cursor: str = "", limit: int = 100
) -> Page[ShownFinding]:
    """Return a page of findings, those that share the same thing side by side; of one state where one is named."""
    row = plan_named(session, slug, name)
    if state and state not in STATES:
        raise Refused(f"'{state}' is no state of a finding, only {', '.join(STATES)}.")
    page = store.page(session, row.id, state=state, cursor=cursor, limit=limit)
    return Page(_shown(session, page.rows), page.before, page.behind)


def _shown(session: Session, rows: Sequence[Finding]) -> list[ShownFinding]:
    records = described(session, (record for row in rows for record in (row.one_record, row.other_record)))
    return [
        ShownFinding(
            row.place, records[row.one_record], records[row.other_record], row.score, row.things, row.state, row.said_by, row.remark,
            row.again,
        )
        for row in rows
    ]  # fmt: skip


def say(
    session: Session, slug: str, name: str, place: int, verdict: str, *, remark: str = "", actor: str
) -> ShownFinding:
    """Keep what a person says of a finding: of interest, explained (with a reason), not a finding; or open it again."""
    row = plan_named(session, slug, name)
    finding = session.get(Finding, (row.id, place))
    if finding is None:
        raise NotFound("finding", place)
    if verdict not in STATES:
        raise Refused(f"'{verdict}' cannot be said of a finding, only {', '.join(STATES)}.")
    if verdict == EXPLAINED and not remark.strip():
        raise Refused("What explains it? The reason is remembered for the next run.")
    counts = dict(row.counts or {})
    counts[finding.state] = counts.get(finding.state, 0) - 1
    before = [
        one.id for one in store.verdicts_of(session, row.id)
        if (one.one_record, one.other_record) == (finding.one_record, finding.other_record)
    ]  # fmt: skip
    store.withdraw(session, before)
    finding.state, finding.remark, finding.again = verdict, remark if verdict != OPEN else "", ""
    finding.said_by = actor if verdict != OPEN else ""
    if verdict != OPEN:
        session.add(_verdict(row, finding, verdict, remark, actor))
    counts[verdict] = counts.get(verdict, 0) + 1
    row.counts = counts
    session.flush()
    return _shown(session, [finding])[0]


def _verdict(row: FindingPlanRow, finding: Finding, verdict: str, remark: str, actor: str) -> FindingVerdict:
    return FindingVerdict(
        plan_id=row.id, one_record=finding.one_record, other_record=finding.other_record,
        things=[thing_key(thing["title"], thing["value"]) for thing in finding.things], verdict=verdict, remark=remark, actor=actor,
        at=datetime.now(UTC),
    )  # fmt: skip


def report_table(session: Session, slug: str, name: str, *, state: str = "") -> OutTable:
    """Return a plan's findings as a table, a line per shared thing; raise Refused if the plan was not run yet."""
    row = plan_named(session, slug, name)
    if row.ran_at is None:
        raise Refused("This plan was not run yet.")
    one = session.get_one(Register, row.register_id).name
    other = other_register(session, row).name
    columns = (
        "finding", "state", "said_by", "reason", "shared", "value", f"{one} who hold it", f"{other} who hold it", "bits",
        one, f"{one}: name", f"{one}: source record", other, f"{other}: name", f"{other}: source record", "asked again because",
    )  # fmt: skip
    return OutTable(f"findings {row.name}", columns, _lines(session, slug, name, state, columns))


def _lines(session: Session, slug: str, name: str, state: str, columns: Sequence[str]) -> Iterator[dict[str, str]]:
    cursor, more = "", True
    while more:
        page = findings_page(session, slug, name, state=state, cursor=cursor, limit=_AT_ONCE)
        for item in page.rows:
            for thing in item.things:
                cells = (
                    f"{item.place + 1}", item.state, item.said_by, item.remark, thing["title"], thing["value"],
                    f"{thing['one_holders']}", f"{thing['other_holders']}", f"{thing['bits']:.1f}",
                    item.one.id, name_of(item.one), f"{item.one.source} {item.one.source_key}",
                    item.other.id, name_of(item.other), f"{item.other.source} {item.other.source_key}", item.again,
                )  # fmt: skip
                yield dict(zip(columns, cells, strict=True))
        cursor, more = page.behind, bool(page.behind)


def name_of(of: Described) -> str:
    """Return the name of a record, whole or in parts."""
    parts = (of.values.get(name, "") for name in ("name.given", "name.family"))
    return of.values.get("name") or " ".join(filter(None, parts))
