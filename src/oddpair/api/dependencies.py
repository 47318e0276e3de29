"""What routers are given: a transaction, settings, and who is asking."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header, Path, Request
from pydantic import AfterValidator, StringConstraints

from ..core.errors import NotSignedIn
from ..core.masking import Masks
from ..services import transactions
from ..services.people.who import Who, who_shows, whoever_sits_here
from ..services.transactions import Session, SessionFactory, SingleStatements
from ..settings import Settings
from .cookies import cookie_name
from .masking import HIDDEN


def _storable(text: str) -> str:
    """PostgreSQL keeps neither zero letters nor lone surrogates."""
    if "\0" in text or any("\ud800" <= letter <= "\udfff" for letter in text):
        raise ValueError("the text holds a letter that cannot be kept (zero or half of a surrogate pair)")
    return text


Text = Annotated[str, StringConstraints(max_length=4000), AfterValidator(_storable)]
LongText = Annotated[str, StringConstraints(max_length=200_000), AfterValidator(_storable)]
Slug = Annotated[str, Path(max_length=80, pattern=r"^[a-z0-9\-]+$", description="Short name of the register")]
#: What a person saves something under.
Name = Annotated[Text, Path(min_length=1, max_length=80, description="Name under which it is saved")]
#: PostgreSQL's integer and bigint.
SmallId = Annotated[int, Path(ge=1, le=2**31 - 1)]
RecordId = Annotated[int, Path(ge=1, le=2**63 - 1)]


_LONGEST_NAME = 80
#: How long a request waits for what other work holds, before it says so.
_PATIENCE_S = 3.0


@dataclass(frozen=True, slots=True)
class State:
    """What the application is made with."""

    settings: Settings
    sessions: SessionFactory
    quick: SingleStatements


def state(request: Request) -> State:
    """Return the application's state."""
    found = request.app.state.odd_pair
    assert isinstance(found, State)
    return found


async def app_state(request: Request) -> State:
    """Give routers the application's state."""
    return state(request)


def transaction(request: Request) -> Iterator[Session]:
    """Yield a session whose transaction is committed when the request has succeeded."""
    with transactions.transaction(state(request).sessions, patience_s=_PATIENCE_S) as session:
        yield session


def who_asks(request: Request) -> Who:
    """Return who asks: by a token, or by the cookie of a browser; where nobody signs in, whoever sits at this machine.

    Raise NotSignedIn where that is nobody. Nothing is remembered from one request to the next.
    """
    settings = state(request).settings
    if not settings.sign_in:
        named = _storable(unquote(request.headers.get("x-actor") or "")).strip()[:_LONGEST_NAME]
        return whoever_sits_here(named or settings.actor)
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    if kind and kind.lower() != "bearer":
        raise NotSignedIn("Programs show a token: Authorization: Bearer …")
    cookie = request.cookies.get(cookie_name(settings), "")
    if not token and not cookie:
        raise NotSignedIn
    return state(request).quick.ask(lambda connection: who_shows(connection, cookie=cookie, token=token.strip()))


async def asker(request: Request) -> Who:
    """Return who asks, as the check of rights found it. (What does not wait is asynchronous: it needs no thread.)"""
    who = request.state.who
    assert isinstance(who, Who)
    return who


async def actor(request: Request, x_actor: Annotated[str | None, Header(max_length=400)] = None) -> str:
    """Return under which name what is done is kept: that of the person who is signed in. Where nobody signs in, the header X-Actor
    (percent-encoded UTF-8 for letters beyond ASCII), else the configured one."""
    return (await asker(request)).name


async def hidden(request: Request) -> Masks | None:
    """Return what is hidden from whoever asks."""
    found = getattr(request.state, HIDDEN, None)
    assert found is None or isinstance(found, Masks)
    return found


#: Committed before the answer is sent, so that a following request sees what was done.
Transaction = Annotated[Session, Depends(transaction, scope="function")]
AppState = Annotated[State, Depends(app_state)]
Actor = Annotated[str, Depends(actor)]
Asker = Annotated[Who, Depends(asker)]
Hidden = Annotated[Masks | None, Depends(hidden)]
