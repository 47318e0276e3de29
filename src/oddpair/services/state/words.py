"""Small words for summaries."""

from collections.abc import Mapping


def counted(number: int, noun: str) -> str:
    """Return a number with its noun: "1 record", "3 records"."""
    return f"{number} {noun}" + ("" if number == 1 else "s")


def name_of(fields: Mapping[str, str]) -> str:
    """Return the name of a record as it was delivered, whole or in its parts; "a record without a name" where there is none."""
    parts = " ".join(fields.get(part, "") for part in ("name.given", "name.family")).strip()
    return fields.get("name") or parts or "a record without a name"
