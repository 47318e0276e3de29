"""What two stewards did in the demo before it starts: lists and rules, dated deliveries, decisions, a merge, pins, a split, an undo."""

import csv
from collections.abc import Iterator, Mapping
from contextlib import suppress
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

from sqlalchemy.orm import Session

from ...core.errors import WaitsForSignOff
from ...core.tidying.word_tables import TableKind
from ..findings import plans as finding_plans
from ..findings import rows as finding_rows
from ..findings.run_plan import run_plan as find_conflicts
from ..golden import edits, golden_list, golden_page, merge, rules, undo
from ..people.demo_people import MAREN, PIET, SUNNIVA
from ..proposals.policy import policy_in_force, set_policy
from ..review import decide, queue
from ..review.clusters import cluster_table, records_of_cluster
from ..review.groups import decide_records
from ..review.pair import pair
from ..tidy import quality, word_tables
from ..transactions import SessionFactory, transaction

#: Who is who: (source, source's id) → entity.
Truth = Mapping[tuple[str, str], str]
#: Months of the dated deliveries: the share of rows that the source had then, and every how many rows lacked the telephone.
_MONTHS = (("2026-09", 0.7, 3), ("2026-10", 0.9, 8), ("2026-11", 1.0, 0))
_MOST_DECIDED = 400


def truth_of(folder: Path) -> Truth:
    """Return who is who in the files of a folder."""
    with (folder / "truth.csv").open(encoding="utf-8", newline="") as file:
        return {(row["source"], row["source_id"]): row["entity"] for row in csv.DictReader(file)}


def dated_deliveries(path: Path) -> list[Path]:
    """Write what a source sent month by month, ever more rows and ever fewer gaps, beside its file; return the files."""
    with path.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    found = []
    for month, share, gaps in _MONTHS:
        dated = path.with_name(f"{path.stem}-{month}{path.suffix}")
        with dated.open("w", encoding="utf-8", newline="") as file:
            writer = csv.DictWriter(file, list(rows[0]))
            writer.writeheader()
            for number, row in enumerate(rows[: int(len(rows) * share)]):
                writer.writerow(row | {"phone": ""} if gaps and number % gaps == 0 else row)
        found.append(dated)
    return found


def keep_lists_and_rules(session: Session, slug: str) -> None:
    """Fill a swap list and a value map, and set quality rules and survivorship."""
    words = [
        ("skpr", "skipper"),
        ("mar", "marine"),
        ("chdlry", "chandlery"),
        ("bt", "boat"),
        ("yt", "yacht"),
        ("eng", "engineering"),
    ]
    word_tables.make_table(session, "boatyard words", TableKind.SWAP_LIST, entries=words, actor=MAREN)
    lands = [
        ("Eire", "IE"),
        ("Holland", "NL"),
        ("England", "GB"),
        ("Scotland", "GB"),
        ("Norge", "NO"),
        ("Danmark", "DK"),
    ]
    word_tables.make_table(
        session, "countries as the desk writes them", TableKind.VALUE_MAP, entries=lands, actor=MAREN
    )
    checked = [
        ("phone", "required"),
        ("phone", "valid"),
        ("email", "valid"),
        ("tax_number", "valid"),
        ("address.postcode", "required"),
    ]
    quality.save_rules(session, slug, [{"field": field, "kind": kind} for field, kind in checked], actor=MAREN)
    rules.change_rules(
        session, slug, {"phone": ["newest", "consensus"], "tax_number": ["valid", "consensus"]}, actor=MAREN
    )


def _decided(session: Session, slug: str, truth: Truth, doubt: queue.QueueItem, actor: str) -> None:
    """Decide a doubt as it is true."""
    if doubt.doubt.what == "cluster":
        _decide_cluster(session, slug, truth, doubt.doubt.cluster, actor)
        return
    left, right = doubt.doubt.left_id, doubt.doubt.right_id
    facing = pair(session, slug, left, right)
    same = truth[facing.left.source, facing.left.source_key] == truth[facing.right.source, facing.right.source_key]
    seen = facing.decision.id if facing.decision else None
    decide.decide(
        session, slug, left, right, verdict="same" if same else "different", remark="", actor=actor, seen_decision=seen
    )


def _decide_cluster(session: Session, slug: str, truth: Truth, cluster: int, actor: str) -> None:
    table = cluster_table(session, slug, records_of_cluster(session, slug, cluster))
    sides: dict[str, list[int]] = {}
    for record in table.records:
        sides.setdefault(truth[record.source, record.source_key], []).append(record.id)
    verdict = "same" if len(sides) == 1 else "different"
    decide_records(session, slug, list(sides.values()), verdict=verdict, remark="", actor=actor, cluster=cluster)


def _waiting(sessions: SessionFactory, slug: str) -> list[queue.QueueItem]:
    with transaction(sessions) as session:
        return [item for item in queue.queue(session, slug, limit=_MOST_DECIDED).items if not item.doubt.put_off]


