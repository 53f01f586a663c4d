"""Placing things on the sheet by typing."""
