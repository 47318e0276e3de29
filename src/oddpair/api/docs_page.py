"""The page that makes the description of the API readable, without an address outside."""

from html import escape

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

router = APIRouter(include_in_schema=False)

_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Odd Pair: the API</title>
<style>body {{ font: 15px/1.5 sans-serif; margin: 2rem auto; max-width: 70rem; padding: 0 1rem }}
code {{ background: #eee; padding: 0 .3em }} td {{ padding: .15rem .8rem .15rem 0; vertical-align: top }}</style></head>
<body><h1>The API of Odd Pair {version}</h1>
<p>{about} Bodies and answers are described in <a href="/api/openapi.json">openapi.json</a> (OpenAPI 3.1); errors are problem
details (RFC 9457).</p>{parts}</body></html>"""


@router.get("/docs", response_class=HTMLResponse)
def page(request: Request) -> HTMLResponse:
    """Every address of the API with what it does."""
    description = request.app.openapi()
    by_tag: dict[str, list[str]] = {}
    for path, methods in description["paths"].items():
        for method, operation in methods.items():
            says = escape(operation.get("description") or operation.get("summary", ""))
            row = f"<tr><td><code>{method.upper()}</code></td><td><code>{escape(path)}</code></td><td>{says}</td></tr>"
            by_tag.setdefault((operation.get("tags") or ["other"])[0], []).append(row)
    parts = "".join(f"<h2>{escape(tag)}</h2><table>{''.join(rows)}</table>" for tag, rows in by_tag.items())
    info = description["info"]
    return HTMLResponse(_PAGE.format(version=escape(info["version"]), about=escape(info["description"]), parts=parts))
