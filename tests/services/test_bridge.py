"""The bridge between two sources: counts that add up, partners that follow decisions and merges, both sides' rest."""

import pytest

from oddpair.core.errors import NotFound, Refused
from oddpair.services.bridge.bridge import Between, bridge_page, bridge_table, counts
from oddpair.services.golden import merge
from oddpair.store.database import SessionFactory

from . import desk as review

BETWEEN = Between("webshop", "ledger")


def test_counts_add_up_and_open_their_rows(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        counted = counts(session, customers, BETWEEN)
        everything = bridge_page(session, customers, BETWEEN, limit=500).rows
        assert sum(counted.values()) == len(everything)
        assert counted["proposed"] > 0 == counted["known"]
        assert counted["none"] > 0
        for state, count in counted.items():
            rows = bridge_page(session, customers, BETWEEN, state=state, limit=500).rows
            assert len(rows) == count
            assert all(bool(row.partners) == (state in ("known", "several", "proposed")) for row in rows)
        pages, cursor = [], ""
        while True:
            page = bridge_page(session, customers, BETWEEN, cursor=cursor, limit=9)
            pages += page.rows
            if not (cursor := page.behind):
                break
        assert pages == everything


def test_what_is_merged_is_known_and_both_sides_say_the_same(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        before = counts(session, customers, BETWEEN)
    merge.merge(sessions, customers, actor="ann")
    with sessions() as session:
        after = counts(session, customers, BETWEEN)
        assert after["known"] == before["proposed"]
        assert after["proposed"] == 0
        one = {
            (row.source_key, partner)
            for row in bridge_page(session, customers, BETWEEN, limit=500).rows
            for partner in row.partners
        }
        turned = bridge_page(session, customers, Between("ledger", "webshop"), limit=500).rows
        assert one == {(partner, row.source_key) for row in turned for partner in row.partners}
        table = list(bridge_table(session, customers, BETWEEN).rows)
        assert {
            (line["webshop id"], line["ledger id"]) for line in table if line["webshop id"] and line["ledger id"]
        } == one
        assert len([line for line in table if not line["webshop id"]]) == sum(not row.partners for row in turned)


def test_a_partner_is_mapped_or_refused_by_hand(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        lone = bridge_page(session, customers, BETWEEN, state="none", limit=1).rows[0]
        other = bridge_page(session, customers, Between("ledger", "webshop"), state="none", limit=1).rows[0]
        proposed = bridge_page(session, customers, BETWEEN, state="proposed", limit=1).rows[0]
    pairs = ((lone.record_id, other.record_id, "same"), (proposed.record_id, proposed.partner_ids[0], "different"))
    with sessions.begin() as session:
        for left, right, verdict in pairs:
            review.decide(session, customers, left, right, verdict=verdict, remark="", actor="bob", seen_decision=None)
    with sessions() as session:
        now = {row.record_id: row for row in bridge_page(session, customers, BETWEEN, limit=500).rows}
    assert (now[lone.record_id].state, list(now[lone.record_id].partners)) == ("known", [other.source_key])
    assert now[proposed.record_id].state != "proposed"


def test_a_rare_state_takes_several_pages_each_of_which_looks_through_a_part(
    customers: str, sessions: SessionFactory
) -> None:
    with sessions() as session:
        whole = bridge_page(session, customers, BETWEEN, state="proposed", limit=500).rows
        found, cursor, pages = [], "", 0
        while True:
            page = bridge_page(
                session, customers, BETWEEN, state="proposed", cursor=cursor, limit=500, looked_through=4
            )
            found += page.rows
            pages += 1
            if not (cursor := page.behind):
                break
    assert found == whole
    assert pages > len(whole) / 4


def test_wrong_words_are_refused(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        with pytest.raises(NotFound):
            counts(session, customers, Between("webshop", "nowhere"))
        with pytest.raises(Refused):
            counts(session, customers, Between("webshop", "webshop"))
        with pytest.raises(Refused):
            bridge_page(session, customers, BETWEEN, state="perhaps")
