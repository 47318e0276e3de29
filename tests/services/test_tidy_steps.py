"""Tidy steps of a register, swap lists and value maps: tried, saved, applied to all records, recounted."""

from pathlib import Path

import pytest
from sqlalchemy import select

from oddpair.core.errors import Conflict, InputError, Refused
from oddpair.core.fields import RegisterKind
from oddpair.core.tidying.ready_made import READY_MADE
from oddpair.core.tidying.word_tables import TableKind
from oddpair.services.golden import merge
from oddpair.services.match import run_plan
from oddpair.services.registers import registers
from oddpair.services.tidy import tidy_steps, word_tables
from oddpair.services.tidy.recount import recount
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import GoldenRecord, SourceRecord
from oddpair.store.tidying import registers_with_table, table_versions

from ..states.registers import bring, nothing

ROWS = """id,company,street,town,country,phone
1,ZZ Tern Boatyard Ltd,1 Quay Road,Oban,Norge,
2,Tern Boatyard Ltd,1 Quay Road,Oban,NO,
3,Skua Ropes,2 Pier Lane,Wick,Norrge,01632 960001
4,Ruff Paint,,Wick,Danmark,
"""
PREFIX_AWAY = {"do": "replace", "pattern": "^ZZ ", "with": ""}


@pytest.fixture
def slug(sessions: SessionFactory, tmp_path: Path, deliveries: Path) -> str:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug
        word_tables.make_table(session, "lands", TableKind.VALUE_MAP, actor="ann")
        word_tables.save_table(session, "lands", [("Norge", "NO"), ("danmark", "DK")], seen_version=1, actor="ann")
    path = tmp_path / "till.csv"
    path.write_text(ROWS)
    bring(sessions, slug, path, deliveries)
    return slug


def tidy_values(sessions: SessionFactory, field: str) -> list[str]:
    with sessions() as session:
        return [r.tidy.get(field, "") for r in session.scalars(select(SourceRecord).order_by(SourceRecord.source_key))]


def test_steps_are_tried_on_real_values_with_the_records_each_changes(sessions: SessionFactory, slug: str) -> None:
    with sessions() as session:
        tried = tidy_steps.try_steps(
            session, slug, "address.country", [{"do": "spaces"}, {"do": "swap words", "table": "lands"}]
        )
        assert (tried.records, tried.complete, tried.changed, tried.changed_by_step) == (4, True, 2, (0, 2))
        assert [(v.before, v.after[-1], v.records) for v in tried.values] == [("Danmark", "DK", 1), ("Norge", "NO", 1)]
        filled = tidy_steps.try_steps(session, slug, "address.line", [{"do": "fill", "from": "address.city"}])
        assert [(v.before, v.after) for v in filled.values] == [("", ("Wick",))]
        stopped = tidy_steps.try_steps(
            session, slug, "name", [{"do": "replace", "pattern": r"(\w|\w\w|\w\w\w|\s)+!", "with": ""}], search="zz"
        )
        assert stopped.changed == 0


def test_saved_steps_change_tidy_and_golden_values_but_nothing_delivered(sessions: SessionFactory, slug: str) -> None:
    run_plan.run_plan(sessions, slug, nothing)
    merge.merge(sessions, slug, actor="ann")
    with sessions() as session:
        before = {r.source_key: (r.delivered, r.fields) for r in session.scalars(select(SourceRecord))}
    steps = {"name": [PREFIX_AWAY], "address.country": [{"do": "swap words", "table": "lands"}]}
    with sessions.begin() as session:
        assert tidy_steps.save_tidy_steps(session, slug, steps, seen_version=0, actor="ann").kind == "tidy"
    with sessions.begin() as session:
        assert tidy_steps.tidy_register(session, slug, nothing) == {"records": 4, "changed": 1}
        assert registers.view(session, register_by_slug(session, slug)).run_due == [
            "the tidy steps changed since the last run"
        ]
    assert tidy_values(sessions, "name")[0] == "tern boatyard"
    with sessions() as session:
        assert {r.source_key: (r.delivered, r.fields) for r in session.scalars(select(SourceRecord))} == before
        countries = {values.get("address.country") for values in session.scalars(select(GoldenRecord.values))}
        assert countries == {"NO", "DK", "Norrge"}
    with pytest.raises(Conflict, match="changed by ann"), sessions.begin() as session:
        tidy_steps.save_tidy_steps(session, slug, {}, seen_version=0, actor="bob")
    with pytest.raises(InputError, match="no table 'land'"), sessions.begin() as session:
        tidy_steps.save_tidy_steps(
            session, slug, {"name": [{"do": "swap words", "table": "land"}]}, seen_version=1, actor="bob"
        )


