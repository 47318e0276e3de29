"""Registers: making them, and what waits at each of their stages."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import NotFound, PlanInvalid, Refused
from ...core.fields import FieldKind, Layout, RegisterKind, default_layout, layout_document, layout_from
from ...core.mapping import ID_TARGET
from ...core.plan import parse_plan
from ...core.plan.text import default_plan_text
from ...core.sign_off import Facts, Matter
from ...core.standard import STANDARD
from ...core.survivorship import default_rules, rules_that_fit
from ...core.text.folding import fold, split_words
from ...core.tidying import tidy_steps_from
from ...store import journal
from ...store import registers as store
from ...store.counters import counters_of
from ...store.doubts import make_doubts
from ...store.golden import active_ids
from ...store.locks import close_desk, lock_chain, lock_membership, lock_settings
from ...store.settling import count_touched, touch_register
from ...store.tables import Counters, Job, Plan, Register, Run, Source, TidyStepsVersion
from ...store.tidying import tidy_steps_in_force
from .. import work
from ..proposals.gate import Intent, ask_second_yes, changed_entries
from ..state.bring_up_to_date import RecordChange, bring_up_to_date
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.tidy_steps_in_force import word_tables
from ..state.versions import check_version

Progress = Callable[[str, int, int], None]


@dataclass(frozen=True, slots=True)
class RegisterView:
    """A register with what waits at its stages and why a new run is due."""

    slug: str
    name: str
    kind: str
    prefix: str
    rules: dict[str, Any]
    form: str
    version: int
    counts: store.StageCounts
    run_id: int | None
    run_due: list[str]
    value_field: str


def make_register(
    session: Session, name: str, kind: RegisterKind, prefix: str = "", *, actor: str = "Odd Pair"
) -> Register:
    """Make a register with the default layout, plan and survivorship rules; raise Refused if the name is taken."""
    # One at a time, so that two who make the same register at once are told so instead of meeting in the database.
    lock_chain(session, 0)
    words = split_words(fold(name))
    if not words:
        raise Refused("A register needs a name with at least one letter.")
    slug = "-".join(words)[:80]
    if session.scalar(select(Register).where(Register.slug == slug)):
        raise Refused(f"There is a register '{name}' already.")
    prefix = prefix.upper() or ("".join(word[0] for word in words[:3]) if len(words) > 1 else words[0][:2]).upper()
    if not re.fullmatch(r"[A-Z0-9]{1,8}", prefix):
        raise Refused(f"'{prefix}' cannot start golden keys; use one to eight letters or digits.")
    taken = set(session.scalars(select(Register.prefix)))
    base, number = prefix, 2
    while prefix in taken:
        prefix, number = f"{base}{number}", number + 1
    register = Register(
        slug=slug,
        name=name.strip(),
        kind=kind.value,
        prefix=prefix,
        rules=default_rules(default_layout(kind)),
        form=STANDARD,
    )
    session.add(register)
    session.flush()
    plan = default_plan_text(kind)
    session.add(Plan(register_id=register.id, version=1, yaml=plan, actor="Odd Pair", note="default plan"))
    session.add(Counters(register_id=register.id))
    journal.append(
        session, register.id, "register", actor=actor, data={"kind": kind.value, "prefix": prefix},
        personal={"summary": f"Made the register {register.name}"},
    )  # fmt: skip
    return register


def all_views(session: Session) -> list[RegisterView]:
    """Return all registers in the order in which they were made."""
    return [view(session, register) for register in store.all_registers(session)]


def view_of(session: Session, slug: str) -> RegisterView:
    """Return one register; raise NotFound."""
    return view(session, store.register_by_slug(session, slug))


def view(session: Session, register: Register) -> RegisterView:
    """Return a register as the navigation shows it."""
    run = store.standing_run(session, register.id)
    return RegisterView(
        register.slug, register.name, register.kind, register.prefix, dict(register.rules), register.form,
        register.version, store.stage_counts(session, register.id), run.id if run else None, _run_due(session, register, run),
        register.value_field,
    )  # fmt: skip


#: Why a new run is due, by the kind of act since the run that stands.
_DUE = {
    "load": "a delivery came in since the last run", "take back": "a delivery was taken back since the last run",
    "put back": "a delivery was put back since the last run", "mend row": "rejected rows were mended since the last run",
    "correct": "values were corrected since the last run", "undo correction": "values were corrected since the last run",
    "tidy steps": "the tidy steps changed since the last run", "table": "the tidy steps changed since the last run",
    "layout": "the layout changed since the last run", "withdraw": "a decision that the last run followed was withdrawn",
    "withdraw group": "a decision that the last run followed was withdrawn",
    "withdraw many": "a decision that the last run followed was withdrawn",
    "promise": "a source's promise to have no duplicates changed since the last run",
}  # fmt: skip


def _run_due(session: Session, register: Register, run: Run | None) -> list[str]:
    """Return the reasons why the standing run no longer shows the present state; empty if it does."""
    if run is None:
        if store.latest_finished_run(session, register.id):
            return ["this version of Odd Pair keeps results in another form"]
        return ["nothing was matched yet"] if counters_of(session, register.id).records else []
    since = journal.position_of_run(session, register.id, run.id)
    kinds = journal.kinds_since(session, register.id, since, _DUE)
    reasons = dict.fromkeys(reason for kind, reason in _DUE.items() if kind in kinds)
    if store.plan_in_force(session, register.id).id != run.plan_id:
        reasons["the plan changed since the last run"] = None
    return list(reasons)


def _note(
    session: Session, register: Register, kind: str, actor: str, before: object, after: object, summary: str
) -> None:
    journal.append(
        session, register.id, kind, actor=actor, data={"before": before, "after": after}, personal={"summary": summary}
    )


def choose_value_field(session: Session, slug: str, field: str, *, actor: str) -> Register:
    """Choose by which field of numbers doubts are worth more or less to decide, "" for none; their order follows at once.

    Raises NotFound or Refused where the register has no such field, or it holds no numbers.
    """
    register = lock_settings(session, store.register_by_slug(session, slug).id)
    if field and layout_of(register).field(field).kind is not FieldKind.NUMBER:
        raise Refused(f"{layout_of(register).field(field).label} holds no numbers that doubts could be ordered by.")
    if register.value_field == field:
        return register
    before, register.value_field = register.value_field, field
    session.flush()
    close_desk(session, register.id)
    run = store.standing_run(session, register.id)
    if run is not None:
        make_doubts(session, register.id, run.id)
    summary = (
        f"Doubts are ordered by the value of {layout_of(register).field(field).label}"
        if field
        else "Doubts have no value"
    )
    _note(session, register, "value field", actor, before, field, summary)
    return register


def make_searchable(session: Session, slug: str, progress: Progress) -> dict[str, int]:
    """Bring all records and golden records of a register up to date, so that words find them."""
    register = lock_membership(session, store.register_by_slug(session, slug).id)
    touch_register(session, register.id)
    bring_up_to_date(session, register, RecordChange(), progress)
    refresh(session, register, active_ids(session, register.id), progress)
    return {"records": count_touched(session)}


def change_source(
    session: Session,
    slug: str,
    name: str,
    *,
    actor: str,
    trust_rank: int | None = None,
    own_duplicates: bool | None = None,
    creates: str | None = None,
    supplies: bool | None = None,
    seen_version: int | None = None,
) -> Sequence[Source]:
    """Change a source's trust rank (the others move), its promise, or what it may do to golden records; return all sources, most trusted
    first."""
    register = lock_settings(session, store.register_by_slug(session, slug).id)
    check_version(register, seen_version)
    source = store.source_by_name(session, register.id, name)
    if source is None:
        raise NotFound("source", name)
    wished = {"trust_rank": trust_rank, "own_duplicates": own_duplicates, "creates": creates, "supplies": supplies}
    _ask_for_source(session, register, source, wished, actor)
    if own_duplicates is not None and own_duplicates != source.own_duplicates:
        register.version += 1
        change = {"source": source.id, "own_duplicates": own_duplicates}
        _note(
            session,
            register,
            "promise",
            actor,
            {"own_duplicates": source.own_duplicates},
            change,
            f"Changed what {name} promises",
        )
        source.own_duplicates = own_duplicates
    for name_of, value in (("creates", creates), ("supplies", supplies)):
        if value is not None and value != getattr(source, name_of):
            _change_what_it_may(session, register, source, name_of, value, actor)
    if trust_rank is not None:
        before = {item.name: item.trust_rank for item in store.sources_of(session, register.id)}
        others = [item for item in store.sources_of(session, register.id) if item.id != source.id]
        others.insert(min(max(trust_rank, 1), len(others) + 1) - 1, source)
        for rank, item in enumerate(others, start=1):
            item.trust_rank = rank
        after = {item.name: item.trust_rank for item in others}
        if before != after:
            register.version += 1
            _note(session, register, "rank", actor, before, after, f"Changed how far {name} is trusted")
            work.follow_up(session, slug, "golden", "Golden values by trust in sources", {"register": slug})
    session.flush()
    return store.sources_of(session, register.id)


def _ask_for_source(
    session: Session, register: Register, source: Source, wished: Mapping[str, Any], actor: str
) -> None:
    """Let a change of what a source counts for go on, or give it up and have it signed off first."""
    now = {name: getattr(source, name) for name in wished}
    will = now | {name: value for name, value in wished.items() if value is not None}
    if now != will:
        told = f"Changed what {source.name} counts for"
        arguments = {"name": source.name, **wished, "seen_version": register.version}
        facts = Facts(Matter.PLAN, f"source {source.id}")
        intent = Intent(
            "source",
            arguments,
            facts,
            told,
            changed_entries(now, will),
            touches=[("source", source.id)],
            leads_to="bring-in",
        )
        ask_second_yes(session, register, intent, actor=actor)


def _change_what_it_may(
    session: Session, register: Register, source: Source, what: str, value: str | bool, actor: str
) -> None:
    """Change whether a source may create golden records or change their values."""
    before = getattr(source, what)
    setattr(source, what, value)
    register.version += 1
    change = {"source": source.id, what: value}
    _note(session, register, "source", actor, {what: before}, change, f"Changed what {source.name} may do")
    if what == "supplies":
        title = "Golden values by what sources may change"
        work.follow_up(session, register.slug, "golden", title, {"register": register.slug})


def change_layout(
    session: Session, slug: str, document: Sequence[Mapping[str, str]], *, actor: str, seen_version: int | None = None
) -> Job:
    """Set labels and added fields of a register's layout, and return the work that tidies all records by it.

    Raises InputError, or Refused if a field is still compared.

    What sources map onto a field that goes is forgotten, and so are its tidy steps; delivered values stay as they are.
    """
    register = lock_settings(session, store.register_by_slug(session, slug).id)
    check_version(register, seen_version)
    layout = layout_from(RegisterKind(register.kind), document)
    for field in layout.fields:
        if field.register:
            store.register_by_slug(session, field.register)
    try:
        parse_plan(store.plan_in_force(session, register.id).yaml, layout)
    except PlanInvalid as error:
        raise Refused(f"The match plan would not fit any more: {'; '.join(error.problems)}") from error
    told, arguments = (
        "Changed the layout",
        {"document": [dict(item) for item in document], "seen_version": register.version},
    )
    shows = changed_entries(_labels(layout_of(register)), _labels(layout))
    ask_second_yes(
        session, register, Intent("layout", arguments, Facts(Matter.PLAN, "layout"), told, shows), actor=actor
    )
    before, register.layout = register.layout, layout_document(layout)
    register.version += 1
    register.rules = rules_that_fit(layout, register.rules)
    known = {*layout.names, ID_TARGET}
    for source in store.sources_of(session, register.id):
        if source.mapping:
            source.mapping = [item for item in source.mapping if item.get("field") in known]
    tidy_steps = tidy_steps_in_force(session, register.id)
    if tidy_steps is not None and not set(tidy_steps.steps) <= set(layout.names):
        steps = {name: steps for name, steps in tidy_steps.steps.items() if name in layout.names}
        tidy_steps_from(steps, word_tables(session), layout.names)
        session.add(TidyStepsVersion(register_id=register.id, version=tidy_steps.version + 1, steps=steps, actor=actor))
    session.flush()
    _note(session, register, "layout", actor, before, register.layout, told)
    return work.follow_up(session, slug, "tidy", "Tidy again", {"register": slug})


def _labels(layout: Layout) -> dict[str, str]:
    return {field.name: f"{field.label} ({field.kind.value})" for field in layout.fields}


def register_with_layout(session: Session, slug: str) -> tuple[Register, Layout]:
    """Return a register and what its records consist of."""
    register = store.register_by_slug(session, slug)
    return register, layout_of(register)


def layout_of_register(session: Session, slug: str) -> tuple[Layout, int]:
    """Return (the fields of a register's records, the version of its settings)."""
    register = store.register_by_slug(session, slug)
    return layout_of(register), register.version


def sources(session: Session, slug: str) -> Sequence[Source]:
    """Return a register's sources, most trusted first."""
    return store.sources_of(session, store.register_by_slug(session, slug).id)
