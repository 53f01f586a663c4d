"""Resistor: i = v / R(T), with R(T) = R (1 + TC1 dT + TC2 dT²), dT from 27 °C (SPICE 2G6/3F5 user's manuals)."""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    COUNT,
    DERIVED,
    NOMINAL_CELSIUS,
    PARAMETERS,
    SLOTS,
    TABLE,
    Family,
    Parameter,
    two_terminal,
)
from verdad_core.devices.stamps import admittance
from verdad_core.jit import kernel

FAMILY = Family(
    name="resistor",
    title="Resistor",
    parameters=(
        Parameter("resistance", 1e3, "Ω", "resistance at 27 °C", positive=True),
        Parameter("tc1", 0.0, "1/°C", "linear temperature coefficient"),
        Parameter("tc2", 0.0, "1/°C²", "quadratic temperature coefficient"),
    ),
    connect=two_terminal,
    derived=1,
)


@kernel
def update(head: Integers, parameters: Floats, derived: Floats) -> None:
    rise = parameters[AMBIENT] - NOMINAL_CELSIUS
    for k in range(head[COUNT]):
        p = head[PARAMETERS] + 3 * k
        scale = 1.0 + parameters[p + 1] * rise + parameters[p + 2] * rise * rise
        derived[head[DERIVED] + k] = 1.0 / (parameters[p] * scale)


@kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s = head[TABLE] + 2 * k, head[SLOTS] + 4 * k
        a, b, conductance = table[t], table[t + 1], derived[head[DERIVED] + k]
        i = conductance * (x[a] - x[b])
        f[a] += i
        f[b] -= i
        admittance(g, slots, s, conductance)
    return 0
