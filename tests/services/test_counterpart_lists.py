"""Counterpart lists: looked up, worked by hand, remembered, sent out."""

import csv
from pathlib import Path

import pytest

from oddpair.core.errors import Conflict, NotFound, Refused
from oddpair.core.mapping import assignment_from
from oddpair.services import work
from oddpair.services.counterparts import lists, rows, send_out
from oddpair.services.counterparts.run_list import run_list
from oddpair.services.counterparts.settings import OUTCOMES, ListSettings, settings_of
from oddpair.services.golden import merge
from oddpair.services.tidy.records import record_list
from oddpair.store.database import SessionFactory

from ..states.registers import nothing

HEAD = ["nr", "firm", "town", "note"]


def write(folder: Path, content: list[list[str]], name: str = "asked.csv") -> Path:
    path = folder / name
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([HEAD, *content])
    return path


def known_rows(sessions: SessionFactory, slug: str) -> list[list[str]]:
    """Some records of the register as somebody else would write them, and strangers."""
    with sessions() as session:
        found = record_list(session, slug, source="webshop", limit=30).page.rows
    own = [
        [f"k{n}", row.fields["name"].upper(), row.fields.get("address.city", ""), "known"]
        for n, row in enumerate(found)
    ]
    return [
        *own,
        *([f"s{n}", f"Stranger {n} Glassworks{n}", f"Farville{n}", ""] for n in range(15)),
        ["bad", "", "", "nameless"],
    ]


def made(sessions: SessionFactory, slug: str, path: Path, folder: Path, keep: tuple[str, ...] = ()) -> None:
    stored = folder / f"stored-{path.name}"
    stored.write_bytes(path.read_bytes())
    with sessions.begin() as session:
        lists.make(
            session,
            slug,
            name="asked",
            stored=stored,
            file_name=path.name,
            settings=ListSettings(keep=keep),
            actor="ann",
        )


def run(sessions: SessionFactory, slug: str, folder: Path) -> dict[str, int]:
    with sessions() as session:
        list_id = lists.list_named(session, slug, "asked").id
    return run_list(sessions, slug, list_id, folder, nothing)


@pytest.fixture
def asked(customers: str, sessions: SessionFactory, deliveries: Path, tmp_path: Path) -> str:
    made(sessions, customers, write(tmp_path, known_rows(sessions, customers)), deliveries, keep=("name", "phone"))
    run(sessions, customers, deliveries)
    return customers


def outcome_of(sessions: SessionFactory, slug: str, key: str) -> rows.ShownRow:
    with sessions() as session:
        [row] = rows.rows_page(session, slug, "asked", search=key, limit=500).rows
        return row


