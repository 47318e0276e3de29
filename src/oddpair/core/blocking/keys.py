"""Blocking keys: values computed from a record; only records that share one are compared.

A key is written as an expression: tidy fields joined by ``+``, each with an optional way of taking a part of it after
``|``. ``name.family|sound + name.given|first 1`` reads: the sound of the family name together with the first letter of
the given name.
"""

import re
from dataclasses import dataclass

from ..errors import PlanInvalid, did_you_mean
from .takers import TAKERS

_PART = re.compile(r"^(?P<field>[a-z_.]+)\s*(?:\|\s*(?P<take>[a-z]+)(?:\s+(?P<number>\d+))?)?$")


@dataclass(frozen=True, slots=True)
class KeyPart:
    """One field of a key and which part of it is taken."""

    field: str
    take: str
    number: int


@dataclass(frozen=True, slots=True)
class BlockingKey:
    """A blocking key: its expression and the parts it consists of."""

    expression: str
    parts: tuple[KeyPart, ...]

    def describe(self) -> str:
        """Return the key in words."""
        return " together with ".join(
            f"{part.field} ({TAKERS[part.take].says.format(part.number)})" for part in self.parts
        )


def parse_key(expression: str) -> BlockingKey:
    """Return the key that an expression describes; raise PlanInvalid naming what is wrong in it."""
    parts = []
    for text in expression.split("+"):
        match = _PART.match(text.strip())
        if not match:
            raise PlanInvalid(
                [f"blocking key '{expression}': cannot read '{text.strip()}'; expected 'field' or 'field|take'"]
            )
        take = match["take"] or "whole"
        if take not in TAKERS:
            raise PlanInvalid([f"blocking key '{expression}': no way of taking '{take}'.{did_you_mean(take, TAKERS)}"])
        number = int(match["number"] or TAKERS[take].number)
        if not 1 <= number <= 20:
            raise PlanInvalid([f"blocking key '{expression}': '{take} {number}' must take 1 to 20"])
        parts.append(KeyPart(match["field"], take, number))
    return BlockingKey(expression, tuple(parts))
