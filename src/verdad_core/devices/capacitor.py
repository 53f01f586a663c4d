"""Capacitor: q = C v."""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import COUNT, DERIVED, PARAMETERS, SLOTS, TABLE, Family, Parameter, two_terminal
from verdad_core.devices.stamps import admittance
from verdad_core.jit import kernel

FAMILY = Family(
    name="capacitor",
    title="Capacitor",
    parameters=(Parameter("capacitance", 1e-9, "F", "capacitance", non_negative=True),),
    connect=two_terminal,
    derived=1,
)


@kernel
def update(head: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        derived[head[DERIVED] + k] = parameters[head[PARAMETERS] + k]


@kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s = head[TABLE] + 2 * k, head[SLOTS] + 4 * k
        a, b, capacitance = table[t], table[t + 1], derived[head[DERIVED] + k]
        charge = capacitance * (x[a] - x[b])
        q[a] += charge
        q[b] -= charge
        admittance(c, slots, s, capacitance)
    return 0
