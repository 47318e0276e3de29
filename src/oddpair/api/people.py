"""People: accounts, their roles, and links by which passwords are chosen."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.rights import Role
from ..services.people import accounts, browsers, tokens
from .account import BrowserOut, TokenOut, browser_out, token_out
from .dependencies import Actor, AppState, SmallId, Text, Transaction

router = APIRouter(tags=["people"], prefix="/people")
_MOST_ROLES = 3000


class RoleGivenOut(BaseModel):
    """A role in a register, or in every one where ``slug`` is None."""

    slug: Annotated[Text, Field(max_length=80)] | None
    role: Role


class PersonOut(BaseModel):
    """An account; ``has_password`` tells whether its person has chosen one, ``by_provider`` whether an identity provider knows them."""

    id: int
    name: str
    sign_in: str
    email: str
    roles: list[RoleGivenOut]
    has_password: bool
    by_provider: bool
    demo: bool
    added_at: datetime
    ended_at: datetime | None


class NewPerson(BaseModel):
    """An account to be added."""

    name: Annotated[Text, Field(min_length=1, max_length=80)]
    sign_in: Annotated[Text, Field(min_length=1, max_length=80)]
    email: Annotated[Text, Field(max_length=200, pattern=r"^([^@\s]+@[^@\s]+)?$")] = ""
    roles: Annotated[list[RoleGivenOut], Field(max_length=_MOST_ROLES)]


class PersonChange(BaseModel):
    """The roles that a person has from now on, and the address."""

    email: Annotated[Text, Field(max_length=200, pattern=r"^([^@\s]+@[^@\s]+)?$")]
    roles: Annotated[list[RoleGivenOut], Field(max_length=_MOST_ROLES)]


class LinkOut(BaseModel):
    """A link by which a person chooses a password, once; it is shown this once."""

    link: str


class PersonWithLink(BaseModel):
    """An account that was added, and the link for its person."""

    person: int
    link: str


class KeysOut(BaseModel):
    """Where a person is signed in, and the tokens of their programs."""

    browsers: list[BrowserOut]
    tokens: list[TokenOut]


def _roles(given: Sequence[RoleGivenOut]) -> dict[str | None, list[Role]]:
    roles: dict[str | None, list[Role]] = {}
    for one in given:
        roles.setdefault(one.slug, []).append(one.role)
    return roles


@router.get("")
def list_people(session: Transaction) -> list[PersonOut]:
    """All accounts, ended ones too."""
    return [
        PersonOut(
            **{name: getattr(one, name) for name in PersonOut.model_fields if name != "roles"},
            roles=[RoleGivenOut(slug=slug, role=role) for slug, role in one.roles],
        )
        for one in accounts.people(session)
    ]


@router.post("", status_code=201)
def add_person(session: Transaction, state: AppState, actor: Actor, body: NewPerson) -> PersonWithLink:
    """Add an account, and get a link for its person."""
    person, secret = accounts.add_person(
        session, name=body.name, sign_in=body.sign_in, email=body.email, roles=_roles(body.roles), actor=actor
    )
    return PersonWithLink(person=person.id, link=accounts.link_at(state.settings.own_address, secret))


@router.put("/{person_id}", status_code=204)
def change_person(session: Transaction, actor: Actor, person_id: SmallId, body: PersonChange) -> None:
    """Give a person these roles and no others."""
    accounts.change_person(session, person_id, email=body.email, roles=_roles(body.roles), actor=actor)


@router.delete("/{person_id}", status_code=204)
def end_person(session: Transaction, actor: Actor, person_id: SmallId) -> None:
    """End an account: its person is signed out everywhere, its tokens end, its name stays in the journal."""
    accounts.end_person(session, person_id, actor=actor)


@router.post("/{person_id}/link")
def reset_person(session: Transaction, state: AppState, actor: Actor, person_id: SmallId) -> LinkOut:
    """Forget a password, sign its person out everywhere, and get a link by which a new one is chosen."""
    return LinkOut(
        link=accounts.link_at(state.settings.own_address, accounts.reset_person(session, person_id, actor=actor))
    )


@router.get("/{person_id}/keys")
def keys_of_person(session: Transaction, person_id: SmallId) -> KeysOut:
    """Where a person is signed in, and the tokens of their programs."""
    return KeysOut(
        browsers=[browser_out(one, None) for one in browsers.browsers(session, person_id)],
        tokens=[token_out(one) for one in tokens.tokens(session, person_id)],
    )


@router.delete("/{person_id}/browsers", status_code=204)
def sign_out_person(session: Transaction, actor: Actor, person_id: SmallId) -> None:
    """Sign a person out everywhere."""
    accounts.sign_out_person(session, person_id, actor=actor)


@router.delete("/{person_id}/tokens/{token_id}", status_code=204)
def end_token_of_person(session: Transaction, actor: Actor, person_id: SmallId, token_id: SmallId) -> None:
    """End a token of a person at once."""
    tokens.end_token(session, person_id, token_id, actor=actor)
