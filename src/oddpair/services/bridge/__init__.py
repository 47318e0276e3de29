"""The bridge between two systems: the ids of one source against those of another, from what is known of their records."""
