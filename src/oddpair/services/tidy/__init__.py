"""Tidying: profiles, quality rules, tidy steps, tables, corrections and references."""
