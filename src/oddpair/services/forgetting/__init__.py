"""A person's data erased on request: found everywhere, shown, signed off, erased, and not brought in again."""