def finish(sessions: SessionFactory, slug: str, truth: Truth) -> None:
    """Decide everything that waits, merge, pin three values, split a golden record, undo one step, and leave one pin to be signed off."""
    for place, doubt in enumerate(_waiting(sessions, slug)):
        with transaction(sessions) as session:
            _decided(session, slug, truth, doubt, SUNNIVA if place % 4 == 0 else MAREN)
    merge.merge(sessions, slug, actor=MAREN)
    keys = list(_large(sessions, slug, 5))
    for key, reason in zip(
        keys[:3], ("asked by telephone", "as on their letterhead", "confirmed by the buyer"), strict=False
    ):
        with transaction(sessions) as session:
            golden = golden_page.golden_view(session, slug, key).golden
            value = str(golden.values.get("name", ""))
            edits.pin(
                session, slug, key, field="name", value=value, reason=reason, seen_version=golden.version, actor=MAREN
            )
    for key, undone in zip(keys[3:], (False, True), strict=False):
        _split(sessions, slug, key, undone=undone)
    _leave_to_sign(sessions, slug, keys[0])


def _leave_to_sign(sessions: SessionFactory, slug: str, key: str) -> None:
    """Protect the tax number, and propose to pin one: it waits for a second yes."""
    with transaction(sessions) as session:
        _, version = policy_in_force(session, slug)
        set_policy(session, slug, {"fields": ["tax_number"]}, seen_version=version, actor=PIET)
    with suppress(WaitsForSignOff), transaction(sessions) as session:
        golden = golden_page.golden_view(session, slug, key).golden
        value = str(golden.values.get("tax_number", ""))
        edits.pin(
            session, slug, key, field="tax_number", value=value, reason="as on their latest invoice", seen_version=golden.version,
            actor=MAREN,
        )  # fmt: skip


def _large(sessions: SessionFactory, slug: str, count: int) -> Iterator[str]:
    with transaction(sessions) as session:
        rows = golden_list.golden_list(session, slug, golden_list.Asked(least_members=2), limit=count).page.rows
    yield from (row.key for row in rows)


def _split(sessions: SessionFactory, slug: str, key: str, *, undone: bool) -> None:
    """Take the last record of a golden record out; where it is undone, put it back."""
    with transaction(sessions) as session:
        view = golden_page.golden_view(session, slug, key)
        last = view.members[-1][0].id
        edits.split(
            session,
            slug,
            key,
            [last],
            seen_version=view.golden.version,
            reason="another depot of theirs",
            actor=SUNNIVA,
        )
    if undone:
        with transaction(sessions) as session:
            step = golden_page.golden_view(session, slug, key).history[0]
            undo.undo_step(session, step.id, step.part, actor=MAREN)


def review_half(sessions: SessionFactory, slug: str, truth: Truth) -> None:
    """Decide about half of what waits; put one doubt off until next week, and ask somebody about another."""
    waiting = _waiting(sessions, slug)
    half = len(waiting) // 2
    pairs = [item for item in waiting[half:] if item.doubt.what == "pair"]
    for place, doubt in enumerate(waiting[:half]):
        with transaction(sessions) as session:
            _decided(session, slug, truth, doubt, SUNNIVA if place % 3 == 0 else MAREN)
    next_week = datetime.now(UTC).date() + timedelta(days=7)
    _later(sessions, slug, pairs[-1:], "their new address comes with the next ledger", until=next_week)
    _later(sessions, slug, pairs[-2:-1], "is this the yard that was sold?", asked=MAREN)


def _later(
    sessions: SessionFactory,
    slug: str,
    items: list[queue.QueueItem],
    remark: str,
    *,
    until: date | None = None,
    asked: str = "",
) -> None:
    for item in items:
        left, right = item.doubt.left_id, item.doubt.right_id
        with transaction(sessions) as session:
            decide.decide(
                session,
                slug,
                left,
                right,
                verdict="later",
                remark=remark,
                actor=SUNNIVA,
                seen_decision=None,
                until=until,
                asked=asked,
            )


def look_for_conflicts(sessions: SessionFactory) -> None:
    """Hold the suppliers against the staff, and explain one of the findings."""
    with transaction(sessions) as session:
        made = finding_plans.make(session, "suppliers", name="Suppliers and staff", other="employees", actor=MAREN)
        plan_id, name = made.id, made.name
    find_conflicts(sessions, plan_id, lambda stage, done, total: None)
    with transaction(sessions) as session:
        found = finding_rows.findings_page(session, "suppliers", name, limit=50).rows
        if found:
            reason = "rents the yard behind the house to the firm; told to the board in 2024"
            finding_rows.say(session, "suppliers", name, found[-1].place, "explained", remark=reason, actor=SUNNIVA)
