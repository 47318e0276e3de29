"""Recognised deliveries: clusters, doubts and golden records end as after one match of everything, and every record is accounted for."""

import csv
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import select, text

from oddpair.core import pipeline
from oddpair.core.fields import RegisterKind
from oddpair.core.learned_match import from_bytes
from oddpair.core.plan.text import default_plan_text
from oddpair.demo import DemoFile
from oddpair.services.bring_in import take_back
from oddpair.services.golden.merge_preview import preview_merge
from oddpair.services.golden.newcomers import left_out
from oddpair.services.match import plans, read_records, run_plan
from oddpair.services.match.run_rows import cluster_names
from oddpair.services.registers import registers
from oddpair.services.standing import recognise
from oddpair.services.standing.directories import Directories
from oddpair.services.standing.switch import switch_recognition
from oddpair.services.state.rebuild import rebuild
from oddpair.services.tidy import corrections, quality
from oddpair.store import outcomes
from oddpair.store.database import SessionFactory
from oddpair.store.decisions import decisions_in_force
from oddpair.store.golden import IN_FORCE
from oddpair.store.registers import register_by_slug, standing_run
from oddpair.store.tables import Delivery, GoldenRecord, Job, RunPair, Source, SourceRecord

from ..states.registers import bring, nothing
from . import desk as review

#: Blocks that are soon too large, and no small list that is compared whole.
PLAN = (
    default_plan_text(RegisterKind.ORGANISATION)
    .replace("most_records: 150", "most_records: 12")
    .replace("2000000", "0")
)


def recognised(sessions: SessionFactory, slug: str, directories: Directories | None = None) -> dict:
    return recognise.recognise_register(sessions, slug, nothing, directories or Directories())


@pytest.fixture
def register(sessions: SessionFactory) -> str:
    assert "most_records: 12" in PLAN
    with sessions.begin() as session:
        slug = registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug
        switch_recognition(session, slug, True, actor="ann")
    with sessions.begin() as session:
        plans.save_plan(session, slug, yaml=PLAN, note="", actor="ann", seen_version=1)
    return slug


def assert_as_one_match(sessions: SessionFactory, slug: str) -> None:
    """The standing run holds what one match of everything finds by what was learned; every projection is what it is made from."""
    with sessions() as session:
        own = register_by_slug(session, slug)
        run = standing_run(session, own.id)
        assert run is not None
        assert run.learned is not None
        plan = plans.plan_in_force(session, slug).plan
        records, ids = read_records.read_records(session, own.id, tidy=True)
        decided = run_plan.decisions_for(session, own.id, ids)
        result = pipeline.run(records, plan, are_tidy=True, learned=from_bytes(run.learned), decisions=decided)
        names = cluster_names(result.labels, ids)
        rows = session.execute(text("SELECT record_id, cluster FROM run_clusters WHERE run_id = :id"), {"id": run.id})
        assert {row[0]: row[1] for row in rows} == dict(zip(ids.tolist(), names.tolist(), strict=True))
        kept = session.scalars(select(RunPair).where(RunPair.run_id == run.id)).all()
        found = {(pair.left_id, pair.right_id): (float(np.float32(pair.score)), pair.same) for pair in kept}
        assert len(found) == run.report["pairs_same"] + run.report["pairs_unsure"]
        assert run.report["clusters"] == result.cluster_count
        pairs = zip(
            ids[result.pairs.left], ids[result.pairs.right], result.pairs.scored.bits, result.pairs.same, strict=True
        )
        assert found == {(min(a, b), max(a, b)): (float(bits), same) for a, b, bits, same in pairs}
    with sessions() as session:
        assert rebuild(session, slug).problems == []
    with sessions() as session:
        # Nothing is left to merge.
        preview = preview_merge(session, slug)
        assert (preview.made, preview.grown, preview.joined, preview.split) == (0, 0, 0, 0)
        assert registers.view_of(session, slug).run_due == []


def counts_of(sessions: SessionFactory, number: int = -1) -> dict[str, int]:
    with sessions() as session:
        delivery = session.scalars(select(Delivery).order_by(Delivery.id)).all()[number]
        told = dict(delivery.outcomes or {})
        told.pop("at")
        records = {name: outcomes.records_of_outcome(session, delivery.id, name, 0, 10_000) for name in told}
        assert {name: len(found) for name, found in records.items()} == told
        assert delivery.counts is not None
        assert (
            sum(count for name, count in told.items() if name != "ended")
            == delivery.counts["rows"] - delivery.counts["rejected"]
        )
        return told


def again(file: DemoFile, folder: Path, keep: int, change: int) -> Path:
    """Return a later file of the web shop: some rows gone, some with another phone."""
    with file.path.open(encoding="utf-8", newline="") as lines:
        rows = list(csv.reader(lines))
    head, rows = rows[0], rows[1:]
    phone = next(place for place, name in enumerate(head) if "phone" in name.lower())
    for row in rows[:change]:
        row[phone] = "+44 1632 960999"
    path = folder / "later.csv"
    with path.open("w", encoding="utf-8", newline="") as out:
        csv.writer(out).writerows([head, *rows[:keep]])
    return path


