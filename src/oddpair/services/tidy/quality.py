"""Quality rules of a register: kept, measured per source and over time, and the records that fail them."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import InputError, NotFound
from ...core.profiling import QualityRule, rules_from
from ...core.tidying.word_tables import looked_up
from ...store import quality as store
from ...store.record_filter import RecordFilter, RuleFilter
from ...store.registers import lock_register, register_by_slug
from ...store.tables import Register, RuleResult
from ...store.tidying import distinct_values
from ..state.layouts import layout_of
from ..state.recipe_in_force import word_tables

_VALUES_LOOKED_AT = 200_000
_HISTORY = 2_000


@dataclass(frozen=True, slots=True)
class SourceShare:
    """How many of a source's records fail a rule."""

    source: str
    records: int
    failing: int


@dataclass(frozen=True, slots=True)
class PastShare:
    """How many of a source's records failed a rule after a delivery."""

    source: str
    at: datetime
    records: int
    failing: int


@dataclass(frozen=True, slots=True)
class MeasuredRule:
    """A rule in words, with its shares now, per source, and over time."""

    rule: QualityRule
    words: str
    shares: list[SourceShare]
    history: list[PastShare]


def rules_of(session: Session, register: Register) -> tuple[QualityRule, ...]:
    """Return the rules of a register that still can be kept: fields and tables may have gone."""
    layout, tables = layout_of(register), list(word_tables(session))
    kept: list[QualityRule] = []
    for document in register.quality or []:
        with suppress(InputError):
            kept += rules_from([document], layout, tables)
    return tuple(kept)


def save_rules(session: Session, slug: str, documents: Sequence[Mapping[str, str]]) -> Register:
    """Keep the rules of a register; raise InputError with the number of the wrong one."""
    register = lock_register(session, register_by_slug(session, slug).id)
    rules = rules_from(documents, layout_of(register), list(word_tables(session)))
    register.quality = [{"field": rule.field, "kind": rule.kind, "asked": rule.asked} for rule in rules]
    session.flush()
    return register


def filter_of(session: Session, register: Register, rule: QualityRule) -> RuleFilter:
    """Return what finds the records that fail a rule."""
    outside: tuple[str, ...] = ()
    if rule.kind == "in list":
        table = word_tables(session, [rule.asked])[rule.asked]
        values = distinct_values(session, register.id, [rule.field], limit=_VALUES_LOOKED_AT, filled=True)
        outside = tuple(value for _, (value,) in values if looked_up(table.apply(value)) not in table.standard_values)
    return RuleFilter(rule, layout_of(register), outside)


def rule_by_key(session: Session, register: Register, key: str) -> QualityRule:
    """Return a rule by its key; raise NotFound."""
    for rule in rules_of(session, register):
        if rule.key == key:
            return rule
    raise NotFound("quality rule", key)


def filter_for(session: Session, register: Register, field: str, check: str, wanted: str) -> RecordFilter | RuleFilter:
    """Return what finds the records of whose field something is asked; the check "rule" asks for those that fail one."""
    if check == "rule":
        return filter_of(session, register, rule_by_key(session, register, wanted))
    return RecordFilter(layout_of(register).field(field), check, wanted)


def measured(session: Session, slug: str) -> list[MeasuredRule]:
    """Return all rules with their shares now and over time."""
    register = register_by_slug(session, slug)
    sources = store.records_by_source(session, register.id)
    past: dict[str, list[PastShare]] = {}
    for result, source in store.history(session, register.id, _HISTORY):
        past.setdefault(result.rule, []).append(PastShare(source, result.at, result.records, result.failing))
    layout = layout_of(register)
    told = []
    for rule in rules_of(session, register):
        failing = store.count_failing(session, register.id, filter_of(session, register, rule))
        shares = [SourceShare(name, records, failing.get(source_id, 0)) for source_id, name, records in sources]
        told.append(MeasuredRule(rule, rule.words(layout), shares, past.get(rule.key, [])))
    return told


def note_results(session: Session, register: Register, source_id: int, delivery_id: int) -> None:
    """Write down how the rules fare after a delivery, so that a bad load shows up on its day."""
    rules = rules_of(session, register)
    if not rules:
        return
    records = {item[0]: item[2] for item in store.records_by_source(session, register.id)}[source_id]
    values: dict[str, Any] = {
        "register_id": register.id,
        "source_id": source_id,
        "delivery_id": delivery_id,
        "records": records,
    }
    for rule in rules:
        failing = store.count_failing(session, register.id, filter_of(session, register, rule), source_id)
        session.add(RuleResult(**values, rule=rule.key, failing=failing.get(source_id, 0)))
    session.flush()
