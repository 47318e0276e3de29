"""What routers are given: a transaction, settings, and who is asking."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header, Path, Request
from pydantic import AfterValidator, StringConstraints

from ..services import transactions
from ..services.transactions import Session, SessionFactory
from ..settings import Settings


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


def state(request: Request) -> State:
    """Return the application's state."""
    found = request.app.state.odd_pair
    assert isinstance(found, State)
    return found


def transaction(request: Request) -> Iterator[Session]:
    """Yield a session whose transaction is committed when the request has succeeded."""
    with transactions.transaction(state(request).sessions, patience_s=_PATIENCE_S) as session:
        yield session


def actor(request: Request, x_actor: Annotated[str | None, Header(max_length=400)] = None) -> str:
    """Return under which name what is done is kept: the header X-Actor (percent-encoded UTF-8 for letters beyond ASCII), else the
    configured one."""
    return _storable(unquote(x_actor or "")).strip()[:_LONGEST_NAME] or state(request).settings.actor


#: Committed before the answer is sent, so that a following request sees what was done.
Transaction = Annotated[Session, Depends(transaction, scope="function")]
AppState = Annotated[State, Depends(state)]
Actor = Annotated[str, Depends(actor)]
