"""Postal addresses: one line or parts, in the orders of the scenario's countries."""

from .countries import country_code, country_name
from .parse import Address, country_by_postcode, parse_address
from .postcodes import fits, tidy_postcode
from .regions import region_code, region_name
from .streets import street_type_abbreviated, street_type_spelled_out
from .towns import words_of_addresses

__all__ = [
    "Address", "country_by_postcode", "country_code", "country_name", "fits", "parse_address", "region_code", "region_name",
    "street_type_abbreviated", "street_type_spelled_out", "tidy_postcode", "words_of_addresses",
]  # fmt: skip
