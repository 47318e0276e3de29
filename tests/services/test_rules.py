"""Survivorship rules tried, set, put back; contradictions that members hold, and what settles them."""

from typing import Any

import pytest

from oddpair.core.errors import NotFound, Refused
from oddpair.services.golden import edits, rules
from oddpair.services.golden import golden_page as golden
from oddpair.services.golden.golden_list import Asked, Order, golden_list
from oddpair.services.golden.send_out import golden_table
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import SourceRecord

from ..states.registers import nothing
from .test_golden import assert_projection, largest

SHORT_NAMES: dict[str, object] = {"name": ["most complete", "longest"], "phone": [{"by": "with", "field": "name"}]}


def values_by_key(sessions: SessionFactory, slug: str) -> dict[str, dict[str, str]]:
    with sessions() as session:
        return {row.pop("golden_key"): row for row in golden_table(session, slug).rows}


def test_a_trial_says_what_setting_the_rules_then_does_and_it_is_taken_back_in_one_step(
    merged: str, sessions: SessionFactory
) -> None:
    before = values_by_key(sessions, merged)
    tried = rules.try_rules(sessions, merged, SHORT_NAMES, None, nothing)
    assert values_by_key(sessions, merged) == before
    with sessions.begin() as session:
        rules.change_rules(session, merged, SHORT_NAMES, actor="ann")
    assert rules.refresh_golden(sessions, merged, nothing) == {
        "golden": len(before),
        "changed": tried["changed"],
    }
    after = values_by_key(sessions, merged)
    changed = {key for key in before if before[key] != after[key]}
    assert tried["golden"] == len(before)
    assert len(changed) == tried["changed"] > 0
    for field in tried["fields"]:
        own = [key for key in before if before[key].get(field["field"]) != after[key].get(field["field"])]
        assert len(own) == field["changed"]
        for sample in field["samples"]:
            key, name = sample["key"], field["field"]
            assert (sample["before"], sample["after"]) == (before[key].get(name, ""), after[key].get(name, ""))
    assert_projection(sessions, merged)
    with sessions.begin() as session:
        [step] = rules.earlier_rules(session, merged)
        rules.put_rules_back(session, merged, step.entry_id, actor="ann", seen_version=2)
    rules.refresh_golden(sessions, merged, nothing)
    assert values_by_key(sessions, merged) == before
    assert_projection(sessions, merged)


