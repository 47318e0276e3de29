"""Computes everything again from deliveries, versions and the journal, and tells where that differs from what is there."""

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...store import rebuilding as store
from ...store import settling
from ...store.counters import count_anew
from ...store.doubts import make_doubts, mark_changed_decisions
from ...store.golden import active_ids
from ...store.locks import close_desk, lock_membership
from ...store.quality import count_failing
from ...store.registers import register_by_slug, standing_run
from ...store.tables import Register
from .bring_up_to_date import make_searchable, nothing, tidy_touched
from .golden_values import refresh
from .references import resolve
from .rule_results import filter_of, rules_of

Progress = Callable[[str, int, int], None]


@dataclass(frozen=True, slots=True)
class Rebuilt:
    """A register computed again: where what is there differed, and what rows said against the journal."""

    register: str
    differences: list[store.Difference]
    against_journal: list[str]

    @property
    def problems(self) -> list[str]:
        """Return everything that did not fit, in sentences."""
        sentences = [f"{item.projection}: {item.rows} rows differ, e.g. {item.example}" for item in self.differences]
        return sentences + self.against_journal


def rebuild(session: Session, slug: str, progress: Progress = nothing) -> Rebuilt:
    """Make every projection of a register anew in the open transaction; undo it by rolling that back."""
    register = lock_membership(session, register_by_slug(session, slug).id)
    close_desk(session, register.id)
    store.take_snapshots(session, register.id)
    progress("records", 0, 0)
    settling.touch_register(session, register.id)
    settling.settle(session)
    settling.lay_corrections(session)
    tidy_touched(session, register, progress)
    make_searchable(session, register)
    progress("membership", 0, 0)
    store.replay_membership(session, register.id)
    resolve(session, register)
    refresh(session, register, active_ids(session, register.id), progress)
    mark_changed_decisions(session)
    run = standing_run(session, register.id)
    if run is not None:
        make_doubts(session, register.id, run.id)
    count_anew(session, register.id)
    found = list(store.differences(session, register.id))
    return Rebuilt(register.name, found, store.against_journal(session, register.id) + _rule_results(session, register))


def _rule_results(session: Session, register: Register) -> list[str]:
    """Return the rules of whose sources the latest result is not what is true now."""
    latest = {(rule, source): failing for rule, source, failing in store.latest_rule_results(session, register.id)}
    found = []
    for rule in rules_of(session, register):
        now = count_failing(session, register.id, filter_of(session, register, rule))
        for (key, source), failing in latest.items():
            if key == rule.key and now.get(source, 0) != failing:
                found.append(f"rule {key} of source {source}: {now.get(source, 0)} records fail, {failing} were noted")
    return found
