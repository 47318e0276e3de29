"""The Reconciliation Service API 0.2 (W3C Entity Reconciliation Community Group): general clients match a column against golden records.

https://www.w3.org/community/reports/reconciliation/CG-FINAL-specs-0.2-20230410/
"""

import html
from collections.abc import Mapping
from http import HTTPStatus
from typing import Annotated, Any
from urllib.parse import parse_qs

import orjson
from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import HTMLResponse, JSONResponse

from ..core.errors import Refused
from ..services.registers.registers import register_with_layout
from ..services.standing import reconcile as service
from ..services.standing.asked_together import AskedTogether
from ..services.transactions import transaction
from .dependencies import AppState, Slug, State, Text, Transaction

router = APIRouter(tags=["reconciliation"], prefix="/registers/{slug}/reconcile")
_MOST_QUERIES = 50
Limit = Annotated[int, Query(ge=1, le=100)]
Prefix = Annotated[Text, Query(max_length=400)]
_PREVIEW_SIZE = {"width": 420, "height": 320}


def _shared(request: Request, state: State) -> dict[str, str]:
    """Return the headers that let a page of a web origin of the settings read an answer."""
    origin = request.headers.get("origin", "")
    if origin not in state.settings.asking_origins:
        return {}
    return {"Access-Control-Allow-Origin": origin, "Vary": "Origin", "Cross-Origin-Resource-Policy": "cross-origin"}


def _answer(request: Request, state: State, content: Any) -> JSONResponse:
    return JSONResponse(content, headers=_shared(request, state))


def _manifest(request: Request, state: State, slug: str) -> dict[str, Any]:
    with transaction(state.sessions) as session:
        register, _ = register_with_layout(session, slug)
    base = str(request.base_url).rstrip("/")
    here = f"{base}/api/registers/{slug}/reconcile"
    suggest = {
        what: {"service_url": here, "service_path": f"/suggest/{what}"} for what in ("entity", "property", "type")
    }
    return {
        "versions": ["0.2"], "name": f"{register.name} in Odd Pair", "identifierSpace": f"{base}/api/registers/{slug}/keys/",
        "schemaSpace": f"{base}/api/registers/{slug}/layout", "defaultTypes": [service.kind_of(register)],
        "view": {"url": f"{base}/r/{slug}/golden/{{{{id}}}}"},
        "preview": {"url": f"{here}/preview?id={{{{id}}}}", **_PREVIEW_SIZE}, "suggest": suggest, "batchSize": _MOST_QUERIES,
        "extend": {"propose_properties": {"service_url": here, "service_path": "/properties"}, "property_settings": []},
    }  # fmt: skip


@router.get("", response_model=None)
def manifest(
    request: Request, state: AppState, slug: Slug, queries: Annotated[str, Query(max_length=100_000)] = "",
    extend: Annotated[str, Query(max_length=100_000)] = "",
) -> JSONResponse:  # fmt: skip
    """The manifest of the service; with ``queries`` or ``extend`` what a POST answers."""
    if queries or extend:
        return _answer(request, state, _asked(request, state, slug, {"queries": queries, "extend": extend}))
    return _answer(request, state, _manifest(request, state, slug))


@router.post(
    "",
    response_model=None,
    openapi_extra={
        "requestBody": {
            "content": {
                "application/x-www-form-urlencoded": {
                    "schema": {
                        "type": "object",
                        "properties": {
                            "queries": {"type": "string", "description": "JSON: queries by their ids"},
                            "extend": {"type": "string", "description": "JSON: ids and properties"},
                        },
                    }
                }
            }
        }
    },
)
async def ask(request: Request, state: AppState, slug: Slug) -> Response:
    """Candidates for a batch of queries, or values of properties of golden records; as a form with ``queries`` or ``extend``."""
    try:
        form = parse_qs((await request.body()).decode(), keep_blank_values=True)
    except UnicodeDecodeError as error:
        raise Refused("The form is not in UTF-8.") from error
    asked = {name: values[-1] for name, values in form.items()}
    return _answer(request, state, await run_in_threadpool(_asked, request, state, slug, asked))


def _asked(request: Request, state: State, slug: str, form: Mapping[str, str]) -> Any:
    if form.get("extend"):
        return _extended(state, slug, _json(form["extend"], "extend"))
    if not form.get("queries"):
        raise Refused("A form with 'queries' or 'extend' is needed.")
    queries = _json(form["queries"], "queries")
    if len(queries) > _MOST_QUERIES:
        raise Refused(f"{len(queries)} queries at a time are too many; ask up to {_MOST_QUERIES}.")
    return _found(request.app.state.look_ups, state, slug, queries)


