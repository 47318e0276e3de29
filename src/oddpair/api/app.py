"""Makes the web application."""

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.middleware.trustedhost import TrustedHostMiddleware
from starlette.middleware.base import RequestResponseEndpoint

from ..services.work import Enqueue
from ..settings import Settings
from ..store.database import SessionFactory
from ..version import VERSION
from . import (
    deliveries,
    golden,
    jobs,
    plans,
    profile,
    quality,
    queries,
    records,
    references,
    registers,
    rejected,
    review,
    send_out,
    tidying,
    word_tables,
)
from .dependencies import State
from .errors import Problem, add_error_handlers

_MOST_BODY_BYTES = 2_000_000
_ROUTERS = (
    registers,
    deliveries,
    queries,
    rejected,
    records,
    profile,
    quality,
    references,
    tidying,
    word_tables,
    plans,
    review,
    golden,
    send_out,
    jobs,
)


def create_app(settings: Settings, sessions: SessionFactory, enqueue: Enqueue) -> FastAPI:
    """Return the application: the API below /api and the built front end on every other address."""
    app = FastAPI(
        title="Odd Pair",
        version=VERSION,
        description="Finds duplicate records across sources and merges them into golden records.",
        openapi_url="/api/openapi.json",
        docs_url="/api/docs",
        redoc_url=None,
        max_body_size=_MOST_BODY_BYTES,
        responses={"4XX": {"model": Problem, "content": {"application/problem+json": {}}}},
    )
    app.state.odd_pair = State(settings, sessions, enqueue)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    # Only this machine may ask: a foreign page cannot reach us under a name of its own.
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost", "testserver"])
    app.middleware("http")(_cache_headers)
    add_error_handlers(app)
    for module in _ROUTERS:
        app.include_router(module.router, prefix="/api")

    @app.api_route("/api/{rest:path}", methods=["GET"], include_in_schema=False)
    def no_such_api(rest: str) -> None:
        """Keep wrong API addresses out of the front end."""
        raise HTTPException(404, f"There is no /api/{rest}.")

    if settings.web.is_dir():
        app.frontend("/", directory=settings.web, fallback="index.html")
    return app


async def _cache_headers(request: Request, call_next: RequestResponseEndpoint) -> Response:
    """Built assets carry a hash in their name and never change; everything else is asked for again."""
    response = await call_next(request)
    kept = request.url.path.startswith("/assets/") and response.status_code == 200
    response.headers.setdefault("Cache-Control", "public, max-age=31536000, immutable" if kept else "no-cache")
    return response
