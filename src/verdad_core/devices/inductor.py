"""Inductor and coupling: v = d/dt flux, with the current an unknown of its own, positive from the first node on.

The flux is L(T) (i + IC1 i²/2 + IC2 i³/3), so that dflux/di = L(T) (1 + IC1 i + IC2 i²), and L(T) goes as a resistor's
value (SPICE 2G6/3F5 user's manuals). A coupling k between windings adds the mutual inductance k sqrt(La Lb) to each
pair of them.
"""

from __future__ import annotations

import math
from itertools import combinations

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
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    load_kernel,
    own_celsius,
    two_terminal_branch,
    update_kernel,
)
from verdad_core.devices.stamps import branch

PARAMETER_TABLE = (
    Parameter("inductance", 1e-6, "H", "inductance at TNOM and no current", positive=True),
    Parameter("tc1", 0.0, "1/°C", "linear temperature coefficient"),
    Parameter("tc2", 0.0, "1/°C²", "quadratic temperature coefficient"),
    Parameter("ic1", 0.0, "1/A", "linear current coefficient"),
    Parameter("ic2", 0.0, "1/A²", "quadratic current coefficient"),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
    Parameter("ic", math.nan, "A", "current at the start of a transient"),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the value holds"),
    Parameter("series", 0.0, "Ω", "series resistance, without noise", non_negative=True),
)
INDUCTANCE, TC1, TC2, IC1, IC2, RISE, TEMP, IC, TNOM, SERIES = range(10)
GIVEN = 10
KEPT = 5


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        rise = own_celsius(parameters[AMBIENT], parameters[p + RISE], parameters[p + TEMP]) - parameters[p + TNOM]
        scale = 1.0 + parameters[p + TC1] * rise + parameters[p + TC2] * rise * rise
        derived[d] = parameters[p + INDUCTANCE] * scale
        derived[d + 1] = parameters[p + IC1]
        derived[d + 2] = parameters[p + IC2]
        derived[d + 3] = parameters[p + IC]
        derived[d + 4] = parameters[p + SERIES]


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s, d = head[TABLE] + 3 * k, head[SLOTS] + 5 * k, head[DERIVED] + KEPT * k
        i = table[t + 2]
        branch(f, g, slots, s, x, table[t], table[t + 1], i)
        f[i] -= derived[d + 4] * x[i]
        g[slots[s + 4]] -= derived[d + 4]
        current = x[i]
        if options[CONDITIONS] != 0.0 and not math.isnan(derived[d + 3]):
            current = derived[d + 3]
        q[i] -= derived[d] * current * (1.0 + current * (derived[d + 1] / 2.0 + current * derived[d + 2] / 3.0))
        c[slots[s + 4]] -= derived[d] * (1.0 + current * (derived[d + 1] + current * derived[d + 2]))
    return 0


FAMILY = Family(
    name="inductor",
    title="Inductor",
    parameters=PARAMETER_TABLE,
    dynamic=frozenset({"inductance", "tc1", "tc2", "ic1", "ic2", "rise", "temp", "tnom", "ic"}),
    value="inductance",
    pins=("plus", "minus"),
    connect=two_terminal_branch,
    update=update,
    load=load,
    derived=KEPT,
    has_branch=True,
    linear=True,
    curving=("ic1", "ic2"),
    paths=((0, 1),),
    fixes_voltage=True,
)


def _pairs(element: Element) -> list[tuple[str, str]]:
    return list(combinations([control.source for control in element.controls], 2))


def _connect_coupling(element: Element, wiring: Wiring) -> Record:
    """Its own length, the number of pairs, then per pair both branches and where both inductances are kept."""
    table, entries = [], []
    for one, other in _pairs(element):
        a, b = wiring.branch_of(one), wiring.branch_of(other)
        table += [a, b, wiring.derived_of(one), wiring.derived_of(other)]
        entries += [(a, b), (b, a)]
    return Record((len(table) + 2, len(table) // 4, *table), tuple(entries))


@update_kernel
def update_coupling(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    t, d = head[TABLE], head[DERIVED]
    for k in range(head[COUNT]):
        for pair in range(table[t + 1]):
            at = t + 2 + 4 * pair
            product = derived[table[at + 2]] * derived[table[at + 3]]
            derived[d] = parameters[head[PARAMETERS] + k] * math.sqrt(abs(product))
            d += 1
        t += table[t]


@load_kernel
def load_coupling(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    t, d, s = head[TABLE], head[DERIVED], head[SLOTS]
    for _ in range(head[COUNT]):
        for pair in range(table[t + 1]):
            a, b = table[t + 2 + 4 * pair], table[t + 3 + 4 * pair]
            q[a] -= derived[d] * x[b]
            q[b] -= derived[d] * x[a]
            c[slots[s]] -= derived[d]
            c[slots[s + 1]] -= derived[d]
            d += 1
            s += 2
        t += table[t]
    return 0


COUPLING = Family(
    name="coupling",
    title="Coupled windings",
    parameters=(Parameter("coupling", 1.0, "", "coupling factor, from -1 to 1"),),
    dynamic=frozenset({"coupling"}),
    value="coupling",
    connect=_connect_coupling,
    update=update_coupling,
    load=load_coupling,
    derived=lambda element: len(_pairs(element)),
    linear=True,
)
