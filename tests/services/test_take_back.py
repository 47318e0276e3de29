"""Deliveries taken back and put back, full ones and changes only, and rows mended after they were set aside."""

from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import select

from oddpair.core.errors import InputError, Refused
from oddpair.core.fields import RegisterKind
from oddpair.files import Reading
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in import load_delivery
from oddpair.services.bring_in.rejected_rows import mend
from oddpair.services.bring_in.take_back import preview_take_back, put_back, take_back
from oddpair.services.golden import golden_page as golden
from oddpair.services.golden import merge
from oddpair.services.golden.undo import undo_step
from oddpair.services.match import run_plan
from oddpair.services.registers import registers
from oddpair.services.state.mappings import mapping_of
from oddpair.store.database import SessionFactory
from oddpair.store.golden import IN_FORCE
from oddpair.store.registers import register_by_slug, stage_counts
from oddpair.store.tables import Delivery, GoldenMember, GoldenRecord, JournalEntry, RejectedRow, SourceRecord
from tests.there import there

from ..states.registers import nothing
from . import desk as review

HEAD = "id,company,phone\n"


@pytest.fixture
def slug(sessions: SessionFactory) -> str:
    with sessions.begin() as session:
        return registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug


class Desk:
    """Brings small files in and looks at what became of their records."""

    def __init__(self, sessions: SessionFactory, slug: str, folder: Path) -> None:
        self.sessions, self.slug, self.folder = sessions, slug, folder

    def load(self, rows: str, source: str = "till", **how: str) -> int:
        stored = self.folder / f"{len(list(self.folder.iterdir()))}.csv"
        stored.write_text(HEAD + rows)
        with self.sessions.begin() as session:
            draft = bring_in.receive(session, self.slug, stored, f"{source}.csv", source).delivery
            bring_in.check_loadable(session, draft.id, mapping_of(draft.mapping), **how)
            load_delivery.load(session, draft.id, self.folder, nothing)
            return draft.id

    def records(self) -> dict[str, tuple[str, str]]:
        with self.sessions() as session:
            found = session.scalars(select(SourceRecord).order_by(SourceRecord.source_key))
            return {record.source_key: (record.state, record.fields["name"]) for record in found}

    def counts(self, delivery_id: int) -> dict[str, int]:
        with self.sessions() as session:
            return session.get_one(Delivery, delivery_id).counts or {}

    def change(self, action: Any, delivery_id: int) -> Any:
        with self.sessions.begin() as session:
            return action(session, delivery_id, actor="ann")

    def match_and_merge(self) -> None:
        run_plan.run_plan(self.sessions, self.slug, nothing)
        merge.merge(self.sessions, self.slug, actor="ann")

    def golden(self) -> dict[str, list[str]]:
        """Return golden key → keys of its members."""
        with self.sessions() as session:
            active = session.scalars(select(GoldenRecord).where(IN_FORCE).order_by(GoldenRecord.number)).all()
            query = select(SourceRecord.source_key).join(GoldenMember, GoldenMember.record_id == SourceRecord.id)
            return {
                item.key: sorted(session.scalars(query.where(GoldenMember.golden_id == item.id))) for item in active
            }


@pytest.fixture
def desk(sessions: SessionFactory, slug: str, deliveries: Path) -> Desk:
    return Desk(sessions, slug, deliveries)


def test_a_delivery_taken_back_leaves_what_the_others_say_and_comes_back_whole(desk: Desk) -> None:
    first = desk.load("1,Tern,1\n2,Skua,2\n3,Eider,3\n")
    second = desk.load("1,Tern,1\n2,Skua Ropes,2\n4,Ruff,4\n")
    state = desk.records()
    assert state == {
        "1": ("current", "Tern"),
        "2": ("current", "Skua Ropes"),
        "3": ("current", "Eider"),
        "4": ("current", "Ruff"),
    }
    with desk.sessions() as session:
        told = preview_take_back(session, second)
    assert (told.withdrawn, told.restored, told.staying, told.golden) == (1, 1, 1, 0)
    desk.change(take_back, second)
    assert desk.records() == {**state, "2": ("current", "Skua"), "4": ("withdrawn", "Ruff")}
    with desk.sessions() as session:
        tidy = session.scalars(select(SourceRecord.tidy).where(SourceRecord.source_key == "2")).one()
        assert tidy["name"] == "skua"
    with pytest.raises(Refused, match="taken back, not loaded"):
        desk.change(take_back, second)
    # The first one can go too: only what the second one said is left when it returns.
    desk.change(take_back, first)
    assert {state for state, _ in desk.records().values()} == {"withdrawn"}
    desk.change(put_back, second)
    assert desk.records() == {**state, "3": ("withdrawn", "Eider")}
    desk.change(put_back, first)
    assert desk.records() == state


