"""A simulated OpenID Connect provider: whoever is chosen on its page is who one is. It checks codes and PKCE as a real one does."""

import base64
import hashlib
import time
from dataclasses import dataclass
from html import escape
from secrets import token_urlsafe
from typing import Annotated, Any
from urllib.parse import parse_qs, urlencode

from fastapi import FastAPI, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from joserfc import jwt
from joserfc.jwk import KeySet, RSAKey

CLIENT = "odd-pair"
_CODE_LASTS_S, _TOKEN_LASTS_S = 60, 300
#: Made-up people with addresses that are verified, but for the last one.
EMAILS = (
    "maren@kittiwake.example",
    "piet@kittiwake.example",
    "stranger@kittiwake.example",
    "unverified@kittiwake.example",
)


@dataclass(frozen=True, slots=True)
class _Asked:
    """What was asked for, and who was chosen."""

    redirect_uri: str
    nonce: str
    challenge: str
    email: str
    at: float


def create_identity_provider(address: str, email: str = "") -> FastAPI:
    """Return a provider at a web address; with ``email`` that person is chosen without asking."""
    app = FastAPI(title="Simulated identity provider", docs_url=None, redoc_url=None)
    key = RSAKey.generate_key(2048, parameters={"kid": "one"}, private=True)
    codes: dict[str, _Asked] = {}
    app.state.email = email

    @app.get("/.well-known/openid-configuration")
    def metadata() -> dict[str, Any]:
        """Tell what there is."""
        return {
            "issuer": address, "authorization_endpoint": f"{address}/authorize", "token_endpoint": f"{address}/token",
            "jwks_uri": f"{address}/keys", "response_types_supported": ["code"], "subject_types_supported": ["public"],
            "id_token_signing_alg_values_supported": ["RS256"], "code_challenge_methods_supported": ["S256"],
        }  # fmt: skip

    @app.get("/keys")
    def keys() -> dict[str, Any]:
        """Tell with which keys is signed."""
        return dict(KeySet([key]).as_dict(private=False))

    @app.get("/authorize", response_model=None)
    def authorize(
        client_id: str, redirect_uri: str, state: str, nonce: str, code_challenge: str, code_challenge_method: str,
        chosen: Annotated[str, Query()] = "",
    ) -> HTMLResponse | RedirectResponse:  # fmt: skip
        """Ask who one is, and send back with a code."""
        if client_id != CLIENT or code_challenge_method != "S256":
            return HTMLResponse("An unknown client, or one without PKCE.", status_code=400)
        person = chosen or app.state.email
        if not person:
            asked = {
                "client_id": client_id, "redirect_uri": redirect_uri, "state": state, "nonce": nonce,
                "code_challenge": code_challenge, "code_challenge_method": code_challenge_method,
            }  # fmt: skip
            links = "".join(
                f'<p><a href="/authorize?{escape(urlencode({**asked, "chosen": one}))}">{one}</a></p>' for one in EMAILS
            )
            return HTMLResponse(f"<!doctype html><title>Who are you?</title><h1>Who are you?</h1>{links}")
        code = token_urlsafe(16)
        codes[code] = _Asked(redirect_uri, nonce, code_challenge, person, time.time())
        return RedirectResponse(f"{redirect_uri}?{urlencode({'code': code, 'state': state})}", 303)

    @app.post("/token")
    async def token(request: Request) -> JSONResponse:
        """Give a token for a code, once."""
        given = {name: values[0] for name, values in parse_qs((await request.body()).decode()).items()}
        asked = codes.pop(given.get("code", ""), None)
        digest = hashlib.sha256(given.get("code_verifier", "").encode()).digest()
        shown = base64.urlsafe_b64encode(digest).decode().rstrip("=")
        fits = asked and asked.redirect_uri == given.get("redirect_uri") and asked.challenge == shown
        if not asked or not fits or time.time() - asked.at > _CODE_LASTS_S:
            return JSONResponse({"error": "invalid_grant"}, 400)
        now = int(time.time())
        claims = {
            "iss": address, "aud": CLIENT, "sub": f"person of {asked.email}", "email": asked.email, "nonce": asked.nonce,
            "email_verified": asked.email != EMAILS[-1], "iat": now, "exp": now + _TOKEN_LASTS_S,
        }  # fmt: skip
        id_token = jwt.encode({"alg": "RS256", "kid": "one"}, claims, key)
        return JSONResponse({"access_token": token_urlsafe(16), "token_type": "Bearer", "id_token": id_token})

    return app
