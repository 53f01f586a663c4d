"""Resistor: i = v / R(T), R(T) = R (1 + TC1 dT + TC2 dT²) 1.01^(TCE dT), dT from 27 °C (SPICE 2G6/3F5 user's manuals).

Noise: 4kT/R (Johnson 1928, Nyquist 1928), and the current noise of resistive films, given as in IEC 60195: an rms
voltage per volt of bias in one decade of frequency, so that S_v = (EXCESS v)² / (ln 10 f).
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    BOLTZMANN,
    COUNT,
    DERIVED,
    NOMINAL_CELSIUS,
    OWN_TEMPERATURE,
    PARAMETERS,
    SLOTS,
    TABLE,
    ZERO_CELSIUS,
    Family,
    Parameter,
    load_kernel,
    noise_kernel,
    own_celsius,
    two_terminal,
    update_kernel,
)
from verdad_core.devices.stamps import admittance

PARAMETER_TABLE = (
    Parameter("resistance", 1e3, "Ω", "resistance at TNOM", signed=True),
    Parameter("tc1", 0.0, "1/°C", "linear temperature coefficient"),
    Parameter("tc2", 0.0, "1/°C²", "quadratic temperature coefficient"),
    Parameter("tce", 0.0, "%/°C", "exponential temperature coefficient"),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
    Parameter("excess", 0.0, "V/V", "current noise per volt in a decade of frequency (IEC 60195)", non_negative=True),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the value holds"),
)
RESISTANCE, TC1, TC2, TCE, RISE, TEMP, EXCESS, TNOM = range(8)
GIVEN = 8
KEPT = 3

#: A resistance of zero, which makers' files have, counts as this many ohms.
SMALLEST = 1e-6


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        celsius = own_celsius(parameters[AMBIENT], parameters[p + RISE], parameters[p + TEMP])
        rise = celsius - parameters[p + TNOM]
        scale = 1.0 + parameters[p + TC1] * rise + parameters[p + TC2] * rise * rise
        resistance = parameters[p + RESISTANCE] * scale * 1.01 ** (parameters[p + TCE] * rise)
        resistance = math.copysign(max(abs(resistance), SMALLEST), resistance)
        derived[d] = 1.0 / resistance
        derived[d + 1] = 4.0 * BOLTZMANN * (celsius + ZERO_CELSIUS) / abs(resistance)
        derived[d + 2] = parameters[p + EXCESS] ** 2 / math.log(10.0)


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s = head[TABLE] + 2 * k, head[SLOTS] + 4 * k
        a, b, conductance = table[t], table[t + 1], derived[head[DERIVED] + KEPT * k]
        i = conductance * (x[a] - x[b])
        f[a] += i
        f[b] -= i
        admittance(g, slots, s, conductance)
    return 0


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        t, d = head[TABLE] + 2 * k, head[DERIVED] + KEPT * k
        i = derived[d] * (x[table[t]] - x[table[t + 1]])
        out[3 * k] = derived[d + 1]
        out[3 * k + 1] = derived[d + 2] * i * i
        out[3 * k + 2] = 1.0


FAMILY = Family(
    name="resistor",
    title="Resistor",
    parameters=PARAMETER_TABLE,
    dynamic=frozenset({"excess"}),
    value="resistance",
    pins=("plus", "minus"),
    connect=two_terminal,
    update=update,
    load=load,
    noise=noise,
    mechanisms=("thermal and excess",),
    derived=KEPT,
    linear=True,
    paths=((0, 1),),
)
