"""Names that nobody else has."""

from __future__ import annotations

from collections.abc import Container


def free_name(wished: str, taken: Container[str], joint: str) -> str:
    """The name that is wished for, or that with the next number behind it."""
    name, k = wished, 1
    while name in taken:
        k += 1
        name = f"{wished}{joint}{k}"
    return name
