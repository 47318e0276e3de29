"""Quality rules of a register: kept, measured per source and over time, and the records that fail them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...core.profiling import QualityRule, rules_from
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store import quality as store
from ...store.locks import lock_settings
from ...store.record_filter import RecordFilter, RuleFilter
from ...store.registers import register_by_slug, sources_of
from ...store.tables import Register
from ..proposals.gate import Intent, ask_second_yes
from ..state.layouts import layout_of
from ..state.rule_results import filter_of, note_results, rules_of
from ..state.tidy_steps_in_force import word_tables
from ..state.versions import check_version

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


def save_rules(
    session: Session, slug: str, documents: Sequence[Mapping[str, str]], *, actor: str, seen_version: int | None = None
) -> Register:
    """Keep the rules of a register; raise InputError with the number of the wrong one, or Conflict if it changed meanwhile."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    check_version(register, seen_version)
    rules = rules_from(documents, layout_of(register), list(word_tables(session)))
    before, after = (
        register.quality or [],
        [{"field": rule.field, "kind": rule.kind, "asked": rule.asked} for rule in rules],
    )
    told, arguments = "Set the quality rules", {"documents": after, "seen_version": register.version}
    layout = layout_of(register)
    shows = [
        (
            "rules",
            "; ".join(rule.words(layout) for rule in rules_of(session, register)),
            "; ".join(rule.words(layout) for rule in rules),
        )
    ]
    step = Intent("quality", arguments, Facts(Matter.PLAN, "quality"), told, shows, leads_to="tidy/rules")
    ask_second_yes(session, register, step, actor=actor)
    register.quality = after
    register.version += 1
    note_results(session, register, [source.id for source in sources_of(session, register.id)], None)
    data = {"before": before, "after": register.quality}
    journal.append(session, register.id, "quality", actor=actor, data=data, personal={"summary": told})
    return register


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
    found = []
    for rule in rules_of(session, register):
        failing = store.count_failing(session, register.id, filter_of(session, register, rule))
        shares = [SourceShare(name, records, failing.get(source_id, 0)) for source_id, name, records in sources]
        found.append(MeasuredRule(rule, rule.words(layout), shares, past.get(rule.key, [])))
    return found


def filter_in(session: Session, slug: str, field: str, check: str, wanted: str) -> RecordFilter | RuleFilter:
    """Return what finds the records of a register of whose field something is asked."""
    return filter_for(session, register_by_slug(session, slug), field, check, wanted)


def version_of(session: Session, slug: str) -> int:
    """Return the version of a register's settings."""
    return register_by_slug(session, slug).version