def test_deliveries_are_recognised_one_by_one_and_everything_ends_as_after_one_match(
    register: str, sessions: SessionFactory, demo_files: list[DemoFile], deliveries: Path, tmp_path: Path
) -> None:
    by_source = {file.source: file for file in demo_files}
    for name in ("webshop", "ledger"):
        bring(sessions, register, by_source[name].path, deliveries)
    told = recognised(sessions, register)
    assert told["matched_all"] == "nothing was matched yet"
    assert_as_one_match(sessions, register)
    for name in ("till", "northhouse", "callsheet"):
        bring(sessions, register, by_source[name].path, deliveries)
        told = recognised(sessions, register)
        assert told["matched_all"] == ""
        assert told["changed"] == by_source[name].records
        assert_as_one_match(sessions, register)
        counts = counts_of(sessions)
        assert counts["recognised"] > 10
        assert counts["added"] > 0
        assert "updated" not in counts
    bring(sessions, register, again(by_source["webshop"], tmp_path, keep=20, change=6), deliveries, "webshop")
    recognised(sessions, register)
    assert_as_one_match(sessions, register)
    assert counts_of(sessions) == {"updated": 6, "unchanged": 14}
    with sessions() as session:
        latest = session.scalars(select(Delivery.id).order_by(Delivery.id.desc())).first()
        assert outcomes.changed_fields(session, latest or 0) == {"phone": 6}


def test_what_people_and_deliveries_undo_is_followed_too(
    register: str, sessions: SessionFactory, demo_files: list[DemoFile], deliveries: Path
) -> None:
    for file in demo_files:
        bring(sessions, register, file.path, deliveries)
    recognised(sessions, register)
    with sessions.begin() as session:
        pair = review.queue(session, register, limit=3).items[0].doubt
        review.decide(
            session, register, pair.left_id, pair.right_id, verdict="same", remark="", actor="ann", seen_decision=None
        )
    recognised(sessions, register)
    assert_as_one_match(sessions, register)
    with sessions.begin() as session:
        [decided] = decisions_in_force(session, register_by_slug(session, register).id)
        review.withdraw(session, decided.id, actor="ann")
    recognised(sessions, register)
    assert_as_one_match(sessions, register)
    with sessions.begin() as session:
        record = session.scalars(select(SourceRecord).where(SourceRecord.fields.has_key("phone"))).first()
        assert record is not None
        was = record.fields["phone"]
        only = quality.filter_for(session, register_by_slug(session, register), "phone", "filled", "")
        corrections.correct(session, register, "phone", was, "+44 1632 960998", only, actor="ann")
    recognised(sessions, register)
    assert_as_one_match(sessions, register)
    with sessions.begin() as session:
        middle = session.scalars(select(Delivery.id).order_by(Delivery.id)).all()[2]
        take_back.take_back(session, middle, actor="ann", progress=nothing)
    recognised(sessions, register)
    assert_as_one_match(sessions, register)
    with sessions.begin() as session:
        take_back.put_back(session, middle, actor="ann", progress=nothing)
    recognised(sessions, register)
    assert_as_one_match(sessions, register)


def test_loading_asks_for_recognition_once_and_a_lost_directory_is_made_again(
    register: str, sessions: SessionFactory, demo_files: list[DemoFile], deliveries: Path, tmp_path: Path
) -> None:
    for file in demo_files[:3]:
        bring(sessions, register, file.path, deliveries)
    with sessions() as session:
        waiting = session.scalars(select(Job).where(Job.kind == "recognise", Job.status == "queued")).all()
        assert len(waiting) == 1
    kept_ones = Directories(tmp_path)
    recognised(sessions, register, kept_ones)
    bring(sessions, register, demo_files[3].path, deliveries)
    recognised(sessions, register, kept_ones)
    assert_as_one_match(sessions, register)
    [kept] = tmp_path.glob("blocks-*.npz")
    for damage in (b"no archive", None):
        if damage is not None:
            kept.write_bytes(damage)
        bring(sessions, register, demo_files[4].path, deliveries)
        recognised(sessions, register, Directories(tmp_path))
        assert_as_one_match(sessions, register)
    assert np.load(kept)["owners"].size


