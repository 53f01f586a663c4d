"""Sources with a response given at some frequencies (FREQ): hertz, decibels, degrees, straight lines between them.

Decibels and degrees are interpolated over the logarithm of the frequency and held beyond the ends. The direct value
is that at the lowest frequency.
"""

from __future__ import annotations

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
    control_pair,
    load_kernel,
    phasor_kernel,
    update_kernel,
)
from verdad_core.devices.behavioural import CURRENT_MODE, VOLTAGE_MODE
from verdad_core.devices.stamps import admittance, branch
from verdad_core.jit import at, kernel

# A record: mode, plus, minus, branch, the control's two unknowns, the number of points.
MODE, PLUS, MINUS, BRANCH, HIGH, LOW, POINTS = range(7)
RECORD = 7

#: Jacobian positions: at most those of a branch and of its control.
ENTRIES = 6


def _points(element: Element) -> tuple[Parameter, ...]:
    kinds = (("f", "Hz", "frequency"), ("db", "dB", "gain"), ("degrees", "°", "phase"))
    return tuple(
        Parameter(f"{kinds[k % 3][0]}{k // 3 + 1}", value, kinds[k % 3][1], f"{kinds[k % 3][2]} of point {k // 3 + 1}")
        for k, value in enumerate(element.extra)
    )


def _connect(element: Element, wiring: Wiring, mode: int) -> Record:
    plus, minus = (wiring.node(node) for node in element.nodes)
    high, low = control_pair(element.controls[0], wiring)
    i = wiring.branch() if mode == VOLTAGE_MODE else wiring.ground
    if mode == VOLTAGE_MODE:
        entries = ((plus, i), (minus, i), (i, plus), (i, minus), (i, high), (i, low))
    else:
        ground = wiring.ground
        entries = ((plus, high), (plus, low), (minus, high), (minus, low), (ground, ground), (ground, ground))
    return Record((mode, plus, minus, i, high, low, len(element.extra) // 3), entries)


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    p, d = head[PARAMETERS], head[DERIVED]
    for k in range(head[COUNT]):
        count = 3 * table[head[TABLE] + RECORD * k + POINTS]
        for j in range(count):
            derived[d + j] = parameters[p + j]
        p += count
        d += count


@kernel
def response(points: Floats, count: int, frequency: float) -> tuple[float, float]:
    """Real and imaginary part of the response at a frequency in hertz."""
    low, high = 0, count - 1
    if frequency <= points[0] or count == 1:
        high = 0
    elif frequency >= points[3 * high]:
        low = high
    while high - low > 1:
        middle = (low + high) // 2
        if points[3 * middle] <= frequency:
            low = middle
        else:
            high = middle
    share, f0, f1 = 0.0, points[3 * low], points[3 * high]
    if high != low:
        share = math.log(frequency / f0) / math.log(f1 / f0) if f0 > 0.0 else (frequency - f0) / (f1 - f0)
    decibels = points[3 * low + 1] + share * (points[3 * high + 1] - points[3 * low + 1])
    degrees = points[3 * low + 2] + share * (points[3 * high + 2] - points[3 * low + 2])
    size, angle = 10.0 ** (decibels / 20.0), degrees * math.pi / 180.0
    return size * math.cos(angle), size * math.sin(angle)


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    d = head[DERIVED]
    for k in range(head[COUNT]):
        t, s = head[TABLE] + RECORD * k, head[SLOTS] + ENTRIES * k
        p, m, i = table[t + PLUS], table[t + MINUS], table[t + BRANCH]
        gain, _ = response(at(derived, d), table[t + POINTS], 0.0)
        control = x[table[t + HIGH]] - x[table[t + LOW]]
        if table[t + MODE] == VOLTAGE_MODE:
            branch(f, g, slots, s, x, p, m, i)
            f[i] -= gain * control
            g[slots[s + 4]] -= gain
            g[slots[s + 5]] += gain
        else:
            f[p] += gain * control
            f[m] -= gain * control
            admittance(g, slots, s, gain)
        d += 3 * table[t + POINTS]
    return 0


@phasor_kernel
def phasor(
    head: Integers, table: Integers, slots: Integers, derived: Floats, omega: float, re: Floats, im: Floats
) -> None:
    d = head[DERIVED]
    for k in range(head[COUNT]):
        t, s = head[TABLE] + RECORD * k, head[SLOTS] + ENTRIES * k
        points, count = at(derived, d), table[t + POINTS]
        direct, _ = response(points, count, 0.0)
        real, imaginary = response(points, count, omega / (2.0 * math.pi))
        if table[t + MODE] == VOLTAGE_MODE:
            re[slots[s + 4]] -= real - direct
            re[slots[s + 5]] += real - direct
            im[slots[s + 4]] -= imaginary
            im[slots[s + 5]] += imaginary
        else:
            admittance(re, slots, s, real - direct)
            admittance(im, slots, s, imaginary)
        d += 3 * count


def _family(output: str, mode: int) -> Family:
    return Family(
        name=f"tabulated {output}",
        title=f"Source with a tabulated response ({output})",
        parameters=(),
        parameters_of=_points,
        connect=lambda element, wiring: _connect(element, wiring, mode),
        update=update,
        load=load,
        phasor=phasor,
        derived=lambda element: len(element.extra),
        has_branch=mode == VOLTAGE_MODE,
        linear=True,
        paths=((0, 1),) if mode == VOLTAGE_MODE else (),
    )


VOLTAGE = _family("voltage", VOLTAGE_MODE)
CURRENT = _family("current", CURRENT_MODE)
