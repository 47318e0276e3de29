"""People decide, pin and look things up while long work goes on: nobody waits for it, nothing locks itself, nothing is lost."""

from dataclasses import dataclass, field
from typing import Any

import pytest
from sqlalchemy import select

from oddpair.core.errors import Busy
from oddpair.services.golden import edits, merge, rules
from oddpair.services.golden.golden_page import golden_view
from oddpair.services.golden.merge_plan import plan_merge
from oddpair.services.match import run_plan
from oddpair.services.transactions import SessionFactory, transaction
from oddpair.store import counters
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import Decision, GoldenRecord, Pin
from tests.there import there

from ..states.registers import nothing
from . import desk as review

#: Whoever waits longer than this for what others hold has waited.
_PATIENCE_S = 0.3


@dataclass
class Person:
    """Decides the next pair, or takes a decision back, pins a value and looks at a golden record, each without waiting."""

    sessions: SessionFactory
    slug: str
    key: str = ""
    at_it: bool = False
    decided: list[int] = field(default_factory=list)
    pinned: int = 0

    def acts(self) -> None:
        """Do all of it, unless this is already being done."""
        if self.at_it:
            return
        self.at_it = True
        try:
            self.decide()
            if self.key:
                self.pin()
        finally:
            self.at_it = False

    def decide(self) -> None:
        with transaction(self.sessions, patience_s=_PATIENCE_S) as session:
            pairs = review.queue(session, self.slug, limit=1).items
            if not pairs:
                review.withdraw(session, self.decided.pop(), actor="ann")
                return
            pair = pairs[0].doubt
            review.pair(session, self.slug, pair.left_id, pair.right_id)
            verdict = "same" if len(self.decided) % 2 else "different"
            made = review.decide(
                session, self.slug, pair.left_id, pair.right_id, verdict=verdict, remark="", actor="ann", seen_decision=None
            )  # fmt: skip
            self.decided.append(made.id)

    def pin(self) -> None:
        with transaction(self.sessions, patience_s=_PATIENCE_S) as session:
            version = golden_view(session, self.slug, self.key).golden.version
            edits.pin(
                session, self.slug, self.key, field="phone", value=f"01632 96{self.pinned:04}", reason="rang them",
                seen_version=version, actor="ann",
            )  # fmt: skip
            self.pinned += 1


@pytest.fixture
def person(sessions: SessionFactory, customers: str, monkeypatch: pytest.MonkeyPatch) -> Person:
    """Somebody who acts whenever a merge holds all its locks but those of the last moment: the counters and the journal."""
    person = Person(sessions, customers)
    add_to = counters.add_to

    def acts_first(*arguments: Any, **named: Any) -> None:
        person.acts()
        add_to(*arguments, **named)

    monkeypatch.setattr(merge, "add_to", acts_first)
    return person


def all_still_stand(person: Person) -> None:
    with person.sessions() as session:
        standing = session.scalars(select(Decision.id).where(Decision.withdrawn_at.is_(None))).all()
        assert set(person.decided) <= set(standing)
        pins = session.scalars(select(Pin).where(Pin.lifted_at.is_(None))).all()
        assert [pin.value for pin in pins] == ([f"01632 96{person.pinned - 1:04}"] if person.pinned else [])
        if person.pinned:
            golden = session.get_one(GoldenRecord, pins[0].golden_id)
            assert golden.values["phone"] == pins[0].value


def test_during_a_run(person: Person) -> None:
    stages: set[str] = set()

    def acts(stage: str, done: int, total: int) -> None:
        stages.add(stage)
        person.decide()

    person.at_it = True
    run_plan.run_plan(person.sessions, person.slug, acts)
    assert person.decided
    assert len(stages) > 5
    all_still_stand(person)
    with person.sessions() as session:
        decided = {
            (d.left_id, d.right_id) for d in session.scalars(select(Decision).where(Decision.id.in_(person.decided)))
        }
        waiting = {(p.doubt.left_id, p.doubt.right_id) for p in review.queue(session, person.slug, limit=1000).items}
        assert not decided & waiting


def test_during_a_merge_and_another_one(person: Person) -> None:
    merge.merge(person.sessions, person.slug, actor="odd pair", changes_at_once=10)
    assert person.decided
    person.at_it = True
    run_plan.run_plan(person.sessions, person.slug, nothing)
    person.at_it = False
    with person.sessions() as session:
        # One that later changes leave alone: what is being changed is waited for.
        changes = plan_merge(session, register_by_slug(session, person.slug)).changes
        changed = [golden for change in changes for golden in change.before]
        assert changed
        rests = GoldenRecord.leads_to.is_(None), GoldenRecord.id.not_in(changed)
        person.key = there(session.scalar(select(GoldenRecord.key).where(*rests).order_by(GoldenRecord.id)))
    merge.merge(person.sessions, person.slug, actor="odd pair", changes_at_once=10)
    person.acts()
    assert person.pinned
    all_still_stand(person)


def test_while_golden_values_are_computed_anew(person: Person) -> None:
    merge.merge(person.sessions, person.slug, actor="odd pair")
    person.decided.clear()
    rules.refresh_golden(person.sessions, person.slug, lambda *_: person.acts())
    assert person.decided
    all_still_stand(person)


def test_who_pins_what_a_merge_is_changing_is_told_to_try_again(person: Person) -> None:
    merge.merge(person.sessions, person.slug, actor="odd pair")
    with person.sessions() as session:
        person.key = there(session.scalar(select(GoldenRecord.key).order_by(GoldenRecord.size.desc())))
    with person.sessions.begin() as session:
        session.execute(select(GoldenRecord).where(GoldenRecord.key == person.key).with_for_update())
        with pytest.raises(Busy):
            person.pin()
