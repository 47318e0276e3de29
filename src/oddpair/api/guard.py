"""What every answer carries, and which writes are refused because another site's page asked for them."""

import re
from http import HTTPStatus
from urllib.parse import urlsplit

from fastapi import Request, Response
from starlette.middleware.base import RequestResponseEndpoint

from .errors import problem_answer

#: Only reads, though its questions are posted.
_RECONCILE = re.compile(r"^/api/registers/[^/]+/reconcile$")
_READING = frozenset({"GET", "HEAD", "OPTIONS"})
#: Nothing comes from elsewhere, nothing is framed elsewhere, nothing is run that is not a file of ours.
_POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": _POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def is_from_elsewhere(request: Request) -> bool:
    """Whether a browser says that a page of another site asks; programs that say nothing are let through.

    A proxy may pass another host on than the one that people ask, so the public address counts as our own, too.
    """
    site = request.headers.get("sec-fetch-site")
    if site is not None and site not in ("same-origin", "none"):
        return True
    origin = request.headers.get("origin")
    public: str = request.app.state.odd_pair.settings.public_address
    if origin is None or (public and origin == public):
        return False
    return urlsplit(origin).netloc != request.headers.get("host")


def _may_ask(request: Request) -> bool:
    """Whether a page of an origin of the settings asks the reconciliation service, which only reads."""
    allowed: tuple[str, ...] = request.app.state.odd_pair.settings.asking_origins
    return request.headers.get("origin") in allowed and _RECONCILE.match(request.url.path) is not None


def _preflight(request: Request) -> dict[str, str]:
    """Return the headers by which a browser learns that a page may show a token with its question."""
    return {
        "Access-Control-Allow-Origin": request.headers["origin"], "Access-Control-Allow-Methods": "GET, POST",
        "Access-Control-Allow-Headers": "Authorization, Content-Type", "Vary": "Origin",
    }  # fmt: skip


async def guard(request: Request, call_next: RequestResponseEndpoint) -> Response:
    """Refuse writes that another site's page asks for, with or without a body, and put the headers on every answer."""
    if request.method not in _READING and is_from_elsewhere(request) and not _may_ask(request):
        refused = "Another site's page asked for this; it was refused and nothing was changed."
        response: Response = problem_answer(HTTPStatus.FORBIDDEN, "cross-site", refused)
    elif request.method == "OPTIONS" and _may_ask(request):
        response = Response(status_code=HTTPStatus.NO_CONTENT, headers=_preflight(request))
    else:
        response = await call_next(request)
    for name, value in HEADERS.items():
        response.headers.setdefault(name, value)
    if not response.headers["X-Frame-Options"]:
        # Its own policy says who may frame it.
        del response.headers["X-Frame-Options"]
    return response
