"""The cookies: who is signed in, that somebody was in this browser before, and what was begun at an identity provider."""

from fastapi import Response

from ..services.people.sign_in import KNOWN_LASTS, LASTS, SignedInNow
from ..settings import Settings

_SIGNED_IN, _KNOWN, _BEGUN = "odd-pair", "odd-pair-known", "odd-pair-begun"
_BEGUN_LASTS_S = 600


def _prefix(settings: Settings) -> str:
    """Behind TLS a browser binds a cookie of such a name to this very host."""
    return "__Host-" if settings.behind_tls else ""


def cookie_name(settings: Settings) -> str:
    """Return the name of the cookie that says who is signed in."""
    return _prefix(settings) + _SIGNED_IN


def known_name(settings: Settings) -> str:
    """Return the name of the cookie that marks a browser in which somebody signed in before."""
    return _prefix(settings) + _KNOWN


def begun_name(settings: Settings) -> str:
    """Return the name of the cookie that keeps what was begun at an identity provider."""
    return _prefix(settings) + _BEGUN


def keep_begun(response: Response, settings: Settings, kept: str) -> None:
    """Let a browser keep what was begun at an identity provider for a while; nothing where it has ended."""
    lasts_s = _BEGUN_LASTS_S if kept else 0
    response.set_cookie(
        begun_name(settings), kept, max_age=lasts_s, httponly=True, secure=settings.behind_tls, samesite="lax"
    )


def set_cookies(response: Response, settings: Settings, now: SignedInNow) -> None:
    """Let a browser keep who is signed in; no script of a page can read it, and no page of another site sends it along with a write."""
    for name, value, lasts_s in (
        (cookie_name(settings), now.cookie, int(LASTS.total_seconds())),
        (known_name(settings), now.known, int(KNOWN_LASTS.total_seconds())),
    ):
        response.set_cookie(name, value, max_age=lasts_s, httponly=True, secure=settings.behind_tls, samesite="lax")


def forget_cookie(response: Response, settings: Settings) -> None:
    """Let a browser forget who is signed in."""
    response.delete_cookie(cookie_name(settings), httponly=True, secure=settings.behind_tls, samesite="lax")
