"""The runs that a register keeps: the standing one, and trials beside it until they are cleared away."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.plan import parse_plan
from ...store import matching
from ...store.registers import register_by_slug
from ...store.tables import Job, Run
from .. import work
from ..state.layouts import layout_of
from .related import check_related

__all__ = ["Run", "ask_for_trial", "clear", "kept_runs", "run_by_id"]


def kept_runs(session: Session, slug: str) -> Sequence[Run]:
    """Return the standing run and all trials, newest first."""
    return matching.kept_runs(session, register_by_slug(session, slug).id)


def run_by_id(session: Session, slug: str, run_id: int) -> Run:
    """Return a run of a register; raise NotFound."""
    run = session.get(Run, run_id)
    if run is None or run.register_id != register_by_slug(session, slug).id:
        raise NotFound("run", run_id)
    return run


def ask_for_trial(session: Session, slug: str, *, title: str, yaml: str, actor: str) -> Job:
    """Ask for a run of a plan (the one in force, where no text is given) that only shows; raise PlanInvalid with all its problems."""
    if yaml:
        register = register_by_slug(session, slug)
        check_related(session, register, parse_plan(yaml, layout_of(register)))
    arguments = {"register": slug, "actor": actor, "title": title, "yaml": yaml}
    return work.ask_for(session, slug, "trial", f"Trial: {title}" if title else "Trial of the plan", arguments)


def clear(session: Session, slug: str, run_id: int) -> None:
    """Clear a trial away with all it found; raise Refused for the standing run, which golden records follow."""
    run = run_by_id(session, slug, run_id)
    if run.state == "standing":
        raise Refused("Golden records follow this run. Only trials are cleared away.")
    matching.forget_run(session, run_id)
    session.delete(run)
