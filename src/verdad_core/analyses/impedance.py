"""The impedance that a circuit shows at a node, around its operating point, with a source taken off where one is named.

A current of 1 A into the node and a voltage of 1 V in a source of 0 V, which all that is to be taken off hangs on, give
v = a + b e and i = c + d e. Taken off is what carries no current, i = 0, which leaves the impedance a - b c / d
(superposition; any text on circuits). The bias stays as it is.
"""

from __future__ import annotations

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.small_signal import respond
from verdad_core.arrays import Complexes, Floats


def impedance_at(point: OperatingPoint, node: str, frequency: Floats, without: str | None = None) -> Complexes:
    """The impedance in Ω from `node` to ground at `frequency` [F], in hertz, of every row: [S, F].

    Sources are silent: no volts, no amperes. What hangs on the voltage source `without` is taken off. NaN where there
    is no solution. Raises CircuitError for a node or a source that does not exist.
    """
    structure = point.structure
    outputs, drives = [(node, "0")], np.zeros((1 if without is None else 2, structure.size + 1), complex)
    drives[0, structure.index(node)] = 1.0
    if without is None:
        return np.asarray(respond(point, frequency, outputs, drives)[:, 0, 0])
    branch = f"i({without})"
    drives[1, structure.index(branch)] = 1.0
    found = respond(point, frequency, [*outputs, (branch, "0")], drives)
    (a, c), (b, d) = np.moveaxis(found, 0, 2)
    # What lets no current pass, a source of current, is off already.
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(a - np.where(c == 0.0, 0.0, b * c / d))
