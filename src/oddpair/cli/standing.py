"""Commands of the register as a standing service: recognise what came in, let a source deliver. Odd Pair may be running meanwhile."""

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
            sessions,
            register,
            StderrProgress(),
            Directories(settings.kept),
            actor=settings.actor,
            kept=settings.kept,
            made=settings.deliveries,
        )
    tell(f"{register} recognised", told, as_json)


#: Exit status of a turn that waits for a person.
_HELD = 5


def turn(
    register: Register,
    source: Annotated[str, typer.Argument(help="Source whose schedule says what to take.")],
    as_json: AsJson = False,
    data: DataOption = None,
) -> None:
    """Let a source deliver by its schedule at once: for a scheduler of your own. Take, load, recognise, merge, send out; stop before harm.

    Exit status: 0 done, or nothing was there; 1 it could not be done; 2 wrong use; 5 held until a person has looked.
    """
    from datetime import datetime

    from ..services.standing.directories import Directories
    from ..services.standing.schedules import begin_turn_here
    from ..services.standing.take_turn import take_turn
    from ..services.transactions import transaction

    with open_database(data) as (sessions, settings):
        with transaction(sessions) as session:
            number = begin_turn_here(session, register, source, datetime.now().astimezone(), actor=settings.actor).id
        told = take_turn(sessions, settings, number, StderrProgress(), Directories(settings.kept), actor=settings.actor)
    tell(f"{source} of {register}", told, as_json)
    if told["state"] in ("held", "failed"):
        raise typer.Exit(_HELD if told["state"] == "held" else 1)
