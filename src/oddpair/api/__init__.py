"""The HTTP API: one router and schema module per resource; errors as problem details (RFC 9457)."""
