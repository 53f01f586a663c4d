"""Transmission lines: lossless (T: impedance and delay), lossy (O: R, L, G, C per length), distributed RC (U).

With Z = R + jωL and Y = G + jωC of the whole line, θ = sqrt(Z Y) and Zc = sqrt(Z / Y), the telegrapher's equations
give for currents that enter at both ends (Pozar, "Microwave Engineering", section 2.1)

    v1 - cosh θ v2 + Zc sinh θ i2 = 0,        i1 - sinh θ / Zc v2 + cosh θ i2 = 0.

Both are scaled by 1 / (|cosh θ| + |sinh θ|), which keeps them bounded on long lossy lines. At zero frequency they are
those of R and G.
"""

from __future__ import annotations

import cmath
import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    COUNT,
    DERIVED,
    PARAMETERS,
    SLOTS,
    TABLE,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    load_kernel,
    phasor_kernel,
    update_kernel,
)
from verdad_core.jit import kernel

LOSSLESS = (
    Parameter("z0", 50.0, "Ω", "characteristic impedance", positive=True),
    Parameter("td", 1e-9, "s", "delay", non_negative=True),
)
LOSSY = (
    Parameter("r", 0.0, "Ω/m", "series resistance per length", non_negative=True),
    Parameter("l", 0.0, "H/m", "series inductance per length", non_negative=True),
    Parameter("g", 0.0, "S/m", "shunt conductance per length", non_negative=True),
    Parameter("c", 0.0, "F/m", "shunt capacitance per length", non_negative=True),
    Parameter("len", 1.0, "m", "length", positive=True),
)

# A record: a, its reference, b, its reference, the currents into a and b, whether it is lossless.
A, A_REF, B, B_REF, INTO_A, INTO_B, IS_LOSSLESS = range(7)
RECORD = 7

#: Derived values: R, L, G, C of the whole line.
KEPT = 4

# Jacobian positions: four of the currents, five of each equation.
ENTRIES = 14


def _parameters(element: Element) -> tuple[Parameter, ...]:
    return LOSSLESS if "z0" in element.values else LOSSY


def _connect(element: Element, wiring: Wiring) -> Record:
    a, ar, b, br = (wiring.node(node) for node in element.nodes)
    i, j = wiring.internal("port1"), wiring.internal("port2")
    entries = (
        (a, i), (ar, i), (b, j), (br, j),
        (i, a), (i, ar), (i, b), (i, br), (i, j),
        (j, i), (j, b), (j, br), (j, j), (i, i),
    )  # fmt: skip
    return Record((a, ar, b, br, i, j, int("z0" in element.values)), entries)


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    p = head[PARAMETERS]
    for k in range(head[COUNT]):
        d = head[DERIVED] + KEPT * k
        if table[head[TABLE] + RECORD * k + IS_LOSSLESS] != 0:
            z0, td = parameters[p], parameters[p + 1]
            derived[d], derived[d + 1], derived[d + 2], derived[d + 3] = 0.0, z0 * td, 0.0, td / z0
            p += 2
        else:
            for j in range(4):
                derived[d + j] = parameters[p + j] * parameters[p + 4]
            p += 5


@kernel
def coefficients(line: Floats, d: int, omega: float) -> tuple[float, complex, complex, complex]:
    """Scaled 1, cosh θ, Zc sinh θ and sinh θ / Zc of the line whose R, L, G, C stand at `d`."""
    z = complex(line[d], omega * line[d + 1])
    y = complex(line[d + 2], omega * line[d + 3])
    theta = cmath.sqrt(z * y)
    if theta.real < 0.0:
        theta = -theta
    # exp(-Re θ) is taken out of everything.
    small = math.exp(-2.0 * theta.real)
    turn = cmath.exp(complex(0.0, theta.imag))
    cosh, sinh = 0.5 * (turn + small / turn), 0.5 * (turn - small / turn)
    # sinh θ / θ, by its series where θ is small.
    share = (1.0 + theta * theta / 6.0) * math.exp(-theta.real) if abs(theta) < 1e-3 else sinh / theta
    scale = 1.0 / (abs(cosh) + abs(sinh))
    return scale * math.exp(-theta.real), scale * cosh, scale * z * share, scale * y * share


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s = head[TABLE] + RECORD * k, head[SLOTS] + ENTRIES * k
        a, ar, b, br, i, j = table[t], table[t + 1], table[t + 2], table[t + 3], table[t + INTO_A], table[t + INTO_B]
        one, cosh, z, y = coefficients(derived, head[DERIVED] + KEPT * k, 0.0)
        f[a] += x[i]
        f[ar] -= x[i]
        f[b] += x[j]
        f[br] -= x[j]
        f[i] += one * (x[a] - x[ar]) - cosh.real * (x[b] - x[br]) + z.real * x[j]
        f[j] += one * x[i] - y.real * (x[b] - x[br]) + cosh.real * x[j]
        for e in range(4):
            g[slots[s + e]] += 1.0 - 2.0 * (e % 2)
        g[slots[s + 4]] += one
        g[slots[s + 5]] -= one
        g[slots[s + 6]] -= cosh.real
        g[slots[s + 7]] += cosh.real
        g[slots[s + 8]] += z.real
        g[slots[s + 9]] += one
        g[slots[s + 10]] -= y.real
        g[slots[s + 11]] += y.real
        g[slots[s + 12]] += cosh.real
    return 0


@phasor_kernel
def phasor(
    head: Integers, table: Integers, slots: Integers, derived: Floats, omega: float, re: Floats, im: Floats
) -> None:
    for k in range(head[COUNT]):
        s, d = head[SLOTS] + ENTRIES * k, head[DERIVED] + KEPT * k
        one0, cosh0, z0, y0 = coefficients(derived, d, 0.0)
        one, cosh, z, y = coefficients(derived, d, omega)
        re[slots[s + 4]] += one - one0
        re[slots[s + 5]] -= one - one0
        re[slots[s + 6]] -= cosh.real - cosh0.real
        re[slots[s + 7]] += cosh.real - cosh0.real
        re[slots[s + 8]] += z.real - z0.real
        re[slots[s + 9]] += one - one0
        re[slots[s + 10]] -= y.real - y0.real
        re[slots[s + 11]] += y.real - y0.real
        re[slots[s + 12]] += cosh.real - cosh0.real
        im[slots[s + 6]] -= cosh.imag
        im[slots[s + 7]] += cosh.imag
        im[slots[s + 8]] += z.imag
        im[slots[s + 10]] -= y.imag
        im[slots[s + 11]] += y.imag
        im[slots[s + 12]] += cosh.imag


FAMILY = Family(
    name="line",
    title="Transmission line",
    parameters=(),
    parameters_of=_parameters,
    connect=_connect,
    update=update,
    load=load,
    phasor=phasor,
    derived=KEPT,
    linear=True,
    paths=((0, 2), (1, 3)),
)