def test_counts_add_up_to_the_rows_and_every_count_opens_its_rows(asked: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        found = lists.list_named(session, asked, "asked")
        assert found.counts is not None
        assert sum(found.counts.values()) == 46
        assert found.counts["rejected"] == 1
        assert found.counts["none"] >= 15
        assert found.counts["matched"] > 0
        for outcome in OUTCOMES:
            page = rows.rows_page(session, asked, "asked", outcome=outcome, limit=500)
            assert len(page.rows) == found.counts[outcome]
            assert {row.outcome for row in page.rows} <= {outcome}
        with pytest.raises(Refused):
            rows.rows_page(session, asked, "asked", outcome="perhaps")


def test_pages_go_through_all_rows_and_back(asked: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        seen, cursor = [], ""
        while True:
            page = rows.rows_page(session, asked, "asked", cursor=cursor, limit=7)
            seen += [row.number for row in page.rows]
            if not page.behind:
                break
            cursor = page.behind
        assert seen == list(range(46))
        assert [
            row.number for row in rows.rows_page(session, asked, "asked", cursor=page.before, limit=7).rows
        ] == seen[35:42]


def test_what_a_person_says_holds_through_the_next_run_and_can_be_taken_back(
    asked: str, sessions: SessionFactory, deliveries: Path
) -> None:
    stranger = outcome_of(sessions, asked, "Glassworks3")
    matched = next(row for n in range(30) if (row := outcome_of(sessions, asked, f'"k{n}"')).outcome == "matched")
    assert stranger.outcome == "none"
    assert matched.counterpart is not None
    with sessions.begin() as session:
        confirmed = rows.Said("confirmed", matched.counterpart.record_id)
        [now] = rows.say(session, asked, "asked", stranger.key, confirmed, actor="bob")
        assert (now.outcome, now.said_by) == ("matched", "bob")
        [now] = rows.say(session, asked, "asked", matched.key, rows.Said("nobody"), actor="bob")
        assert (now.outcome, now.counterpart) == ("none", None)
        before = lists.list_named(session, asked, "asked").counts
    assert run(sessions, asked, deliveries)["matched"] == before["matched"]  # type: ignore[index]
    assert outcome_of(sessions, asked, "Glassworks3").outcome == "matched"
    assert outcome_of(sessions, asked, f'"{matched.key}"').outcome == "none"
    with sessions.begin() as session:
        for key in (stranger.key, matched.key):
            rows.take_back(session, asked, "asked", key)
    assert outcome_of(sessions, asked, "Glassworks3").outcome == "none"
    assert outcome_of(sessions, asked, f'"{matched.key}"').outcome == "matched"


def test_a_rejected_candidate_is_not_offered_as_the_counterpart_again(
    asked: str, sessions: SessionFactory, deliveries: Path
) -> None:
    matched = next(row for n in range(30) if (row := outcome_of(sessions, asked, f'"k{n}"')).outcome == "matched")
    assert matched.counterpart is not None
    refused = matched.counterpart.record_id
    with sessions.begin() as session:
        [now] = rows.say(session, asked, "asked", matched.key, rows.Said("rejected", refused), actor="bob")
        assert now.counterpart is None or now.counterpart.record_id != refused
        assert [one.rejected for one in now.candidates if one.of.record_id == refused] == [True]
    run(sessions, asked, deliveries)
    again = outcome_of(sessions, asked, f'"{matched.key}"')
    assert again.counterpart is None or again.counterpart.record_id != refused


def test_wrong_words_are_refused(asked: str, sessions: SessionFactory, deliveries: Path) -> None:
    with sessions() as session:
        for said in (rows.Said("nobody", 1), rows.Said("confirmed"), rows.Said("perhaps", 1)):
            with pytest.raises(Refused):
                rows.say(session, asked, "asked", "k1", said, actor="bob")
        for key, said in (
            ("none such", rows.Said("nobody")),
            ("k1", rows.Said("confirmed", 10**9)),
            ("", rows.Said("nobody")),
        ):
            with pytest.raises(NotFound):
                rows.say(session, asked, "asked", key, said, actor="bob")
        with pytest.raises(NotFound):
            lists.list_named(session, asked, "other")
        with pytest.raises(Conflict):
            lists.make(session, asked, name="asked", stored=deliveries / "stored-asked.csv", file_name="a.csv",
                       settings=ListSettings(), actor="ann")  # fmt: skip
        with pytest.raises(Refused, match="no field"):
            lists.change(session, asked, "asked", settings=ListSettings(keep=("nme",)), mapping=(), follows=False)


def test_a_newer_file_keeps_mapping_and_words_and_the_list_follows_the_register(
    asked: str, sessions: SessionFactory, deliveries: Path, tmp_path: Path
) -> None:
    with sessions.begin() as session:
        rows.say(session, asked, "asked", "s1", rows.Said("nobody"), actor="bob")
        stored = write(
            deliveries,
            [["s1", "Stranger 1 Glassworks1", "Farville1", ""], ["new", "Tern Foundry", "Leith", ""]],
            "newer.csv",
        )
        changed = lists.replace_file(session, asked, "asked", stored=stored, file_name="newer.csv")
        assert {item["field"]: item["column"] for item in changed.mapping if item.get("column")}["name"] == "firm"
        assert changed.counts is None
    assert run(sessions, asked, deliveries)["none"] == 2
    assert outcome_of(sessions, asked, "Glassworks1").said_by == "bob"
    with sessions.begin() as session:
        found = lists.list_named(session, asked, "asked")
        mapping = [assignment_from(item) for item in found.mapping]
        lists.change(session, asked, "asked", settings=settings_of(found.settings), mapping=mapping, follows=True)
        assert not lists.is_stale(session, found)
        lists.follow(session, asked)
        assert [job.kind for job, _ in work.recent_jobs(session, 1, ["customers"])] == ["counterparts"]


def test_all_columns_go_out_with_golden_keys_beside(asked: str, sessions: SessionFactory, deliveries: Path) -> None:
    merge.merge(sessions, asked, actor="ann")
    run(sessions, asked, deliveries)
    with sessions() as session:
        out = send_out.out_table(session, asked, "asked")
        lines = list(out.rows)
        assert out.columns[:4] == tuple(HEAD)
        assert len(lines) == 46
        matched = [line for line in lines if line["counterpart_outcome"] == "matched"]
        assert matched
        assert all(line["counterpart_id"].startswith("CU-") and line["counterpart_name"] for line in matched)
        assert "nameless" in [line["note"] for line in lines if "row 47" in line["counterpart_reason"]]
        only = list(send_out.out_table(session, asked, "asked", outcome="none").rows)
        assert {line["counterpart_outcome"] for line in only} == {"none"}
        # Nobody's golden record is among those that no row means, and the other way round.
        means = {line["counterpart_id"] for line in matched}
        others = rows.unmatched_golden(session, asked, "asked", limit=500).rows
        assert others
        assert not means & {one.key for one in others}


def test_a_list_is_forgotten_with_all_its_words(
    customers: str, sessions: SessionFactory, deliveries: Path, tmp_path: Path
) -> None:
    made(sessions, customers, write(tmp_path, [["a", "Tern Foundry", "Leith", ""]]), deliveries)
    with sessions() as session, pytest.raises(Refused, match="not looked up"):
        send_out.out_table(session, customers, "asked")
    run(sessions, customers, deliveries)
    with sessions.begin() as session:
        rows.say(session, customers, "asked", "a", rows.Said("nobody"), actor="bob")
    with sessions.begin() as session:
        lists.forget(session, customers, "asked")
        assert lists.lists(session, customers) == []


def test_every_list_that_follows_is_run_again_once(
    customers: str, sessions: SessionFactory, deliveries: Path, tmp_path: Path
) -> None:
    stored = write(deliveries, [["a", "Tern Foundry", "Leith", ""]])
    with sessions.begin() as session:
        for name in ("one", "two", "three"):
            lists.make(
                session, customers, name=name, stored=stored, file_name="a.csv", settings=ListSettings(), actor="ann"
            )
            lists.list_named(session, customers, name).follows = name != "two"
        for _ in range(3):
            lists.follow(session, customers)
        jobs = [job.title for job, _ in work.recent_jobs(session, 20, ["customers"]) if job.kind == "counterparts"]
    assert sorted(jobs) == ["Counterparts of one", "Counterparts of three"]
