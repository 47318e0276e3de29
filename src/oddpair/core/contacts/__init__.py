"""Phones, e-mail addresses, web sites, identifiers and dates."""
