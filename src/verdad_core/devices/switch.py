"""Switches controlled by a voltage (S) or a current (W): with hysteresis, and the smooth form.

With hysteresis, the switch is on above threshold + hysteresis, off below threshold - hysteresis, and in between as it
was (SPICE 3F5 user's manual). The smooth form's ln R goes along a cubic from ln ROFF at `off` to ln RON at `on`,
level at both ends; `on` may lie below `off`. Noise: 4kT/R.
"""

from __future__ import annotations

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
    STARTING,
    STATE,
    TABLE,
    ZERO_CELSIUS,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    control_pair,
    load_kernel,
    noise_kernel,
    update_kernel,
    watch_kernel,
)
from verdad_core.devices.stamps import admittance
from verdad_core.jit import kernel

_RESISTANCES = (
    Parameter("ron", 1.0, "Ω", "resistance when on", positive=True),
    Parameter("roff", 1e12, "Ω", "resistance when off", positive=True),
)
HYSTERESIS = (
    *_RESISTANCES,
    Parameter("threshold", 0.0, "V or A", "middle of the hysteresis"),
    Parameter("hysteresis", 0.0, "V or A", "half its width"),
    Parameter("initially", 0.0, "", "1 where it starts on, when its control says neither", choice=True),
)
SMOOTH = (
    *_RESISTANCES,
    Parameter("on", 1.0, "V or A", "control at which it is on"),
    Parameter("off", 0.0, "V or A", "control at which it is off"),
)

# States: not known yet, on, off.
UNKNOWN, ON, OFF = 0.0, 1.0, -1.0
KEPT = 7


def _connect(element: Element, wiring: Wiring) -> Record:
    a, b = (wiring.node(node) for node in element.nodes)
    high, low = control_pair(element.controls[0], wiring)
    entries = ((a, a), (a, b), (b, a), (b, b), (a, high), (a, low), (b, high), (b, low))
    return Record((a, b, high, low), entries, ((a, b),))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    """1/RON, 1/ROFF, both thresholds, the initial state, 4kT; the load kernel leaves the conductance behind them."""
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + 5 * k, head[DERIVED] + KEPT * k
        derived[d], derived[d + 1] = 1.0 / parameters[p], 1.0 / parameters[p + 1]
        derived[d + 2] = parameters[p + 2] + abs(parameters[p + 3])
        derived[d + 3] = parameters[p + 2] - abs(parameters[p + 3])
        derived[d + 4] = ON if parameters[p + 4] != 0.0 else OFF
        derived[d + 5] = 4.0 * BOLTZMANN * (parameters[AMBIENT] + ZERO_CELSIUS)


@kernel
def _position(derived: Floats, d: int, control: float, before: float) -> float:
    if control > derived[d + 2]:
        return ON
    if control < derived[d + 3]:
        return OFF
    return derived[d + 4] if before == UNKNOWN else before


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    turned = 0
    for k in range(head[COUNT]):
        t, s, d = head[TABLE] + 4 * k, head[SLOTS] + 8 * k, head[DERIVED] + KEPT * k
        a, b = table[t], table[t + 1]
        before = UNKNOWN if options[STARTING] != 0.0 else state[head[STATE] + k]
        position = before
        if options[MARCHING] == 0.0:
            position = _position(derived, d, x[table[t + 2]] - x[table[t + 3]], before)
        if position != before:
            turned += 1
        state[head[STATE] + k] = position
        conductance = derived[d] if position == ON else derived[d + 1]
        derived[d + 6] = conductance
        f[a] += conductance * (x[a] - x[b])
        f[b] -= conductance * (x[a] - x[b])
        admittance(g, slots, s, conductance)
    return turned


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        d = head[DERIVED] + KEPT * k
        out[3 * k], out[3 * k + 1], out[3 * k + 2] = derived[d + 5] * derived[d + 6], 0.0, 1.0


@watch_kernel
def watch(
    head: Integers, table: Integers, derived: Floats, options: Floats, state: Floats, x: Floats, turn: bool, out: Floats
) -> None:
    for k in range(head[COUNT]):
        t, s, d = head[TABLE] + 4 * k, head[STATE] + k, head[DERIVED] + KEPT * k
        control = x[table[t + 2]] - x[table[t + 3]]
        out[s] = control - derived[d + 3] if state[s] == ON else derived[d + 2] - control
        if turn and out[s] < 0.0:
            state[s] = -state[s]


FAMILY = Family(
    name="switch",
    title="Switch with hysteresis",
    parameters=HYSTERESIS,
    pins=("plus", "minus"),
    connect=_connect,
    update=update,
    load=load,
    noise=noise,
    watch=watch,
    mechanisms=("thermal",),
    derived=KEPT,
    state=1,
    paths=((0, 1),),
)


@update_kernel
def update_smooth(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    """Ln RON, ln ROFF, off, on - off, 4kT."""
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + 4 * k, head[DERIVED] + 5 * k
        derived[d], derived[d + 1] = math.log(parameters[p]), math.log(parameters[p + 1])
        derived[d + 2], derived[d + 3] = parameters[p + 3], parameters[p + 2] - parameters[p + 3]
        derived[d + 4] = 4.0 * BOLTZMANN * (parameters[AMBIENT] + ZERO_CELSIUS)


@kernel
def conductance_at(derived: Floats, d: int, control: float) -> tuple[float, float]:
    """(conductance, its derivative to the control) of the smooth form."""
    on, off, start, width = derived[d], derived[d + 1], derived[d + 2], derived[d + 3]
    if width == 0.0:
        return math.exp(-on if control > start else -off), 0.0
    u = min(max((control - start) / width, 0.0), 1.0)
    share, slope = u * u * (3.0 - 2.0 * u), 6.0 * u * (1.0 - u) / width
    conductance = math.exp(-(off + (on - off) * share))
    return conductance, -conductance * (on - off) * slope


@load_kernel
def load_smooth(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s, d = head[TABLE] + 4 * k, head[SLOTS] + 8 * k, head[DERIVED] + 5 * k
        a, b = table[t], table[t + 1]
        conductance, slope = conductance_at(derived, d, x[table[t + 2]] - x[table[t + 3]])
        v = x[a] - x[b]
        f[a] += conductance * v
        f[b] -= conductance * v
        admittance(g, slots, s, conductance)
        g[slots[s + 4]] += slope * v
        g[slots[s + 5]] -= slope * v
        g[slots[s + 6]] -= slope * v
        g[slots[s + 7]] += slope * v
    return 0


@noise_kernel
def noise_smooth(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        t, d = head[TABLE] + 4 * k, head[DERIVED] + 5 * k
        conductance, _ = conductance_at(derived, d, x[table[t + 2]] - x[table[t + 3]])
        out[3 * k], out[3 * k + 1], out[3 * k + 2] = derived[d + 4] * conductance, 0.0, 1.0


SMOOTH_FAMILY = Family(
    name="smooth switch",
    title="Smooth switch",
    parameters=SMOOTH,
    pins=("plus", "minus"),
    connect=_connect,
    update=update_smooth,
    load=load_smooth,
    noise=noise_smooth,
    mechanisms=("thermal",),
    derived=5,
    paths=((0, 1),),
)
