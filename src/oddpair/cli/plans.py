"""Commands for a register's match plan: show it, try another, tell two apart, put one in force. The files are those of the plan bench."""

import json
import sys
from pathlib import Path
from typing import Annotated

import typer
from sqlalchemy.orm import Session

from .files import StderrProgress
from .registers import AsJson, Register, open_database
from .server import DataOption

plan = typer.Typer(no_args_is_help=True, help="A register's match plan: show, try, compare, force.")
PlanFile = Annotated[Path, typer.Argument(exists=True, dir_okay=False, readable=True, help="A plan as YAML.")]
AgainstOption = Annotated[int, typer.Option(help="Version of the plan to hold it against; 0: the one in force.", min=0)]


@plan.command("show")
def show(
    register: Register,
    version: Annotated[int, typer.Option(help="Which version; 0: the one in force.", min=0)] = 0,
    ready_made: Annotated[str, typer.Option(help="A ready-made plan by its name instead; 'list' names them.")] = "",
    proposed: Annotated[
        bool, typer.Option("--proposed", help="A plan proposed from the register's data instead.")
    ] = False,
    data: DataOption = None,
) -> None:
    """Print a plan of a register as YAML."""
    from ..services.match import plan_help
    from ..services.transactions import transaction

    with open_database(data) as (sessions, _), transaction(sessions) as session:
        if ready_made:
            plans = {one.name: one.yaml for one in plan_help.ready_made(session, register)}
            if ready_made not in plans:
                print("\n".join(plans), file=sys.stdout if ready_made == "list" else sys.stderr)
                raise typer.Exit(0 if ready_made == "list" else 2)
            print(plans[ready_made], end="")
        elif proposed:
            print(plan_help.proposal(session, register).yaml, end="")
        else:
            print(plan_help.version_of(session, register, version).yaml, end="")


@plan.command("try")
def try_plan(
    register: Register, file: PlanFile, against: AgainstOption = 0, as_json: AsJson = False, data: DataOption = None
) -> None:
    """Match a register by the plan in FILE and by another, and tell what is different; nothing is changed.

    Exit status: 0 tried, 1 it could not be tried, 2 the plan is wrong or wrong use.
    """
    from ..services.bench.whole import effect_of

    with open_database(data) as (sessions, settings):
        effect = effect_of(
            sessions, register, file.read_text(encoding="utf-8"), against, StderrProgress(), settings.kept
        ).report()
    if as_json:
        print(json.dumps(effect, indent=2))
        return
    pairs, other, gained = effect["pairs"], effect["against"], effect["f1_gained"]
    print(f"{pairs['same']} pairs the same, {pairs['unsure']} in doubt, {effect['golden_records']} golden records")
    print(
        f"against version {other['version']}: {other['gained']} pairs gained, {other['lost']} lost; "
        f"{other['joining']} golden records would join others, {other['cutting']} come apart"
    )
    for name, figure in effect["quality"].items():
        print(f"{name} {figure['value']:.3f} ({figure['low']:.3f} to {figure['high']:.3f})")
    print(
        f"F1 gained {gained['value']:+.4f} ({gained['low']:+.4f} to {gained['high']:+.4f}), by {effect['decisions']} decisions"
    )


@plan.command("compare")
def compare(
    register: Register,
    one: Annotated[str, typer.Argument(help="A version of the plan (0: in force), or a file.")],
    other: Annotated[str, typer.Argument(help="A version of the plan (0: in force), or a file.")],
    as_json: AsJson = False,
    data: DataOption = None,
) -> None:
    """Tell in words what is different from ONE plan to the OTHER; "plan try" tells the difference in effect.

    Exit status: 0 both say the same, 1 they could not be compared, 2 wrong use, 5 they differ.
    """
    from ..services.match.plan_help import changes_between
    from ..services.transactions import transaction

    with open_database(data) as (sessions, _), transaction(sessions) as session:
        changes = changes_between(session, register, *(_text_of(session, register, name) for name in (one, other)))
    if as_json:
        told = [{"part": change.part, "before": change.before, "after": change.after} for change in changes]
        print(json.dumps(told, indent=2, ensure_ascii=False))
    else:
        print("\n".join(change.sentence for change in changes) or "Both say the same.")
    if changes:
        raise typer.Exit(_DIFFERENT)


@plan.command("force")
def force(
    register: Register,
    file: PlanFile,
    note: Annotated[str, typer.Option(help="What changes and why.", max=400)] = "",
    as_json: AsJson = False,
    data: DataOption = None,
) -> None:
    """Put the plan in FILE in force as a new version; the next run follows it.

    Exit status: 0 it is in force, 1 it could not be, 2 the plan is wrong or wrong use.
    """
    from ..services.match.plans import plan_of, save_plan
    from ..services.transactions import transaction

    with open_database(data) as (sessions, settings), transaction(sessions) as session:
        seen = plan_of(session, register)[0].version
        text = file.read_text(encoding="utf-8")
        saved = save_plan(session, register, yaml=text, seen_version=seen, note=note, actor=settings.actor)
        version = saved.version
    if as_json:
        print(json.dumps({"version": version}))
    else:
        print(f"odd-pair: version {version} of {register}'s plan is in force", file=sys.stderr)


_DIFFERENT = 5


def _text_of(session: Session, register: str, name: str) -> str:
    from ..services.match.plan_help import version_of

    if name.isdigit():
        return version_of(session, register, int(name)).yaml
    path = Path(name)
    if not path.is_file():
        raise typer.BadParameter(f"'{name}' is neither a version nor a file")
    return path.read_text(encoding="utf-8")
