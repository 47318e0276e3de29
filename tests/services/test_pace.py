"""A steward's own pace, told from the moments of decisions."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import delete, select

from oddpair.services.bench.pace import pace_of
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import Decision, SourceRecord


def decided(sessions: SessionFactory, slug: str, gaps: list[float], actor: str = "ann") -> None:
    """Write decisions of a person with these seconds between them, in place of those before."""
    with sessions.begin() as session:
        register = register_by_slug(session, slug)
        session.execute(delete(Decision).where(Decision.actor == actor))
        ids = sorted(session.scalars(select(SourceRecord.id).where(SourceRecord.register_id == register.id)).all())
        moment = datetime(2026, 11, 1, 9, tzinfo=UTC)
        for number, gap in enumerate([0.0, *gaps]):
            moment += timedelta(seconds=gap)
            session.add(
                Decision(
                    register_id=register.id, left_id=ids[0], right_id=ids[number + 1], verdict="same", actor=actor,
                    remark="", basis={"fields": [], "left": {}, "right": {}}, at=moment,
                )
            )  # fmt: skip


def pace(sessions: SessionFactory, slug: str, actor: str = "ann") -> tuple[float, int]:
    with sessions() as session:
        found = pace_of(session, slug, actor)
    return found.seconds, found.decisions


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=15, deadline=None)
@given(st.lists(st.floats(1, 200), min_size=25, max_size=40))
def test_the_pace_is_the_median_time_between_decisions(
    customers: str, sessions: SessionFactory, gaps: list[float]
) -> None:
    decided(sessions, customers, gaps)
    seconds, many = pace(sessions, customers)
    assert many == len(gaps)
    ordered = sorted(gaps)
    assert ordered[len(gaps) // 4] - 0.1 <= seconds <= ordered[3 * len(gaps) // 4] + 0.1


@pytest.mark.parametrize("gaps", [[12.0] * 5, [0.01] * 60, [4000.0] * 60])
def test_too_few_decisions_breaks_and_whole_sets_at_once_say_nothing(
    customers: str, sessions: SessionFactory, gaps: list[float]
) -> None:
    decided(sessions, customers, gaps)
    assert pace(sessions, customers) == (20.0, 0)


def test_everybody_has_a_pace_of_their_own(customers: str, sessions: SessionFactory) -> None:
    decided(sessions, customers, [10.0] * 30)
    decided(sessions, customers, [60.0] * 30, actor="bo")
    assert pace(sessions, customers) == (10.0, 30)
    assert pace(sessions, customers, "bo") == (60.0, 30)
    assert pace(sessions, customers, "cy") == (20.0, 0)
