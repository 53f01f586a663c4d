"""Checks: one experiment on a circuit, made ready, run, and read."""
