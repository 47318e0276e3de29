"""Postal addresses: one line or parts, in the orders of the scenario's countries."""

from .countries import country_code, country_name
from .parse import Address, country_by_postcode, parse_address
from .postcodes import fits, tidy_postcode
from .regions import region_code, region_name
from .streets import street_type_abbreviated, street_type_spelled_out
from .towns import standard_town, words_of_addresses
from .written_parts import WrittenAddress, parts_as_written

__all__ = [
    "Address", "WrittenAddress", "country_by_postcode", "country_code", "country_name", "fits", "parse_address", "parts_as_written",
    "region_code", "region_name", "standard_town", "street_type_abbreviated", "street_type_spelled_out", "tidy_postcode",
    "words_of_addresses",
]  # fmt: skip
