"""Quality rules per source and over time, and fields mended in one step, with undo, while what was delivered stays."""

from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from oddpair.core.errors import InputError, NotFound, Refused
from oddpair.core.fields import RegisterKind
from oddpair.core.tidying.word_tables import TableKind
from oddpair.services.bring_in.take_back import put_back, take_back
from oddpair.services.registers import registers
from oddpair.services.tidy import corrections, quality, word_tables
from oddpair.store.database import SessionFactory
from oddpair.store.record_filter import chosen
from oddpair.store.records import Asked, count_records
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import Delivery, SourceRecord
from tests.there import there

from ..states.registers import bring

ROWS = """id,company,postcode,country,phone,email,web site
1,Tern,YO21 1AA,GB,01632 960001,info@tern.example,www.tern.example
2,Skua,5003,GB,,info@other.example,www.skua.example
3,Skua,ABC,Norrge,01632 960002,,
"""
RULES = [
    {"field": "phone", "kind": "required"}, {"field": "address.postcode", "kind": "valid"}, {"field": "address.postcode", "kind": "shape", "asked": "AA99 9AA | 9999"},
    {"field": "address.country", "kind": "in list", "asked": "lands"}, {"field": "name", "kind": "unique"}, {"field": "email", "kind": "agrees", "asked": "web_site"},
]  # fmt: skip


@pytest.fixture
def slug(sessions: SessionFactory, tmp_path: Path, deliveries: Path) -> str:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug
        word_tables.make_table(session, "lands", TableKind.VALUE_MAP, actor="ann")
        word_tables.save_table(session, "lands", [("Britain", "GB"), ("Norge", "NO")], seen_version=1, actor="ann")
        quality.save_rules(session, slug, RULES, actor="ann")
    load(sessions, slug, ROWS, tmp_path, deliveries)
    return slug


def load(sessions: SessionFactory, slug: str, rows: str, folder: Path, deliveries: Path) -> None:
    path = folder / "till.csv"
    path.write_text(rows)
    bring(sessions, slug, path, deliveries)


def countries(sessions: SessionFactory) -> list[tuple[str, str]]:
    with sessions() as session:
        found = session.scalars(select(SourceRecord).order_by(SourceRecord.source_key))
        return [(r.fields.get("address.country", ""), r.tidy.get("address.country", "")) for r in found]


def test_every_rule_counts_the_records_that_it_opens(sessions: SessionFactory, slug: str) -> None:
    with sessions() as session:
        told = {item.rule.kind: item for item in quality.measured(session, slug)}
        assert {kind: item.shares[0].failing for kind, item in told.items()} == {
            "required": 1, "valid": 2, "shape": 1, "in list": 1, "unique": 2, "agrees": 1,
        }  # fmt: skip
        assert told["agrees"].words == "E-mail agrees with Web site"
        register = register_by_slug(session, slug)
        for item in told.values():
            only = quality.filter_for(session, register, item.rule.field, "rule", item.rule.key)
            assert (
                count_records(session, register.id, Asked(only=chosen(session, register.id, only)))
                == item.shares[0].failing
            )
        with pytest.raises(NotFound):
            quality.filter_for(session, register, "name", "rule", "nonsense")


