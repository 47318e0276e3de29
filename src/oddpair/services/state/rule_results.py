"""Quality rules that can be kept, what fails them, and how they fare after an act: their course over time."""

from collections.abc import Sequence
from contextlib import suppress

from sqlalchemy.orm import Session

from ...core.errors import InputError
from ...core.profiling import QualityRule, rules_from
from ...core.tidying.word_tables import looked_up
from ...store import quality as store
from ...store.record_filter import RuleFilter
from ...store.tables import Register, RuleResult
from ...store.tidying import distinct_values
from .layouts import layout_of
from .tidy_steps_in_force import word_tables

_VALUES_LOOKED_AT = 200_000


def rules_of(session: Session, register: Register) -> tuple[QualityRule, ...]:
    """Return the rules of a register that still can be kept: fields and tables may have gone."""
    layout, tables = layout_of(register), list(word_tables(session))
    rules: list[QualityRule] = []
    for document in register.quality or []:
        with suppress(InputError):
            rules += rules_from([document], layout, tables)
    return tuple(rules)


def filter_of(session: Session, register: Register, rule: QualityRule) -> RuleFilter:
    """Return what finds the records that fail a rule."""
    outside: tuple[str, ...] = ()
    if rule.kind == "in list":
        table = word_tables(session, [rule.asked])[rule.asked]
        values = distinct_values(session, register.id, [rule.field], limit=_VALUES_LOOKED_AT, filled=True)
        outside = tuple(value for _, (value,) in values if looked_up(table.apply(value)) not in table.standard_values)
    return RuleFilter(rule, layout_of(register), outside)


def note_results(session: Session, register: Register, source_ids: Sequence[int], delivery_id: int | None) -> None:
    """Write down how the rules fare in some sources after an act, so that a bad load shows up on its day."""
    rules = rules_of(session, register)
    if not rules or not source_ids:
        return
    records = {item[0]: item[2] for item in store.records_by_source(session, register.id)}
    for rule in rules:
        failing = store.count_failing(session, register.id, filter_of(session, register, rule))
        session.add_all(
            RuleResult(
                register_id=register.id, source_id=source, delivery_id=delivery_id, rule=rule.key, records=records[source],
                failing=failing.get(source, 0),
            )
            for source in source_ids
        )  # fmt: skip
    session.flush()