def test_what_is_delivered_again_after_it_was_taken_back_is_new(desk: Desk) -> None:
    desk.change(take_back, desk.load("1,Tern,1\n"))
    again = desk.load("1,Tern,1\n")
    assert [desk.counts(again)[name] for name in ("new", "unchanged", "gone")] == [1, 0, 0]
    assert desk.records() == {"1": ("current", "Tern")}


def test_gone_records_are_kept_or_ended_and_changes_end_nothing(desk: Desk) -> None:
    desk.load("1,Tern,1\n2,Skua,2\n3,Eider,3\n")
    assert desk.counts(desk.load("1,Tern,1\n", delivers="changes"))["gone"] == 0
    assert desk.counts(desk.load("1,Tern,1\n2,Skua,2\n"))["gone"] == 1
    assert desk.records()["3"] == ("current", "Eider")
    ending = desk.load("1,Tern,1\n", gone="end")
    assert desk.counts(ending)["gone"] == 2
    assert [state for state, _ in desk.records().values()] == ["current", "ended", "ended"]
    assert desk.counts(desk.load("1,Tern,1\n2,Skua,2\n"))["new"] == 1
    assert [state for state, _ in desk.records().values()] == ["current", "current", "ended"]
    desk.change(take_back, ending)
    assert [state for state, _ in desk.records().values()] == ["current", "current", "current"]


def test_golden_records_lose_and_regain_the_records_of_a_delivery(desk: Desk) -> None:
    desk.load("a,Tern Boatyard,01632 960001\nb,Skua Ropes,01632 960002\n", "webshop")
    till = desk.load("c,Tern Boatyard,01632 960001\nd,Ruff Paint,01632 960003\n")
    desk.match_and_merge()
    before = desk.golden()
    assert sorted(before.values()) == [["a", "c"], ["b"], ["d"]]
    with desk.sessions() as session:
        assert preview_take_back(session, till).golden == 2
    desk.change(take_back, till)
    assert sorted(desk.golden().values()) == [["a"], ["b"]]
    with desk.sessions.begin() as session:
        counts = stage_counts(session, register_by_slug(session, desk.slug).id)
        assert (counts.records, counts.golden, counts.records_without_golden) == (2, 2, 0)
        entry = session.scalars(select(JournalEntry).where(JournalEntry.kind == "take back")).first()
        with pytest.raises(Refused, match="put the delivery back"):
            undo_step(session, there(entry).id, actor="ann")
        assert review.queue(session, desk.slug).waiting == 0
    # A run and a merge without them change nothing of that.
    desk.match_and_merge()
    assert sorted(desk.golden().values()) == [["a"], ["b"]]
    desk.change(put_back, till)
    assert desk.golden() == before


def test_a_golden_record_that_changed_meanwhile_does_not_get_its_records_back_unasked(desk: Desk) -> None:
    desk.load("a,Tern Boatyard,01632 960001\n", "webshop")
    till = desk.load("c,Tern Boatyard,01632 960001\n")
    desk.match_and_merge()
    desk.change(take_back, till)
    desk.load("e,Tern Boatyard,01632 960001\n", "ledger")
    desk.match_and_merge()
    desk.change(put_back, till)
    assert list(desk.golden().values()) == [["a", "e"]]
    desk.match_and_merge()
    assert list(desk.golden().values()) == [["a", "c", "e"]]


def test_ended_records_have_no_say_in_golden_values_while_others_are_left(desk: Desk) -> None:
    desk.load("a,Tern Boatyard,01632 960001\n", "ledger")
    desk.load("c,Tern Boatyard Ltd,01632 960001\n")
    desk.match_and_merge()
    desk.load("x,Other,01632 960007\n", "ledger", gone="end")
    with desk.sessions() as session:
        key = next(key for key, members in desk.golden().items() if "a" in members)
        assert golden.golden_view(session, desk.slug, key).golden.values["name"] == "Tern Boatyard Ltd"


