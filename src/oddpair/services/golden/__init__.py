"""Golden records: what a merge would do, merging, splitting, pinning, sending out."""
