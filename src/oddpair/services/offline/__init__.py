"""What needs no database: reading files, matching files, evaluating."""
