"""A person's own account: where they are signed in, their password, and tokens for programs."""

from datetime import UTC, date, datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.errors import NotAllowed
from ..core.rights import Role
from ..services.people import accounts, browsers, tokens
from ..services.people import sign_in as signing_in
from ..services.people.who import Who
from ..services.transactions import transaction
from .dependencies import AppState, Asker, RecordId, SmallId, Text, Transaction
from .sign_in import Password, Words, transactions_of

router = APIRouter(tags=["people"], prefix="/account")
_MOST_REGISTERS = 500


class BrowserOut(BaseModel):
    """A browser in which somebody is signed in; ``this_one`` is the one that asks."""

    id: int
    address: str
    browser: str
    at: datetime
    seen_at: datetime
    this_one: bool


class TokenOut(BaseModel):
    """A token of a program: what it is called, what it is cut down to (all registers where there are none), its last day and last use."""

    id: int
    label: str
    roles: list[Role]
    registers: list[str] | None
    made_at: datetime
    ends_on: date
    used_at: datetime | None


class NewToken(BaseModel):
    """A token to be made."""

    label: Words
    roles: Annotated[list[Role], Field(min_length=1, max_length=len(Role))]
    registers: Annotated[list[Text], Field(max_length=_MOST_REGISTERS)] | None = None
    ends_on: date


class FreshTokenOut(BaseModel):
    """A token that was just made, with its secret, which is shown this once."""

    token: TokenOut
    secret: str


class PasswordChange(BaseModel):
    """The present password, and the one to come."""

    present: Password
    fresh: Password


def token_out(token: object) -> TokenOut:
    """Return a token as it is sent."""
    return TokenOut.model_validate(token, from_attributes=True)


def browser_out(browser: object, this_one: int | None) -> BrowserOut:
    """Return a browser in which somebody is signed in as it is sent."""
    values = {name: getattr(browser, name) for name in BrowserOut.model_fields if name != "this_one"}
    return BrowserOut(**values, this_one=values["id"] == this_one)


def _person(who: Who) -> int:
    if who.person_id is None:
        raise NotAllowed("Nobody signs in here, so nobody has an account.")
    if who.by_token:
        raise NotAllowed("A program changes nothing of its person's account.")
    return who.person_id


@router.get("/browsers")
def list_browsers(session: Transaction, asker: Asker) -> list[BrowserOut]:
    """Where this person is signed in, the latest first."""
    return [browser_out(one, asker.signed_in_id) for one in browsers.browsers(session, _person(asker))]


@router.delete("/browsers/{browser_id}", status_code=204)
def end_browser(session: Transaction, asker: Asker, browser_id: RecordId) -> None:
    """Sign out in one browser."""
    browsers.end_browser(session, _person(asker), browser_id)


@router.delete("/browsers", status_code=204)
def end_other_browsers(session: Transaction, asker: Asker) -> None:
    """Sign out everywhere but here."""
    browsers.end_others(session, _person(asker), asker.signed_in_id)


@router.put("/password", status_code=204)
def change_password(state: AppState, asker: Asker, body: PasswordChange) -> None:
    """Change the password; everywhere but here one is signed out."""
    person_id = _person(asker)
    signing_in.check_password(transactions_of(state), person_id, body.present.get_secret_value(), datetime.now(UTC))
    with transaction(state.sessions) as session:
        accounts.change_password(session, person_id, body.fresh.get_secret_value())
        browsers.end_others(session, person_id, asker.signed_in_id)


@router.get("/tokens")
def list_tokens(session: Transaction, asker: Asker) -> list[TokenOut]:
    """This person's tokens for programs."""
    return [token_out(one) for one in tokens.tokens(session, _person(asker))]


@router.post("/tokens", status_code=201)
def make_token(session: Transaction, asker: Asker, body: NewToken) -> FreshTokenOut:
    """Make a token for a program, which acts as this person; its secret is shown this once."""
    token, secret = tokens.make_token(
        session, _person(asker), label=body.label, roles=body.roles, registers=body.registers, ends_on=body.ends_on
    )
    return FreshTokenOut(token=token_out(token), secret=secret)


@router.delete("/tokens/{token_id}", status_code=204)
def end_token(session: Transaction, asker: Asker, token_id: SmallId) -> None:
    """End a token at once."""
    tokens.end_token(session, _person(asker), token_id, actor=asker.name)
