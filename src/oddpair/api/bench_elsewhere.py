"""Passes what is asked of the plan bench on to its own process; if that is not there, nothing else suffers."""

import re
from http import HTTPStatus
from pathlib import Path

import httpx
from fastapi import Request, Response
from starlette.middleware.base import RequestResponseEndpoint

from .errors import problem_answer

_ADDRESS = re.compile(r"^/api/registers/[^/]+/bench(/|$)")
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


class BenchElsewhere:
    """Answers requests for the bench with what the process behind a socket says."""

    def __init__(self, socket: Path) -> None:
        self._socket = socket

    async def __call__(self, request: Request, call_next: RequestResponseEndpoint) -> Response:
        """Pass a request on if it is for the bench."""
        if not _ADDRESS.match(request.url.path):
            return await call_next(request)
        headers = {name: value for name, value in request.headers.items() if name not in _NOT_PASSED_ON}
        address = httpx.URL("http://127.0.0.1", path=request.url.path, query=request.url.query.encode())
        try:
            async with httpx.AsyncClient(
                transport=httpx.AsyncHTTPTransport(uds=str(self._socket)), timeout=_TIMEOUT
            ) as client:
                answer = await client.request(request.method, address, headers=headers, content=await request.body())
        except httpx.TransportError:
            says = "The bench is being started. Nothing is lost; try again in a moment."
            return problem_answer(HTTPStatus.SERVICE_UNAVAILABLE, "bench-away", says)
        kept = {name: value for name, value in answer.headers.items() if name.lower() not in _NOT_PASSED_ON}
        return Response(answer.content, answer.status_code, kept)