def test_another_plan_or_promise_and_what_cannot_be_learned_match_everything(
    register: str, sessions: SessionFactory, demo_files: list[DemoFile], deliveries: Path
) -> None:
    bring(sessions, register, demo_files[0].path, deliveries)
    recognised(sessions, register)
    with sessions.begin() as session:
        registers.change_source(session, register, demo_files[0].source, own_duplicates=False, actor="ann")
    bring(sessions, register, demo_files[1].path, deliveries)
    assert "promise" in recognised(sessions, register)["matched_all"]
    passes = "\npasses:\n  - title: strict\n  - title: the rest\n    works_on: unmatched\n"
    with sessions.begin() as session:
        plans.save_plan(session, register, yaml=PLAN + passes, note="", actor="ann", seen_version=2)
    bring(sessions, register, demo_files[2].path, deliveries)
    assert "several passes" in recognised(sessions, register)["matched_all"]
    assert counts_of(sessions)["recognised"] > 0


def test_a_source_may_only_recognise_or_only_link_or_not_bring_what_is_there(
    register: str, sessions: SessionFactory, demo_files: list[DemoFile], deliveries: Path
) -> None:
    by_source = {file.source: file for file in demo_files}
    for name in ("webshop", "ledger"):
        bring(sessions, register, by_source[name].path, deliveries)
    recognised(sessions, register)
    with sessions.begin() as session:
        own = register_by_slug(session, register)
        session.add_all(
            Source(register_id=own.id, name=name, trust_rank=rank)
            for rank, name in enumerate(("till", "callsheet", "northhouse"), start=3)
        )
        session.flush()
        may: dict[str, Any] = {
            "till": {"creates": "never"},
            "callsheet": {"creates": "unless known"},
            "northhouse": {"supplies": False},
        }
        for source, what in may.items():
            registers.change_source(session, register, source, actor="ann", **what)
    bring(sessions, register, by_source["till"].path, deliveries)
    recognised(sessions, register)
    counts = counts_of(sessions)
    assert set(counts) - {"doubtful"} == {"recognised", "refused"}
    # The till's records may move others, but no golden record is the till's alone.
    assert all({source for source, _ in members} != {"till"} for _, members in golden_rows(sessions).values())
    assert_as_one_match(sessions, register)
    bring(sessions, register, by_source["callsheet"].path, deliveries)
    recognised(sessions, register)
    counts = counts_of(sessions)
    assert counts["refused"] > 0
    assert "recognised" not in counts
    assert_as_one_match(sessions, register)
    with sessions() as session:
        # What was refused is told with where it is already.
        latest = session.scalars(select(Delivery.id).order_by(Delivery.id.desc())).first()
        refused = outcomes.records_of_outcome(session, latest or 0, "refused", 0, 100)
        assert any(told.golden_id for told, _ in refused)
    before = golden_rows(sessions)
    bring(sessions, register, by_source["northhouse"].path, deliveries)
    recognised(sessions, register)
    counts = counts_of(sessions)
    assert counts["recognised"] > 10
    after = golden_rows(sessions)
    joined = {key: after[key][1] - members for key, (_, members) in before.items() if key in after}
    by_it_alone = [key for key, more in joined.items() if more and {source for source, _ in more} == {"northhouse"}]
    assert len(by_it_alone) > 5
    # Joined, but not changed.
    assert all(after[key][0] == before[key][0] for key in by_it_alone)
    assert_as_one_match(sessions, register)


def golden_rows(sessions: SessionFactory) -> dict[str, tuple[dict[str, str], frozenset[tuple[str, int]]]]:
    """Return the values of golden records in force, and (source, record) of their members."""
    with sessions() as session:
        members: dict[int, set[tuple[str, int]]] = {}
        query = "SELECT m.golden_id, o.name, s.id FROM golden_members m JOIN source_records s ON s.id = m.record_id"
        for golden, source, record in session.execute(text(f"{query} JOIN sources o ON o.id = s.source_id")):
            members.setdefault(golden, set()).add((source, record))
        rows = session.scalars(select(GoldenRecord).where(IN_FORCE))
        return {row.key: (dict(row.values), frozenset(members[row.id])) for row in rows}


newcomers = st.lists(
    st.tuples(st.integers(0, 3), st.sampled_from(["held", "free", "never", "unless known"])), max_size=14
)


@given(newcomers)
def test_who_is_left_out_of_a_merge_hangs_on_whom_it_would_join(rows: list[tuple[int, str]]) -> None:
    clusters = np.array([cluster for cluster, _ in rows], dtype=np.int64)
    flags = {
        word: np.array([own == word for _, own in rows], dtype=np.bool_) for word in ("held", "never", "unless known")
    }
    left = left_out(clusters, flags["held"], flags["never"], flags["unless known"])
    for place, (cluster, word) in enumerate(rows):
        company = [own for other, (at, own) in enumerate(rows) if at == cluster and other != place]
        earlier = [own for at, own in rows[:place] if at == cluster]
        if word in ("held", "free"):
            assert not left[place]
        elif word == "never":
            assert left[place] == (not set(company) & {"held", "free", "unless known"})
        else:
            assert left[place] == bool(set(company) & {"held", "free"} or "unless known" in earlier)
