"""Use cases, one module each: they take a session or files and plain values, and return plain values."""
