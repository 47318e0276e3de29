"""How entries of the journal are sealed: SHA-256 (FIPS 180-4) over their canonical JSON, each holding the hash before it.

Personal values and words come in by a salted digest only, so that they and their salt can be erased one day without
breaking the chain.
"""

import hashlib
import json
import secrets
from datetime import UTC
from typing import Any

from .tables import JournalEntry


def digest_of(content: Any) -> str:
    """Return the digest of anything that JSON can say; the order of keys does not count."""
    text = json.dumps(content, sort_keys=True, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def fresh_salt() -> str:
    """Return 128 random bits, which keep a short value from being guessed by its digest."""
    return secrets.token_hex(16)


def hash_of(entry: JournalEntry) -> str:
    """Return the hash of an entry: over all it says but personal values, of which it covers the digest."""
    return digest_of(
        {
            "id": entry.id, "chain": entry.chain, "position": entry.position, "kind": entry.kind, "actor": entry.actor,
            "at": entry.at.astimezone(UTC).isoformat(),
            "data": entry.data, "digest": entry.digest, "undoes": entry.undoes, "undoes_part": entry.undoes_part,
            "rests_on": list(entry.rests_on), "previous": entry.previous,
        }
    )  # fmt: skip


def broken_seal(entry: JournalEntry, previous: str) -> str:
    """Return what is wrong with an entry that stands behind the hash ``previous``, or ""."""
    if entry.previous != previous:
        return "does not follow the entry before it"
    if entry.personal is not None and entry.digest != digest_of([entry.salt, entry.personal]):
        return "values or words in it were changed"
    if entry.hash != hash_of(entry):
        return "was changed"
    return ""
