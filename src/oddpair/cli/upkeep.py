"""Commands that look after the data: backup, restore, the journal's chains, computing everything again."""

from pathlib import Path
from typing import Annotated

import typer

from ..core.errors import OddPairError
from ..services.transactions import SessionFactory
from .server import DataOption, settings_from

journal = typer.Typer(help="The journal of everything that changed what a record is.", no_args_is_help=True)


def _problems(sessions: SessionFactory, *, keep: bool) -> list[str]:
    """Verify the journal and compute every register again; return what does not fit."""
    from ..services.journal.entries import verify
    from ..services.registers.registers import all_views
    from ..services.state.rebuild import rebuild

    found: list[str] = []
    with sessions() as session:
        for chain in verify(session):
            typer.echo(
                f"odd-pair: journal of {chain.name}: {chain.entries} entries, {len(chain.problems)} problems", err=True
            )
            found += [f"{chain.name}: {problem}" for problem in chain.problems]
        slugs = [view.slug for view in all_views(session)]
    for slug in slugs:
        with sessions() as session:
            rebuilt = rebuild(session, slug)
            typer.echo(f"odd-pair: {rebuilt.register}: computed again, {len(rebuilt.problems)} differences", err=True)
            found += [f"{rebuilt.register}: {problem}" for problem in rebuilt.problems]
            session.commit() if keep else session.rollback()
    return found


def _tell(problems: list[str]) -> None:
    for problem in problems:
        typer.echo(problem)
    if problems:
        raise typer.Exit(1)


@journal.command("verify")
def verify_journal(data: DataOption = None) -> None:
    """Check that no entry of the journal was changed, left out or put in; exit status 1 if one was."""
    from ..launch.supervisor import database_of
    from ..services.journal.entries import verify
    from ..services.transactions import open_sessions

    with database_of(settings_from(None, data)) as url, open_sessions(url) as sessions, sessions() as session:
        found = []
        for chain in verify(session):
            typer.echo(f"odd-pair: {chain.name}: {chain.entries} entries, {len(chain.problems)} problems", err=True)
            found += [f"{chain.name}: {problem}" for problem in chain.problems]
    _tell(found)


def rebuild(
    check: Annotated[bool, typer.Option("--check", help="Only compare; change nothing.")] = False,
    data: DataOption = None,
) -> None:
    """Compute everything again from deliveries and the journal, and say what differs; exit status 1 if something did."""
    from ..launch.supervisor import database_of
    from ..services.transactions import open_sessions

    with database_of(settings_from(None, data)) as url, open_sessions(url) as sessions:
        problems = _problems(sessions, keep=not check)
    _tell(problems)


def backup(
    file: Annotated[Path, typer.Argument(help="File to write, for example odd-pair.tar.", dir_okay=False)],
    data: DataOption = None,
) -> None:
    """Write everything to one file; Odd Pair may be running and be worked with meanwhile."""
    from ..launch.backup import backup as run

    size = run(settings_from(None, data), file.resolve())
    typer.echo(f"odd-pair: {size / 1e6:.1f} MB in {file}", err=True)


def restore(
    file: Annotated[Path, typer.Argument(help="A file that backup wrote.", exists=True, dir_okay=False)],
    data: DataOption = None,
) -> None:
    """Restore a backup into an empty data folder, and check it: the journal is verified, everything is computed again."""
    from ..launch.backup import restored
    from ..services.transactions import open_sessions

    with restored(settings_from(None, data), file.resolve()) as url, open_sessions(url) as sessions:
        problems = _problems(sessions, keep=False)
        if problems:
            raise OddPairError("what was restored does not fit together: " + "; ".join(problems[:5]))
    typer.echo("odd-pair: restored and checked; start Odd Pair with this folder", err=True)
