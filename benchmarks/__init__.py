"""Benchmarks: quality against the demo's truth, and speed as ratios in one run."""