def test_a_bad_load_shows_up_in_the_course_of_a_rule(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    load(sessions, slug, ROWS.replace("01632 960001", ""), tmp_path, deliveries)
    with sessions() as session:
        required = quality.measured(session, slug)[0]
        assert [(past.source, past.failing, past.records) for past in required.history] == [
            ("till", 1, 3),
            ("till", 2, 3),
        ]


@pytest.mark.parametrize(
    ("rule", "told"),
    [
        ({"field": "fon", "kind": "required"}, "no field 'fon'"), ({"field": "phone", "kind": "requird"}, "Did you mean 'required'"),
        ({"field": "phone", "kind": "shape"}, "needs a text"), ({"field": "name", "kind": "valid"}, "cannot be told"),
        ({"field": "name", "kind": "in list", "asked": "x"}, "no table 'x'"), ({"field": "name", "kind": "agrees", "asked": "name"}, "no other field"),
        ({"field": "name", "kind": "required", "asked": "x"}, "asks for nothing more"), (RULES[0], "stands there already"),
    ],
)  # fmt: skip
def test_a_wrong_rule_is_told_by_its_number(
    sessions: SessionFactory, slug: str, rule: dict[str, str], told: str
) -> None:
    with pytest.raises(InputError, match=told) as caught, sessions.begin() as session:
        quality.save_rules(session, slug, [RULES[0], rule], actor="ann")
    assert caught.value.column == "rule 2"


def test_failing_values_are_mended_alike_and_undone_while_what_was_delivered_stays(
    sessions: SessionFactory, slug: str
) -> None:
    with sessions.begin() as session:
        register = register_by_slug(session, slug)
        rule = next(item.rule for item in quality.measured(session, slug) if item.rule.kind == "in list")
        only = quality.filter_for(session, register, rule.field, "rule", rule.key)
        assert [(held.value, held.records) for held in corrections.values_of(session, slug, rule.field, only)] == [
            ("Norrge", 1)
        ]
        batch = corrections.correct(session, slug, rule.field, "Norrge", "NO", only, actor="ann")
        assert batch.records == 1
    assert countries(sessions)[2] == ("NO", "NO")
    with sessions.begin() as session:
        record = session.scalars(select(SourceRecord).where(SourceRecord.source_key == "3")).one()
        assert record.delivered["country"] == "Norrge"
        assert [item.value for item in corrections.batches(session, slug, 10)] == ["NO"]
        with pytest.raises(Refused, match="No record holds"):
            corrections.correct(session, slug, rule.field, "Norrge", "NO", only, actor="ann")
        assert corrections.undo(session, slug, batch.batch, actor="ann") == 1
        with pytest.raises(NotFound):
            corrections.undo(session, slug, batch.batch, actor="ann")
    assert countries(sessions)[2] == ("Norrge", "")


def test_undoing_a_step_brings_back_what_the_step_before_it_said(sessions: SessionFactory, slug: str) -> None:
    def put(session: Session, was: str, value: str) -> int:
        only = quality.filter_for(session, register_by_slug(session, slug), "address.country", "filled", "")
        return corrections.correct(session, slug, "address.country", was, value, only, actor="ann").batch

    with sessions.begin() as session:
        first = put(session, "Norrge", "NO")
        second = put(session, "NO", "SE")
        assert [item.batch for item in corrections.batches(session, slug, 10)] == [second, first]
    assert countries(sessions)[2] == ("SE", "SE")
    with sessions.begin() as session:
        corrections.undo(session, slug, second, actor="ann")
    assert countries(sessions)[2] == ("NO", "NO")
    with sessions.begin() as session:
        corrections.undo(session, slug, first, actor="ann")
    assert countries(sessions)[2] == ("Norrge", "")


def test_a_correction_outlives_deliveries_until_the_source_itself_says_something_else(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    def everything(session: Session) -> Any:
        return quality.filter_for(session, register_by_slug(session, slug), "address.country", "filled", "")

    with sessions.begin() as session:
        corrections.correct(session, slug, "address.country", "GB", "IE", everything(session), actor="ann")
        corrections.correct(session, slug, "address.country", "Norrge", "", everything(session), actor="ann")
    assert countries(sessions) == [("IE", "IE"), ("IE", "IE"), ("", "")]
    # The same again, another column changed, and then one country that the source itself has mended.
    load(sessions, slug, ROWS.replace("Tern,", "Tern Ltd,"), tmp_path, deliveries)
    assert countries(sessions) == [("IE", "IE"), ("IE", "IE"), ("", "")]
    load(sessions, slug, ROWS.replace("Norrge", "Norge"), tmp_path, deliveries)
    assert countries(sessions) == [("IE", "IE"), ("IE", "IE"), ("Norge", "NO")]
    with sessions.begin() as session:
        latest = session.scalars(select(Delivery.id).order_by(Delivery.id.desc())).first()
        take_back(session, there(latest), actor="ann")
    assert countries(sessions)[:2] == [("IE", "IE"), ("IE", "IE")]
    with sessions.begin() as session:
        put_back(session, there(latest), actor="ann")
    assert countries(sessions) == [("IE", "IE"), ("IE", "IE"), ("Norge", "NO")]
