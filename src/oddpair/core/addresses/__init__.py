"""Postal addresses: one line or parts, in the orders of the scenario's countries."""

from .countries import country_code
from .parse import Address, parse_address
from .postcodes import fits
from .towns import words_of_addresses

__all__ = ["Address", "country_code", "fits", "parse_address", "words_of_addresses"]
