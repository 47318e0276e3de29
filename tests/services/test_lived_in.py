"""The demo starts lived-in: every register is where it should be, and all of it came about through ordinary acts."""

import pytest
from sqlalchemy import select, text

from oddpair.services import demo
from oddpair.services.golden import golden_list
from oddpair.services.review.queue import queue
from oddpair.services.state.rebuild import rebuild
from oddpair.services.tidy import quality, word_tables
from oddpair.services.today import today
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug, stage_counts
from oddpair.store.tables import Decision, JournalEntry, Pin

from ..states import registers
from ..states.site import Site


@pytest.fixture
def lived_in(site: Site) -> SessionFactory:
    site.begin_with(registers.lived_in)
    return site.sessions


def test_nothing_is_taken_for_the_demo(sessions: SessionFactory) -> None:
    assert not demo.demo_is_loaded(sessions)


def test_the_demo_is_as_it_is_after_some_weeks(lived_in: SessionFactory) -> None:
    assert demo.demo_is_loaded(lived_in)
    with lived_in() as session:
        counts = {
            slug: stage_counts(session, register_by_slug(session, slug).id)
            for slug in ("suppliers", "customers", "boat-owners")
        }
        # Suppliers are finished: nothing waits, everything is merged, some values are pinned, a step was undone.
        assert counts["suppliers"].unsure_waiting == counts["suppliers"].records_without_golden == 0
        assert counts["suppliers"].golden > 0
        assert counts["suppliers"].deliveries == 7
        assert len(session.scalars(select(Pin).where(Pin.lifted_at.is_(None))).all()) == 3
        kinds = set(
            session.scalars(
                select(JournalEntry.kind).where(JournalEntry.chain == register_by_slug(session, "suppliers").id)
            )
        )
        assert {"load", "run", "merge", "pin", "split", "undo", "rules"} <= kinds
        pinned = golden_list.golden_list(session, "suppliers", golden_list.Asked(pinned=True), limit=10)
        assert pinned.total == 3
        # Its rules have a course over the deliveries of one source: fewer telephones are missing each time.
        [course] = [
            rule
            for rule in quality.measured(session, "suppliers")
            if (rule.rule.field, rule.rule.kind) == ("phone", "required")
        ]
        shares = [one.failing / one.records for one in course.history if one.source == "webshop"]
        assert len(set(shares)) == 3
        assert len(word_tables.tables(session)) == 2
        # Customers are in the middle of review, by two people; boat owners wait for somebody to begin.
        assert counts["customers"].golden == counts["boat-owners"].golden == 0
        assert counts["customers"].unsure_waiting > 0
        assert counts["customers"].put_off == 2
        assert counts["boat-owners"].unsure_waiting > 0
        assert set(session.scalars(select(Decision.actor).distinct())) == {"Maren Tollgate", "Sunniva Orme"}
        [asked] = today(session, actor="Maren Tollgate").asked
        assert (asked.slug, asked.asked_by) == ("customers", "Sunniva Orme")
        until = [item.doubt.until for item in queue(session, "customers", limit=500).items if item.doubt.until]
        assert len(until) == 1
        assert session.scalar(text("SELECT count(*) FROM second_looks")) == 0


@pytest.mark.parametrize("slug", ["suppliers", "customers", "boat-owners"])
def test_everything_in_the_demo_can_be_computed_again(lived_in: SessionFactory, slug: str) -> None:
    with lived_in() as session:
        assert rebuild(session, slug).problems == []
        session.rollback()
