"""Capacitor: q = C(T) (v + VC1 v²/2 + VC2 v³/3), so that dq/dv = C(T) (1 + VC1 v + VC2 v²).

C(T) = C (1 + TC1 dT + TC2 dT²), dT from 27 °C (SPICE 2G6/3F5 user's manuals, where the polynomial is C + C1 v + ..).
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    CONDITIONS,
    COUNT,
    DERIVED,
    NOMINAL_CELSIUS,
    OWN_TEMPERATURE,
    PARAMETERS,
    SLOTS,
    TABLE,
    Family,
    Parameter,
    load_kernel,
    own_celsius,
    two_terminal,
    update_kernel,
)
from verdad_core.devices.stamps import admittance

PARAMETER_TABLE = (
    Parameter("capacitance", 1e-9, "F", "capacitance at TNOM and no voltage", non_negative=True),
    Parameter("tc1", 0.0, "1/°C", "linear temperature coefficient"),
    Parameter("tc2", 0.0, "1/°C²", "quadratic temperature coefficient"),
    Parameter("vc1", 0.0, "1/V", "linear voltage coefficient"),
    Parameter("vc2", 0.0, "1/V²", "quadratic voltage coefficient"),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
    Parameter("ic", math.nan, "V", "voltage at the start of a transient"),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the value holds"),
)
CAPACITANCE, TC1, TC2, VC1, VC2, RISE, TEMP, IC, TNOM = range(9)
GIVEN = 9
KEPT = 4


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        rise = own_celsius(parameters[AMBIENT], parameters[p + RISE], parameters[p + TEMP]) - parameters[p + TNOM]
        scale = 1.0 + parameters[p + TC1] * rise + parameters[p + TC2] * rise * rise
        derived[d] = parameters[p + CAPACITANCE] * scale
        derived[d + 1] = parameters[p + VC1]
        derived[d + 2] = parameters[p + VC2]
        derived[d + 3] = parameters[p + IC]


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s, d = head[TABLE] + 2 * k, head[SLOTS] + 4 * k, head[DERIVED] + KEPT * k
        a, b = table[t], table[t + 1]
        v = x[a] - x[b]
        if options[CONDITIONS] != 0.0 and not math.isnan(derived[d + 3]):
            v = derived[d + 3]
        charge = derived[d] * v * (1.0 + v * (derived[d + 1] / 2.0 + v * derived[d + 2] / 3.0))
        q[a] += charge
        q[b] -= charge
        admittance(c, slots, s, derived[d] * (1.0 + v * (derived[d + 1] + v * derived[d + 2])))
    return 0


FAMILY = Family(
    name="capacitor",
    title="Capacitor",
    parameters=PARAMETER_TABLE,
    dynamic=frozenset({"capacitance", "tc1", "tc2", "vc1", "vc2", "rise", "temp", "tnom", "ic"}),
    value="capacitance",
    pins=("plus", "minus"),
    connect=two_terminal,
    update=update,
    load=load,
    derived=KEPT,
    linear=True,
    curving=("vc1", "vc2"),
)
