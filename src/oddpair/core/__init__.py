"""The matching core: records in, verdicts out. No I/O, no clock, no database, no web, no unseeded randomness."""
