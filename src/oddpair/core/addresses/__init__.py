"""Postal addresses: one line or parts, in the orders of the scenario's countries."""

from .countries import country_code
from .parse import Address, parse_address

__all__ = ["Address", "country_code", "parse_address"]
