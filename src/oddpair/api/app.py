"""Makes the web application."""

from functools import cache
from types import ModuleType

from fastapi import APIRouter, Depends, FastAPI, HTTPException, Request, Response
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.middleware.trustedhost import TrustedHostMiddleware
from starlette.middleware.base import RequestResponseEndpoint
from starlette.routing import BaseRoute

from ..services.bench.benches import Benches
from ..services.standing.asked_together import AskedTogether
from ..services.standing.look_up import LookUps
from ..services.transactions import SessionFactory, SingleStatements
from ..settings import Settings
from ..version import VERSION
from . import (
    account,
    bench,
    bench_measure,
    bridge,
    by_key,
    clusters,
    counterparts,
    deliveries,
    docs_page,
    entering,
    events,
    findings,
    forgetting,
    golden,
    health,
    jobs,
    journal,
    look_up,
    people,
    plan_drafts,
    plans,
    profile,
    quality,
    queries,
    reconcile,
    records,
    references,
    registers,
    rejected,
    review,
    rules,
    schedules,
    send_out,
    sign_in,
    sign_off,
    standing,
    tidying,
    today,
    views,
    watch,
    word_tables,
    work_given,
)
from .dependencies import State
from .elsewhere import BENCH, LOOK_UP, Elsewhere
from .errors import Problem, add_error_handlers
from .guard import guard
from .masking import MaskPersonal
from .rights import check_rights, check_table

_MOST_BODY_BYTES = 2_000_000
_BENCH_AWAY = "The bench is being started. Nothing is lost; try again in a moment."
_ROUTERS = (
    sign_in,
    sign_off,
    account,
    people,
    registers,
    deliveries,
    queries,
    rejected,
    standing,
    schedules,
    look_up,
    reconcile,
    by_key,
    events,
    entering,
    records,
    profile,
    quality,
    references,
    tidying,
    word_tables,
    work_given,
    plans,
    plan_drafts,
    bench,
    bench_measure,
    review,
    watch,
    clusters,
    counterparts,
    findings,
    forgetting,
    bridge,
    golden,
    rules,
    views,
    send_out,
    journal,
    today,
    jobs,
    health,
    docs_page,
)


def create_app(settings: Settings, sessions: SessionFactory, *, elsewhere: bool = False) -> FastAPI:
    """Return the application: the API below /api and the built front end on every other address.

    What is asked of the plan bench, and look-ups, are answered here, or passed on to processes of their own where these run
    (``elsewhere``).
    """
    app = _bare_app(settings, sessions, _ROUTERS)
    app.state.benches = Benches(sessions, settings.kept)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    if elsewhere:
        app.middleware("http")(Elsewhere(BENCH, [settings.bench_socket], _BENCH_AWAY))
        app.middleware("http")(Elsewhere(LOOK_UP, settings.index_sockets, ""))
    app.middleware("http")(guard)
    # Nobody else may ask under a name of their own: a foreign page that lets its name lead here gets nowhere.
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.own_hosts)
    app.middleware("http")(_cache_headers)

    @app.api_route("/api/{rest:path}", methods=["GET"], include_in_schema=False)
    def no_such_api(rest: str) -> None:
        """Keep wrong API addresses out of the front end."""
        raise HTTPException(404, f"There is no /api/{rest}.")

    if settings.web.is_dir():
        app.frontend("/", directory=settings.web, fallback="index.html")
    return app


def create_index_app(settings: Settings, sessions: SessionFactory, follows_within_s: float) -> FastAPI:
    """Return what the process of the standing index answers; who may ask, the web process has looked at before it passes a question on.

    What was merged, it answers after so many seconds at most.
    """
    app = _bare_app(settings, sessions, (look_up, reconcile))
    app.state.look_ups.look_ups.follows_within_s = follows_within_s
    return app


def _bare_app(settings: Settings, sessions: SessionFactory, modules: tuple[ModuleType, ...]) -> FastAPI:
    app = FastAPI(
        title="Odd Pair",
        version=VERSION,
        description="Finds duplicate records across sources and merges them into golden records.",
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        routes=_routes(modules),
    )
    app.state.odd_pair = State(settings, sessions, SingleStatements(sessions))
    app.state.look_ups = AskedTogether(LookUps(settings.kept), sessions)
    add_error_handlers(app)
    app.add_middleware(MaskPersonal)
    return app


@cache
def _routes(modules: tuple[ModuleType, ...]) -> list[BaseRoute]:
    """Return the routes of modules, below /api. Applications share them: to work out their signatures takes FastAPI more than a second."""
    check_table(route for module in modules for route in module.router.routes)
    refused: dict[int | str, dict[str, object]] = {
        "4XX": {"model": Problem, "content": {"application/problem+json": {}}}
    }
    all_of_them = APIRouter(max_body_size=_MOST_BODY_BYTES, responses=refused)
    for module in modules:
        all_of_them.include_router(module.router, prefix="/api", dependencies=[Depends(check_rights)])
    return all_of_them.routes


async def _cache_headers(request: Request, call_next: RequestResponseEndpoint) -> Response:
    """Built assets carry a hash in their name and never change; everything else is asked for again."""
    response = await call_next(request)
    hashed = request.url.path.startswith("/assets/") and response.status_code == 200
    response.headers.setdefault("Cache-Control", "public, max-age=31536000, immutable" if hashed else "no-cache")
    return response
