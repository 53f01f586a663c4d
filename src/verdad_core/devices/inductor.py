"""Inductor: v = d/dt (L i), with the current an unknown of its own; positive from the first node to the second."""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import COUNT, DERIVED, PARAMETERS, SLOTS, TABLE, Family, Parameter, two_terminal_branch
from verdad_core.devices.stamps import branch
from verdad_core.jit import kernel

FAMILY = Family(
    name="inductor",
    title="Inductor",
    parameters=(Parameter("inductance", 1e-6, "H", "inductance", positive=True),),
    connect=two_terminal_branch,
    derived=1,
    has_branch=True,
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
        t, s = head[TABLE] + 3 * k, head[SLOTS] + 5 * k
        a, b, i, inductance = table[t], table[t + 1], table[t + 2], derived[head[DERIVED] + k]
        branch(f, g, slots, s, x, a, b, i)
        q[i] -= inductance * x[i]
        c[slots[s + 4]] -= inductance
    return 0
