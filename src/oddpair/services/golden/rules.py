"""Survivorship rules: changed, put back, and tried before they take effect."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.processes import processes
from ...core.sign_off import Facts, Matter
from ...core.standard import FORMS
from ...core.survivorship import rules_document, rules_from, rules_that_fit
from ...store import journal
from ...store.bulk import copy_ids
from ...store.golden import active_ids
from ...store.golden_values import member_lines
from ...store.locks import lock_membership, lock_settings
from ...store.registers import register_by_slug
from ...store.tables import Register
from .. import work
from ..proposals.gate import Intent, ask_second_yes, changed_entries
from ..state.golden_values import projector_of, refresh, tasks_of
from ..state.layouts import layout_of
from ..state.projection import Difference, differing_lines
from ..state.versions import check_version
from ..transactions import SessionFactory, transaction

Progress = Callable[[str, int, int], None]
#: Golden records per transaction: small enough that nobody waits long for one of them.
_AT_ONCE = 10_000
_SHOWN_PER_FIELD = 25
_EARLIER = 20
#: Under which name the form stands beside the rules in the journal: no field can be called so.
_FORM = "values are written"


def change_rules(
    session: Session, slug: str, rules: Mapping[str, object], *, form: str | None = None, actor: str, seen_version: int | None = None
) -> Register:  # fmt: skip
    """Set survivorship rules and in which form golden values are given; golden records follow in the background.

    Raises Refused naming an unknown rule or form, Conflict if the settings changed meanwhile.
    """
    register = lock_settings(session, register_by_slug(session, slug).id)
    check_version(register, seen_version)
    document = _checked(register, rules, form)
    arguments = {"rules": dict(rules), "form": form, "seen_version": register.version}
    _ask(session, register, "rules", arguments, "Set the survivorship rules", document, form or register.form, actor)
    _set(session, register, document, form or register.form, actor=actor, summary="Set the survivorship rules")
    return register


def _ask(
    session: Session, register: Register, act: str, arguments: Mapping[str, Any], told: str, document: Mapping[str, Any], form: str,
    actor: str,
) -> None:  # fmt: skip
    shows = changed_entries({**register.rules, _FORM: register.form}, {**document, _FORM: form})
    step = Intent(act, arguments, Facts(Matter.PLAN, "rules"), told, shows, leads_to="golden/rules")
    ask_second_yes(session, register, step, actor=actor)


def _set(
    session: Session, register: Register, document: dict[str, Any], form: str, *, actor: str, summary: str,
    undoes: int | None = None,
) -> None:  # fmt: skip
    before = {**register.rules, _FORM: register.form}
    register.rules, register.form = document, form
    after = {**register.rules, _FORM: register.form}
    if after != before:
        register.version += 1
        journal.append(
            session, register.id, "rules", actor=actor, data={"before": before, "after": after},
            personal={"summary": summary}, undoes=(undoes, 0) if undoes else None,
        )  # fmt: skip
        arguments = {"register": register.slug}
        work.follow_up(session, register.slug, "golden", "Golden values by the rules", arguments)
    session.flush()


@dataclass(frozen=True, slots=True)
class EarlierRules:
    """A change of rules or form that can be taken back: its journal entry, whose it was, and when."""

    entry_id: int
    summary: str
    actor: str
    at: datetime


def earlier_rules(session: Session, slug: str) -> list[EarlierRules]:
    """Return the latest changes of rules and form, the newest first."""
    register = register_by_slug(session, slug)
    found = journal.latest_of_kind(session, register.id, "rules", _EARLIER)
    return [
        EarlierRules(entry.id, str((entry.personal or {}).get("summary") or entry.kind), entry.actor, entry.at)
        for entry in found
    ]


def put_rules_back(session: Session, slug: str, entry_id: int, *, actor: str, seen_version: int | None) -> Register:
    """Set rules and form as they were before a change, in one step; what no longer fits the layout has its usual rule."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    check_version(register, seen_version)
    entry = journal.entry_by_id(session, entry_id)
    if entry.chain != register.id or entry.kind != "rules":
        raise NotFound("change of rules", entry_id)
    before = dict(entry.data["before"])
    form = str(before.pop(_FORM, register.form))
    document = rules_that_fit(layout_of(register), before)
    summary = f"Put back the survivorship rules from before {entry.at:%Y-%m-%d %H:%M}"
    arguments = {"entry_id": entry_id, "seen_version": register.version}
    _ask(session, register, "put rules back", arguments, summary, document, form, actor)
    _set(session, register, document, form, actor=actor, summary=summary, undoes=entry.id)
    return register


