"""Odd Pair: find duplicate records across sources, review them, and merge them into golden records."""