def test_later_deliveries_and_runs_use_the_steps(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    with sessions.begin() as session:
        tidy_steps.save_tidy_steps(session, slug, {"name": [PREFIX_AWAY]}, seen_version=0, actor="ann")
    path = tmp_path / "webshop.csv"
    path.write_text("id,company\n9,ZZ Eider Ltd\n")
    bring(sessions, slug, path, deliveries)
    assert tidy_values(sessions, "name")[-1] == "eider"
    assert run_plan.run_plan(sessions, slug, nothing)["clusters"] == 4


def test_a_recount_tells_which_verdicts_would_change_and_keeps_nothing(sessions: SessionFactory, slug: str) -> None:
    other = {"name": [{"do": "replace", "pattern": "^ZZ Tern Boatyard", "with": "Tern Paint"}]}
    told = recount(sessions, slug, other, nothing)
    assert told["records"] == 4
    assert told["clusters_after"] == told["clusters_before"] + 1
    # The two of one house are two once they have other names.
    [change] = [change for change in told["changes"] if change["was"] == "same"]
    assert (change["becomes"], change["pairs"]) == ("different", 1)
    assert {item["left"]["name"] for item in told["sample"]} == {"ZZ Tern Boatyard Ltd"}
    assert tidy_values(sessions, "name")[0] == "zz tern boatyard"


def test_a_value_map_shows_what_it_touches_and_proposes_the_nearest_for_the_rest(
    sessions: SessionFactory, slug: str
) -> None:
    with sessions() as session:
        told = word_tables.usage(session, "lands", slug, "address.country")
    assert told.touched == {"norge": 1, "danmark": 1}
    assert [(item.value, item.records, item.nearest) for item in told.unmapped] == [("Norrge", 1, "NO")]
    assert told.records_unmapped == 1


def test_tables_keep_their_versions_and_say_who_uses_them(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        tidy_steps.save_tidy_steps(
            session, slug, {"address.country": [{"do": "swap words", "table": "lands"}]}, seen_version=0, actor="ann"
        )
        assert list(registers_with_table(session, "lands")) == [register_by_slug(session, slug).id]
        assert [len(version.entries) for version in table_versions(session, "lands")] == [2, 0]
    with pytest.raises(Conflict), sessions.begin() as session:
        word_tables.save_table(session, "lands", [], seen_version=1, actor="bob")
    with pytest.raises(Refused, match="already"), sessions.begin() as session:
        word_tables.make_table(session, "lands", TableKind.SWAP_LIST, actor="bob")


def test_ready_made_tables_can_be_taken_over_and_files_brought_in(
    sessions: SessionFactory, slug: str, tmp_path: Path
) -> None:
    with sessions.begin() as session:
        for name in READY_MADE:
            assert len(word_tables.make_table(session, name, TableKind.SWAP_LIST, ready=name, actor="ann").entries) > 30
        forms = tidy_steps.try_steps(session, slug, "name", [{"do": "swap words", "table": "legal forms"}])
        assert ("Tern Boatyard Ltd", "Tern Boatyard limited") in [(v.before, v.after[0]) for v in forms.values]
    path = tmp_path / "swaps.csv"
    path.write_text("from;to\nStr.;Street\n;x\nRd;Road\n")
    assert word_tables.entries_of_file(path, "swaps.csv") == [("Str.", "Street"), ("Rd", "Road")]
    path.write_text("only\nx\n")
    with pytest.raises(InputError, match="two columns"):
        word_tables.entries_of_file(path, "swaps.csv")
