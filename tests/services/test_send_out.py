"""What is sent out: chosen fields and records, the crosswalk both ways, retired keys, and changes that a receiver can follow."""

from datetime import datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import select, text

from oddpair.core.errors import NotFound, Refused
from oddpair.services.bring_in.take_back import put_back, take_back
from oddpair.services.golden import edits, saved, undo
from oddpair.services.golden import golden_page as golden
from oddpair.services.golden.golden_list import Asked
from oddpair.services.golden.send_out import Wanted, out_table
from oddpair.store import journal
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from oddpair.store.send_out import settled_until
from oddpair.store.tables import Delivery

from ..states.registers import nothing
from .test_golden import largest, merge_now

Rows = list[dict[str, str]]


def rows(sessions: SessionFactory, slug: str, table: str, **wanted: Any) -> Rows:
    with sessions() as session:
        return list(out_table(session, slug, table, Wanted(**wanted)).rows)


def moment(sessions: SessionFactory) -> datetime:
    with sessions() as session:
        return settled_until(session)


def in_force(sessions: SessionFactory, slug: str) -> dict[str, dict[str, str]]:
    return {
        row.pop("golden_key"): {k: v for k, v in row.items() if k != "records"}
        for row in rows(sessions, slug, "golden")
    }


def test_streets_and_regions_are_written_by_choice(merged: str, sessions: SessionFactory) -> None:
    usual = in_force(sessions, merged)
    chosen = {
        row["golden_key"]: row
        for row in rows(sessions, merged, "golden", written="standard", short_streets=True, region_names=True)
    }
    shortened = [
        key for key, values in usual.items() if values.get("address.line", "") != chosen[key].get("address.line", "")
    ]
    assert shortened
    assert all(len(chosen[key]["address.line"]) < len(usual[key]["address.line"]) for key in shortened)
    for wanted in ({"short_streets": True}, {"region_names": True}):
        with pytest.raises(Refused, match="keys"):
            rows(sessions, merged, "keys", **wanted)


def followed(known: dict[str, dict[str, str]], changes: Rows) -> dict[str, dict[str, str]]:
    """What a receiving system has after it followed the changes."""
    for row in changes:
        key = row["golden_key"]
        if row["change"] in ("merged into", "ended"):
            del known[key]
        elif "field" in row:
            own = known.setdefault(key, {})
            assert own.get(row["field"], "") == row["old"]
            own[row["field"]] = row["new"]
            if not row["new"]:
                del own[row["field"]]
        elif row["change"] == "added":
            assert key not in known
            known[key] = {}
    return known


def test_a_receiver_who_follows_the_changes_has_what_is_in_force(customers: str, sessions: SessionFactory) -> None:
    start = moment(sessions)
    merge_now(sessions, customers)
    known = followed({}, rows(sessions, customers, "changes", since=start))
    assert known == in_force(sessions, customers)

    since = moment(sessions)
    view = largest(sessions, customers)
    key = view.golden.key
    with sessions.begin() as session:
        version = view.golden.version
        edits.pin(session, customers, key, field="name", value="Tern", reason="x", seen_version=version, actor="ann")
    with sessions.begin() as session:
        [first, *_] = session.scalars(select(Delivery.id).order_by(Delivery.id))
        taken = next(record.id for record, _ in view.members if record.delivery_id != first)
        fresh = edits.split(session, customers, key, [taken], seen_version=version + 1, reason="other", actor="ann")
    with sessions.begin() as session:
        take_back(session, first, actor="ann", progress=nothing)
    changes = rows(sessions, customers, "changes", since=since)
    assert {row["change"] for row in changes} == {"added", "changed", "split into", "ended"}
    assert [row["golden_key"] for row in changes if row["change"] == "split into"] == [key]
    known = followed(known, changes)
    assert known == in_force(sessions, customers)

    since = moment(sessions)
    with sessions.begin() as session:
        put_back(session, first, actor="ann", progress=nothing)
    changes = rows(sessions, customers, "changes", since=since)
    known = followed(known, changes)
    assert known == in_force(sessions, customers)

    since = moment(sessions)
    with sessions.begin() as session:
        register = register_by_slug(session, customers)
        [entry] = journal.latest_of_kind(session, register.id, "split", 1)
        undo.undo_step(session, entry.id, actor="ann", with_later=True)
    changes = rows(sessions, customers, "changes", since=since)
    assert [row["other_key"] for row in changes if row["change"] == "merged into"] == [key]
    states = {row["golden_key"]: row for row in rows(sessions, customers, "keys")}
    assert (states[fresh]["state"], states[fresh]["leads_to"]) == ("merged into", key)
    assert followed(known, changes) == in_force(sessions, customers)
    assert rows(sessions, customers, "changes", since=moment(sessions)) == []


def test_a_golden_record_is_shown_as_it_was(customers: str, sessions: SessionFactory) -> None:
    before = moment(sessions)
    merge_now(sessions, customers)
    made = moment(sessions)
    view = largest(sessions, customers)
    key, values = view.golden.key, dict(view.golden.values)
    with sessions.begin() as session:
        version = view.golden.version
        edits.pin(session, customers, key, field="name", value="Tern", reason="x", seen_version=version, actor="ann")
    with sessions() as session:
        then = golden.golden_then(session, customers, key, made)
        assert (then.values, len(then.members)) == (values, len(view.members))
        assert golden.golden_then(session, customers, key, before - timedelta(days=1)).values is None
        now = session.execute(text("SELECT now()")).scalar_one()
        assert (golden.golden_then(session, customers, key, now).values or {})["name"] == "Tern"


