"""Commands of the register as a standing service: recognise what came in. Odd Pair may be running meanwhile."""

from typing import Annotated

import typer

from .files import StderrProgress
from .registers import AsJson, Register, open_database, tell
from .server import DataOption


def recognise(
    register: Register,
    switch: Annotated[
        str, typer.Option(help="on, or off: whether deliveries are recognised as they come in from now on.")
    ] = "",
    as_json: AsJson = False,
    data: DataOption = None,
) -> None:
    """Match and merge what came into a register since its clusters were formed, and say what came of every delivery.

    Exit status: 0 done, 1 it could not be done, 2 wrong use.
    """
    from ..services.standing.directories import Directories
    from ..services.standing.recognise import recognise_register
    from ..services.standing.switch import switch_recognition
    from ..services.transactions import transaction

    if switch not in ("", "on", "off"):
        raise typer.BadParameter(f"'{switch}' is neither on nor off", param_hint="--switch")
    with open_database(data) as (sessions, settings):
        if switch:
            with transaction(sessions) as session:
                switch_recognition(session, register, switch == "on", actor=settings.actor)
        told = recognise_register(
            sessions, register, StderrProgress(), Directories(settings.kept), actor=settings.actor, kept=settings.kept
        )
    tell(f"{register} recognised", told, as_json)
