"""Second yeses given: what waits is looked at, signed and carried out, sent back, withdrawn."""