def test_golden_records_go_out_with_the_chosen_fields_filter_and_form(merged: str, sessions: SessionFactory) -> None:
    asked = Asked(country="DK")
    found = rows(sessions, merged, "golden", columns=("phone", "golden_key"), asked=asked, written="for people")
    every = in_force(sessions, merged)
    danish = {key for key, values in every.items() if values.get("address.country") == "DK"}
    assert {row["golden_key"] for row in found} == danish != set()
    assert {row["address.country"] for row in found} == {"Denmark"}
    assert all(" " in row["phone"] for row in found if row.get("phone", "").startswith("+"))
    assert {row["golden_key"] for row in rows(sessions, merged, "members")} == set(every)
    with_all = rows(sessions, merged, "golden", further=True)
    assert [row["golden_key"] for row in with_all] == list(every)
    several = {row["golden_key"]: row["phone.all"].split(" | ") for row in with_all if "phone.all" in row}
    assert several
    for key, phones in several.items():
        assert len(set(phones)) == len(phones) > 1
        assert phones[0] == every[key]["phone"]
    # What merely sounds like what was asked for is shown in the list, and never sent out.
    assert rows(sessions, merged, "golden", asked=Asked(search="SSkkuaa Rroppes")) == []
    with sessions() as session:
        for wanted, table, ending in (
            (Wanted(columns=("fone",)), "golden", "csv"), (Wanted(written="loud"), "golden", "csv"), (Wanted(), "keys", "vcf"),
        ):  # fmt: skip
            with pytest.raises(Refused):
                out_table(session, merged, table, wanted, ending)


def test_what_is_saved_is_found_by_its_name_and_knows_when_it_last_ran(
    customers: str, sessions: SessionFactory
) -> None:
    content = {"table": "changes", "file_format": "jsonl"}
    with sessions.begin() as session:
        saved.save(session, customers, saved.SEND_OUT, " To the  ERP ", content, actor="ann")
        saved.save(session, customers, saved.VIEW, "To the ERP", {}, actor="ann")
    with sessions.begin() as session:
        item, since = saved.begin_send_out(session, customers, "To the ERP", actor="bob")
        assert (item.content, since) == (content, None)
        first = item.last_at
    with sessions.begin() as session:
        assert saved.begin_send_out(session, customers, "To the ERP", actor="bob")[1] == first
        saved.save(session, customers, saved.SEND_OUT, "To the ERP", {"table": "keys"}, actor="bob")
        [item] = saved.saved_of(session, customers, saved.SEND_OUT)
        assert (item.content, item.actor) == ({"table": "keys"}, "bob")
        saved.forget(session, customers, saved.SEND_OUT, "To the ERP")
        with pytest.raises(NotFound, match="saved send-out 'To the ERP'"):
            saved.forget(session, customers, saved.SEND_OUT, "To the ERP")
        assert [item.name for item in saved.saved_of(session, customers, saved.VIEW)] == ["To the ERP"]
        with pytest.raises(Refused, match="needs a name"):
            saved.save(session, customers, saved.VIEW, "  ", {}, actor="ann")


def test_the_past_of_golden_records_follows_every_step(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    key, version = view.golden.key, view.golden.version
    known = {"made": (moment(sessions), dict(view.golden.values), len(view.members))}

    def note(name: str) -> None:
        with sessions() as session:
            present = golden.golden_view(session, merged, key)
            known[name] = moment(sessions), dict(present.golden.values), len(present.members)

    with sessions.begin() as session:
        pinned = edits.pin(
            session, merged, key, field="phone", value="1", reason="x", seen_version=version, actor="ann"
        )
        version = pinned.version
    note("pinned")
    with sessions.begin() as session:
        taken = view.members[-1][0].id
        edits.split(session, merged, key, [taken], seen_version=version, reason="other", actor="ann")
    note("split")
    with sessions.begin() as session:
        register = register_by_slug(session, merged)
        [entry] = journal.latest_of_kind(session, register.id, "split", 1)
        undo.undo_step(session, entry.id, actor="ann")
    note("undone")
    with sessions() as session:
        for name, (at, values, members) in known.items():
            then = golden.golden_then(session, merged, key, at)
            assert (then.values, len(then.members)) == (values, members), name


def test_a_key_that_led_elsewhere_for_a_while_was_not_in_force_then(merged: str, sessions: SessionFactory) -> None:
    view = largest(sessions, merged)
    with sessions.begin() as session:
        taken = [view.members[-1][0].id]
        version = view.golden.version
        fresh = edits.split(session, merged, view.golden.key, taken, seen_version=version, reason="x", actor="ann")
    apart = moment(sessions)
    with sessions.begin() as session:
        register = register_by_slug(session, merged)
        [entry] = journal.latest_of_kind(session, register.id, "split", 1)
        undone = undo.undo_step(session, entry.id, actor="ann")
    together = moment(sessions)
    with sessions.begin() as session:
        undo.undo_step(session, undone, actor="ann")
    again = moment(sessions)
    with sessions() as session:
        found = [golden.golden_then(session, merged, fresh, at) for at in (apart, together, again)]
        assert [then.values is not None for then in found] == [True, False, True]
        assert [len(then.members) for then in found] == [1, 0, 1]
        assert golden.golden_view(session, merged, fresh).golden.key == fresh
    states = {row["golden_key"]: row["state"] for row in rows(sessions, merged, "keys")}
    assert states[fresh] == "in force"
    assert set(states.values()) == {"in force"}
