"""Transmission lines: lossless (T: impedance and delay), lossy (O: R, L, G, C per length), distributed RC (U).

With Z = R + jωL and Y = G + jωC of the whole line, θ = sqrt(Z Y) and Zc = sqrt(Z / Y), the telegrapher's equations
(Pozar, "Microwave Engineering", section 2.1) give for currents that enter at both ends, in the even and the odd mode,

    cosh(θ/2) (i1 + i2) = sinh(θ/2) / Zc (v1 + v2),        cosh(θ/2) (v1 - v2) = Zc sinh(θ/2) (i1 - i2).

Both are scaled by 1 / (|cosh(θ/2)| + |sinh(θ/2)|), which keeps them bounded and independent of each other on lines of
any length and loss. At zero frequency they are those of R and G.

Losses make noise: by Nyquist's theorem for two-ports (Twiss, "Nyquist's and Thevenin's theorems generalized for
nonreciprocal linear networks", J. Appl. Phys. 26, 1955) the currents of both modes have the densities 8kT Re(Ye) and
8kT Re(Yo), Ye = sinh(θ/2) / (Zc cosh(θ/2)), Yo = cosh(θ/2) / (Zc sinh(θ/2)), and are independent. As right-hand sides
of the two equations they are 8kT Re(sinh(θ/2) / Zc cosh(θ/2)*) and 8kT Re(Zc sinh(θ/2) cosh(θ/2)*).

In time, a lossless line hands on waves (Branin, "Transient analysis of lossless transmission lines", Proc. IEEE 55,
1967): v1 - z0 i1 at an end is what v2 + z0 i2 at the other one was a delay ago. Where the delay is shorter than the
step, that instant lies between the last point and the one that is sought, and the wave is interpolated with it.
"""

from __future__ import annotations

import cmath
import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    BOLTZMANN,
    COUNT,
    DERIVED,
    MARCHING,
    PARAMETERS,
    SLOTS,
    TABLE,
    WAVES,
    ZERO_CELSIUS,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    load_kernel,
    noise_kernel,
    phasor_kernel,
    recall_kernel,
    remember_kernel,
    update_kernel,
)
from verdad_core.devices.waves import WAVE, row_before, weights
from verdad_core.jit import at, kernel

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

#: Derived values: R, L, G, C of the whole line; in time the share that the sought wave has in what arrives, and the
#: rest of what arrives at both ends; 8kT.
KEPT = 8
SHARE, AT_A, AT_B, WARMTH = 4, 5, 6, 7

# Jacobian positions: four of the currents, six of each equation.
ENTRIES = 16


def _parameters(element: Element) -> tuple[Parameter, ...]:
    return LOSSLESS if "z0" in element.values else LOSSY


def _connect(element: Element, wiring: Wiring) -> Record:
    a, ar, b, br = (wiring.node(node) for node in element.nodes)
    i, j = wiring.auxiliary("port1"), wiring.auxiliary("port2")
    entries = (
        (a, i), (ar, i), (b, j), (br, j),
        (i, i), (i, j), (i, a), (i, ar), (i, b), (i, br),
        (j, a), (j, ar), (j, b), (j, br), (j, i), (j, j),
    )  # fmt: skip
    between = ((i, wiring.ground), (j, wiring.ground))
    return Record((a, ar, b, br, i, j, int("z0" in element.values)), entries, between)


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    p = head[PARAMETERS]
    for k in range(head[COUNT]):
        d = head[DERIVED] + KEPT * k
        derived[d + WARMTH] = 8.0 * BOLTZMANN * (parameters[AMBIENT] + ZERO_CELSIUS)
        if table[head[TABLE] + RECORD * k + IS_LOSSLESS] != 0:
            z0, td = parameters[p], parameters[p + 1]
            derived[d], derived[d + 1], derived[d + 2], derived[d + 3] = 0.0, z0 * td, 0.0, td / z0
            p += 2
        else:
            for j in range(4):
                derived[d + j] = parameters[p + j] * parameters[p + 4]
            p += 5


@kernel
def coefficients(line: Floats, d: int, omega: float) -> tuple[complex, complex, complex]:
    """Scaled cosh(θ/2), Zc sinh(θ/2) and sinh(θ/2) / Zc of the line whose R, L, G, C stand at `d`."""
    z = complex(line[d], omega * line[d + 1])
    y = complex(line[d + 2], omega * line[d + 3])
    half = 0.5 * cmath.sqrt(z * y)
    if half.real < 0.0:
        half = -half
    # exp(Re θ/2) is left out of everything.
    small, turn = math.exp(-2.0 * half.real), cmath.exp(complex(0.0, half.imag))
    cosh, sinh = 0.5 * (turn + small / turn), 0.5 * (turn - small / turn)
    # sinh(θ/2) / θ, by its series where θ is small.
    share = 0.5 * (1.0 + half * half / 6.0) * math.exp(-half.real) if abs(half) < 1e-3 else sinh / (2.0 * half)
    scale = 1.0 / (abs(cosh) + abs(sinh))
    return scale * cosh, scale * z * share, scale * y * share


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s = head[TABLE] + RECORD * k, head[SLOTS] + ENTRIES * k
        a, ar, b, br, i, j = table[t], table[t + 1], table[t + 2], table[t + 3], table[t + INTO_A], table[t + INTO_B]
        d = head[DERIVED] + KEPT * k
        v1, v2 = x[a] - x[ar], x[b] - x[br]
        f[a] += x[i]
        f[ar] -= x[i]
        f[b] += x[j]
        f[br] -= x[j]
        if options[MARCHING] != 0.0:
            z0, share = impedance(derived, d), derived[d + SHARE]
            f[i] += v1 - z0 * x[i] - share * (v2 + z0 * x[j]) - derived[d + AT_A]
            f[j] += v2 - z0 * x[j] - share * (v1 + z0 * x[i]) - derived[d + AT_B]
            for e in range(4):
                g[slots[s + e]] += 1.0 - 2.0 * (e % 2)
            _delayed(g, slots, s, z0, share)
            continue
        cosh, z, y = coefficients(derived, d, 0.0)
        f[i] += cosh.real * (x[i] + x[j]) - y.real * (v1 + v2)
        f[j] += cosh.real * (v1 - v2) - z.real * (x[i] - x[j])
        for e in range(4):
            g[slots[s + e]] += 1.0 - 2.0 * (e % 2)
        _equations(g, slots, s, cosh.real, z.real, y.real)
    return 0


