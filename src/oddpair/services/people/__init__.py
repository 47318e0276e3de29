"""People: accounts and roles, signing in, tokens of programs, and who asks."""
