"""The comparisons by name, as a match plan asks for them."""

from ..errors import NotFound
from .address import ADDRESS
from .base import Comparison
from .dates import DATE
from .organisation_name import ORGANISATION_NAME
from .person_name import PERSON_NAME
from .values import EMAIL, EXACT, IDENTIFIER, PHONE, VALUE

COMPARISONS: dict[str, Comparison] = {
    item.name: item for item in (ORGANISATION_NAME, PERSON_NAME, ADDRESS, PHONE, EMAIL, IDENTIFIER, DATE, VALUE, EXACT)
}


def comparison(name: str) -> Comparison:
    """Return the comparison of that name; raise NotFound."""
    if name not in COMPARISONS:
        raise NotFound("comparison", name)
    return COMPARISONS[name]
