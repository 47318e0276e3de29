"""What records are now: layouts and steps in force, settled records, golden values, doubts and counters."""
