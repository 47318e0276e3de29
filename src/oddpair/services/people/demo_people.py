"""The five made-up people of the demo, who sign in without a password, on the machine that runs the demo."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotSignedIn
from ...core.rights import Role
from ...store import people as store
from ...store.tables import Person
from .accounts import Roles, add_person


@dataclass(frozen=True, slots=True)
class DemoPerson:
    """A made-up person: what they are in the Kittiwake Chandlery Group, and with which roles."""

    name: str
    sign_in: str
    says: str
    roles: Roles


MAREN, PIET, SUNNIVA = "Maren Tollgate", "Piet Averlock", "Sunniva Orme"
PEOPLE: Sequence[DemoPerson] = (
    DemoPerson(MAREN, "maren", "data steward of the group", {None: [Role.STEWARD]}),
    DemoPerson(PIET, "piet", "analyst, and runs Odd Pair", {None: [Role.ANALYST, Role.OPERATOR]}),
    DemoPerson(SUNNIVA, "sunniva", "steward of the accounts, and signs off", {None: [Role.STEWARD, Role.APPROVER]}),
    DemoPerson(
        "Colm Sandwith", "colm", "clerk in the quay shop", {"customers": [Role.CLERK], "boat-owners": [Role.CLERK]}
    ),
    DemoPerson("Una Brackley", "una", "auditor of the group", {None: [Role.AUDITOR]}),
)


def add_demo_people(session: Session) -> None:
    """Add the five, where there is nobody yet."""
    if store.anybody(session):
        return
    for one in PEOPLE:
        person, _ = add_person(session, name=one.name, sign_in=one.sign_in, roles=one.roles, actor="Odd Pair")
        person.demo = True
        store.forget_links(session, person.id)


def people_of_demo(session: Session) -> list[DemoPerson]:
    """Return those of the five whose accounts have not ended."""
    there = {person.name for person in store.all_people(session) if person.demo and person.ended_at is None}
    return [one for one in PEOPLE if one.name in there]


def person_of_demo(session: Session, name: str) -> Person:
    """Return the account of one of the five; raise NotSignedIn where there is none."""
    if name not in {one.name for one in people_of_demo(session)}:
        raise NotSignedIn(f"The demo knows no '{name}'.")
    return store.person_by_name(session, name)
