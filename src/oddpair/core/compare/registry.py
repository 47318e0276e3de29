"""The comparisons by name, as a match plan asks for them."""

from ..errors import NotFound
from .address import ADDRESS
from .base import Comparison
from .codes import PART, PLAIN, SOUNDS
from .dates import DATE
from .numbers import NUMBER
from .organisation_name import ORGANISATION_NAME
from .person_name import PERSON_NAME
from .similarity import SIMILAR_TEXT
from .values import EMAIL, EXACT, IDENTIFIER, PHONE, VALUE

COMPARISONS: dict[str, Comparison] = {
    item.name: item
    for item in (
        ORGANISATION_NAME,
        PERSON_NAME,
        ADDRESS,
        PHONE,
        EMAIL,
        IDENTIFIER,
        DATE,
        VALUE,
        EXACT,
        SIMILAR_TEXT,
        SOUNDS,
        PART,
        PLAIN,
        NUMBER,
    )
}


def comparison(name: str) -> Comparison:
    """Return the comparison of that name; raise NotFound."""
    if name not in COMPARISONS:
        raise NotFound("comparison", name)
    return COMPARISONS[name]
