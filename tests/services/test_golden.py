from pathlib import Path

import pytest
from sqlalchemy import select

from oddpair.core.errors import Conflict, NotFound, Refused
from oddpair.core.tidying import NOTHING
from oddpair.demo import DemoFile
from oddpair.services.golden import golden_page as golden
from oddpair.services.golden import journal_steps as journal
from oddpair.services.golden import merge
from oddpair.services.golden.send_out import crosswalk_table, golden_table
from oddpair.services.match import review, run_plan
from oddpair.services.registers import registers
from oddpair.services.state.golden_values import project
from oddpair.store import golden as golden_store
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import GoldenRecord, JournalEntry, SourceRecord

from .conftest import bring, nothing


def merged(sessions: SessionFactory, slug: str) -> dict[str, int]:
    with sessions.begin() as session:
        return merge.merge(session, slug, actor="ann")


def rerun(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        run_plan.run_plan(session, slug, nothing)


def crosswalk(sessions: SessionFactory, slug: str) -> dict[tuple[str, str], str]:
    with sessions() as session:
        return {(row["source"], row["source_id"]): row["golden_key"] for row in crosswalk_table(session, slug).rows}


def largest(sessions: SessionFactory, slug: str) -> golden.GoldenView:
    with sessions() as session:
        key = golden_store.golden_page(
            session, register_by_slug(session, slug).id, search="", order="members", offset=0, limit=1
        )[1][0][0].key
        return golden.golden_view(session, slug, key)


def assert_projection(sessions: SessionFactory, slug: str, *, every_record: bool = True) -> None:
    """Golden records equal what is computed afresh from members, rules and pins; every record has exactly one.

    Without ``every_record`` there may be records that wait for a merge.
    """
    with sessions() as session:
        register = register_by_slug(session, slug)
        active = golden_store.all_active(session, register.id)
        ids = [record.id for record in active]
        members, pins = golden_store.members_of(session, ids), golden_store.pins_of(session, ids)
        records = golden_store.records_with_sources(session, [r for group in members.values() for r in group])
        for record in active:
            values, origins = project(register, members[record.id], records, pins.get(record.id, []), NOTHING)
            assert (record.values, record.origins) == (values, origins)
            assert members[record.id]
        every = set(session.scalars(select(SourceRecord.id)))
        held = sorted(r for group in members.values() for r in group)
        assert len(held) == len(set(held))
        assert set(held) == every if every_record else set(held) <= every


def test_the_preview_counts_what_the_merge_then_does(customers: str, sessions: SessionFactory):
    with sessions() as session:
        preview = merge.preview_merge(session, customers, 0)
    counts = merged(sessions, customers)
    assert counts == {"made": preview.made, "grown": 0, "merged": 0, "split": 0}
    assert preview.records_added == len(crosswalk(sessions, customers))
    assert_projection(sessions, customers)
    with sessions() as session:
        assert merge.preview_merge(session, customers, 0).made == 0


def test_a_decision_holds_in_the_merge_and_in_the_next_run(customers: str, sessions: SessionFactory):
    merged(sessions, customers)
    with sessions() as session:
        waiting, pairs = review.queue(session, customers, order="doubt", search="", offset=0, limit=2)
    one, other = pairs
    with sessions.begin() as session:
        review.decide(
            session,
            customers,
            one.left_id,
            one.right_id,
            verdict="same",
            remark="asked them",
            actor="ann",
            seen_decision=None,
        )
        review.decide(
            session,
            customers,
            other.right_id,
            other.left_id,
            verdict="different",
            remark="",
            actor="ann",
            seen_decision=None,
        )
    assert merged(sessions, customers)["merged"] == 1
    rerun(sessions, customers)
    assert_projection(sessions, customers)
    with sessions() as session:
        present = golden_store.membership(session, register_by_slug(session, customers).id)
        assert present[one.left_id] == present[one.right_id]
        assert present[other.left_id] != present[other.right_id]
        assert merge.preview_merge(session, customers, 0).joined == 0
        still, later = review.queue(session, customers, order="doubt", search="", offset=0, limit=500)
    assert still == len(later) <= waiting - 2


def test_two_people_cannot_decide_one_pair_unseen(customers: str, sessions: SessionFactory):
    with sessions() as session:
        _, [pair] = review.queue(session, customers, order="score", search="", offset=0, limit=1)
    with sessions.begin() as session:
        decision = review.decide(
            session, customers, pair.left_id, pair.right_id, verdict="later", remark="", actor="ann", seen_decision=None
        )
    with pytest.raises(Conflict, match="decided as 'later' by ann meanwhile"), sessions.begin() as session:
        review.decide(
            session, customers, pair.left_id, pair.right_id, verdict="same", remark="", actor="bob", seen_decision=None
        )
    with sessions.begin() as session:
        review.withdraw(session, decision.id)
    with sessions() as session:
        assert review.pair(session, customers, pair.left_id, pair.right_id).decision is None


def test_a_split_is_kept_by_later_runs_and_can_be_undone(customers: str, sessions: SessionFactory):
    merged(sessions, customers)
    before = crosswalk(sessions, customers)
    view = largest(sessions, customers)
    taken = view.members[0][0].id
    with sessions.begin() as session:
        fresh = golden.split(
            session,
            customers,
            view.golden.key,
            [taken],
            seen_version=view.golden.version,
            reason="other firm",
            actor="ann",
        )
    rerun(sessions, customers)
    assert sum(merged(sessions, customers).values()) == 0
    with sessions() as session:
        [entry] = session.scalars(select(JournalEntry).where(JournalEntry.kind == "split"))
        assert golden.golden_view(session, customers, fresh).members[0][0].id == taken
    with sessions.begin() as session:
        undo = journal.undo_entry(session, entry.id, actor="ann")
    assert crosswalk(sessions, customers) == before
    with sessions() as session:
        assert golden.golden_view(session, customers, fresh).golden.key == view.golden.key
    assert_projection(sessions, customers)
    with sessions.begin() as session:
        journal.undo_entry(session, undo, actor="ann")
    assert len(set(crosswalk(sessions, customers).values())) == len(set(before.values())) + 1
    assert_projection(sessions, customers)


def test_undoing_a_merge_parts_the_records_for_good(customers: str, sessions: SessionFactory):
    merged(sessions, customers)
    view = largest(sessions, customers)
    [made] = [entry for entry in view.history if entry.kind == "made"]
    with sessions.begin() as session:
        journal.undo_entry(session, made.id, actor="ann")
    with pytest.raises(Refused, match="undone before"), sessions.begin() as session:
        journal.undo_entry(session, made.id, actor="ann")
    rerun(sessions, customers)
    assert sum(merged(sessions, customers).values()) == 0
    keys = {crosswalk(sessions, customers)[(source.name, record.source_key)] for record, source in view.members}
    assert len(keys) == len(view.members)
    assert_projection(sessions, customers)


def test_a_step_with_later_steps_upon_it_is_not_undone(customers: str, sessions: SessionFactory):
    merged(sessions, customers)
    view = largest(sessions, customers)
    with sessions.begin() as session:
        golden.split(
            session,
            customers,
            view.golden.key,
            [view.members[0][0].id],
            seen_version=view.golden.version,
            reason="",
            actor="ann",
        )
    with pytest.raises(Conflict, match="undo the later steps first"), sessions.begin() as session:
        journal.undo_entry(session, view.history[-1].id, actor="ann")


def test_a_pin_outlives_rules_and_deliveries_until_it_is_lifted(
    customers: str, sessions: SessionFactory, deliveries: Path, demo_files: list[DemoFile]
):
    merged(sessions, customers)
    view = largest(sessions, customers)
    key = view.golden.key
    with sessions.begin() as session:
        pinned = golden.pin(
            session,
            customers,
            key,
            field="phone",
            value="01632 960999",
            reason="called",
            seen_version=view.golden.version,
            actor="ann",
        )
        assert pinned.values["phone"] == "01632 960999"
    with sessions.begin() as session:
        registers.change_rules(session, customers, {"phone": "longest"})
        registers.change_source(session, customers, "callsheet", trust_rank=1)
    bring(sessions, customers, demo_files[0].path, deliveries)
    assert_projection(sessions, customers)
    with sessions.begin() as session:
        present = golden.golden_view(session, customers, key)
        assert present.golden.values["phone"] == "01632 960999"
        lifted = golden.lift_pin(
            session, customers, key, present.pins[0].id, seen_version=present.golden.version, actor="ann"
        )
        assert lifted.values.get("phone") != "01632 960999"
    assert_projection(sessions, customers)


def test_edits_need_the_version_they_saw_and_a_reason(customers: str, sessions: SessionFactory):
    merged(sessions, customers)
    key, version = largest(sessions, customers).golden.key, largest(sessions, customers).golden.version
    for wrong in (
        {"field": "phone", "reason": " ", "seen_version": version},
        {"field": "phone", "reason": "x", "seen_version": version + 1},
        {"field": "fon", "reason": "x", "seen_version": version},
    ):
        with pytest.raises((Refused, Conflict, NotFound)), sessions.begin() as session:
            golden.pin(session, customers, key, value="1", actor="ann", **wrong)


def test_what_is_sent_out_agrees_with_what_is_kept(customers: str, sessions: SessionFactory):
    merged(sessions, customers)
    with sessions() as session:
        table = golden_table(session, customers)
        keys = set(session.scalars(select(GoldenRecord.key)))
    assert {row["golden_key"] for row in table.rows} == keys == set(crosswalk(sessions, customers).values())
    assert sum(int(row["records"]) for row in table.rows) == len(crosswalk(sessions, customers))


def test_a_golden_record_says_what_holds_it_together(customers: str, sessions: SessionFactory):
    merged(sessions, customers)
    view = largest(sessions, customers)
    members = {record.id for record, _ in view.members}
    scores = [bond.score for bond in view.bonds]
    assert len(view.bonds) == len(members) - 1
    assert scores == sorted((score for score in scores if score is not None), reverse=True)
    assert {record for bond in view.bonds for record in (bond.left_id, bond.right_id)} == members
    weakest = view.bonds[-1]
    with sessions.begin() as session:
        review.decide(
            session,
            customers,
            weakest.left_id,
            weakest.right_id,
            verdict="same",
            remark="",
            actor="ann",
            seen_decision=None,
        )
    first = largest(sessions, customers).bonds[0]
    assert {first.left_id, first.right_id} == {weakest.left_id, weakest.right_id}
    assert first.score == weakest.score
    assert "person decided" in first.reason
