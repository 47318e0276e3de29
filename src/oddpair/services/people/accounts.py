"""Accounts: added, given roles, ended. Every such act stands in the journal of what all registers share."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.rights import Permission, Role, may
from ...store import journal
from ...store import people as store
from ...store.registers import all_registers
from ...store.tables import OneTimeLink, Person
from .leaving import hand_back
from .passwords import check_choice, keep
from .secret_words import digest, fresh_secret

#: The chain of the journal for what all registers share.
_SHARED = 0
_LINK_LASTS = timedelta(days=3)
#: Names that acts are kept under when no person did them.
_NOBODYS_NAMES = frozenset({"steward", "schedule", "machine", "odd pair", "nobody"})
#: Roles by short name of the register; None stands for every register, also those to come.
Roles = Mapping[str | None, Sequence[Role]]


@dataclass(frozen=True, slots=True)
class PersonShown:
    """An account with its roles: (short name of the register or None for every one, role)."""

    id: int
    name: str
    sign_in: str
    email: str
    roles: list[tuple[str | None, Role]]
    has_password: bool
    by_provider: bool
    demo: bool
    added_at: datetime
    ended_at: datetime | None


def people(session: Session) -> list[PersonShown]:
    """Return all accounts by name, ended ones too."""
    found = store.all_people(session)
    roles: dict[int, list[tuple[str | None, Role]]] = {}
    for person_id, slug, role in store.roles_of(session, [person.id for person in found]):
        roles.setdefault(person_id, []).append((slug, Role(role)))
    return [
        PersonShown(
            person.id, person.name, person.sign_in, person.email, roles.get(person.id, []), person.password is not None,
            bool(person.subject),
            person.demo, person.added_at, person.ended_at,
        )
        for person in found
    ]  # fmt: skip


def who_may_in(session: Session, permission: Permission, slug: str) -> list[str]:
    """Return the names of those whose accounts have not ended and who have a permission in a register, in order."""
    return [
        person.name
        for person in people(session)
        if person.ended_at is None and may({role for place, role in person.roles if place in (None, slug)}, permission)
    ]


def anybody(session: Session) -> bool:
    """Whether there is any account."""
    return store.anybody(session)


def person_named(session: Session, name: str) -> Person:
    """Return the account whose acts are kept under a name; raise NotFound."""
    return store.person_by_name(session, name)


def add_person(
    session: Session, *, name: str, sign_in: str, email: str = "", roles: Roles, actor: str
) -> tuple[Person, str]:
    """Add an account; return it with the secret of the link by which its person chooses a password."""
    person = _new(session, name, sign_in, email)
    told = _give(session, person, roles)
    _note(session, "person", actor, person, f"Added {person.name}: {told}", {"roles": told})
    return person, _fresh_link(session, person.id)


def change_person(session: Session, person_id: int, *, email: str, roles: Roles, actor: str) -> None:
    """Give a person these roles and no others, and an address; raise Refused where nobody would be left to give roles."""
    person = _living(session, person_id)
    if email != person.email:
        _check_free(session, "", "", email)
        person.email = email
    before = _told(session, person)
    after = _give(session, person, roles)
    _check_somebody_left(session)
    _note(session, "roles", actor, person, f"{person.name} is now {after}", {"before": before, "after": after})


def end_person(session: Session, person_id: int, *, actor: str) -> None:
    """End an account: its person is signed out everywhere, its tokens end, what they were asked waits for everybody, and its name stays in
    the journal."""
    person = _living(session, person_id)
    person.ended_at = datetime.now(UTC)
    session.flush()
    store.end_browsers(session, person.id)
    store.end_tokens(session, person.id)
    store.forget_links(session, person.id)
    _check_somebody_left(session)
    hand_back(session, person.name, actor=actor)
    _note(session, "person", actor, person, f"Ended the account of {person.name}", {"ended": True})


def reset_person(session: Session, person_id: int, *, actor: str) -> str:
    """Forget a password, sign its person out everywhere, and return the secret of a link by which a new one is chosen."""
    person = _living(session, person_id)
    person.password = None
    store.end_browsers(session, person.id)
    _note(session, "person", actor, person, f"Gave {person.name} a link to choose a password by", {"reset": True})
    return _fresh_link(session, person.id)


def sign_out_person(session: Session, person_id: int, *, actor: str) -> int:
    """Sign a person out everywhere; return of how many browsers."""
    person = store.person_by_id(session, person_id)
    ended = store.end_browsers(session, person.id)
    _note(session, "person", actor, person, f"Signed {person.name} out everywhere", {"signed out": ended})
    return ended


def link_for_first(session: Session) -> str | None:
    """Return the secret of a fresh link that makes the first account, or None where there are accounts; earlier ones lead nowhere."""
    return None if store.anybody(session) else _fresh_link(session, None)


@dataclass(frozen=True, slots=True)
class Welcome:
    """Whom a one-time link is for; nobody's name where it makes the first account."""

    name: str
    sign_in: str
    first: bool


