"""The command line: thin; it parses, calls a service or the launcher, and prints."""
