from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import select

from oddpair.core.errors import Conflict, NotFound, Refused
from oddpair.demo import DemoFile
from oddpair.services.bring_in.take_back import put_back, take_back
from oddpair.services.golden import edits, merge, rules, undo
from oddpair.services.golden import golden_page as golden
from oddpair.services.golden.golden_list import Asked, golden_list
from oddpair.services.golden.merge_preview import preview_merge
from oddpair.services.golden.send_out import crosswalk_table, golden_table
from oddpair.services.journal.entries import verify
from oddpair.services.match import run_plan
from oddpair.services.registers import registers
from oddpair.services.state.rebuild import rebuild
from oddpair.store.database import SessionFactory
from oddpair.store.membership import golden_of, membership
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import Delivery, GoldenRecord, JournalEntry, RunPair, SourceRecord

from ..states.registers import bring, nothing
from . import desk as review


def merge_now(sessions: SessionFactory, slug: str) -> dict[str, int]:
    return merge.merge(sessions, slug, actor="ann")


def rerun(sessions: SessionFactory, slug: str) -> None:
    run_plan.run_plan(sessions, slug, nothing)


def crosswalk(sessions: SessionFactory, slug: str) -> dict[tuple[str, str], str]:
    with sessions() as session:
        return {(row["source"], row["source_id"]): row["golden_key"] for row in crosswalk_table(session, slug).rows}


def largest(sessions: SessionFactory, slug: str) -> golden.GoldenView:
    with sessions() as session:
        [first] = golden_list(session, slug, Asked(), limit=1).page.rows
        return golden.golden_view(session, slug, first.key)


def assert_projection(sessions: SessionFactory, slug: str, *, every_record: bool = True) -> None:
    """Everything is what is computed afresh from deliveries and the journal; every record has exactly one golden record.

    Without ``every_record`` there may be records that wait for a merge.
    """
    with sessions() as session:
        assert rebuild(session, slug).problems == []
        session.rollback()
        register = register_by_slug(session, slug)
        records, _ = membership(session, register.id)
        present = session.scalars(select(SourceRecord.id).where(SourceRecord.state != "withdrawn"))
        assert set(records.tolist()) == set(present) if every_record else set(records.tolist()) <= set(present)
        assert all(not state.problems for state in verify(session))


