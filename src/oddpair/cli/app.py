"""All commands of ``odd-pair``."""

import sys
from typing import Annotated

import typer

from ..core.errors import MappingInvalid, OddPairError, PlanInvalid
from ..version import VERSION
from . import files, look_up, people, plans, registers, server, simulate, standing, upkeep

app = typer.Typer(
    name="odd-pair",
    help="Odd Pair finds duplicate customer and supplier records across sources and merges them into golden records.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)


def _show_version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"odd-pair {VERSION}")
        raise typer.Exit


@app.callback()
def _options(
    version: Annotated[
        bool, typer.Option("--version", callback=_show_version, is_eager=True, help="Show the version and end.")
    ] = False,
) -> None:
    """Odd Pair finds duplicate customer and supplier records across sources and merges them into golden records."""


app.command("demo")(server.demo)
app.command("start")(server.start)
app.command("match")(files.match)
app.command("look-up")(look_up.look_up)
app.command("load")(registers.load)
app.command("run")(registers.run)
app.command("merge")(registers.merge)
app.command("recognise")(standing.recognise)
app.command("turn")(standing.turn)
app.command("findings")(registers.findings)
app.add_typer(plans.plan, name="plan")
app.add_typer(simulate.simulate, name="simulate")
app.command("evaluate")(files.evaluate)
app.command("sample")(files.sample)
app.command("estimate")(files.estimate)
app.command("send-out")(server.send_out)
app.add_typer(people.people, name="people")
app.command("backup")(upkeep.backup)
app.command("restore")(upkeep.restore)
app.command("rebuild")(upkeep.rebuild)
app.add_typer(upkeep.journal, name="journal")
app.command("openapi")(server.openapi)
app.command("demo-data")(files.demo_data)
app.command("warm-up", hidden=True)(files.warm_up)


def main() -> None:
    """Run the command line; exit status 0, 1 for failed work, 2 for wrong use."""
    try:
        app(prog_name="odd-pair")
    except (PlanInvalid, MappingInvalid) as error:
        print(f"odd-pair: {error}", file=sys.stderr)
        sys.exit(2)
    except OddPairError as error:
        print(f"odd-pair: {error}", file=sys.stderr)
        sys.exit(1)
    except KeyboardInterrupt:
        print("odd-pair: stopped", file=sys.stderr)
        sys.exit(130)
