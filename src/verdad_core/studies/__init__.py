"""Checks repeated over rows: which rows, what each gives, and what they say together."""
