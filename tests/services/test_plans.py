"""Plans: what their keys will propose is told before anything is compared."""

import pytest

from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import RegisterKind
from oddpair.core.plan.text import default_plan_text
from oddpair.services.match import plans
from oddpair.store.database import SessionFactory

from . import desk as review

TEXT = default_plan_text(RegisterKind.ORGANISATION)


def test_estimates_of_the_whole_are_what_the_run_then_counts(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        told = plans.estimate_plan(session, customers, TEXT)
        run = review.run_of(session, customers)
        assert run is not None
        counted = {key["key"]: key for key in run.report["passes"][0]["keys"]}
    assert told.sampled == told.records == run.report["records"]
    for key in told.keys:
        assert (key.pairs, key.largest_block) == (counted[key.key]["pairs_proposed"], counted[key.key]["largest_block"])


def test_estimates_from_a_part_are_near_and_the_same_every_time(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        whole = plans.estimate_plan(session, customers, TEXT)
        part, again = (plans.estimate_plan(session, customers, TEXT, most_sampled=whole.records // 2) for _ in range(2))
    assert part == again
    assert (part.records, part.sampled) == (whole.records, whole.records // 2)
    total, guessed = (sum(key.pairs for key in told.keys) for told in (whole, part))
    assert total / 2 < guessed < total * 2


def test_a_plan_that_is_no_plan_is_refused(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        with pytest.raises(PlanInvalid, match="kind"):
            plans.estimate_plan(session, customers, default_plan_text(RegisterKind.PERSON))
        with pytest.raises(PlanInvalid):
            plans.estimate_plan(session, customers, "title: x")