def refresh_golden(sessions: SessionFactory, slug: str, progress: Progress) -> dict[str, int]:
    """Compute the values of all golden records of a register anew, in parts; return how many there are and how many changed."""
    with transaction(sessions) as session:
        register_id = register_by_slug(session, slug).id
        active = active_ids(session, register_id)
    changed = 0
    with processes(len(active) > _AT_ONCE):
        for start in range(0, len(active), _AT_ONCE):
            progress("golden values", start, len(active))
            with transaction(sessions) as session:
                register = lock_membership(session, register_id)
                changed += refresh(session, register, active[start : start + _AT_ONCE])
    return {"golden": len(active), "changed": changed}


def check_draft(session: Session, slug: str, rules: Mapping[str, object], form: str | None) -> None:
    """Raise Refused if rules or a form cannot be."""
    _draft(session, slug, rules, form)


def _draft(
    session: Session, slug: str, rules: Mapping[str, object], form: str | None
) -> tuple[Register, dict[str, Any]]:
    register = register_by_slug(session, slug)
    return register, _checked(register, rules, form)


def _checked(register: Register, rules: Mapping[str, object], form: str | None) -> dict[str, Any]:
    """Return the complete document of rules; raise Refused if they, or the form, cannot be."""
    if form is not None and form not in FORMS:
        raise Refused(f"Golden values cannot be given '{form}', only {' or '.join(FORMS)}.")
    return rules_document(rules_from(layout_of(register), {**register.rules, **rules}))


def try_rules(
    sessions: SessionFactory, slug: str, rules: Mapping[str, object], form: str | None, progress: Progress
) -> dict[str, Any]:
    """Return how many golden values other rules or another form would change, per field with examples; nothing is kept."""
    difference = Difference()
    with transaction(sessions) as session:
        register, document = _draft(session, slug, rules, form)
        active = active_ids(session, register.id)
    with processes(len(active) > _AT_ONCE) as pool:
        for start in range(0, len(active), _AT_ONCE):
            progress("golden values tried", start, len(active))
            with transaction(sessions) as session:
                register = register_by_slug(session, slug)
                copy_ids(session, "asked_golden", active[start : start + _AT_ONCE])
                now = projector_of(session, register)
                then = replace(now, rules=rules_from(now.layout, document), form=form or register.form)
                running = [
                    pool.start(differing_lines, now, then, part)
                    for part in tasks_of(member_lines(session, "asked_golden"))
                ]
                for task in running:
                    difference.add(task.result(), _SHOWN_PER_FIELD)
    labels = {field.name: field.label for field in now.layout.fields} if active else {}
    return {
        "golden": len(active), "changed": difference.golden,
        "fields": [
            {"field": name, "label": labels[name], "changed": count, "samples": difference.samples[name]}
            for name, count in difference.by_field.items()
        ],
    }  # fmt: skip


def tried(session: Session, slug: str, job_id: int) -> Mapping[str, Any]:
    """Return what came of trying rules; raise NotFound unless that is done."""
    job, of_register = work.job_with_slug(session, job_id)
    if of_register != slug or job.kind != "try rules" or job.result is None:
        raise NotFound("trial of rules that is done", job_id)
    return job.result
