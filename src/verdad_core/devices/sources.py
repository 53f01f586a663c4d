"""Independent voltage and current sources: a direct value, a small-signal one, a waveform in time, and noise.

Current is positive from the first node through the source to the second (SPICE 2G6/3F5 user's manuals). Without a
direct value, a source with a waveform has the waveform's first value. The noise is a density with a corner below
which it rises as 1/f, as data sheets give it.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    COUNT,
    DERIVED,
    PARAMETERS,
    SLOTS,
    SOURCE_SCALE,
    TABLE,
    TIME,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    ahead_kernel,
    drive_kernel,
    load_kernel,
    noise_kernel,
    update_kernel,
)
from verdad_core.devices.stamps import branch
from verdad_core.devices.waveforms import NONE, Waveform, longest_step, next_corner, value_at
from verdad_core.jit import kernel

# A record: plus, minus, branch, the waveform's kind, and the number of its values.
PLUS, MINUS, BRANCH, KIND, VALUES = range(5)
RECORD = 5

# Parameters, and derived values, before those of the waveform.
DC, AC, PHASE, DENSITY, CORNER = range(5)
RE, IM = 1, 2
GIVEN = 5


def _parameters(unit: str) -> Callable[[Element], tuple[Parameter, ...]]:
    def of(element: Element) -> tuple[Parameter, ...]:
        waveform: Waveform | None = element.extra
        return (
            Parameter("dc", 0.0 if waveform is None else math.nan, unit, "direct value"),
            Parameter("ac", 0.0, unit, "small-signal magnitude; below zero: in antiphase"),
            Parameter("phase", 0.0, "°", "small-signal phase"),
            Parameter("density", 0.0, f"{unit}/√Hz", "noise density", non_negative=True),
            Parameter("corner", 0.0, "Hz", "frequency below which the noise rises as 1/f", non_negative=True),
            *(waveform.parameters(unit) if waveform else ()),
        )

    return of


def _derived(element: Element) -> int:
    return GIVEN + (len(element.extra.values) if element.extra else 0)


def _record(element: Element, a: int, b: int, i: int) -> tuple[int, ...]:
    waveform: Waveform | None = element.extra
    return (a, b, i, *((waveform.kind, len(waveform.values)) if waveform else (NONE, 0)))


def _connect_voltage(element: Element, wiring: Wiring) -> Record:
    a, b = (wiring.node(node) for node in element.nodes)
    i = wiring.branch()
    return Record(_record(element, a, b, i), ((a, i), (b, i), (i, a), (i, b)), ((i, wiring.ground),))


def _connect_current(element: Element, wiring: Wiring) -> Record:
    a, b = (wiring.node(node) for node in element.nodes)
    return Record(_record(element, a, b, wiring.ground), (), ((a, b),))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    p, d = head[PARAMETERS], head[DERIVED]
    for k in range(head[COUNT]):
        t = head[TABLE] + RECORD * k
        values = table[t + VALUES]
        phase = parameters[p + PHASE] * math.pi / 180.0
        derived[d + RE] = parameters[p + AC] * math.cos(phase)
        derived[d + IM] = parameters[p + AC] * math.sin(phase)
        derived[d + DENSITY] = parameters[p + DENSITY] ** 2
        derived[d + CORNER] = parameters[p + CORNER]
        for j in range(values):
            derived[d + GIVEN + j] = parameters[p + GIVEN + j]
        derived[d + DC] = parameters[p + DC]
        p += GIVEN + values
        d += GIVEN + values


@kernel
def _value(table: Integers, t: int, derived: Floats, d: int, options: Floats) -> float:
    """The source's value: the direct one, or in a transient (time not negative) that of the waveform."""
    direct = derived[d + DC]
    if table[t + KIND] != NONE and (options[TIME] >= 0.0 or math.isnan(direct)):
        direct = value_at(table[t + KIND], derived, d + GIVEN, table[t + VALUES], max(options[TIME], 0.0))
    return float(options[SOURCE_SCALE] * direct)


@load_kernel
def load_voltage(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    d = head[DERIVED]
    for k in range(head[COUNT]):
        t, s = head[TABLE] + RECORD * k, head[SLOTS] + 4 * k
        i = table[t + BRANCH]
        branch(f, g, slots, s, x, table[t + PLUS], table[t + MINUS], i)
        f[i] -= _value(table, t, derived, d, options)
        d += GIVEN + table[t + VALUES]
    return 0


@load_kernel
def load_current(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    d = head[DERIVED]
    for k in range(head[COUNT]):
        t = head[TABLE] + RECORD * k
        i = _value(table, t, derived, d, options)
        f[table[t + PLUS]] += i
        f[table[t + MINUS]] -= i
        d += GIVEN + table[t + VALUES]
    return 0


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    d = head[DERIVED]
    for k in range(head[COUNT]):
        out[3 * k] = derived[d + DENSITY]
        out[3 * k + 1] = derived[d + DENSITY] * derived[d + CORNER]
        out[3 * k + 2] = 1.0
        d += GIVEN + table[head[TABLE] + RECORD * k + VALUES]


@drive_kernel
def drive_voltage(head: Integers, table: Integers, derived: Floats, re: Floats, im: Floats) -> None:
    d = head[DERIVED]
    for k in range(head[COUNT]):
        t = head[TABLE] + RECORD * k
        re[table[t + BRANCH]] += derived[d + RE]
        im[table[t + BRANCH]] += derived[d + IM]
        d += GIVEN + table[t + VALUES]


@drive_kernel
def drive_current(head: Integers, table: Integers, derived: Floats, re: Floats, im: Floats) -> None:
    d = head[DERIVED]
    for k in range(head[COUNT]):
        t = head[TABLE] + RECORD * k
        re[table[t + PLUS]] -= derived[d + RE]
        im[table[t + PLUS]] -= derived[d + IM]
        re[table[t + MINUS]] += derived[d + RE]
        im[table[t + MINUS]] += derived[d + IM]
        d += GIVEN + table[t + VALUES]


@ahead_kernel
def ahead(head: Integers, table: Integers, derived: Floats, t: float, out: Floats) -> None:
    d = head[DERIVED]
    for k in range(head[COUNT]):
        kind, values = table[head[TABLE] + RECORD * k + KIND], table[head[TABLE] + RECORD * k + VALUES]
        if kind != NONE:
            out[0] = min(out[0], next_corner(kind, derived, d + GIVEN, values, t))
            out[1] = min(out[1], longest_step(kind, derived, d + GIVEN, t))
        d += GIVEN + values


VOLTAGE = Family(
    name="voltage source",
    title="Voltage source",
    parameters=(),
    parameters_of=_parameters("V"),
    dynamic=frozenset({"ac", "phase", "density", "corner"}),
    value="dc",
    pins=("plus", "minus"),
    connect=_connect_voltage,
    update=update,
    load=load_voltage,
    noise=noise,
    mechanisms=("density",),
    drive=drive_voltage,
    ahead=ahead,
    derived=_derived,
    has_branch=True,
    linear=True,
    paths=((0, 1),),
    fixes_voltage=True,
)
CURRENT = Family(
    name="current source",
    title="Current source",
    parameters=(),
    parameters_of=_parameters("A"),
    dynamic=frozenset({"ac", "phase", "density", "corner"}),
    value="dc",
    pins=("plus", "minus"),
    connect=_connect_current,
    update=update,
    load=load_current,
    noise=noise,
    mechanisms=("density",),
    drive=drive_current,
    ahead=ahead,
    derived=_derived,
    linear=True,
)
