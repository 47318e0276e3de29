from pathlib import Path

import pytest
from sqlalchemy import func, select

from oddpair.core.errors import InputError, MappingInvalid, Refused
from oddpair.core.fields import RegisterKind
from oddpair.core.mapping import mapping_from_columns
from oddpair.demo import DemoFile
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in import load_delivery
from oddpair.services.registers import registers
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Delivery, RecordVersion, RejectedRow, SourceRecord
from tests.there import there

from ..states.registers import bring, nothing


@pytest.fixture
def slug(sessions: SessionFactory) -> str:
    with sessions.begin() as session:
        return registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug


def file(tmp_path: Path, text: str) -> Path:
    path = tmp_path / "list.csv"
    path.write_text(text)
    return path


def test_the_second_delivery_says_what_is_new_changed_unchanged_and_gone(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    first = bring(
        sessions,
        slug,
        file(tmp_path, "id,company,phone\n1,Tern,01632 960001\n2,Skua,01632 960002\n3,Eider,01632 960003\n"),
        deliveries,
    )
    again = bring(
        sessions,
        slug,
        file(tmp_path, "id,company,phone\n1,Tern,01632 960001\n2,Skua,01632 960002\n3,Eider,01632 960003\n"),
        deliveries,
    )
    later = bring(
        sessions,
        slug,
        file(tmp_path, "id,company,phone\n1,Tern,01632 960001\n2,Skua,01632 960009\n4,Ruff,01632 960004\n,x,1\n"),
        deliveries,
    )
    wanted = ("rows", "new", "changed", "unchanged", "gone", "rejected")
    assert [first[name] for name in wanted] == [3, 3, 0, 0, 0, 0]
    assert [again[name] for name in wanted] == [3, 0, 0, 3, 0, 0]
    assert [later[name] for name in wanted] == [4, 1, 1, 1, 1, 1]
    with sessions() as session:
        assert session.scalar(select(func.count()).select_from(SourceRecord)) == 4
        assert session.scalar(select(func.count()).select_from(RecordVersion)) == 5
        [rejected] = session.scalars(select(RejectedRow))
        assert (rejected.row_number, rejected.column_name, rejected.reason) == (5, "id", "the id is missing")


def test_what_was_delivered_is_kept_beside_tidy_values(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    bring(sessions, slug, file(tmp_path, "id,company,phone,odd\n1,TERN & CO. LTD,(01632) 960-001,x\n"), deliveries)
    with sessions() as session:
        [record] = session.scalars(select(SourceRecord))
    assert record.delivered == {"id": "1", "company": "TERN & CO. LTD", "phone": "(01632) 960-001", "odd": "x"}
    assert record.fields == {"name": "TERN & CO. LTD", "phone": "(01632) 960-001"}
    assert record.tidy["name"] == "tern"


def test_an_unreadable_file_leaves_nothing_behind(sessions: SessionFactory, slug: str, tmp_path: Path) -> None:
    path = tmp_path / "x.csv"
    path.write_bytes(b"")
    with pytest.raises(InputError, match=r"orders\.csv: the file is empty"), sessions.begin() as session:
        bring_in.receive(session, slug, path, "orders.csv")
    with sessions() as session:
        assert session.scalar(select(func.count()).select_from(Delivery)) == 0


def test_a_mapping_is_checked_remembered_and_never_loads_twice(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    path = file(tmp_path, "id,company,x\n1,Tern,y\n")
    with sessions.begin() as session:
        draft = bring_in.receive(session, slug, _stored(path, deliveries, "a"), path.name).delivery.id
    with pytest.raises(MappingInvalid), sessions.begin() as session:
        bring_in.check_loadable(session, draft, mapping_from_columns({"company": "phone"}))
    with sessions.begin() as session:
        mapping = mapping_from_columns({"id": "id", "company": "name", "x": "email"})
        bring_in.check_loadable(session, draft, mapping)
        load_delivery.load(session, draft, deliveries, nothing)
    with pytest.raises(Refused, match="loaded already"), sessions.begin() as session:
        load_delivery.load(session, draft, deliveries, nothing)
    with sessions.begin() as session:
        again = bring_in.receive(session, slug, _stored(path, deliveries, "b"), path.name)
    assert again.remembered
    assert {item.column: item.target for item in again.proposals} == {"id": "id", "company": "name", "x": "email"}


def _stored(path: Path, folder: Path, name: str) -> Path:
    stored = folder / name
    stored.write_bytes(path.read_bytes())
    return stored


def test_the_demo_is_mapped_without_a_touch(
    customers: str, sessions: SessionFactory, demo_files: list[DemoFile]
) -> None:
    with sessions() as session:
        for delivery in session.scalars(select(Delivery)):
            assert {"id", "name", "address.line", "phone", "updated_on"} <= {item["field"] for item in delivery.mapping}
    assert len({demo.source for demo in demo_files}) == 5


@pytest.mark.parametrize(
    ("mapping", "says", "cure"),
    [
        ({"no": "id", "tel": "phone"}, "No column is mapped to a name", {"name.first": "name.given", "name.last": "name.family"}),
        ({"no": "id", "employer": "name"}, "All of the first 30 rows lack a name: “employer” is empty there. “name.first” and “name.last” look like one.",
         {"name.first": "name.given", "name.last": "name.family"}),
        ({"office": "id", "name.first": "name.given", "name.last": "name.family"}, "29 of the first 30 rows repeat an id.", {}),
    ],
    ids=["no name mapped", "an empty name", "an id that tells nobody apart"],
)  # fmt: skip
def test_what_most_rows_lack_is_told_once_with_its_cure(
    sessions: SessionFactory, tmp_path: Path, mapping: dict[str, str], says: str, cure: dict[str, str]
) -> None:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Boat owners", RegisterKind.PERSON).slug
    rows = "".join(
        f"{n},7,{'Anna' if n % 2 else 'Peter'},Holm{chr(97 + n % 26)},,01632 9600{n:02d}\n" for n in range(30)
    )
    path = file(tmp_path, f"no,office,name.first,name.last,employer,tel\n{rows}")
    with sessions.begin() as session:
        draft = bring_in.receive(session, slug, path, "till.csv").delivery.id
        tried = bring_in.try_mapping(session, draft, mapping_from_columns(mapping), tmp_path)
        trouble = there(tried.trouble)
        assert trouble.says.startswith(says)
        proposed = {item.column: item.field for item in trouble.cure}
        assert cure.items() <= proposed.items()
        assert trouble.cure_says
        cured = bring_in.try_mapping(session, draft, trouble.cure, tmp_path)
        assert (cured.trouble, cured.rejected) == (None, [])
