"""The plan bench: what a plan does, told before it does it."""
