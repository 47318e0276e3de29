"""Passes what is asked of the plan bench, and look-ups, on to processes of their own; if one is not there, nothing else suffers."""

import re
from collections.abc import Sequence
from http import HTTPStatus
from pathlib import Path

import httpx
from fastapi import Request, Response
from starlette.middleware.base import RequestResponseEndpoint

from .errors import problem_answer

BENCH = re.compile(r"^/api/registers/[^/]+/bench(/|$)")
LOOK_UP = re.compile(r"^/api/registers/[^/]+/(look-up|reconcile)$")
#: The longest that an answer may take: a comparison of a million pairs measured anew.
_TIMEOUT = httpx.Timeout(60.0, connect=2.0)
_NOT_PASSED_ON = {
    "connection",
    "transfer-encoding",
    "content-encoding",
    "content-length",
    "keep-alive",
    "accept-encoding",
}


class _Behind:
    """A process behind a socket, and how many requests wait for its answer."""

    def __init__(self, socket: Path) -> None:
        # A connection for each request, which costs little: one that was kept open would fail once after every restart behind it.
        transport = httpx.AsyncHTTPTransport(uds=str(socket), limits=httpx.Limits(max_keepalive_connections=0))
        self._client = httpx.AsyncClient(transport=transport, timeout=_TIMEOUT)
        self.waiting = 0

    async def ask(self, request: Request) -> httpx.Response:
        """Pass a request on; return the answer."""
        headers = {name: value for name, value in request.headers.items() if name not in _NOT_PASSED_ON}
        address = httpx.URL("http://127.0.0.1", path=request.url.path, query=request.url.query.encode())
        self.waiting += 1
        try:
            return await self._client.request(request.method, address, headers=headers, content=await request.body())
        finally:
            self.waiting -= 1


class Elsewhere:
    """Answers requests for some addresses with what a process behind a socket says, of several the one with least to do.

    Where nobody answers there, it ``says`` so; or, where it is told nothing to say, the request is answered here.
    """

    def __init__(self, addresses: re.Pattern[str], sockets: Sequence[Path], says: str) -> None:
        self._addresses, self._says = addresses, says
        self._behind = [_Behind(socket) for socket in sockets]

    async def __call__(self, request: Request, call_next: RequestResponseEndpoint) -> Response:
        """Pass a request on if it is for one of the addresses."""
        if not self._addresses.match(request.url.path):
            return await call_next(request)
        try:
            answer = await min(self._behind, key=lambda behind: behind.waiting).ask(request)
        except httpx.TransportError:
            if not self._says:
                return await call_next(request)
            return problem_answer(HTTPStatus.SERVICE_UNAVAILABLE, "process-away", self._says)
        kept = {name: value for name, value in answer.headers.items() if name.lower() not in _NOT_PASSED_ON}
        return Response(answer.content, answer.status_code, kept)
