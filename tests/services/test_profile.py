"""Profiles of a register: every number opens just as many records."""

from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from oddpair.core.errors import NotFound, Refused
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in.draft_profile import profile_draft
from oddpair.services.registers import registers
from oddpair.services.tidy.profile import Scope, make_profile, profile_of
from oddpair.store import profiles
from oddpair.store.database import SessionFactory
from oddpair.store.record_filter import RecordFilter, chosen
from oddpair.store.records import Asked, count_records
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import Delivery
from tests.there import there

from ..states.registers import bring, nothing

ROWS = """id,company,postcode,country,phone,email,tax number
1,Tern  Ltd,YO21 1AA,GB,01632 960001,info@tern.example,
2,GrÃ¸n AS,5003,GB,n/a,no mail,123456785
3,Skua,5003,NO,0000,,123456785
4,Skua,,NO,01632,x@skua.example,951022535
"""


@pytest.fixture
def slug(sessions: SessionFactory, tmp_path: Path, deliveries: Path) -> str:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug
    path = tmp_path / "till.csv"
    path.write_text(ROWS)
    bring(sessions, slug, path, deliveries)
    path.write_text("id,company\n1,Eider\n")
    bring(sessions, slug, path, deliveries, source="webshop")
    return slug


def behind(session: Session, slug: str, field: str, check: str, wanted: str = "", scope: Scope = Scope()) -> int:  # noqa: B008
    register = register_by_slug(session, slug)
    asked = RecordFilter(default_layout(RegisterKind.ORGANISATION).field(field), check, wanted)
    only = chosen(session, register.id, asked, source=scope.source, delivery_id=scope.delivery_id)
    return count_records(session, register.id, Asked(source=scope.source, only=only, delivery_id=scope.delivery_id))


def test_every_number_of_a_profile_opens_as_many_records(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        found = profile_of(session, slug, Scope())
        assert there(found)["records"] == 5
        for field in there(found)["fields"]:
            name = field["name"]
            assert behind(session, slug, name, "filled") == field["filled"]
            assert behind(session, slug, name, "empty") == field["empty"]
            assert behind(session, slug, name, "single") == field["single"]
            for check, listed in (
                ("value", "frequent"),
                ("shape", "shapes"),
                ("value", "gap_fillers"),
                ("odd letters", "odd"),
            ):
                for item in field[listed]:
                    assert behind(session, slug, name, check, item["value"]) == item["records"], (name, check, item)
            if field["checked"]:
                assert behind(session, slug, name, "invalid") == field["invalid"], name
            if field["filled"]:
                assert behind(session, slug, name, "length", str(field["longest"])) >= 1
        told = {field["name"]: field for field in there(found)["fields"]}
        assert told["address.postcode"]["invalid"] == 1
        assert told["email"]["invalid"] == 1
        assert told["tax_number"]["invalid"] == 1
        assert {item["value"] for item in told["name"]["odd"]} == {"double blanks", "misread"}
        for wrong in (
            ("name", "invalid", ""),
            ("name", "nonsense", ""),
            ("name", "odd letters", "x"),
            ("name", "length", "x"),
        ):
            with pytest.raises(Refused):
                behind(session, slug, *wrong)


def test_numbers_of_a_source_or_delivery_open_its_records(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        for scope in (Scope(source="till"), Scope(delivery_id=1), Scope(delivery_id=2)):
            for field in there(profile_of(session, slug, scope))["fields"]:
                for check, number in (
                    ("filled", field["filled"]),
                    ("single", field["single"]),
                    ("empty", field["empty"]),
                ):
                    assert behind(session, slug, field["name"], check, scope=scope) == number, (
                        scope,
                        field["name"],
                        check,
                    )


def test_a_profile_is_kept_until_the_records_change(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with sessions.begin() as session:
        first = profile_of(session, slug, Scope(source="webshop"))
        assert there(first)["records"] == 1
    with monkeypatch.context() as patched, sessions() as session:
        patched.setattr(profiles, "count_in_scope", None)
        assert profile_of(session, slug, Scope(source="webshop")) == first
    path = tmp_path / "webshop.csv"
    path.write_text("id,company\n1,Eider\n2,Ruff\n")
    bring(sessions, slug, path, deliveries, source="webshop")
    with sessions.begin() as session:
        assert there(profile_of(session, slug, Scope(source="webshop")))["records"] == 2
        latest = session.query(Delivery).order_by(Delivery.id.desc()).first()
        assert there(profile_of(session, slug, Scope(delivery_id=there(latest).id)))["records"] == 2
        with pytest.raises(NotFound):
            profile_of(session, slug, Scope(source="nobody"))


def test_many_records_are_work_for_the_background(sessions: SessionFactory, slug: str) -> None:
    with sessions.begin() as session:
        assert profile_of(session, slug, Scope(), while_waiting=2) is None
        make_profile(session, slug, Scope(), nothing)
        assert there(profile_of(session, slug, Scope()))["records"] == 5


def test_the_columns_of_a_draft_are_profiled_as_they_were_delivered(
    sessions: SessionFactory, slug: str, deliveries: Path
) -> None:
    path = deliveries / "draft.csv"
    path.write_text("firm,odd\nTern,1\nSkua,\nbroken,1,2\n")
    with sessions.begin() as session:
        draft = bring_in.receive(session, slug, path, "draft.csv").delivery
        told = profile_draft(session, draft.id, deliveries)
    assert told["records"] == 2
    assert [(field["name"], field["filled"], field["distinct"]) for field in told["fields"]] == [
        ("firm", 2, 2),
        ("odd", 1, 1),
    ]
