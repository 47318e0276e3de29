"""The desk: kinds, clusters, leases, days and people, many at once, second looks, contradictions, records put together by hand."""

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Any

import pytest
from sqlalchemy import select, text

from oddpair.core.errors import Conflict, NotFound, Refused
from oddpair.core.plan import Limits, plan_to_yaml
from oddpair.services.golden import golden_page, undo
from oddpair.services.golden.merge_preview import preview_merge
from oddpair.services.match import plans, run_plan
from oddpair.services.registers import registers
from oddpair.services.review import (
    bulk,
    clusters,
    context,
    contradictions,
    decide,
    groups,
    leases,
    neighbours,
    pair,
)
from oddpair.services.review import take_back as taking_back
from oddpair.services.review.queue import QueueAsked, QueueItem, kinds, queue, wake
from oddpair.services.state.rebuild import rebuild
from oddpair.services.today import today
from oddpair.services.transactions import transaction
from oddpair.store.database import SessionFactory
from oddpair.store.decisions import decisions_in_force
from oddpair.store.tables import Doubt, GroupDecision, GroupMember, RunCluster, SourceRecord

from ..states.registers import nothing
from .test_golden import merge_now

TOMORROW = datetime.now(UTC).date() + timedelta(days=1)


def waiting(sessions: SessionFactory, slug: str, **asked: str) -> list[QueueItem]:
    with sessions() as session:
        return queue(session, slug, QueueAsked(**asked), limit=500).items


def say(
    sessions: SessionFactory, slug: str, left: int, right: int, verdict: str, actor: str = "ann", **more: Any
) -> int:
    with sessions.begin() as session:
        seen = pair.pair(session, slug, left, right).decision
        made = decide.decide(
            session,
            slug,
            left,
            right,
            verdict=verdict,
            remark="",
            actor=actor,
            seen_decision=seen.id if seen else None,
            **more,
        )
        return made.id


def is_true(sessions: SessionFactory, slug: str) -> None:
    """Everything computed again is what is there."""
    session = sessions()
    with session:
        assert rebuild(session, slug).problems == []
        session.rollback()


def a_cluster(sessions: SessionFactory, slug: str, least: int = 3) -> list[int]:
    with sessions() as session:
        number = session.scalar(
            text(
                "SELECT cluster FROM run_clusters GROUP BY cluster HAVING count(*) >= :least ORDER BY count(*) DESC, 1 LIMIT 1"
            ),
            {"least": least},
        )
        return clusters.records_of_cluster(session, slug, int(number or 0))


def awkward(sessions: SessionFactory, slug: str) -> list[int]:
    """Make a cluster awkward, as a run does, and let its doubt be made."""
    records = a_cluster(sessions, slug)
    with sessions.begin() as session:
        run = session.scalar(select(RunCluster.run_id).where(RunCluster.record_id == records[0]))
        session.execute(
            text(
                "INSERT INTO awkward_clusters VALUES (:run, :cluster, :left, :right, 4.2, 'weak link') ON CONFLICT DO NOTHING"
            ),
            {"run": run, "cluster": records[0], "left": records[0], "right": records[1]},
        )
    is_made(sessions, slug)
    return records


