"""The impedance that a circuit shows at a node, around its operating point, with a source taken off where one is named.

A current of 1 A into the node and a voltage of 1 V in the source give v = a + b e and i = c + d e; taken off is the
source at i = 0, which leaves the impedance a - b c / d (superposition; any text on circuits). The bias stays as it is.
"""

from __future__ import annotations

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.small_signal import respond
from verdad_core.arrays import Complexes, Floats


def impedance_at(point: OperatingPoint, node: str, frequency: Floats, without: str | None = None) -> Complexes:
    """The impedance in Ω from `node` to ground at `frequency` [F], in hertz, of every row: [S, F].

    Sources are silent: no volts, no amperes. `without` is a voltage source that carries no current besides; a current
    source carries none anyway. NaN where there is no solution. Raises CircuitError for a node that does not exist.
    """
    structure = point.structure
    branch = f"i({without})" if without is not None else ""
    drives = np.zeros((2 if branch in structure.index_of else 1, structure.size + 1), complex)
    drives[0, structure.index(node)] = 1.0
    outputs = [(node, "0")]
    if len(drives) == 1:
        return np.asarray(respond(point, frequency, outputs, drives)[:, 0, 0])
    drives[1, structure.index(branch)] = 1.0
    found = respond(point, frequency, [*outputs, (branch, "0")], drives)
    (a, c), (b, d) = np.moveaxis(found, 0, 2)
    return np.asarray(a - b * c / d)
