"""Secrets that are made here: only their digests are kept, and they are shown once."""

import hashlib
import secrets

_BYTES = 32


def fresh_secret(prefix: str = "") -> str:
    """Return a secret of 256 random bits, fit for addresses and headers."""
    return prefix + secrets.token_urlsafe(_BYTES)


def digest(secret: str) -> str:
    """Return what is kept of a secret; it is long and random, so a plain SHA-256 cannot be guessed back."""
    return hashlib.sha256(secret.encode()).hexdigest()
