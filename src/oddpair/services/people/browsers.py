"""Where a person is signed in, and ending that: what is ended has ended with the next request, whichever process answers it."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...store import people as store
from ...store.tables import SignedIn


def browsers(session: Session, person_id: int) -> Sequence[SignedIn]:
    """Return where a person is signed in, the latest first."""
    return store.browsers_of(session, person_id)


def end_browser(session: Session, person_id: int, browser_id: int) -> None:
    """Sign a person out in one browser; raise NotFound where it is not theirs."""
    if not store.end_browsers(session, person_id, only=browser_id):
        raise NotFound("browser", browser_id)


def end_others(session: Session, person_id: int, here: int | None) -> int:
    """Sign a person out everywhere but here; return of how many browsers."""
    return store.end_browsers(session, person_id, but=here)
