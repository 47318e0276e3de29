"""Runs by purpose, and what passes made of records: kept, counted, opened, cleared away."""

from pathlib import Path

import pytest

from oddpair.core.errors import NotFound, PlanInvalid, Refused
from oddpair.core.fields import RegisterKind
from oddpair.core.plan import default_plan, plan_to_yaml
from oddpair.core.plan.text import default_plan_text
from oddpair.services.golden import merge
from oddpair.services.match import plans, run_plan, runs
from oddpair.services.tidy.records import OutcomeAsked, record_list
from oddpair.store import membership
from oddpair.store.database import SessionFactory

from ..states.registers import bring, nothing
from . import desk as review

PASSES = """
passes:
  - title: strict
    limits: {same: 20, unsure: 12}
  - title: the rest
    works_on: unmatched
    scope: {one_to_one: true}
"""
TEXT = default_plan_text(RegisterKind.ORGANISATION) + PASSES


def test_a_trial_stands_beside_the_standing_run_and_changes_nothing(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        standing = review.run_of(session, customers)
        before = review.queue(session, customers)
    outcome = run_plan.run_plan(sessions, customers, nothing, trial=run_plan.Trial("two passes", TEXT))
    assert standing is not None
    with sessions() as session:
        assert review.run_of(session, customers).id == standing.id  # type: ignore[union-attr]
        assert review.queue(session, customers) == before
        kept = runs.kept_runs(session, customers)
        assert [(run.id, run.purpose) for run in kept] == [(outcome["run_id"], "trial"), (standing.id, "standing")]
    # Another run of the plan in force takes nobody else's place.
    run_plan.run_plan(sessions, customers, nothing)
    with sessions.begin() as session:
        assert runs.run_by_id(session, customers, outcome["run_id"]).state == "kept"
        later = review.run_of(session, customers)
        assert later is not None
        with pytest.raises(Refused, match="Golden records follow"):
            runs.clear(session, customers, later.id)
        runs.clear(session, customers, outcome["run_id"])
    with sessions() as session, pytest.raises(NotFound):
        runs.run_by_id(session, customers, outcome["run_id"])


def test_every_count_of_a_pass_opens_its_records(customers: str, sessions: SessionFactory) -> None:
    outcome = run_plan.run_plan(sessions, customers, nothing, trial=run_plan.Trial("", TEXT))
    with sessions() as session:
        run = runs.run_by_id(session, customers, outcome["run_id"])
        for number, one in enumerate(run.report["passes"], start=1):
            for name, count in one["counts"].items():
                found = record_list(session, customers, of_pass=OutcomeAsked(run.id, number, name), limit=500)
                assert len(found.page.rows) == found.total == count
        assert [one["title"] for one in run.report["passes"]] == ["strict", "the rest"]
        for wrong in (OutcomeAsked(run.id, 3, "in"), OutcomeAsked(run.id, 1, "gone")):
            with pytest.raises(Refused):
                record_list(session, customers, of_pass=wrong)
        with pytest.raises(NotFound):
            record_list(session, customers, of_pass=OutcomeAsked(run.id + 1, 1, "in"))


def test_a_standing_run_of_several_passes_explains_its_pairs_by_their_pass(
    customers: str, sessions: SessionFactory
) -> None:
    with sessions.begin() as session:
        plans.save_plan(session, customers, yaml=TEXT, seen_version=1, note="", actor="ann")
    run_plan.run_plan(sessions, customers, nothing)
    with sessions() as session:
        waiting = review.queue(session, customers).items
        assert waiting
        for item in waiting:
            found = review.pair(session, customers, item.doubt.left_id, item.doubt.right_id)
            assert found.score == pytest.approx(sum(one.bits for one in found.evidence), abs=0.05)


def test_incoming_records_meet_golden_ones_only(customers: str, sessions: SessionFactory) -> None:
    merge.merge(sessions, customers, actor="ann")
    plan = default_plan(RegisterKind.ORGANISATION)
    golden = plan_to_yaml(plan) + "\n"
    since = golden + "scope: {incoming: golden records}\n"
    outcome = run_plan.run_plan(sessions, customers, nothing, trial=run_plan.Trial("", since))
    # Everything is in a golden record already: nothing comes in.
    assert outcome["compared"] == 0
    with sessions() as session, pytest.raises(PlanInvalid, match="two are called"):
        runs.ask_for_trial(
            session, customers, title="", yaml=TEXT.replace("title: the rest", "title: strict"), actor="ann"
        )


def test_a_standing_run_that_leaves_records_out_takes_no_golden_record_apart(
    customers: str, sessions: SessionFactory
) -> None:
    merge.merge(sessions, customers, actor="ann")
    with sessions.begin() as session:
        before = dict(membership.belonging(session, 1))
        text = TEXT.replace("works_on: unmatched", "works_on: everything") + "scope: {incoming: golden records}\n"
        plans.save_plan(session, customers, yaml=text, seen_version=1, note="", actor="ann")
    run_plan.run_plan(sessions, customers, nothing)
    counts = merge.merge(sessions, customers, actor="ann")
    assert counts["split"] == 0
    with sessions() as session:
        assert membership.belonging(session, 1) == before


def test_a_run_from_what_was_kept_is_the_same_until_a_record_changes(
    customers: str, sessions: SessionFactory, tmp_path: Path
) -> None:
    kept = tmp_path / "kept"
    plain, first, second = (
        run_plan.run_plan(sessions, customers, nothing, trial=run_plan.Trial(name), kept=folder, worth_keeping=10)
        for name, folder in (("plain", None), ("first", kept), ("from what was kept", kept))
    )
    assert {**first, "run_id": 0} == {**second, "run_id": 0} == {**plain, "run_id": 0}
    [before] = kept.iterdir()
    path = tmp_path / "till.csv"
    path.write_text("id,name,town\nnew,Kestrel Foundry,Leith\n")
    bring(sessions, customers, path, tmp_path)
    after = run_plan.run_plan(sessions, customers, nothing, trial=run_plan.Trial("after"), kept=kept, worth_keeping=10)
    assert after["records"] == plain["records"] + 1
    assert [file.name for file in kept.iterdir()] != [before.name]
