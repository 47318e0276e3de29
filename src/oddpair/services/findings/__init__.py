"""Findings: suppliers who live where an employee lives. Told, decided, reported, never merged."""
