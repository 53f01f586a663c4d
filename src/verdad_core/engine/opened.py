"""A circuit compiled so that what decides on unknowns can vary: a diode's series resistance from zero on, for one."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.engine.structure import Structure, compile_structure

#: What a structural parameter of zero counts as where it varies: a millionth of an ohm, or of a degree of phase.
LEAST = 1e-6


def opened(
    structure: Structure, changes: Mapping[tuple[str, str], Floats]
) -> tuple[Structure, dict[tuple[str, str], Floats]]:
    """The circuit with the unknowns that the changed parameters ask for, and values of which none of these is zero.

    Raises CircuitError for a parameter that does not exist.
    """
    values, given = dict(changes), dict[tuple[str, str], float]()
    for key, rows in changes.items():
        if key != AMBIENT_KEY and structure.parameter(*key)[1].structural and np.any(rows):
            values[key] = np.where(rows == 0.0, LEAST, rows)
            if structure.nominal[structure.column(*key)] == 0.0:
                given[key] = LEAST
    if not given:
        return structure, values
    own: dict[str, dict[str, float]] = defaultdict(dict)
    for (name, parameter), value in given.items():
        own[name][parameter] = value
    elements = [replace(each, values={**each.values, **own[each.name]}) for each in structure.elements]
    return compile_structure(elements, structure.nodesets), values