def test_the_preview_counts_what_the_merge_then_does(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        preview = preview_merge(session, customers)
    counts = merge_now(sessions, customers)
    assert counts == {"made": preview.made, "grown": 0, "merged": 0, "split": 0}
    assert preview.records_added == len(crosswalk(sessions, customers))
    assert_projection(sessions, customers)
    with sessions() as session:
        assert preview_merge(session, customers).made == 0


def test_a_decision_holds_in_the_merge_and_in_the_next_run(merged: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        page = review.queue(session, merged, limit=2)
    one, other = (item.doubt for item in page.items)
    with sessions.begin() as session:
        review.decide(
            session,
            merged,
            one.left_id,
            one.right_id,
            verdict="same",
            remark="asked them",
            actor="ann",
            seen_decision=None,
        )
        review.decide(
            session,
            merged,
            other.right_id,
            other.left_id,
            verdict="different",
            remark="",
            actor="ann",
            seen_decision=None,
        )
    assert merge_now(sessions, merged)["merged"] == 1
    rerun(sessions, merged)
    assert_projection(sessions, merged)
    with sessions() as session:
        present = golden_of(session, [one.left_id, one.right_id, other.left_id, other.right_id])
        assert present[one.left_id] == present[one.right_id]
        assert present[other.left_id] != present[other.right_id]
        later = review.queue(session, merged, what="", limit=500)
        assert later.waiting == len(later.items)
    waiting = [{item.doubt.left_id, item.doubt.right_id} for item in later.items]
    assert {one.left_id, one.right_id} not in waiting
    assert {other.left_id, other.right_id} not in waiting


def test_a_merge_leaves_what_a_person_changes_while_it_goes_on(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    taken, other = (record.id for record, _ in view.members[:2])
    with sessions.begin() as session:
        review.decide(session, merged, taken, other, verdict="different", remark="", actor="ann", seen_decision=None)
    rerun(sessions, merged)

    def split_first(stage: str, done: int, total: int) -> None:
        if stage == "merge" and not done:
            with sessions.begin() as session:
                version = golden.golden_view(session, merged, view.golden.key).golden.version
                edits.split(session, merged, view.golden.key, [other], seen_version=version, reason="", actor="bob")

    counts = merge.merge(sessions, merged, actor="ann", progress=split_first)
    assert counts["left_for_the_next_merge"] == 1
    assert_projection(sessions, merged)
    assert "left_for_the_next_merge" not in merge_now(sessions, merged)
    holds = crosswalk(sessions, merged)
    assert len({holds[source.name, record.source_key] for record, source in view.members[:2]}) == 2


def test_a_cluster_that_holds_a_pair_decided_as_different_is_left_alone_until_a_run_parts_it(
    customers: str, sessions: SessionFactory
) -> None:
    rerun(sessions, customers)
    with sessions() as session:
        pair = session.scalars(select(RunPair).where(RunPair.same).order_by(RunPair.score)).first()
        assert pair is not None
        one, other = pair.left_id, pair.right_id
    with sessions.begin() as session:
        review.decide(session, customers, one, other, verdict="different", remark="", actor="ann", seen_decision=None)
    with sessions() as session:
        preview = preview_merge(session, customers)
        assert preview.torn == 1
    merge_now(sessions, customers)
    with sessions() as session:
        # Nobody joined what a person had parted; the records wait for the run that follows the decision.
        holds = golden_of(session, [one, other])
        assert one not in holds or holds.get(one) != holds.get(other)
    assert_projection(sessions, customers, every_record=False)
    rerun(sessions, customers)
    with sessions() as session:
        assert preview_merge(session, customers).torn == 0
    merge_now(sessions, customers)
    with sessions() as session:
        holds = golden_of(session, [one, other])
        assert holds[one] != holds[other]
    assert_projection(sessions, customers)


def test_a_delivery_that_comes_and_goes_between_merges_loses_no_record(merged: str, sessions: SessionFactory) -> None:
    before = crosswalk(sessions, merged)
    with sessions() as session:
        loaded = session.scalars(select(Delivery.id).order_by(Delivery.id)).all()
    for delivery in loaded[1:3]:
        with sessions.begin() as session:
            take_back(session, delivery, actor="ann")
    without = crosswalk(sessions, merged)
    assert merge_now(sessions, merged) == {"made": 0, "grown": 0, "merged": 0, "split": 0}
    assert without.items() < before.items()
    assert_projection(sessions, merged)
    for delivery in loaded[2:0:-1]:
        with sessions.begin() as session:
            put_back(session, delivery, actor="ann")
        with sessions() as session:
            preview = preview_merge(session, merged)
            assert min(preview.made, preview.grown, preview.joined, preview.records_added) >= 0
        merge_now(sessions, merged)
        assert_projection(sessions, merged)
    assert set(crosswalk(sessions, merged)) == set(before)


def test_two_people_cannot_decide_one_pair_unseen(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        pair = review.queue(session, customers, order="score", limit=1).items[0].doubt
    with sessions.begin() as session:
        decision = review.decide(
            session, customers, pair.left_id, pair.right_id, verdict="later", remark="", actor="ann", seen_decision=None
        )
    with pytest.raises(Conflict, match="decided as 'later' by ann meanwhile"), sessions.begin() as session:
        review.decide(
            session, customers, pair.left_id, pair.right_id, verdict="same", remark="", actor="bob", seen_decision=None
        )
    with sessions.begin() as session:
        review.withdraw(session, decision.id, actor="bob")
    with sessions() as session:
        assert review.pair(session, customers, pair.left_id, pair.right_id).decision is None


def keys_of_members(sessions: SessionFactory, slug: str, view: golden.GoldenView) -> list[str]:
    """Return the golden keys that a golden record's members have now. Decisions teach, so that a run may move others."""
    keys = crosswalk(sessions, slug)
    return [keys[(source.name, record.source_key)] for record, source in view.members]


def test_a_split_is_kept_by_later_runs_and_can_be_undone(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    others = len(view.members) - 1
    taken = view.members[0][0].id
    with sessions.begin() as session:
        fresh = edits.split(
            session,
            merged,
            view.golden.key,
            [taken],
            seen_version=view.golden.version,
            reason="other firm",
            actor="ann",
        )
    rerun(sessions, merged)
    merge_now(sessions, merged)
    assert keys_of_members(sessions, merged, view) == [fresh, *[view.golden.key] * others]
    with sessions() as session:
        [entry] = session.scalars(select(JournalEntry).where(JournalEntry.kind == "split", JournalEntry.actor == "ann"))
        assert golden.golden_view(session, merged, fresh).members[0][0].id == taken
    with sessions.begin() as session:
        undone = undo.undo_step(session, entry.id, actor="ann")
    assert keys_of_members(sessions, merged, view) == [view.golden.key] * (others + 1)
    with sessions() as session:
        assert golden.golden_view(session, merged, fresh).golden.key == view.golden.key
    assert_projection(sessions, merged)
    with sessions.begin() as session:
        undo.undo_step(session, undone, actor="ann")
    assert len(set(keys_of_members(sessions, merged, view))) == 2
    assert_projection(sessions, merged)


def test_undoing_a_merge_parts_the_records_for_good(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    [made] = [entry for entry in view.history if entry.kind == "made"]
    with sessions.begin() as session:
        undo.undo_step(session, made.id, made.part, actor="ann")
    with pytest.raises(Refused, match="undone before"), sessions.begin() as session:
        undo.undo_step(session, made.id, made.part, actor="ann")
    rerun(sessions, merged)
    merge_now(sessions, merged)
    assert len(set(keys_of_members(sessions, merged, view))) == len(view.members)
    assert_projection(sessions, merged)


def test_a_step_with_later_steps_upon_it_is_not_undone(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    with sessions.begin() as session:
        edits.split(
            session,
            merged,
            view.golden.key,
            [view.members[0][0].id],
            seen_version=view.golden.version,
            reason="",
            actor="ann",
        )
    with pytest.raises(Conflict, match="Later steps rest on this one: Took 1 record out"), sessions.begin() as session:
        undo.undo_step(session, view.history[-1].id, view.history[-1].part, actor="ann")


def test_a_pin_outlives_rules_and_deliveries_until_it_is_lifted(
    merged: str, sessions: SessionFactory, deliveries: Path, demo_files: list[DemoFile]
) -> None:
    view = largest(sessions, merged)
    key = view.golden.key
    with sessions.begin() as session:
        pinned = edits.pin(
            session,
            merged,
            key,
            field="phone",
            value="01632 960999",
            reason="called",
            seen_version=view.golden.version,
            actor="ann",
        )
        assert pinned.values["phone"] == "01632 960999"
    with sessions.begin() as session:
        rules.change_rules(session, merged, {"phone": "longest"}, actor="ann")
        registers.change_source(session, merged, "callsheet", trust_rank=1, actor="ann")
    rules.refresh_golden(sessions, merged, nothing)
    bring(sessions, merged, demo_files[0].path, deliveries)
    assert_projection(sessions, merged)
    with sessions.begin() as session:
        present = golden.golden_view(session, merged, key)
        assert present.golden.values["phone"] == "01632 960999"
        lifted = edits.lift_pin(
            session, merged, key, present.pins[0].id, seen_version=present.golden.version, actor="ann"
        )
        assert lifted.values.get("phone") != "01632 960999"
    assert_projection(sessions, merged)


def test_golden_values_are_given_in_the_form_that_the_register_says(merged: str, sessions: SessionFactory) -> None:

    def countries() -> set[str]:
        with sessions() as session:
            return {row["address.country"] for row in golden_table(session, merged).rows if row.get("address.country")}

    assert {len(country) for country in countries()} == {2}
    with sessions.begin() as session:
        register = rules.change_rules(session, merged, {}, form="as delivered", actor="ann")
        assert register.version == 2
    rules.refresh_golden(sessions, merged, nothing)
    assert "Denmark" in countries()
    assert_projection(sessions, merged)
    with sessions.begin() as session:
        rules.change_rules(session, merged, {}, form="standard", actor="ann")
    rules.refresh_golden(sessions, merged, nothing)
    assert {len(country) for country in countries()} == {2}
    assert_projection(sessions, merged)
    with pytest.raises(Refused, match="only as delivered or standard"), sessions.begin() as session:
        rules.change_rules(session, merged, {}, form="shouted", actor="ann")


def test_edits_need_the_version_they_saw_and_a_reason(merged: str, sessions: SessionFactory) -> None:
    key, version = largest(sessions, merged).golden.key, largest(sessions, merged).golden.version
    stale: tuple[dict[str, Any], ...] = (
        {"field": "phone", "reason": " ", "seen_version": version},
        {"field": "phone", "reason": "x", "seen_version": version + 1},
        {"field": "fon", "reason": "x", "seen_version": version},
    )
    for wrong in stale:
        with pytest.raises((Refused, Conflict, NotFound)), sessions.begin() as session:
            edits.pin(session, merged, key, value="1", actor="ann", **wrong)


def test_what_is_sent_out_agrees_with_what_is_kept(merged: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        rows = list(golden_table(session, merged).rows)
        keys = set(session.scalars(select(GoldenRecord.key)))
    assert {row["golden_key"] for row in rows} == keys == set(crosswalk(sessions, merged).values())
    assert sum(int(row["records"]) for row in rows) == len(crosswalk(sessions, merged))


def test_a_golden_record_says_what_holds_it_together(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    members = {record.id for record, _ in view.members}
    scores = [bond.score for bond in view.bonds]
    assert len(view.bonds) == len(members) - 1
    assert scores == sorted((score for score in scores if score is not None), reverse=True)
    assert {record for bond in view.bonds for record in (bond.left_id, bond.right_id)} == members
    weakest = view.bonds[-1]
    with sessions.begin() as session:
        review.decide(
            session,
            merged,
            weakest.left_id,
            weakest.right_id,
            verdict="same",
            remark="",
            actor="ann",
            seen_decision=None,
        )
    first = largest(sessions, merged).bonds[0]
    assert {first.left_id, first.right_id} == {weakest.left_id, weakest.right_id}
    assert first.score == weakest.score
    assert "person decided" in first.reason
