"""Independent voltage and current sources: a direct value, and a magnitude and phase for small-signal analyses.

Current is positive from the first node through the source to the second (SPICE 2G6/3F5 user's manuals).
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    COUNT,
    DERIVED,
    PARAMETERS,
    SLOTS,
    SOURCE_SCALE,
    TABLE,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    two_terminal_branch,
)
from verdad_core.devices.stamps import branch
from verdad_core.jit import kernel


def _parameters(unit: str) -> tuple[Parameter, ...]:
    return (
        Parameter("dc", 0.0, unit, "direct value"),
        Parameter("ac", 0.0, unit, "small-signal magnitude", non_negative=True),
        Parameter("phase", 0.0, "°", "small-signal phase"),
    )


def _current_source(element: Element, wiring: Wiring) -> Record:
    a, b = (wiring.node(node) for node in element.nodes)
    return Record((a, b), ())


VOLTAGE = Family(
    name="voltage source",
    title="Voltage source",
    parameters=_parameters("V"),
    connect=two_terminal_branch,
    derived=3,
    has_branch=True,
)
CURRENT = Family(
    name="current source", title="Current source", parameters=_parameters("A"), connect=_current_source, derived=3
)


@kernel
def update(head: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + 3 * k, head[DERIVED] + 3 * k
        phase = parameters[p + 2] * math.pi / 180.0
        derived[d] = parameters[p]
        derived[d + 1] = parameters[p + 1] * math.cos(phase)
        derived[d + 2] = parameters[p + 1] * math.sin(phase)


@kernel
def load_voltage(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s = head[TABLE] + 3 * k, head[SLOTS] + 5 * k
        a, b, i = table[t], table[t + 1], table[t + 2]
        branch(f, g, slots, s, x, a, b, i)
        f[i] -= options[SOURCE_SCALE] * derived[head[DERIVED] + 3 * k]
    return 0


@kernel
def load_current(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t = head[TABLE] + 2 * k
        i = options[SOURCE_SCALE] * derived[head[DERIVED] + 3 * k]
        f[table[t]] += i
        f[table[t + 1]] -= i
    return 0


@kernel
def drive(voltages: Integers, currents: Integers, table: Integers, derived: Floats, re: Floats, im: Floats) -> None:
    """The right-hand side of the small-signal equations, added to `re` and `im` (n + 1 entries each)."""
    for k in range(voltages[COUNT]):
        i, d = table[voltages[TABLE] + 3 * k + 2], voltages[DERIVED] + 3 * k
        re[i] += derived[d + 1]
        im[i] += derived[d + 2]
    for k in range(currents[COUNT]):
        t, d = currents[TABLE] + 2 * k, currents[DERIVED] + 3 * k
        re[table[t]] -= derived[d + 1]
        im[table[t]] -= derived[d + 2]
        re[table[t + 1]] += derived[d + 1]
        im[table[t + 1]] += derived[d + 2]
