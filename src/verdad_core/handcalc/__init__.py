"""Closed forms with their formula text: what the designer works out by hand, beside what is simulated."""
