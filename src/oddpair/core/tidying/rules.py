"""A word for the state of the tidying rules, by which tidy values that were kept are known to be still right."""

from functools import cache
from hashlib import sha256
from importlib.metadata import version
from pathlib import Path

from ..fields import Layout
from .tidiers import tidiers_of

#: The rooms of the core that decide what tidying makes of a value, and the packages that they rest on.
_ROOMS = ("text", "organisations", "people", "addresses", "contacts", "tidying")
_PACKAGES = ("python-stdnum", "anyascii")


def tidying_rules(layout: Layout) -> str:
    """Return a word that is another one as soon as anything may be tidied otherwise: by code, tables, packages or the layout."""
    made = [(tidier.inputs, tidier.outputs) for tidier in tidiers_of(layout)]
    return sha256(f"{_digest_of_rules()} {layout.kind} {made}".encode()).hexdigest()


@cache
def _digest_of_rules() -> str:
    core = Path(__file__).parents[1]
    digest = sha256(" ".join(map(version, _PACKAGES)).encode())
    for room in _ROOMS:
        for file in sorted((core / room).rglob("*")):
            if file.suffix in (".py", ".txt"):
                digest.update(file.read_bytes())
    return digest.hexdigest()