def test_rules_that_cannot_be_are_refused_before_they_are_tried(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        for document, form in (({"name": "newst"}, None), ({}, "shouted")):
            with pytest.raises(Refused):
                rules.check_draft(session, customers, document, form)
        with pytest.raises(NotFound):
            rules.put_rules_back(session, customers, 1, actor="ann", seen_version=None)
        with pytest.raises(NotFound):
            rules.tried(session, customers, 1)


def contradict(sessions: SessionFactory, slug: str) -> golden.GoldenView:
    """Let two members of a golden record say different countries, as if delivered so."""
    view = largest(sessions, slug)
    with sessions.begin() as session:
        for (record, _), country in zip(view.members[:2], ("DK", "NO"), strict=True):
            found = session.get_one(SourceRecord, record.id)
            found.tidy = {**found.tidy, "address.country": country}
    rules.refresh_golden(sessions, slug, nothing)
    with sessions() as session:
        return golden.golden_view(session, slug, view.golden.key)


def listed(sessions: SessionFactory, slug: str, **asked: Any) -> set[str]:
    with sessions() as session:
        found = golden_list(session, slug, Asked(**asked), order=Order("key"), limit=500)
        assert found.total == len(found.page.rows)
        return {row.key for row in found.page.rows}


def test_contradictions_are_told_counted_and_settled_by_a_pin(merged: str, sessions: SessionFactory) -> None:
    present = listed(sessions, merged, contradictory=True)
    view = contradict(sessions, merged)
    key = view.golden.key
    assert set(view.explained.contradictions["address.country"]) >= {"DK", "NO"}
    assert listed(sessions, merged, contradictory=True) == present | {key}
    with sessions.begin() as session:
        edits.pin(
            session, merged, key, field="address.country", value="DK", reason="asked", seen_version=view.golden.version,
            actor="ann",
        )  # fmt: skip
    assert key not in listed(sessions, merged, contradictory=True)
    with sessions() as session:
        assert "address.country" in golden.golden_view(session, merged, key).explained.contradictions
    assert listed(sessions, merged, pinned=True) == {key}


def test_the_list_is_filtered_by_what_is_so(merged: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        register = register_by_slug(session, merged)
        every = golden_list(session, merged, Asked(), limit=500).page.rows
        views = {row.key: golden.golden_view(session, register.slug, row.key) for row in every}
    sources = {key: {source.name for _, source in view.members} for key, view in views.items()}
    [one, other, *_] = sorted({name for names in sources.values() for name in names})
    values = {row.key: row.values for row in every}
    expected: dict[str, tuple[dict[str, Any], set[str]]] = {
        "source": ({"source": one}, {key for key, names in sources.items() if one in names}),
        "without": ({"source": one, "without": other}, {k for k, n in sources.items() if one in n and other not in n}),
        "members": ({"least_members": 2, "most_members": 3}, {row.key for row in every if 2 <= row.size <= 3}),
        "country": ({"country": "dk"}, {k for k, v in values.items() if v.get("address.country") == "DK"}),
        "empty": ({"empty": "email"}, {k for k, v in values.items() if not v.get("email")}),
        "since": ({"changed_since": views[every[0].key].golden.updated_at}, set(values)),
    }
    for name, (wanted, keys) in expected.items():
        assert listed(sessions, merged, **wanted) == keys, name
        assert keys, name
    with sessions() as session:
        for asked in (Asked(source="nope"), Asked(empty="nope")):
            with pytest.raises(NotFound):
                golden_list(session, merged, asked, limit=5)
        by_phone = golden_list(session, merged, Asked(), order=Order(field="phone", turned=True), limit=500).page.rows
        phones = [row.values.get("phone", "").lower() for row in by_phone]
        assert phones == sorted(phones, reverse=True)


def test_what_is_searched_stands_first(merged: str, sessions: SessionFactory) -> None:
    best = Order("match")
    with sessions() as session:
        every = golden_list(session, merged, Asked(), order=Order("name"), limit=500).page.rows
        assert [row.key for row in golden_list(session, merged, Asked(), order=best, limit=500).page.rows] == [
            row.key for row in golden_list(session, merged, Asked(), limit=500).page.rows
        ]
        for row in every[::25]:
            name = row.values["name"]
            for search in (row.key, name, name.upper()):
                first = golden_list(session, merged, Asked(search=search), order=best, limit=5).page.rows[0]
                assert first.key == row.key or first.values["name"].lower() == name.lower(), search
            word = name.split()[0]
            found = golden_list(session, merged, Asked(search=word), order=best, limit=500).page.rows
            begins = [one.values.get("name", "").lower().startswith(word.lower()) for one in found]
            assert begins == sorted(begins, reverse=True)
            page = golden_list(session, merged, Asked(search=word), order=best, limit=1).page
            if len(found) > 1:
                after = golden_list(
                    session, merged, Asked(search=word), order=best, cursor=page.behind, limit=1
                ).page.rows
                assert [page.rows[0].key, after[0].key] == [one.key for one in found[:2]]


def test_nothing_that_a_member_holds_is_lost_from_the_page(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    for unit, values in (("phone", view.golden.values["phone"]), ("name", view.golden.values["name"])):
        held = [item for item in view.explained.held if item.unit == unit]
        if held:
            assert held[0].values[unit] == values
            holders = [(holder.source, holder.record) for item in held for holder in item.holders]
            assert {
                (source.name, record.source_key) for record, source in view.members if record.fields.get(unit)
            } == set(holders)
