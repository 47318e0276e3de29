"""Commands that work on registers, for nightly use: load, run, merge, findings. Odd Pair may be running meanwhile."""

import json
import os
import shutil
import sys
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any
from uuid import uuid4

import typer

from ..services.transactions import SessionFactory
from ..settings import Settings
from .files import StderrProgress
from .server import DataOption, settings_from

Register = Annotated[str, typer.Argument(help="Short name of the register, as in its address.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print what was done as JSON.")]


@contextmanager
def open_database(data: Path | None) -> Iterator[tuple[SessionFactory, Settings]]:
    """Open the database of a data folder, whether Odd Pair is running or not."""
    from ..launch.supervisor import database_of
    from ..services.transactions import open_sessions

    settings = settings_from(None, data)
    with database_of(settings) as url, open_sessions(url) as sessions:
        yield sessions, settings


def tell(done: str, counts: Mapping[str, Any], as_json: bool) -> None:
    """Print what was done, as JSON or as a line."""
    if as_json:
        print(json.dumps(counts, indent=2, ensure_ascii=False, default=str))
        return
    told = ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in counts.items())
    print(f"odd-pair: {done}: {told}", file=sys.stderr)


def load(
    register: Register,
    file: Annotated[Path, typer.Argument(exists=True, dir_okay=False, readable=True)],
    source: Annotated[str, typer.Option(help="Source that delivers it; told from the file name where not given.")] = "",
    delivers: Annotated[str, typer.Option(help="full, or changes: what the file holds of the source.")] = "full",
    gone: Annotated[str, typer.Option(help="keep, or end: what becomes of records that a full one lacks.")] = "keep",
    as_json: AsJson = False,
    data: DataOption = None,
) -> None:
    """Load FILE into a register as a delivery of a source, with the mapping that the source remembers, else as its columns propose.

    Exit status: 0 loaded, 1 it could not be loaded, 2 wrong use, 3 loaded, but a large part of the rows was set aside.
    """
    from ..services.bring_in import drafts, load_delivery
    from ..services.state.mappings import mapping_of
    from ..services.transactions import transaction

    for word, words, hint in ((delivers, ("full", "changes"), "--delivers"), (gone, ("keep", "end"), "--gone")):
        if word not in words:
            raise typer.BadParameter(f"'{word}' is not one of {', '.join(words)}", param_hint=hint)
    with open_database(data) as (sessions, settings):
        folder = settings.deliveries
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        stored = folder / f"{uuid4().hex}{file.suffix.lower()}"
        shutil.copyfile(file, stored)
        stored.chmod(0o600)
        if os.geteuid() == 0:
            # Web and worker run as another user, to whom the data belong.
            owner = settings.data.stat()
            for path in (folder, stored):
                os.chown(path, owner.st_uid, owner.st_gid)
        try:
            with transaction(sessions) as session:
                draft = drafts.receive(session, register, stored, file.name, source)
                mapping = mapping_of(draft.delivery.mapping)
                drafts.check_loadable(session, draft.delivery.id, mapping, delivers=delivers, gone=gone)
                counts = load_delivery.load(session, draft.delivery.id, folder, StderrProgress(), actor=settings.actor)
        except BaseException:
            stored.unlink(missing_ok=True)
            raise
        load_delivery.gather_figures(sessions, counts)
    tell(f"{file.name} loaded into {register}", counts, as_json)
    if counts["rejected"] > _LARGE_PART * max(counts["rows"], 1):
        raise typer.Exit(_SET_ASIDE)


#: Exit status, and from which share of the rows on, where much was set aside.
_SET_ASIDE, _LARGE_PART = 3, 0.1


def run(register: Register, as_json: AsJson = False, data: DataOption = None) -> None:
    """Run the match plan in force over a register; golden records follow with the next merge."""
    from ..services.match.run_plan import run_plan

    with open_database(data) as (sessions, settings):
        counts = run_plan(sessions, register, StderrProgress(), actor=settings.actor)
    tell(f"{register} matched", counts, as_json)


def merge(register: Register, as_json: AsJson = False, data: DataOption = None) -> None:
    """Merge what the standing run and decisions say is the same into golden records."""
    from ..services.golden.merge import merge as run_merge

    with open_database(data) as (sessions, settings):
        counts = run_merge(sessions, register, actor=settings.actor, progress=StderrProgress())
    tell(f"{register} merged", counts, as_json)


def findings(
    register: Register,
    plan: Annotated[str, typer.Argument(help="Name of the plan of findings.")],
    out: Annotated[
        Path | None, typer.Option(help="Table to write; its ending says the format.", dir_okay=False)
    ] = None,
    as_json: AsJson = False,
    data: DataOption = None,
) -> None:
    """Run a plan of findings and write its report.

    Exit status: 0 nothing is open, 1 it could not be run, 2 wrong use, 4 findings are open.
    """
    from ..files.writers import table_chunks
    from ..services.findings import plans, rows
    from ..services.findings.run_plan import OPEN, run_plan
    from ..services.offline.look_up_files import format_of
    from ..services.transactions import transaction

    form = format_of(out) if out else ""
    with open_database(data) as (sessions, _):
        with transaction(sessions) as session:
            plan_id = plans.plan_named(session, register, plan).id
        counts = run_plan(sessions, plan_id, StderrProgress())
        if out:
            with transaction(sessions) as session, out.open("wb") as file:
                table = rows.report_table(session, register, plan)
                file.writelines(table_chunks(form, table.columns, table.rows, "findings"))
    tell(f"{register}: {plan}", counts, as_json)
    if counts[OPEN]:
        raise typer.Exit(_OPEN_FINDINGS)


_OPEN_FINDINGS = 4
