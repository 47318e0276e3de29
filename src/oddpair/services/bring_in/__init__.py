"""Bringing in: files and queries become draft deliveries, deliveries become source records, and can be taken back."""
