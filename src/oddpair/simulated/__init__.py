"""Small stand-ins for what lies outside: a receiver of events, a business register. For trying things out, and for tests."""
