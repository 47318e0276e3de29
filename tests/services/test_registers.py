import pytest
from sqlalchemy.exc import IntegrityError

from oddpair.core.errors import Conflict, NotFound, PlanInvalid, Refused
from oddpair.core.fields import RegisterKind
from oddpair.services.golden import merge
from oddpair.services.golden.send_out import crosswalk_table
from oddpair.services.match import plans, run_plan
from oddpair.services.registers import registers
from oddpair.store import registers as store
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Source

from ..states.registers import nothing
from . import desk as review


def make(
    sessions: SessionFactory, name: str, kind: RegisterKind = RegisterKind.ORGANISATION, prefix: str = ""
) -> tuple[str, str]:
    with sessions.begin() as session:
        register = registers.make_register(session, name, kind, prefix)
        return register.slug, register.prefix


def test_short_names_and_prefixes_follow_from_the_name_and_never_clash(sessions: SessionFactory) -> None:
    assert make(sessions, "Customers") == ("customers", "CU")
    assert make(sessions, "Boat owners", RegisterKind.PERSON) == ("boat-owners", "BO")
    assert make(sessions, "Båt ører") == ("bat-orer", "BO2")
    assert make(sessions, "Cups") == ("cups", "CU2")
    assert make(sessions, "Other", prefix="gc") == ("other", "GC")


@pytest.mark.parametrize(
    ("name", "prefix", "told"),
    [
        ("CUSTOMERS", "", "register 'CUSTOMERS' already"),
        ("!!", "", "at least one letter"),
        ("New", "A B", "cannot start golden keys"),
    ],
)
def test_a_register_that_cannot_be_made_says_why(sessions: SessionFactory, name: str, prefix: str, told: str) -> None:
    make(sessions, "Customers")
    with pytest.raises(Refused, match=told):
        make(sessions, name, prefix=prefix)


def test_trust_ranks_stay_one_to_n_whatever_is_moved(customers: str, sessions: SessionFactory) -> None:
    def order() -> list[tuple[int, str]]:
        with sessions() as session:
            return [
                (source.trust_rank, source.name)
                for source in store.sources_of(session, store.register_by_slug(session, customers).id)
            ]

    names = [name for _, name in order()]
    for name, rank in ((names[4], 1), (names[0], 5), (names[2], 99)):
        with sessions.begin() as session:
            registers.change_source(session, customers, name, trust_rank=rank, actor="ann")
        assert [place for place, _ in order()] == [1, 2, 3, 4, 5]
        assert order()[min(rank, 5) - 1][1] == name
    with pytest.raises(NotFound, match="source 'nobody'"), sessions.begin() as session:
        registers.change_source(session, customers, "nobody", trust_rank=1, actor="ann")


def test_two_sources_of_a_register_cannot_share_a_name(customers: str, sessions: SessionFactory) -> None:
    with pytest.raises(IntegrityError), sessions.begin() as session:
        session.add(Source(register_id=store.register_by_slug(session, customers).id, name="till", trust_rank=9))


def test_a_promise_of_no_duplicates_is_kept_by_the_next_run(customers: str, sessions: SessionFactory) -> None:
    with sessions.begin() as session:
        for source in ("till", "webshop", "callsheet", "northhouse", "ledger"):
            registers.change_source(session, customers, source, own_duplicates=False, actor="ann")
    run_plan.run_plan(sessions, customers, nothing)
    merge.merge(sessions, customers, actor="ann")
    with sessions() as session:
        rows = list(crosswalk_table(session, customers).rows)
    assert len({(row["source"], row["golden_key"]) for row in rows}) == len(rows)


def test_a_run_is_due_after_a_change_of_plan_and_after_withdrawing_a_decision_it_followed(
    customers: str, sessions: SessionFactory
) -> None:
    def due() -> list[str]:
        with sessions() as session:
            return registers.view(session, store.register_by_slug(session, customers)).run_due

    assert due() == []
    with sessions.begin() as session:
        text = plans.plan_of(session, customers)[0].yaml
        plans.save_plan(
            session, customers, yaml=text.replace("same: 10.0", "same: 11.0"), seen_version=1, note="", actor="ann"
        )
    assert due() == ["the plan changed since the last run"]
    with sessions() as session:
        pair = review.queue(session, customers, limit=1).items[0].doubt
    with sessions.begin() as session:
        decision = review.decide(
            session, customers, pair.left_id, pair.right_id, verdict="same", remark="", actor="ann", seen_decision=None
        ).id
    run_plan.run_plan(sessions, customers, nothing)
    assert due() == []
    with sessions.begin() as session:
        review.withdraw(session, decision, actor="ann")
    assert due() == ["a decision that the last run followed was withdrawn"]


def test_a_plan_is_only_saved_whole_current_and_of_the_right_kind(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        text = plans.plan_of(session, customers)[0].yaml
    cases = [
        ("title: x", 1, PlanInvalid),
        (text, 7, Conflict),
        (text.replace("kind: organisation", "kind: person"), 1, PlanInvalid),
    ]
    for yaml, seen, error in cases:
        with pytest.raises(error), sessions.begin() as session:
            plans.save_plan(session, customers, yaml=yaml, seen_version=seen, note="", actor="ann")
    with sessions() as session:
        assert [plan.version for plan in plans.versions(session, customers)] == [1]


def test_there_is_nothing_to_run_without_records(sessions: SessionFactory) -> None:
    slug, _ = make(sessions, "Empty")
    with pytest.raises(Refused, match="no records to match yet"):
        run_plan.run_plan(sessions, slug, nothing)
    with sessions() as session:
        assert review.queue(session, slug) == review.QueuePage(0, 0, [], "")
