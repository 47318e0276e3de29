"""People without a screen: accounts are listed, added, reset and ended."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Annotated

import typer

from ..core.errors import Refused
from ..core.rights import ROLES, Role
from ..settings import Settings
from .server import DataOption, settings_from

if TYPE_CHECKING:
    from ..services.transactions import Session

people = typer.Typer(help="Accounts: who they are, added, reset and ended.", no_args_is_help=True)
NameArgument = Annotated[str, typer.Argument(help="Name under which the person's acts are kept.")]
_EVERY = "every"


@contextmanager
def _transaction(settings: Settings) -> Iterator["Session"]:
    from ..launch.supervisor import database_of
    from ..services.transactions import open_sessions, transaction

    with database_of(settings) as url, open_sessions(url) as sessions, transaction(sessions) as session:
        yield session


def _roles(given: list[str]) -> dict[str | None, list[Role]]:
    """Return roles by register from ROLE or ROLE@REGISTER."""
    roles: dict[str | None, list[Role]] = {}
    for text in given:
        name, _, slug = text.partition("@")
        if name not in ROLES:
            raise typer.BadParameter(f"'{name}' is none of {', '.join(Role)}", param_hint="--role")
        roles.setdefault(slug or None, []).append(Role(name))
    return roles


@people.command("list")
def list_(data: DataOption = None) -> None:
    """List accounts with their roles, ended ones too."""
    from ..services.people import accounts

    with _transaction(settings_from(None, data)) as session:
        for person in accounts.people(session):
            roles = ", ".join(f"{role}@{slug or _EVERY}" for slug, role in person.roles) or "no role"
            ended = f", ended {person.ended_at:%Y-%m-%d}" if person.ended_at else ""
            typer.echo(f"{person.name} ({person.sign_in}): {roles}{ended}")


@people.command()
def add(
    name: NameArgument,
    role: Annotated[
        list[str], typer.Option(help="A role in every register, or ROLE@REGISTER in one; can be given several times.")
    ],
    sign_in: Annotated[
        str, typer.Option(help="Name to sign in with; the first word of the name if none is given.")
    ] = "",
    email: Annotated[str, typer.Option(help="Address by which an identity provider knows the person.")] = "",
    data: DataOption = None,
) -> None:
    """Add an account, and print the link by which its person chooses a password, once."""
    from ..services.people import accounts

    settings, roles = settings_from(None, data), _roles(role)
    with _transaction(settings) as session:
        _, secret = accounts.add_person(
            session, name=name, sign_in=sign_in or name.split()[0], email=email, roles=roles, actor=settings.actor
        )
    typer.echo(accounts.link_at(settings.own_address, secret))


@people.command()
def reset(name: NameArgument, data: DataOption = None) -> None:
    """Forget a person's password, sign them out everywhere, and print a link by which a new one is chosen."""
    from ..services.people import accounts

    settings = settings_from(None, data)
    with _transaction(settings) as session:
        secret = accounts.reset_person(session, accounts.person_named(session, name).id, actor=settings.actor)
    typer.echo(accounts.link_at(settings.own_address, secret))


@people.command()
def end(name: NameArgument, data: DataOption = None) -> None:
    """End an account: its person is signed out everywhere at once, and its name stays in the journal."""
    from ..services.people import accounts

    settings = settings_from(None, data)
    with _transaction(settings) as session:
        person = accounts.person_named(session, name)
        if person.ended_at is not None:
            raise Refused(f"The account of {person.name} has ended already.")
        accounts.end_person(session, person.id, actor=settings.actor)
    typer.echo(f"odd-pair: the account of {person.name} has ended", err=True)
