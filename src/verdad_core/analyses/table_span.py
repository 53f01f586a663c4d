"""Over which frequencies the tables of a circuit hold numbers: beyond them their first and last ones are held."""

from __future__ import annotations

from verdad_core.engine.structure import Structure

#: A table that is wider than this stands for a formula, which holds everywhere: the last frequency by the first.
_FORMULA = 1e14


def table_span(structure: Structure) -> tuple[float, float] | None:
    """The frequencies in Hz between which all tables hold numbers; None without a table, or where none overlap."""
    found = []
    for element in structure.elements:
        if element.family.startswith("tabulated") and len(element.extra) >= 6:
            low, high = element.extra[0], element.extra[-3]
            if high < _FORMULA * max(low, 1e-3):
                found.append((low, high))
    if not found:
        return None
    low, high = max(low for low, _ in found), min(high for _, high in found)
    return (low, high) if 0.0 < low < high else None