def _json(text: str, name: str) -> dict[str, Any]:
    try:
        told = orjson.loads(text)
    except orjson.JSONDecodeError as error:
        raise Refused(f"'{name}' is not JSON: {error}.") from error
    if not isinstance(told, dict):
        raise Refused(f"'{name}' must be a JSON object.")
    return told


def _found(look_ups: AskedTogether, state: State, slug: str, queries: Mapping[str, Any]) -> dict[str, Any]:
    with transaction(state.sessions) as session:
        register, layout = register_with_layout(session, slug)
        parsed = {
            name: service.parse_query(told if isinstance(told, dict) else {}, layout) for name, told in queries.items()
        }
        keyed = {
            name: service.keyed_result(session, slug, query.text, layout, register) for name, query in parsed.items()
        }
    open_ones = {name: query for name, query in parsed.items() if not keyed[name]}
    records = [service.as_record(query, layout) for query in open_ones.values()]
    most = max((query.limit for query in open_ones.values()), default=1)
    found = dict(zip(open_ones, look_ups.ask(slug, records, most) if records else [], strict=True))
    return {
        name: {"result": keyed[name] or service.result_of(found[name][: query.limit], register, layout)}
        for name, query in parsed.items()
    }


def _extended(state: State, slug: str, told: Mapping[str, Any]) -> dict[str, Any]:
    ids, properties = told.get("ids", []), told.get("properties", [])
    fit = isinstance(ids, list) and isinstance(properties, list) and all(isinstance(one, str) for one in ids)
    if not fit or not all(isinstance(one, dict) and isinstance(one.get("id"), str) for one in properties):
        raise Refused("'extend' needs golden keys under 'ids', and properties, each with its 'id'.")
    if len(ids) > 1000:
        raise Refused("More than 1,000 ids at a time are too many.")
    with transaction(state.sessions) as session:
        return service.extend(session, slug, ids, [one["id"] for one in properties])


@router.get("/suggest/entity", response_model=None)
def suggest_entity(
    request: Request, state: AppState, session: Transaction, slug: Slug, prefix: Prefix, limit: Limit = 10
) -> JSONResponse:
    """Golden records that hold words beginning as typed."""
    return _answer(request, state, {"result": service.suggest_entities(session, slug, prefix, limit)})


@router.get("/suggest/property", response_model=None)
def suggest_property(
    request: Request, state: AppState, session: Transaction, slug: Slug, prefix: Prefix = ""
) -> JSONResponse:
    """Properties whose id or name begins as typed."""
    begins = prefix.casefold()
    found = [
        one
        for one in service.properties_of(session, slug)
        if one["id"].casefold().startswith(begins) or one["name"].casefold().startswith(begins)
    ]
    return _answer(request, state, {"result": found})


@router.get("/suggest/type", response_model=None)
def suggest_type(
    request: Request, state: AppState, session: Transaction, slug: Slug, prefix: Prefix = ""
) -> JSONResponse:
    """The type of the golden records, if it begins as typed."""
    kind = service.kind_of(register_with_layout(session, slug)[0])
    return _answer(request, state, {"result": [kind] if kind["name"].casefold().startswith(prefix.casefold()) else []})


@router.get("/properties", response_model=None)
def propose_properties(
    request: Request, state: AppState, session: Transaction, slug: Slug, kind: Annotated[str, Query(alias="type", max_length=80)] = "",
    limit: Limit = 100,
) -> JSONResponse:  # fmt: skip
    """Properties by which a table of golden records can be extended."""
    found = service.properties_of(session, slug)[:limit]
    return _answer(request, state, {"type": kind, "limit": limit, "properties": found})


@router.get("/preview", response_class=HTMLResponse)
def preview(
    state: AppState, session: Transaction, slug: Slug, key: Annotated[Text, Query(alias="id", max_length=40)]
) -> HTMLResponse:
    """A golden record on a small page of its own, to be shown inside a client."""
    name, values = service.shown(session, slug, key)
    rows = "".join(f"<dt>{html.escape(label)}</dt><dd>{html.escape(value)}</dd>" for label, value in values)
    style = "body{font:14px system-ui;margin:12px}dl{display:grid;grid-template-columns:9em 1fr;gap:4px}dt{color:#555}dd{margin:0}"
    page = (
        f'<!doctype html><html lang="en"><meta charset="utf-8"><title>{html.escape(name)}</title><style>{style}</style>'
        f"<h1 style='font-size:16px'>{html.escape(name)}</h1><dl>{rows}</dl></html>"
    )
    framed = " ".join(("'self'", *state.settings.asking_origins))
    policy = f"default-src 'none'; style-src 'unsafe-inline'; frame-ancestors {framed}"
    return HTMLResponse(page, HTTPStatus.OK, {"Content-Security-Policy": policy, "X-Frame-Options": ""})
