"""Matching: plans, runs, and the desk where doubts are decided."""
