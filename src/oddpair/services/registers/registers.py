"""Registers: making them, and what waits at each of their stages."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import NotFound, PlanInvalid, Refused
from ...core.fields import RegisterKind, default_layout, layout_document, layout_from
from ...core.mapping import ID_TARGET
from ...core.plan import parse_plan
from ...core.plan.text import default_plan_text
from ...core.survivorship import default_rules, validate_rules
from ...core.text.folding import fold, split_words
from ...core.tidying import recipe_from
from ...store import registers as store
from ...store.golden import IN_FORCE
from ...store.tables import (
    Decision,
    Delivery,
    GoldenRecord,
    Plan,
    Register,
    Source,
    TidyRecipe,
)
from ...store.tidying import recipe_in_force, tables_in_force
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from ..state.recipe_in_force import word_tables


@dataclass(frozen=True, slots=True)
class RegisterView:
    """A register with what waits at its stages and why a new run is due."""

    slug: str
    name: str
    kind: str
    prefix: str
    rules: dict[str, str]
    counts: store.StageCounts
    run_id: int | None
    run_due: list[str]


def make_register(session: Session, name: str, kind: RegisterKind, prefix: str = "") -> Register:
    """Make a register with the default layout, plan and survivorship rules; raise Refused if the name is taken."""
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
        slug=slug, name=name.strip(), kind=kind.value, prefix=prefix, rules=default_rules(default_layout(kind))
    )
    session.add(register)
    session.flush()
    plan = default_plan_text(kind)
    session.add(Plan(register_id=register.id, version=1, yaml=plan, actor="Odd Pair", note="default plan"))
    session.flush()
    return register


def view(session: Session, register: Register) -> RegisterView:
    """Return a register as the navigation shows it."""
    run = store.latest_run(session, register.id)
    return RegisterView(
        register.slug, register.name, register.kind, register.prefix, dict(register.rules),
        store.stage_counts(session, register.id), run.id if run else None, _run_due(session, register),
    )  # fmt: skip


def _run_due(session: Session, register: Register) -> list[str]:
    """Return the reasons why the latest run no longer shows the present state; empty if it does."""
    run = store.latest_run(session, register.id)
    changes = (
        select(Delivery.status).join(Source).where(Source.register_id == register.id, Delivery.changed_at.is_not(None))
    )
    if run is None:
        loaded = changes.where(Delivery.status == "loaded")
        return ["nothing was matched yet"] if session.scalars(loaded.limit(1)).first() else []
    reasons = []
    since = set(session.scalars(changes.where(Delivery.changed_at > run.at)))
    if "loaded" in since:
        reasons.append("a delivery came in since the last run")
    if "taken back" in since:
        reasons.append("a delivery was taken back since the last run")
    if store.plan_in_force(session, register.id).id != run.plan_id:
        reasons.append("the plan changed since the last run")
    recipe = recipe_in_force(session, register.id)
    if recipe is not None:
        names = {step["table"] for steps in recipe.steps.values() for step in steps if "table" in step}
        if recipe.at > run.at or any(table.at > run.at for table in tables_in_force(session, names)):
            reasons.append("the tidy steps changed since the last run")
    withdrawn = select(Decision.id).where(
        Decision.register_id == register.id, Decision.withdrawn_at > run.at, Decision.at < run.at
    )
    if session.scalars(withdrawn.limit(1)).first():
        reasons.append("a decision that the last run followed was withdrawn")
    return reasons


def change_rules(session: Session, slug: str, rules: Mapping[str, str]) -> Register:
    """Set survivorship rules and recompute every golden record of the register by them."""
    register = store.lock_register(session, store.register_by_slug(session, slug).id)
    register.rules = validate_rules(layout_of(register), {**register.rules, **rules})
    session.flush()
    active = select(GoldenRecord.id).where(GoldenRecord.register_id == register.id, IN_FORCE)
    refresh(session, register, list(session.scalars(active)))
    return register


def change_source(
    session: Session, slug: str, name: str, *, trust_rank: int | None = None, own_duplicates: bool | None = None
) -> Sequence[Source]:
    """Change a source's trust rank (the others move) or its promise; return all sources, most trusted first."""
    register = store.register_by_slug(session, slug)
    source = store.source_by_name(session, register.id, name)
    if source is None:
        raise NotFound("source", name)
    if own_duplicates is not None:
        source.own_duplicates = own_duplicates
    if trust_rank is not None:
        others = [item for item in store.sources_of(session, register.id) if item.id != source.id]
        others.insert(min(max(trust_rank, 1), len(others) + 1) - 1, source)
        for rank, item in enumerate(others, start=1):
            item.trust_rank = rank
        session.flush()
        change_rules(session, slug, {})
    session.flush()
    return store.sources_of(session, register.id)


def change_layout(session: Session, slug: str, document: Sequence[Mapping[str, str]], *, actor: str) -> Register:
    """Set labels and added fields of a register's layout; raise InputError, or Refused if a field is still compared.

    What sources map onto a field that goes is forgotten, and so are its tidy steps; delivered values stay as they are.
    """
    register = store.lock_register(session, store.register_by_slug(session, slug).id)
    layout = layout_from(RegisterKind(register.kind), document)
    for field in layout.fields:
        if field.register:
            store.register_by_slug(session, field.register)
    try:
        parse_plan(store.plan_in_force(session, register.id).yaml, layout)
    except PlanInvalid as error:
        raise Refused(f"The match plan would not fit any more: {'; '.join(error.problems)}") from error
    register.layout = layout_document(layout)
    register.rules = {unit: register.rules.get(unit, rule) for unit, rule in default_rules(layout).items()}
    known = {*layout.names, ID_TARGET}
    for source in store.sources_of(session, register.id):
        if source.mapping:
            source.mapping = [item for item in source.mapping if item.get("field") in known]
    recipe = recipe_in_force(session, register.id)
    if recipe is not None and not set(recipe.steps) <= set(layout.names):
        steps = {name: steps for name, steps in recipe.steps.items() if name in layout.names}
        recipe_from(steps, word_tables(session), layout.names)
        session.add(TidyRecipe(register_id=register.id, version=recipe.version + 1, steps=steps, actor=actor))
    session.flush()
    return register