def is_made(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        rebuild(session, slug)


def test_two_desks_never_have_the_same_doubt(customers: str, sessions: SessionFactory) -> None:
    first = waiting(sessions, customers)[0].doubt
    ends = (first.left_id, first.right_id)
    with sessions.begin() as session:
        assert leases.take(session, customers, [ends], actor="ann", desk="a") == []
        assert leases.take(session, customers, [ends, ends], actor="bob", desk="b") == [(*ends, "ann")]
    assert ends not in {(item.doubt.left_id, item.doubt.right_id) for item in waiting(sessions, customers, desk="b")}
    assert ends in {(item.doubt.left_id, item.doubt.right_id) for item in waiting(sessions, customers, desk="a")}
    with pytest.raises(Conflict, match="ann has this one"):
        say(sessions, customers, *ends, "same", actor="bob", desk="b")
    with sessions.begin() as session:
        session.execute(text("UPDATE leases SET until = now() - interval '1 second'"))
    with sessions.begin() as session:
        assert leases.take(session, customers, [ends], actor="bob", desk="b") == []
    say(sessions, customers, *ends, "same", actor="bob", desk="b")
    with sessions.begin() as session:
        other = waiting(sessions, customers)[0].doubt
        leases.take(session, customers, [(other.left_id, other.right_id)], actor="bob", desk="b")
        leases.leave(session, "b")
        assert session.scalar(text("SELECT count(*) FROM leases")) == 0


def test_desks_that_ask_for_the_same_doubts_at_once_never_wait_in_a_circle(
    customers: str, sessions: SessionFactory
) -> None:
    ends = [(item.doubt.left_id, item.doubt.right_id) for item in waiting(sessions, customers, what="pair")[:6]]

    def walk(number: int) -> int:
        random, kept = Random(number), 0
        for _ in range(15):
            mine = random.sample(ends, 3)
            with transaction(sessions, patience_s=3.0) as session:
                kept += 3 - len(leases.take(session, customers, mine, actor=f"p{number}", desk=f"d{number % 3}"))
        return kept

    with ThreadPoolExecutor(6) as pool:
        kept = list(pool.map(walk, range(6)))
    # Six doubts for three desks that want three each: somebody has to go without.
    assert 0 < sum(kept) < 6 * 15 * 3


def test_later_comes_back_on_its_day_and_asks_by_name(customers: str, sessions: SessionFactory) -> None:
    first, second = (item.doubt for item in waiting(sessions, customers, what="pair")[:2])
    say(sessions, customers, first.left_id, first.right_id, "later", until=TOMORROW, asked="bob")
    say(sessions, customers, second.left_id, second.right_id, "later")
    [asked] = waiting(sessions, customers, asked="bob")
    assert (asked.doubt.left_id, asked.doubt.until, asked.doubt.put_off) == (first.left_id, TOMORROW, True)
    assert waiting(sessions, customers)[-1].doubt.put_off
    with sessions() as session:
        [told] = today(session, actor="bob").asked
        assert (told.left_id, told.asked_by, told.until) == (first.left_id, "ann", TOMORROW)
        assert today(session, actor="ann").asked == []
    for days in (1, 40):
        with pytest.raises(Refused, match="day to come"):
            say(sessions, customers, first.left_id, first.right_id, "later", until=TOMORROW - timedelta(days=days))
    with pytest.raises(Refused, match="later"):
        say(sessions, customers, first.left_id, first.right_id, "same", asked="bob")
    is_true(sessions, customers)
    # The day comes.
    with sessions.begin() as session:
        session.execute(text("UPDATE doubts SET until = current_date WHERE until IS NOT NULL"))
        session.execute(text("UPDATE decisions SET until = current_date WHERE until IS NOT NULL"))
    with sessions.begin() as session:
        assert wake(session) == 1
        assert wake(session) == 0
    assert first.left_id in {item.doubt.left_id for item in waiting(sessions, customers) if not item.doubt.put_off}
    with sessions() as session:
        assert [(one.kind, one.count) for one in today(session, actor="ann").came_back] == [("day", 1)]
    is_true(sessions, customers)


def test_filters_combine_and_their_counts_are_true(customers: str, sessions: SessionFactory) -> None:
    awkward(sessions, customers)
    every = waiting(sessions, customers)
    with sessions() as session:
        names = {row[0]: row[1] for row in session.execute(text("SELECT id, source_id FROM source_records"))}
        sources = {row[0]: row[1] for row in session.execute(text("SELECT id, name FROM sources"))}
        counted = kinds(session, customers)
    assert sum(count for _, _, count in counted) == len(every)
    assert len({says for _, says, _ in counted}) > 3
    for source in sources.values():
        ours = [
            item
            for item in every
            if item.doubt.what == "cluster"
            or source in {sources[names[end]] for end in (item.doubt.left_id, item.doubt.right_id)}
        ]
        found = waiting(sessions, customers, source=source, what="pair")
        assert found == [item for item in ours if item.doubt.what == "pair"]
    assert {item.kind for item in waiting(sessions, customers, what="cluster")} == {"cluster: hangs on one weak link"}
    with pytest.raises(NotFound):
        waiting(sessions, customers, source="nobody")


def test_doubts_keep_how_long_they_wait_over_runs(customers: str, sessions: SessionFactory) -> None:
    before = {(i.doubt.left_id, i.doubt.right_id): i.doubt.since for i in waiting(sessions, customers)}
    run_plan.run_plan(sessions, customers, nothing)
    after = {(i.doubt.left_id, i.doubt.right_id): i.doubt.since for i in waiting(sessions, customers)}
    assert after == before


def test_many_like_one_are_decided_as_they_were_seen_and_taken_back_at_once(
    customers: str, sessions: SessionFactory
) -> None:
    with sessions.begin() as session:
        own = plans.plan_in_force(session, customers).plan
        strict = plan_to_yaml(own.model_copy(update={"limits": Limits(same=18.0, unsure=-6.0)}))
        plans.save_plan(session, customers, yaml=strict, seen_version=1, note="", actor="ann")
    run_plan.run_plan(sessions, customers, nothing)
    items = waiting(sessions, customers, what="pair")
    with sessions() as session:
        likes = [bulk.like_this(session, customers, item.doubt.left_id, item.doubt.right_id) for item in items]
    found = max(likes, key=lambda like: len(like.pairs))
    one = found.pairs[0]
    assert len(found.pairs) > 1
    assert {(p.left_id, p.right_id) for p in found.sample} <= {(p.left_id, p.right_id) for p in found.pairs}
    # The sets are the same from whichever of them one looks.
    for like in likes:
        if (one.left_id, one.right_id) in {(p.left_id, p.right_id) for p in like.pairs}:
            assert like.seen == found.seen
    before = len(items)
    ends = (one.left_id, one.right_id)

    def all_of_them(seen: str, remark: str = "branches") -> tuple[int, int]:
        with sessions.begin() as session:
            return bulk.decide_like(
                session, customers, *ends, verdict="different", remark=remark, seen=seen, actor="ann"
            )

    with pytest.raises(Conflict, match="others than you saw"):
        all_of_them("something else")
    with pytest.raises(Refused, match="reason"):
        all_of_them(found.seen, remark=" ")
    entry, count = all_of_them(found.seen)
    assert count == len(found.pairs)
    assert len(waiting(sessions, customers, what="pair")) == before - count
    with sessions() as session:
        said = [one for one in decisions_in_force(session, 1) if one.verdict == "different"]
        assert {(one.left_id, one.right_id) for one in said} == {(p.left_id, p.right_id) for p in found.pairs}
    is_true(sessions, customers)
    with sessions.begin() as session:
        taken = taking_back.take_back_latest(session, customers, actor="ann")
    assert (taken.what, taken.count) == ("many", count)
    assert len(waiting(sessions, customers, what="pair")) == before
    with sessions.begin() as session, pytest.raises(Refused):
        bulk.take_back_many(session, entry, actor="ann")
    is_true(sessions, customers)


def test_a_cluster_is_accepted_split_and_given_back(customers: str, sessions: SessionFactory) -> None:
    records = awkward(sessions, customers)
    [doubt] = [item.doubt for item in waiting(sessions, customers, what="cluster") if item.doubt.cluster == records[0]]
    assert doubt.records == len(records)
    with sessions.begin() as session:
        accepted = groups.decide_records(session, customers, [records], verdict="same", remark="", actor="ann")
    assert records[0] not in {item.doubt.cluster for item in waiting(sessions, customers, what="cluster")}
    is_true(sessions, customers)
    # A later decision about the same records replaces the earlier one.
    sides = [records[:1], records[1:]]
    with sessions.begin() as session:
        split = groups.decide_records(session, customers, sides, verdict="different", remark="two firms", actor="bob")
    with sessions() as session:
        assert session.get_one(GroupDecision, accepted.id).withdrawn_at is not None
        apart = {(one.left_id, one.right_id) for one in decisions_in_force(session, 1)}
        assert apart == {tuple(sorted((records[0], other))) for other in records[1:]}
        # One record a row, however many pairs are said.
        assert session.scalar(text("SELECT count(*) FROM group_members WHERE group_id = :id"), {"id": split.id}) == len(
            records
        )
    is_true(sessions, customers)
    # The merge follows without a new run, and so does the next run.
    merge_now(sessions, customers)

    def golden_of(record: int) -> int:
        with sessions() as session:
            return int(
                session.scalar(text("SELECT golden_id FROM golden_members WHERE record_id = :id"), {"id": record}) or 0
            )

    assert golden_of(records[0]) not in {golden_of(other) for other in records[1:]}
    assert len({golden_of(other) for other in records[1:]}) == 1
    run_plan.run_plan(sessions, customers, nothing)
    with sessions() as session:
        assert records[0] not in clusters.records_of_cluster(session, customers, records[1])
    with sessions.begin() as session:
        taken = taking_back.take_back_latest(session, customers, actor="bob")
        assert (taken.what, taken.verdict) == ("cluster", "different")
    with sessions.begin() as session, pytest.raises(Refused):
        groups.withdraw_group(session, split.id, actor="bob")
    # What it had replaced stands again.
    with sessions() as session:
        assert session.get_one(GroupDecision, accepted.id).withdrawn_at is None
        assert {one.verdict for one in decisions_in_force(session, 1)} == {"same"}
    is_true(sessions, customers)


@pytest.mark.parametrize(
    ("sides", "verdict"),
    [
        ([[1]], "same"),
        ([[1, 2]], "different"),
        ([[1], [2]], "same"),
        ([[1], [1]], "different"),
        ([[1], [10**9]], "different"),
    ],
)
def test_what_cannot_be_said_of_groups_is_refused(
    customers: str, sessions: SessionFactory, sides: list[list[int]], verdict: str
) -> None:
    with sessions() as session:
        first = session.scalars(select(SourceRecord.id).order_by(SourceRecord.id)).first() or 0
    named = [[record + first - 1 if record < 10**6 else record for record in side] for side in sides]
    with sessions.begin() as session, pytest.raises((Refused, NotFound)):
        groups.decide_records(session, customers, named, verdict=verdict, remark="", actor="ann")


def test_a_group_decision_is_asked_again_when_its_records_change(customers: str, sessions: SessionFactory) -> None:
    records = awkward(sessions, customers)
    with sessions.begin() as session:
        groups.decide_records(session, customers, [records], verdict="same", remark="", actor="ann")
        session.execute(
            text('UPDATE group_members SET basis = basis || \'{"phone": "+4500000000"}\' WHERE record_id = :id'),
            {"id": records[0]},
        )
    is_made(sessions, customers)
    [changed] = waiting(sessions, customers, kind="changed")
    assert (changed.doubt.what, changed.doubt.changed) == ("cluster", ["phone"])
    with sessions() as session:
        assert [(one.kind, one.count) for one in today(session, actor="ann").came_back] == [("changed", 1)]
    with sessions.begin() as session:
        groups.decide_records(session, customers, [records], verdict="same", remark="still", actor="ann")
    assert waiting(sessions, customers, kind="changed") == []
    is_true(sessions, customers)


def test_contradictions_are_found_with_the_chain_that_makes_them(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        a, b, c, d = session.scalars(select(SourceRecord.id).order_by(SourceRecord.id).limit(4)).all()
    say(sessions, customers, a, b, "same")
    say(sessions, customers, b, c, "same", actor="bob")
    with sessions() as session:
        assert contradictions.contradictions(session, customers) == []
    say(sessions, customers, a, c, "different")
    say(sessions, customers, a, d, "different")
    with sessions() as session:
        [found] = contradictions.contradictions(session, customers)
        assert (found.different.left_id, found.different.right_id) == (a, c)
        assert [(link.left_id, link.right_id) for link in found.chain] == [(a, b), (b, c)]
        assert contradictions.contradictions_of(session, found.different.id and 1, [c]) == [found]
        assert any("contradict" in wrong.says for wrong in today(session, actor="ann").wrong)
    with sessions.begin() as session:
        groups.decide_records(session, customers, [[a, b, c]], verdict="same", remark="", actor="ann")
    with sessions.begin() as session, pytest.raises(Conflict, match="ann said"):
        groups.decide_records(session, customers, [[a, d], [b]], verdict="different", remark="", actor="bob")


def test_neighbours_hold_what_they_are_said_to_hold(customers: str, sessions: SessionFactory) -> None:
    checked = 0
    with sessions() as session:
        tidy = {row[0]: row[1] for row in session.execute(text("SELECT id, tidy FROM source_records"))}
        for item in waiting(sessions, customers, what="pair")[:12]:
            left, right = item.doubt.left_id, item.doubt.right_id
            for found in neighbours.neighbours(session, customers, left, right):
                holders = {
                    record
                    for record, values in tidy.items()
                    if found.value in {held for place, held in values.items() if place.partition("#")[0] == found.field}
                } - {
                    left,
                    right,
                }
                assert found.others == len(holders)
                assert {record.id for record in found.records} <= holders
                checked += found.others
                assert found.shared == (tidy[left].get(found.field) == tidy[right].get(found.field))
    assert checked > 0


def test_what_a_same_would_make_is_what_the_merge_makes(merged: str, sessions: SessionFactory) -> None:
    one = next(item.doubt for item in waiting(sessions, merged, what="pair"))
    with sessions() as session:
        told = context.context_of(session, merged, one.left_id, one.right_id)
        assert told.left_key != told.right_key
        assert told.left_golden == golden_page.golden_view(session, merged, told.left_key).golden.values
    say(sessions, merged, one.left_id, one.right_id, "same")
    merge_now(sessions, merged)
    with sessions() as session:
        view = golden_page.golden_view(session, merged, told.right_key)
        assert view.golden.values == told.together
        assert context.context_of(session, merged, one.left_id, one.right_id).said[0].verdict == "same"
        step = view.history[0]
    with sessions.begin() as session:
        undo.undo_step(session, step.id, step.part, actor="bob")
    with sessions() as session:
        preview = preview_merge(session, merged)
        assert (preview.joined, preview.contradictions) == (0, 0)
    is_true(sessions, merged)


def test_records_that_no_run_brought_together_are_compared_on_the_spot(
    customers: str, sessions: SessionFactory
) -> None:
    with sessions() as session:
        kept = {(row[0], row[1]) for row in session.execute(text("SELECT left_id, right_id FROM run_pairs"))}
        ids = session.scalars(select(SourceRecord.id).order_by(SourceRecord.id)).all()
        left, right = next((a, b) for a in ids for b in reversed(ids) if a < b and (a, b) not in kept)
        found = pair.pair(session, customers, left, right)
        assert found.lost_at
        assert found.probability is None
        assert round(sum(item.bits for item in found.evidence), 1) == pytest.approx(found.score, abs=0.2)
        assert pair.pair(session, customers, right, left) == found
        with pytest.raises(NotFound):
            pair.pair(session, customers, left, 10**12)
    say(sessions, customers, left, right, "same")
    run_plan.run_plan(sessions, customers, nothing)
    with sessions() as session:
        assert right in clusters.records_of_cluster(session, customers, left)


def test_a_cluster_table_tells_what_holds_it(customers: str, sessions: SessionFactory) -> None:
    records = a_cluster(sessions, customers)
    with sessions() as session:
        table = clusters.cluster_table(session, customers, records)
        assert sorted(record.id for record in table.records) == records
        holding = [link for link in table.links if link.holds]
        assert len(holding) == len(records) - 1
        assert all(link.holds for link in table.links if link.bridge)
        alone, rest = clusters.would_be(session, customers, [records[:1], records[1:]])
        assert alone != rest
        assert clusters.would_be(session, customers, [records])[0] == table.golden.values
        for wrong in ([], [10**12], list(range(1, 600))):
            with pytest.raises((Refused, NotFound)):
                clusters.cluster_table(session, customers, wrong)


def test_doubts_of_clusters_are_as_they_are_counted(customers: str, sessions: SessionFactory) -> None:
    records = awkward(sessions, customers)
    with sessions.begin() as session:
        groups.decide_records(
            session, customers, [records], verdict="later", remark="ask Bob", actor="ann", asked="bob"
        )
    with sessions() as session:
        doubt = session.scalars(select(Doubt).where(Doubt.what == "cluster", Doubt.one == records[0])).one()
        assert (doubt.state, doubt.asked) == ("later", "bob")
        [told] = today(session, actor="bob").asked
        assert (told.what, told.remark) == ("cluster", "ask Bob")
        assert session.scalars(select(GroupMember.side)).all() == [0] * len(records)
    is_true(sessions, customers)


def test_doubts_are_ordered_by_a_field_of_value(customers: str, sessions: SessionFactory) -> None:
    def choose(field: str) -> None:
        with sessions.begin() as session:
            registers.choose_value_field(session, customers, field, actor="ann")

    with pytest.raises(Refused, match="no numbers"):
        choose("phone")
    with pytest.raises(NotFound):
        choose("revenue")
    with sessions.begin() as session:
        registers.change_layout(
            session,
            customers,
            [{"name": "revenue", "label": "Revenue", "kind": "number"}],
            actor="ann",
            seen_version=None,
        )
        session.execute(
            text(
                "UPDATE source_records SET tidy = tidy || jsonb_build_object('revenue', (id % 97)::text) WHERE id % 3 = 0"
            )
        )
    choose("revenue")
    with sessions() as session:
        found = queue(session, customers, order="value", limit=500).items
        expected = {
            row[0]: row[1] % 97 if row[1] % 3 == 0 else 0
            for row in session.execute(text("SELECT id, id FROM source_records"))
        }
    assert [item.doubt.value for item in found] == sorted((item.doubt.value for item in found), reverse=True)
    assert found[0].doubt.value > 0
    pairs = [item.doubt for item in found if item.doubt.what == "pair"]
    assert [one.value for one in pairs] == [max(expected[one.left_id], expected[one.right_id]) for one in pairs]
    choose("")
    assert {item.doubt.value for item in waiting(sessions, customers)} == {0.0}