@kernel
def impedance(derived: Floats, d: int) -> float:
    """The characteristic impedance of a lossless line."""
    return math.sqrt(derived[d + 1] / derived[d + 3]) if derived[d + 3] > 0.0 else 1.0


@kernel
def delay(derived: Floats, d: int) -> float:
    """The delay of a lossless line."""
    return math.sqrt(derived[d + 1] * derived[d + 3])


@kernel
def _delayed(g: Floats, slots: Integers, s: int, z0: float, share: float) -> None:
    """Both equations' entries in time."""
    g[slots[s + 4]] -= z0
    g[slots[s + 5]] -= share * z0
    g[slots[s + 14]] -= share * z0
    g[slots[s + 15]] -= z0
    for e in range(2):
        sign = 1.0 - 2.0 * e
        g[slots[s + 6 + e]] += sign
        g[slots[s + 8 + e]] -= sign * share
        g[slots[s + 10 + e]] -= sign * share
        g[slots[s + 12 + e]] += sign


@kernel
def _equations(matrix: Floats, slots: Integers, s: int, cosh: float, z: float, y: float) -> None:
    """Both equations' entries, real or imaginary."""
    matrix[slots[s + 4]] += cosh
    matrix[slots[s + 5]] += cosh
    for e in range(2):
        matrix[slots[s + 6 + 2 * e]] -= y
        matrix[slots[s + 7 + 2 * e]] += y
        sign = 1.0 - 2.0 * e
        matrix[slots[s + 10 + 2 * e]] += sign * cosh
        matrix[slots[s + 11 + 2 * e]] -= sign * cosh
    matrix[slots[s + 14]] -= z
    matrix[slots[s + 15]] += z


@phasor_kernel
def phasor(
    head: Integers, table: Integers, slots: Integers, derived: Floats, omega: float, re: Floats, im: Floats
) -> None:
    for k in range(head[COUNT]):
        s, d = head[SLOTS] + ENTRIES * k, head[DERIVED] + KEPT * k
        cosh0, z0, y0 = coefficients(derived, d, 0.0)
        cosh, z, y = coefficients(derived, d, omega)
        _equations(re, slots, s, cosh.real - cosh0.real, z.real - z0.real, y.real - y0.real)
        _equations(im, slots, s, cosh.imag, z.imag, y.imag)


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        d = head[DERIVED] + KEPT * k
        cosh, z, y = coefficients(derived, d, omega)
        is_lossy = derived[d] != 0.0 or derived[d + 2] != 0.0
        for mode in range(2):
            losses = ((y if mode == 0 else z) * cosh.conjugate()).real
            m = 6 * k + 3 * mode
            out[m], out[m + 1], out[m + 2] = derived[d + WARMTH] * losses if is_lossy else 0.0, 0.0, 1.0


@remember_kernel
def remember(
    head: Integers, table: Integers, derived: Floats, x: Floats, wave: Floats, delays: Floats
) -> None:  # fmt: skip
    for k in range(head[COUNT]):
        t, w = head[TABLE] + RECORD * k, head[WAVES] + 2 * k
        d = head[DERIVED] + KEPT * k
        z0 = impedance(derived, d)
        delays[w] = delays[w + 1] = delay(derived, d)
        wave[w] = x[table[t]] - x[table[t + 1]] + z0 * x[table[t + INTO_A]]
        wave[w + 1] = x[table[t + 2]] - x[table[t + 3]] + z0 * x[table[t + INTO_B]]


@recall_kernel
def recall(
    head: Integers, table: Integers, derived: Floats, t: float, waves: Floats, count: int, width: int
) -> None:  # fmt: skip
    for k in range(head[COUNT]):
        w, d = head[WAVES] + 2 * k, head[DERIVED] + KEPT * k
        then = t - delay(derived, d)
        row = row_before(waves, count, width, then)
        share, one, two, three = weights(waves, count, width, row, then, t)
        derived[d + SHARE] = share
        first = at(waves, row * width + WAVE + w)
        for end in range(2):
            here = at(first, end)
            value = one * here[0]
            if two != 0.0:
                value += two * at(here, -width)[0]
            if three != 0.0:
                value += three * here[width]
            derived[d + (AT_B if end == 0 else AT_A)] = value


FAMILY = Family(
    name="line",
    title="Transmission line",
    parameters=(),
    parameters_of=_parameters,
    connect=_connect,
    update=update,
    load=load,
    phasor=phasor,
    noise=noise,
    mechanisms=("losses, even mode", "losses, odd mode"),
    recall=recall,
    remember=remember,
    waves=2,
    derived=KEPT,
    linear=True,
    paths=((0, 2), (1, 3)),
)
