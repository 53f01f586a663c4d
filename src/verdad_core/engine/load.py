"""Calls every device family's kernels. The rows of `heads` are in the order of `verdad_core.devices.FAMILIES`."""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.devices import bipolar, capacitor, controlled, diode, inductor, resistor, sources
from verdad_core.jit import kernel

(RESISTOR, CAPACITOR, INDUCTOR, VOLTAGE, CURRENT, CONTROLLED_VOLTAGE, CONTROLLED_CURRENT, DIODE,
 BIPOLAR) = range(9)  # fmt: skip


@kernel
def update(heads: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    """Turn one row of user parameters into what the load kernels need."""
    resistor.update(heads[RESISTOR], parameters, derived)
    capacitor.update(heads[CAPACITOR], parameters, derived)
    inductor.update(heads[INDUCTOR], parameters, derived)
    sources.update(heads[VOLTAGE], parameters, derived)
    sources.update(heads[CURRENT], parameters, derived)
    controlled.update(heads[CONTROLLED_VOLTAGE], table, parameters, derived)
    controlled.update(heads[CONTROLLED_CURRENT], table, parameters, derived)
    diode.update(heads[DIODE], parameters, derived)
    bipolar.update(heads[BIPOLAR], parameters, derived)


@kernel
def load(
    heads: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    """Equations and Jacobians at `x` (n + 1 entries, the last 0): f, q [n + 1], g, c [nnz + 1].

    Returns how many devices had to limit a junction.
    """
    for k in range(len(f)):
        f[k] = 0.0
        q[k] = 0.0
    for k in range(len(g)):
        g[k] = 0.0
        c[k] = 0.0
    resistor.load(heads[RESISTOR], table, slots, derived, options, state, x, f, q, g, c)
    capacitor.load(heads[CAPACITOR], table, slots, derived, options, state, x, f, q, g, c)
    inductor.load(heads[INDUCTOR], table, slots, derived, options, state, x, f, q, g, c)
    sources.load_voltage(heads[VOLTAGE], table, slots, derived, options, state, x, f, q, g, c)
    sources.load_current(heads[CURRENT], table, slots, derived, options, state, x, f, q, g, c)
    controlled.load_voltage(heads[CONTROLLED_VOLTAGE], table, slots, derived, options, state, x, f, q, g, c)
    controlled.load_current(heads[CONTROLLED_CURRENT], table, slots, derived, options, state, x, f, q, g, c)
    limited = diode.load(heads[DIODE], table, slots, derived, options, state, x, f, q, g, c)
    limited += bipolar.load(heads[BIPOLAR], table, slots, derived, options, state, x, f, q, g, c)
    return limited


@kernel
def drive(heads: Integers, table: Integers, derived: Floats, re: Floats, im: Floats) -> None:
    """The right-hand side of the small-signal equations, into `re` and `im` [n + 1]."""
    for k in range(len(re)):
        re[k] = 0.0
        im[k] = 0.0
    sources.drive(heads[VOLTAGE], heads[CURRENT], table, derived, re, im)
