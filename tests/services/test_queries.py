"""What lists show: filtered, ordered and paged as asked."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import func, select
from sqlalchemy.orm import Session

import oddpair.store
from oddpair.core.errors import NotFound, Refused
from oddpair.core.text.search_words import sounds_of
from oddpair.services.golden import golden_page as golden
from oddpair.services.golden import merge
from oddpair.services.golden.golden_list import Asked, GoldenList, Order, golden_list
from oddpair.services.match import run_plan
from oddpair.services.review import queue as queue_service
from oddpair.services.state.search import word_query
from oddpair.services.tidy import corrections, quality, records
from oddpair.services.tidy.records import RecordList, record_list
from oddpair.services.transactions import transaction
from oddpair.store import word_search
from oddpair.store.database import SessionFactory
from oddpair.store.decisions import decisions_in_force
from oddpair.store.maintenance import analyze
from oddpair.store.queue import ORDERS
from oddpair.store.registers import register_by_slug, stage_counts
from oddpair.store.tables import Doubt, Run, RunCluster, RunPair, SourceRecord

from ..states.registers import nothing
from . import desk as review


def register_id(sessions: SessionFactory, slug: str) -> int:
    with sessions() as session:
        return register_by_slug(session, slug).id


def all_pages(ask: Callable[[str], Any]) -> list[Any]:
    """Walk through all pages by their cursors, there and back again; return the rows."""
    page = ask("")
    rows, pages = list(page.rows), [page]
    assert page.before == ""
    while page.behind:
        page = ask(page.behind)
        rows += page.rows
        pages.append(page)
    for expected in reversed(pages[:-1]):
        page = ask(page.before)
        assert page.rows == expected.rows
    return rows


def test_records_are_paged_without_gap_or_overlap(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        everything = record_list(session, customers, limit=500)
        rows = all_pages(lambda cursor: record_list(session, customers, cursor=cursor, limit=25).page)
    assert rows == everything.page.rows
    assert len(rows) == everything.total
    names = [(record.source, record.source_key) for record in rows]
    assert names == sorted(names)


def test_records_are_found_by_words_and_their_beginnings_and_marks_mean_nothing(
    customers: str, sessions: SessionFactory
) -> None:
    with sessions() as session:
        [first] = record_list(session, customers, source="till", limit=1).page.rows
        for typed in (first.fields["name"], first.fields["name"].upper(), first.fields["name"][:4], first.source_key):
            found = record_list(session, customers, search=typed, source="till", limit=500)
            assert first.id in {record.id for record in found.page.rows}, typed
            assert {record.source for record in found.page.rows} == {"till"}
            assert found.total >= 1
        for text in ("%", "_", "\\", "no such thing", "'", ":*", "&"):
            assert record_list(session, customers, search=text).page.rows == []


@pytest.mark.parametrize("source", ["", "till"])
def test_what_was_found_is_paged_without_gap_or_overlap(customers: str, sessions: SessionFactory, source: str) -> None:
    with sessions() as session:
        everything = record_list(session, customers, search="0", source=source, limit=500)
        assert everything.total > 15
        rows = all_pages(
            lambda cursor: record_list(session, customers, search="0", source=source, cursor=cursor, limit=7).page
        )
        assert rows == everything.page.rows
        names = [(record.source, record.source_key) for record in rows]
        assert names == sorted(set(names))


def test_of_very_frequent_words_some_rows_are_found_and_always_the_same(
    customers: str, sessions: SessionFactory
) -> None:
    with transaction(sessions) as session:
        analyze(session)
    with sessions() as session:
        words = word_query(register_by_slug(session, customers).id, "0")
        every = set(word_search.find_by_words(session, "record_words", words))
        for spare in (0.001, 1.0, 3.0, 1000.0):
            some, again = (
                word_search.find_by_words(session, "record_words", words, 10, word_search.Frequent(0, 0.0, spare))
                for _ in range(2)
            )
            assert some == again
            assert len(set(some)) == 10
            assert set(some) < every


def test_a_frequent_word_is_found_in_a_small_source_too(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        expected = {
            source: [row.id for row in record_list(session, customers, search="0", source=source, limit=500).page.rows]
            for source in ("till", "ledger", "callsheet")
        }
        of_field = records.FieldAsked("phone")
        filtered = record_list(session, customers, search="0", of_field=of_field, limit=500)
        # As if the word were so frequent that only some of its records are found: none of this source, perhaps.
        for source, ids in expected.items():
            found = record_list(session, customers, search="0", source=source, limit=500, most_found=3)
            assert [row.id for row in found.page.rows] == ids
            assert (found.total, found.at_least) == (min(len(ids), 3), len(ids) >= 3)
            pages = all_pages(partial(page_with_zero, session, customers, source))
            assert [row.id for row in pages] == ids
        found = record_list(session, customers, search="0", of_field=of_field, limit=500, most_found=3)
        assert [row.id for row in found.page.rows] == [row.id for row in filtered.page.rows]


def page_with_zero(session: Session, slug: str, source: str, cursor: str) -> Any:
    return record_list(session, slug, search="0", source=source, cursor=cursor, limit=7, most_found=3).page


HAND_MADE = [
    "x", "e30", "W10", "WzFd", "WzEsMl0", "WzEsMiwzLDRd", "WzEsImEiXQ", 'WzEsImEiLCJcdTAwMDAiXQ', "open x y", "open 1 2", "later nan 1",
    "open inf 99999999999999999999", "5 5 5",
]  # fmt: skip


@pytest.mark.parametrize("cursor", HAND_MADE)
def test_cursors_made_by_hand_are_refused_or_lead_somewhere(
    customers: str, sessions: SessionFactory, cursor: str
) -> None:
    asks: list[Callable[[Session], object]] = [
        lambda session: record_list(session, customers, cursor=cursor),
        lambda session: record_list(session, customers, search="0", cursor=cursor),
        lambda session: review.queue(session, customers, after=cursor, limit=5),
        *(
            partial(listed, slug=customers, order=order, cursor=cursor)
            for order in ("members", "key", "changed", "name", "filled")
        ),
    ]
    for ask in asks:
        found = page_or_refusal(sessions, ask)
        assert isinstance(found, (RecordList, GoldenList, review.QueuePage)) or "go back to the first one" in str(found)


def page_or_refusal(sessions: SessionFactory, ask: Callable[[Session], object]) -> object:
    try:
        with transaction(sessions) as session:
            return ask(session)
    except Refused as refused:
        return refused


def listed(session: Session, *, slug: str, order: str, cursor: str) -> GoldenList:
    return golden_list(session, slug, Asked(), order=Order(order), cursor=cursor, limit=5)


@pytest.mark.parametrize("order", ORDERS)
def test_the_queue_is_ordered_as_asked_and_put_off_pairs_come_last(
    customers: str, sessions: SessionFactory, order: str
) -> None:
    with sessions() as session:
        page = review.queue(session, customers, what="", order=order, limit=500)
    doubts = [item.doubt for item in page.items]
    assert page.waiting == len(doubts) > 1
    measure = {
        "doubt": lambda doubt: abs(doubt.score),
        "score": lambda doubt: -doubt.score,
        "cluster": lambda doubt: -doubt.records,
        "value": lambda doubt: -doubt.value,
        "age": lambda doubt: doubt.since,
    }[order]
    assert [measure(doubt) for doubt in doubts] == sorted(measure(doubt) for doubt in doubts)
    first = next(doubt for doubt in doubts if doubt.what == "pair")
    with sessions.begin() as session:
        review.decide(
            session,
            customers,
            first.left_id,
            first.right_id,
            verdict="later",
            remark="",
            actor="ann",
            seen_decision=None,
        )
    with sessions() as session:
        again = review.queue(session, customers, what="", order=order, limit=500)
        counts = stage_counts(session, register_by_slug(session, customers).id)
        walked, after = [], ""
        while True:
            part = review.queue(session, customers, what="", order=order, limit=7, after=after)
            walked += part.items
            after = part.behind
            if not after:
                break
    last = again.items[-1].doubt
    assert (last.left_id, last.right_id, last.put_off) == (first.left_id, first.right_id, True)
    assert (counts.unsure_waiting, counts.put_off) == (again.waiting, again.put_off) == (page.waiting - 1, 1)
    assert walked == again.items


def test_the_queue_is_searched_by_words_and_filtered_by_kind(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        first = review.queue(session, customers, limit=1).items[0].doubt
        found = review.queue(session, customers, search=first.left_name.upper(), limit=500)
        assert (first.left_id, first.right_id) in {(item.doubt.left_id, item.doubt.right_id) for item in found.items}
        assert review.queue(session, customers, search="no such thing").items == []
        waiting = review.queue(session, customers).waiting
        kinds = review.kinds(session, customers)
        assert sum(count for _, _, count in kinds) == waiting
        for kind, says, count in kinds:
            of_kind = review.queue(session, customers, what="", kind=kind, limit=500).items
            assert len(of_kind) == count
            assert {item.kind for item in of_kind} == {says}


@pytest.mark.parametrize("order", ORDERS)
def test_the_queue_is_searched_alike_by_few_records_and_on_the_way_through(
    customers: str, sessions: SessionFactory, monkeypatch: pytest.MonkeyPatch, order: str
) -> None:
    with sessions() as session:
        everything = review.queue(session, customers, what="", order=order, limit=500)
        names = {name.split()[0] for item in everything.items for name in (item.doubt.left_name, item.doubt.right_name)}
        for word in (*sorted(names)[:12], "no such thing", "0"):
            few = review.queue(session, customers, what="", order=order, search=word, limit=500)
            with monkeypatch.context() as patch:
                patch.setattr(queue_service, "_FEW", 1)
                patch.setattr(queue_service, "_FEW_OF_ALL", 0.0)
                many = review.queue(session, customers, what="", order=order, search=word, limit=500)
            assert few.items == many.items
            assert bool(few.items) == (word in names or word == "0"), word
        waiting = sum(count for _, _, count in review.kinds(session, customers))
        assert waiting == everything.waiting + everything.put_off == len(everything.items)


def test_the_latest_standing_decision_counts_and_comes_back_when_what_it_rested_on_changed(
    customers: str, sessions: SessionFactory
) -> None:
    register = register_id(sessions, customers)
    with sessions() as session:
        pair = review.queue(session, customers, limit=1).items[0].doubt
    seen = None
    for verdict in ("later", "same", "different"):
        with sessions.begin() as session:
            decided = review.decide(
                session,
                customers,
                pair.left_id,
                pair.right_id,
                verdict=verdict,
                remark="",
                actor="ann",
                seen_decision=seen,
            )
            seen = decided.id
    with sessions() as session:
        assert [item.verdict for item in decisions_in_force(session, register)] == ["different"]
    with sessions.begin() as session:
        assert review.withdraw(session, decided.id, actor="bob").withdrawn_by == "bob"
        assert [item.verdict for item in decisions_in_force(session, register)] == ["same"]
        waiting = review.queue(session, customers).waiting
        record = session.get_one(SourceRecord, pair.left_id)
        name, updated = record.fields["name"], record.fields.get("updated_on", "")
        key = record.source_key

    def correct(field: str, was: str, value: str) -> None:
        with sessions.begin() as session:
            found = records.record_list(session, customers, search=key, limit=5).page.rows
            assert pair.left_id in {row.id for row in found}
            only = quality.filter_in(session, customers, field, "value" if was else "empty", was)
            corrections.correct(session, customers, field, was, value, only, actor="bob")

    def in_question() -> list[tuple[str, list[str]]]:
        with sessions() as session:
            assert [item.verdict for item in decisions_in_force(session, register)] == ["same"]
            faced = review.pair(session, customers, pair.left_id, pair.right_id)
            changed = [item.doubt for item in review.queue(session, customers, limit=500).items if item.doubt.changed]
            assert {item.field for item in faced.changed} == set(changed[0].changed if changed else [])
            return [(item.kind, item.changed) for item in changed]

    # A field that no plan compares is nothing to a decision; one that it compares brings the doubt back, still decided.
    correct("updated_on", updated, "2024-01-02")
    assert in_question() == []
    correct("name", name, f"{name} Holdings")
    assert [kind for kind, _ in in_question()] == ["changed"]
    with sessions() as session:
        assert review.queue(session, customers).waiting == waiting + 1
    correct("name", f"{name} Holdings", name)
    assert in_question() == []


def test_only_the_standing_run_keeps_its_pairs_but_every_run_its_report(
    customers: str, sessions: SessionFactory
) -> None:
    outcome = run_plan.run_plan(sessions, customers, nothing)
    with sessions() as session:
        assert session.scalar(select(func.count()).select_from(Run)) == 2
        assert set(session.scalars(select(RunPair.run_id))) == {outcome["run_id"]}
        assert set(session.scalars(select(Doubt.run_id))) == {outcome["run_id"]}
        total = session.scalar(select(func.count()).select_from(SourceRecord))
        assert session.scalar(select(func.count()).select_from(RunCluster)) == total == outcome["records"]


@pytest.mark.parametrize("order", ["members", "key", "changed", "name", "filled"])
def test_golden_records_are_listed_and_searched(customers: str, sessions: SessionFactory, order: str) -> None:
    merge.merge(sessions, customers, actor="ann")

    def ask(cursor: str = "", limit: int = 30, search: str = "") -> GoldenList:
        return golden_list(session, customers, Asked(search=search), order=Order(order), cursor=cursor, limit=limit)

    with sessions() as session:
        rows = all_pages(lambda cursor: ask(cursor).page)
        assert ask().total == len(rows) == len({row.key for row in rows})
        if order == "members":
            assert [row.size for row in rows] == sorted((row.size for row in rows), reverse=True)
        if order == "key":
            assert [row.key for row in rows] == sorted(row.key for row in rows)
        number = rows[0].key.partition("-")[2]
        assert rows[0].key in {row.key for row in ask(limit=500, search=number).page.rows}
        assert ask(search="'").total == 0
        words = sorted({word for row in rows for word in row.values.get("name", "").lower().split() if word.isascii()})
        spelled = {word: word[:3] + word[2:] for word in words if sounds_of(word)}
        word, doubled = next(
            (w, d) for w, d in spelled.items() if set(sounds_of(w)) & set(sounds_of(d)) and d not in words
        )
        heard = ask(limit=500, search=doubled)
        assert heard.by_sound
        assert {row.key for row in ask(limit=500, search=word).page.rows} <= {row.key for row in heard.page.rows}
        with pytest.raises(NotFound):
            golden.golden_view(session, customers, "CU-99999")
        with pytest.raises(Refused, match="page is not there"):
            ask(cursor="nonsense")


def test_tables_and_migrations_agree(database_url: str, sessions: SessionFactory) -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(oddpair.store.__file__).parent / "migrations"))
    config.attributes["url"] = database_url.replace("postgresql://", "postgresql+psycopg://", 1)
    command.check(config)
    command.downgrade(config, "base")
    command.upgrade(config, "head")
    command.check(config)
