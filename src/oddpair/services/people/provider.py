"""Signing in by an OpenID Connect provider: the authorisation code flow with PKCE (OpenID Connect Core 1.0; RFC 7636).

The flow and the tokens are the work of two well-kept libraries; here is only what is ours: whom the provider means. An account is found by
the provider's own name for a person; the first time by an e-mail address that the provider has verified. Nobody gets an account by it.
"""

import hmac
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import httpx2
from authlib.common.errors import AuthlibBaseError
from authlib.integrations.httpx_client import OAuth2Client
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet
from sqlalchemy.orm import Session

from ...core.errors import NoAnswer, NotSignedIn, Refused
from ...settings import Settings
from ...store import people as store
from ...store.tables import Person
from .secret_words import fresh_secret

_TIMEOUT_S = 10.0
_ALGORITHMS = ["RS256", "PS256", "ES256", "EdDSA"]
#: Below our own address, where the provider sends people back to.
BACK = "/api/sign-in/provider/back"


class NotBegun(NotSignedIn):
    """Somebody comes back from the provider to a browser that did not begin this."""


class NoAccount(NotSignedIn):
    """The provider knows somebody who has no account."""


@dataclass(frozen=True, slots=True)
class Begun:
    """What a browser keeps between going to the provider and coming back."""

    state: str
    nonce: str
    verifier: str

    def kept(self) -> str:
        """Return it as a cookie keeps it."""
        return f"{self.state}.{self.nonce}.{self.verifier}"

    @classmethod
    def of(cls, kept: str) -> "Begun":
        """Return what a cookie kept; raise NotSignedIn where it kept nothing."""
        parts = kept.split(".")
        if len(parts) != 3 or not all(parts):
            raise NotBegun("This browser began no sign-in by the provider, or too long ago. Begin again.")
        return cls(*parts)


@dataclass(frozen=True, slots=True)
class Claims:
    """Whom the provider means."""

    issuer: str
    subject: str
    email: str


def begin(settings: Settings) -> tuple[str, Begun]:
    """Return the address at which the provider asks who one is, and what the browser keeps meanwhile."""
    begun = Begun(fresh_secret(), fresh_secret(), fresh_secret())
    with _client(settings) as client:
        address, _ = client.create_authorization_url(
            _metadata(settings.openid_issuer)["authorization_endpoint"], state=begun.state, nonce=begun.nonce,
            code_verifier=begun.verifier,
        )  # fmt: skip
    return str(address), begun


def finish(settings: Settings, begun: Begun, state: str, code: str) -> Claims:
    """Return whom the provider means by a code; raise NotSignedIn where it is not what this browser began."""
    if not hmac.compare_digest(state.encode(), begun.state.encode()):
        raise NotBegun("This is not the sign-in that this browser began. Begin again.")
    metadata = _metadata(settings.openid_issuer)
    try:
        with _client(settings) as client:
            token = client.fetch_token(metadata["token_endpoint"], code=code, code_verifier=begun.verifier)
            keys = client.request("GET", metadata["jwks_uri"], withhold_token=True).raise_for_status().json()
        claims = jwt.decode(token["id_token"], KeySet.import_key_set(keys), algorithms=_ALGORITHMS).claims
        jwt.JWTClaimsRegistry(
            iss={"essential": True, "value": metadata["issuer"]}, aud={"essential": True, "value": settings.openid_client},
            exp={"essential": True}, sub={"essential": True}, nonce={"essential": True, "value": begun.nonce},
        ).validate(claims)  # fmt: skip
    except httpx2.HTTPError as error:
        raise NoAnswer(f"{settings.openid_name} does not answer as it should.") from error
    except (AuthlibBaseError, JoseError, KeyError, TypeError, ValueError) as error:
        raise NotSignedIn(f"{settings.openid_name} did not say who you are in a way that can be checked.") from error
    verified = claims.get("email_verified") is True
    return Claims(str(claims["iss"]), str(claims["sub"]), str(claims.get("email") or "") if verified else "")


def person_meant(session: Session, claims: Claims) -> Person:
    """Return the account that a provider means; raise NotSignedIn where there is none, or it has ended."""
    person = store.person_by_subject(session, claims.issuer, claims.subject)
    if person is None and claims.email:
        person = store.person_without_subject(session, claims.email)
        if person is not None:
            person.issuer, person.subject = claims.issuer, claims.subject
            session.flush()
    if person is None or person.ended_at is not None:
        raise NoAccount("You have no account here yet; whoever sees to people adds one with your e-mail address.")
    return person


def _client(settings: Settings) -> OAuth2Client:
    secret = (
        Path(settings.openid_secret_file).read_text(encoding="utf-8").strip() if settings.openid_secret_file else None
    )
    return OAuth2Client(
        settings.openid_client, secret, scope="openid email", redirect_uri=settings.own_address + BACK,
        code_challenge_method="S256", token_endpoint_auth_method=None if secret else "none", timeout=_TIMEOUT_S,
    )  # fmt: skip


@lru_cache(maxsize=4)
def _metadata(issuer: str) -> dict[str, Any]:
    """Return what a provider says of itself (OpenID Connect Discovery 1.0)."""
    parts = urlsplit(issuer)
    if parts.scheme != "https" and parts.hostname not in ("127.0.0.1", "localhost"):
        raise Refused(
            "A provider that is asked without TLS could be anybody: give an address that begins with https://."
        )
    try:
        answer = httpx2.get(issuer.rstrip("/") + "/.well-known/openid-configuration", timeout=_TIMEOUT_S)
        metadata: dict[str, Any] = answer.raise_for_status().json()
    except (httpx2.HTTPError, ValueError) as error:
        raise NoAnswer(f"The provider at {issuer} does not answer as it should.") from error
    if str(metadata.get("issuer", "")).rstrip("/") != issuer.rstrip("/"):
        raise NoAnswer(f"The provider at {issuer} calls itself otherwise.")
    return metadata
