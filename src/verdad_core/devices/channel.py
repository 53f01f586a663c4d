"""What field-effect transistors share: the steps their voltages may take, and how their flows go into the equations."""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.dual import Dual
from verdad_core.jit import kernel

#: Jacobian positions of `flow`: every pair of drain, gate, source and bulk.
FLOW_ENTRIES = 16


@kernel
def limit_step(asked: float, old: float, threshold: float) -> float:
    """A voltage of the channel where Newton asks for `asked`: farther steps the farther it is from threshold."""
    most = 2.0 + 2.0 * abs(old - threshold)
    return min(max(asked, old - most), old + most)


@kernel
def flow(
    vector: Floats, matrix: Floats, nodes: Integers, slots: Integers, s: int, a: int, b: int, sign: float, value: Dual
) -> None:
    """A current or a charge from terminal a to terminal b (0 drain, 1 gate, 2 source, 3 bulk) of an inner device.

    `value` carries derivatives to gate-source, drain-source and bulk-source voltage, all times `sign`; `nodes` holds
    the four unknowns, and slots s + 4 row + column their positions.
    """
    vector[nodes[a]] += sign * value[0]
    vector[nodes[b]] -= sign * value[0]
    to_source = -(value[1] + value[2] + value[3])
    for row in range(2):
        at = s + 4 * (a if row == 0 else b)
        by = 1.0 if row == 0 else -1.0
        matrix[slots[at]] += by * value[2]
        matrix[slots[at + 1]] += by * value[1]
        matrix[slots[at + 2]] += by * to_source
        matrix[slots[at + 3]] += by * value[3]


@kernel
def follow(value: Dual, gate: float, drain: float, bulk: float) -> Dual:
    """The tangent of `value` so far away from where it was taken."""
    return value[0] + value[1] * gate + value[2] * drain + value[3] * bulk, value[1], value[2], value[3]