def welcome(session: Session, secret: str) -> Welcome:
    """Return whom a one-time link is for; raise NotFound once it was used or its time is over."""
    link = _link(session, secret)
    if link.person_id is None:
        return Welcome("", "", True)
    person = store.person_by_id(session, link.person_id)
    return Welcome(person.name, person.sign_in, False)


def choose_password(session: Session, secret: str, password: str, *, name: str = "", sign_in: str = "") -> Person:
    """Use a one-time link up: keep the password of its person, or make the first account, which has every role everywhere."""
    link = _link(session, secret)
    if link.person_id is None:
        if store.anybody(session):
            raise NotFound("link", "that was opened")
        person = _new(session, name, sign_in, "")
        told = _give(session, person, {None: list(Role)})
        _note(session, "person", person.name, person, f"{person.name} made the first account", {"roles": told})
    else:
        person = _living(session, link.person_id)
    set_password(session, person, password)
    store.forget_links(session, link.person_id)
    return person


def change_password(session: Session, person_id: int, password: str) -> None:
    """Keep another password of a person."""
    person = _living(session, person_id)
    set_password(session, person, password)
    _note(session, "person", person.name, person, f"{person.name} changed the password", {"password": True})


def link_at(address: str, secret: str) -> str:
    """Return a one-time link below a web address; what stands behind # is sent to no server and stands in no log."""
    return f"{address}/welcome#{secret}"


def set_password(session: Session, person: Person, password: str) -> None:
    """Keep a password; raise Refused unless it may be chosen."""
    check_choice(password, (person.name, person.sign_in, person.email))
    person.password = keep(password)
    session.flush()


def _link(session: Session, secret: str) -> OneTimeLink:
    link = store.link_by_secret(session, digest(secret), datetime.now(UTC))
    if link is None:
        raise NotFound("link", "that was opened")
    return link


def _fresh_link(session: Session, person_id: int | None) -> str:
    store.forget_links(session, person_id)
    secret = fresh_secret()
    session.add(OneTimeLink(secret=digest(secret), person_id=person_id, until=datetime.now(UTC) + _LINK_LASTS))
    session.flush()
    return secret


def _new(session: Session, name: str, sign_in: str, email: str) -> Person:
    name, sign_in = " ".join(name.split()), sign_in.strip().casefold()
    if not name or not sign_in:
        raise Refused("A person has a name, and a name to sign in with.")
    if name.casefold() in _NOBODYS_NAMES:
        raise Refused(f"Acts that no person did are kept under '{name}'; take another name.")
    _check_free(session, name, sign_in, email)
    person = Person(name=name, sign_in=sign_in, email=email)
    session.add(person)
    session.flush()
    return person


def _check_free(session: Session, name: str, sign_in: str, email: str) -> None:
    taken = store.is_taken(session, name=name, sign_in=sign_in, email=email)
    if taken:
        value = {"name": name, "sign-in": sign_in, "email": email}[taken]
        raise Refused(
            f"'{value}' belongs to somebody already; a name stays with its person for ever, so that the journal means one."
        )


def _living(session: Session, person_id: int) -> Person:
    person = store.person_by_id(session, person_id)
    if person.ended_at is not None:
        raise Refused(f"The account of {person.name} has ended.")
    return person


def _give(session: Session, person: Person, roles: Roles) -> str:
    ids: dict[str | None, int | None] = {None: None, **{one.slug: one.id for one in all_registers(session)}}
    for slug in roles:
        if slug not in ids:
            raise NotFound("register", slug)
    store.replace_roles(
        session, person.id, [(ids[slug], role.value) for slug, given in roles.items() for role in given]
    )
    return _told(session, person)


def _told(session: Session, person: Person) -> str:
    by_place: dict[str, list[str]] = {}
    for _, slug, role in store.roles_of(session, [person.id]):
        by_place.setdefault(slug or "every register", []).append(role)
    return "; ".join(f"{', '.join(roles)} in {place}" for place, roles in by_place.items()) or "without a role"


def _check_somebody_left(session: Session) -> None:
    session.flush()
    if not store.operators_of_all(session):
        raise Refused("Nobody would be left who may give roles: an operator of every register has to stay.")


def _note(session: Session, kind: str, actor: str, person: Person, summary: str, data: Mapping[str, object]) -> None:
    journal.append(
        session, _SHARED, kind, actor=actor, data={"person": person.id, **data}, personal={"summary": summary},
        touches=[("person", person.id)],
    )  # fmt: skip
