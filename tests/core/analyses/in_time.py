"""Transients of netlist texts, for the tests of the analyses in time."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from tests.core.circuits import structure
from verdad_core.analyses.marcher import Accuracy
from verdad_core.analyses.transient import Trace, transient
from verdad_core.arrays import Floats
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read


def trace(text: str, stop: float, outputs: Sequence[str], relative: float = 1e-3, **rest: Any) -> Trace:
    """The nominal row, which has to run to its end; `.ic` of the text are its initial voltages."""
    circuit, initial = structure(text), flatten(read(text).require()).initial
    accuracy = rest.pop("accuracy", Accuracy(relative=relative))
    pairs = [(name, "0") for name in outputs]
    return transient(circuit, stop, pairs, initial=initial, accuracy=accuracy, **rest).require()


def worst(found: Trace, exact: Floats, output: int = 0) -> float:
    """The largest difference from exact values at the trace's own points."""
    return float(np.max(np.abs(found.values[output] - exact)))