def test_rejected_rows_are_mended_and_join_their_delivery(desk: Desk) -> None:
    delivery = desk.load("1,Tern,1\n,Skua,2\n1,Eider,3\n4,Ruff,4,5\n")
    with desk.sessions() as session:
        no_id, twice, too_long = session.scalars(select(RejectedRow).order_by(RejectedRow.row_number))
    assert no_id.cells == {"company": "Skua", "phone": "2"}
    assert too_long.cells == {"id": "4", "company": "Ruff", "phone": "4,5"}
    with pytest.raises(InputError, match="the id '1' stands in another row"), desk.sessions.begin() as session:
        mend(session, twice.id, there(twice.cells), actor="ann")
    with pytest.raises(InputError, match="no such column"), desk.sessions.begin() as session:
        mend(session, no_id.id, {"idd": "2"}, actor="ann")
    with pytest.raises(InputError, match="the name is missing"), desk.sessions.begin() as session:
        mend(session, no_id.id, {"id": "2"}, actor="ann")
    for row, cells in ((no_id, {**no_id.cells, "id": "2"}), (too_long, {**too_long.cells, "phone": "4"})):
        with desk.sessions.begin() as session:
            mend(session, row.id, cells, actor="ann")
    assert desk.records() == {"1": ("current", "Tern"), "2": ("current", "Skua"), "4": ("current", "Ruff")}
    assert desk.counts(delivery) == {"rows": 4, "new": 3, "changed": 0, "unchanged": 0, "gone": 0, "rejected": 1}
    with pytest.raises(Refused, match="mended and brought in before"), desk.sessions.begin() as session:
        mend(session, no_id.id, {"id": "9", "company": "x"}, actor="ann")
    desk.change(take_back, delivery)
    assert {state for state, _ in desk.records().values()} == {"withdrawn"}
    with pytest.raises(Refused, match="taken back"), desk.sessions.begin() as session:
        mend(session, twice.id, {"id": "3", "company": "Eider"}, actor="ann")


def test_a_later_delivery_goes_before_a_row_mended_after_it(desk: Desk) -> None:
    desk.load("1,Tern,1\n2,,2\n")
    desk.load("1,Tern,1\n2,Skua Ropes,2\n")
    with desk.sessions.begin() as session:
        row = session.scalars(select(RejectedRow)).one()
        mend(session, row.id, {"id": "2", "company": "Skua"}, actor="ann")
    assert desk.records()["2"] == ("current", "Skua Ropes")


def test_changed_columns_of_a_source_are_noticed_and_not_misread(desk: Desk, deliveries: Path) -> None:
    desk.load("1,Tern,01632 960001\n")
    later = deliveries / "later.csv"
    later.write_text("id,telephone,company,mail\n1,01632 960001,Tern,info@tern.example\n")
    with desk.sessions.begin() as session:
        draft = bring_in.receive(session, desk.slug, later, "till.csv", "till")
        assert draft.remembered
        assert (draft.new_columns, draft.missing_columns) == (("telephone", "mail"), ("phone",))
        assert {item["column"]: item["field"] for item in draft.delivery.mapping} == {
            "id": "id", "company": "name", "telephone": "phone", "mail": "email",
        }  # fmt: skip
        reasons = {item.column: item.reason for item in draft.proposals}
        assert reasons["company"] == "as in the last delivery of this source"
        assert "header" in reasons["mail"]


def test_a_draft_is_read_again_with_another_header_and_remembered(desk: Desk, deliveries: Path) -> None:
    path = deliveries / "odd.csv"
    path.write_text("a,b,c\nid,firm,town\n1,Tern,Oban\n2,Skua,Wick\n")
    with desk.sessions.begin() as session:
        draft = bring_in.receive(session, desk.slug, path, "odd.csv").delivery
        assert draft.columns == ["a", "b", "c"]
        again = bring_in.read_again(session, draft.id, Reading(header_row=2), deliveries)
        assert again.delivery.columns == ["id", "firm", "town"]
        assert "header in row 2" in again.delivery.format
        assert load_delivery.load(session, draft.id, deliveries, nothing)["new"] == 2
    with desk.sessions.begin() as session:
        assert bring_in.receive(session, desk.slug, path, "odd.csv").delivery.columns == ["id", "firm", "town"]
