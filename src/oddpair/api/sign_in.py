"""Who is signed in here, signing in and out, and one-time links."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from datetime import UTC, datetime
from functools import partial
from http import HTTPStatus
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel, Field, SecretStr

from ..core.errors import NoAnswer, NotFound, NotSignedIn
from ..core.rights import MAY, PERMISSIONS, ROLES, Permission, Role, who_may
from ..services.people import accounts, demo_people, provider
from ..services.people import sign_in as service
from ..services.people.who import Who, registers_known
from ..services.transactions import Session, transaction
from .cookies import begun_name, cookie_name, forget_cookie, keep_begun, known_name, set_cookies
from .dependencies import AppState, State, Text, Transaction, who_asks

router = APIRouter(tags=["people"])
#: What the page for signing in is told of a provider's answer; the first class that fits counts.
_PROVIDER_TROUBLE = {
    NoAnswer: "away",
    provider.NotBegun: "again",
    provider.NoAccount: "unknown",
    NotSignedIn: "unclear",
}
Words = Annotated[Text, Field(max_length=80)]
Password = Annotated[SecretStr, Field(max_length=1000)]
Secret = Annotated[SecretStr, Field(max_length=200)]


class RightsOut(BaseModel):
    """What may be done in a register, and by virtue of which roles."""

    slug: str
    roles: list[Role]
    acts: list[Permission]


class ActOut(BaseModel):
    """An act: what it is, as it follows "may", who may, and the same in words."""

    act: Permission
    says: str
    roles: list[Role]
    who_may: str


class RoleOut(BaseModel):
    """A role, and what it is there for."""

    role: Role
    says: str


class DemoPersonOut(BaseModel):
    """A made-up person of the demo, who signs in without a password."""

    name: str
    says: str


class WhoOut(BaseModel):
    """Who asks: nobody (``name`` is ""), a person who is signed in, or, where nobody ``signs_in``, whoever sits at this machine.

    ``everywhere`` is what may be done of what all registers share. ``wrong_before`` counts wrong passwords tried of late. Where there are
    no ``accounts`` yet, the first is made by the link that was printed where Odd Pair was started.
    """

    signs_in: bool
    name: str
    everywhere: list[Permission]
    registers: list[RightsOut]
    acts: list[ActOut]
    roles: list[RoleOut]
    demo_people: list[DemoPersonOut]
    provider: str
    accounts: bool
    wrong_before: int = 0


class SignIn(BaseModel):
    """A name to sign in with, and a password."""

    sign_in: Words
    password: Password


class AsDemoPerson(BaseModel):
    """The name of a made-up person of the demo."""

    name: Words


class OpenedLink(BaseModel):
    """The secret of a one-time link."""

    secret: Secret


class WelcomeOut(BaseModel):
    """Whom a one-time link is for; where it makes the ``first`` account, nobody yet."""

    name: str
    sign_in: str
    first: bool


class ChosenPassword(BaseModel):
    """The secret of a one-time link with a password; for the first account with a name, and a name to sign in with."""

    secret: Secret
    password: Password
    name: Words = ""
    sign_in: Words = ""


def asking_from(request: Request, state: State) -> service.Asking:
    """Return from where a request comes."""
    address = request.client.host if request.client else ""
    return service.Asking(
        address, request.headers.get("user-agent", ""), request.cookies.get(known_name(state.settings), "")
    )


def transactions_of(state: State) -> Callable[[], AbstractContextManager[Session]]:
    """Return what opens a transaction of its own."""
    return partial(transaction, state.sessions)


def _who_out(session: Session, state: State, who: Who | None, wrong_before: int = 0) -> WhoOut:
    out = WhoOut(
        signs_in=state.settings.sign_in, name="", everywhere=[], registers=[], acts=[], roles=[], demo_people=[], accounts=True,
        provider=state.settings.openid_name if state.settings.openid_issuer else "", wrong_before=wrong_before,
    )  # fmt: skip
    out.accounts = accounts.anybody(session)
    if who is None:
        if _offers_demo(state):
            people = demo_people.people_of_demo(session)
            out.demo_people = [DemoPersonOut(name=one.name, says=one.says) for one in people]
        return out
    out.name = who.name
    out.everywhere = [act for act in Permission if who.may_everywhere(act)]
    out.registers = [
        RightsOut(slug=slug, roles=sorted(who.roles(slug)), acts=sorted(who.permissions(slug)))
        for slug in registers_known(session, who)
    ]
    out.acts = [
        ActOut(act=act, says=PERMISSIONS[act], roles=sorted(MAY[act]), who_may=who_may(act)) for act in Permission
    ]
    out.roles = [RoleOut(role=role, says=ROLES[role]) for role in Role]
    return out


def _offers_demo(state: State) -> bool:
    """Made-up people sign in without a password on this machine only."""
    return state.settings.sign_in and not state.settings.beyond_loopback


@router.get("/sign-in")
def who_am_i(request: Request, session: Transaction, state: AppState) -> WhoOut:
    """Who is signed in here, and what may be done."""
    try:
        who = who_asks(request)
    except NotSignedIn:
        return _who_out(session, state, None)
    return _who_out(session, state, who)


def signed_in_now(request: Request, response: Response, state: State, now: service.SignedInNow) -> WhoOut:
    """Set the cookies of somebody who signed in, and tell who that is."""
    set_cookies(response, state.settings, now)
    request.cookies[cookie_name(state.settings)] = now.cookie
    who = who_asks(request)
    with transaction(state.sessions) as session:
        return _who_out(session, state, who, now.wrong_before)


@router.post("/sign-in")
def sign_in(request: Request, response: Response, state: AppState, body: SignIn) -> WhoOut:
    """Sign in by a password."""
    now = service.sign_in(
        transactions_of(state),
        body.sign_in,
        body.password.get_secret_value(),
        asking_from(request, state),
        datetime.now(UTC),
    )
    return signed_in_now(request, response, state, now)


@router.post("/sign-in/demo")
def as_demo_person(request: Request, response: Response, state: AppState, body: AsDemoPerson) -> WhoOut:
    """Sign in as one of the made-up people of the demo: on this machine only, and only where its data are loaded."""
    if not _offers_demo(state):
        raise NotSignedIn("Made-up people sign in on this machine only.")
    with transaction(state.sessions) as session:
        person = demo_people.person_of_demo(session, body.name)
        now = service.begin(session, person, asking_from(request, state), datetime.now(UTC))
    return signed_in_now(request, response, state, now)


@router.delete("/sign-in", status_code=204)
def sign_out(request: Request, response: Response, session: Transaction, state: AppState) -> None:
    """Sign out in this browser."""
    service.sign_out(session, request.cookies.get(cookie_name(state.settings), ""))
    forget_cookie(response, state.settings)


@router.get("/sign-in/provider", include_in_schema=False)
def to_provider(state: AppState) -> RedirectResponse:
    """Go to the identity provider, which asks who one is."""
    if not state.settings.openid_issuer:
        raise NotFound("identity provider", "of this application")
    try:
        address, begun = provider.begin(state.settings)
    except NoAnswer:
        return RedirectResponse("/?provider=away", HTTPStatus.SEE_OTHER)
    answer = RedirectResponse(address, HTTPStatus.SEE_OTHER)
    keep_begun(answer, state.settings, begun.kept())
    return answer


@router.get("/sign-in/provider/back", include_in_schema=False)
def from_provider(
    request: Request, state: AppState, code: Text = "", given: Annotated[Text, Query(alias="state")] = ""
) -> RedirectResponse:
    """Come back from the identity provider: signed in, or with a word on why not."""
    if not state.settings.openid_issuer:
        raise NotFound("identity provider", "of this application")
    answer = RedirectResponse("/", HTTPStatus.SEE_OTHER)
    try:
        begun = provider.Begun.of(request.cookies.get(begun_name(state.settings), ""))
        claims = provider.finish(state.settings, begun, given, code)
        with transaction(state.sessions) as session:
            person = provider.person_meant(session, claims)
            now = service.begin(session, person, asking_from(request, state), datetime.now(UTC))
        set_cookies(answer, state.settings, now)
    except (NotSignedIn, NoAnswer) as error:
        # The page has words of its own for it: what stands in an address could be anybody's words.
        why = next(word for kind, word in _PROVIDER_TROUBLE.items() if isinstance(error, kind))
        answer = RedirectResponse(f"/?provider={why}", HTTPStatus.SEE_OTHER)
    keep_begun(answer, state.settings, "")
    return answer


@router.post("/welcome")
def welcome(session: Transaction, body: OpenedLink) -> WelcomeOut:
    """Whom a one-time link is for; its secret is sent in the body, so that it stands in no log."""
    found = accounts.welcome(session, body.secret.get_secret_value())
    return WelcomeOut(name=found.name, sign_in=found.sign_in, first=found.first)


@router.post("/welcome/password")
def choose_password(request: Request, response: Response, state: AppState, body: ChosenPassword) -> WhoOut:
    """Use a one-time link up: choose a password, and be signed in."""
    with transaction(state.sessions) as session:
        person = accounts.choose_password(
            session,
            body.secret.get_secret_value(),
            body.password.get_secret_value(),
            name=body.name,
            sign_in=body.sign_in,
        )
        now = service.begin(session, person, asking_from(request, state), datetime.now(UTC))
    return signed_in_now(request, response, state, now)
