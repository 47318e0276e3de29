"""Registers: making them, their layout, sources and rules, and what waits at each stage."""
