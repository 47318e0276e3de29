"""Identifiers: tax and company numbers, with their check digits where the country has them.

The rules of the check digits come from the general-purpose package python-stdnum.
"""

import re
from functools import cache
from typing import Any

from stdnum import get_cc_module

_OTHER = re.compile(r"[^0-9A-Z]")
_COUNTRY_PREFIX = re.compile(r"^([A-Z]{2})(?=[0-9A-Z]{6,})")
_VAT_PREFIXES = {"EL": "GR"}


#: Norway's tax number is the organisation number with "MVA" after it, which is dropped here.
_RULE_NAMES = {"NO": "orgnr"}


@cache
def tax_number_rules(country: str) -> Any:
    """Return the check-digit rules of a country's tax number (with ``is_valid``), or None where none are known."""
    return get_cc_module(country.lower(), _RULE_NAMES.get(country, "vat"))


def tidy_identifier(text: str) -> str:
    """Return the letters and digits in upper case; "" where there are fewer than four or all are the same."""
    plain = _OTHER.sub("", text.upper())
    return plain if len(plain) >= 4 and len(set(plain)) > 1 else ""


def split_tax_number(text: str, country: str = "") -> tuple[str, str]:
    """Return (number without country prefix, the same number if its check digits are right, else "").

    ``country`` (ISO 3166 two letters) is used where the number carries no prefix of its own.
    """
    plain = tidy_identifier(text)
    if not plain:
        return "", ""
    match = _COUNTRY_PREFIX.match(plain)
    prefix = ""
    if match and tax_number_rules(_VAT_PREFIXES.get(match.group(1), match.group(1))) is not None:
        prefix, plain = match.group(1), plain[2:]
    plain = plain.removesuffix("MVA")
    rules = tax_number_rules(_VAT_PREFIXES.get(prefix, prefix) or country) if (prefix or country) else None
    valid = rules is not None and bool(rules.is_valid(plain))
    return plain, plain if valid else ""
