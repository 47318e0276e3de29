"""Rows in the text format of the server's COPY.

Other processes import this module, so it leads to nothing that takes long to import.
"""

from collections.abc import Iterable, Sequence


def copy_line(values: Sequence[str]) -> str:
    """Return a row in the text format of the server's COPY: tabs between values, one row a line."""
    return "\t".join(map(_escaped, values)) + "\n"


def _escaped(value: str) -> str:
    value = value.replace("\\", "\\\\")
    if value.isprintable():
        return value
    return value.replace("\t", "\\t").replace("\n", "\\n").replace("\r", "\\r")


def word_vector(register_id: int, words: Iterable[str]) -> str:
    """Return words as the database indexes them: each behind the number of its register, so that one index serves all."""
    return " ".join(f"'{register_id} {word}'" for word in words)
