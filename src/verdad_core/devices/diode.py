"""Junction diode: ideal exponential with series resistance, breakdown, depletion and diffusion charge.

    i = IS (exp(v / (N Vt)) - 1) - IBV exp(-(v + BV) / (NBV Vt)) + GMIN v,    q = TT i_forward + depletion(v)

Source: Antognetti and Massobrio, "Semiconductor Device Modeling with SPICE", 1988, chapter 1.
The junction lies between the internal anode and the cathode; without RS the internal anode is the anode.
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    COUNT,
    DERIVED,
    GMIN,
    PARAMETERS,
    SLOTS,
    STARTING,
    STATE,
    TABLE,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
)
from verdad_core.devices.junction import (
    MAX_FC,
    MAX_GRADING,
    capacitance_at,
    critical_voltage,
    depletion,
    exponential,
    limit,
    potential_at,
    saturation_at,
    thermal_voltage,
)
from verdad_core.devices.stamps import admittance
from verdad_core.jit import kernel

PARAMETER_TABLE = (
    Parameter("is", 1e-14, "A", "saturation current", positive=True),
    Parameter("rs", 0.0, "Ω", "series resistance", non_negative=True),
    Parameter("n", 1.0, "", "emission coefficient", positive=True),
    Parameter("tt", 0.0, "s", "transit time", non_negative=True),
    Parameter("cjo", 0.0, "F", "depletion capacitance at zero bias", non_negative=True),
    Parameter("vj", 1.0, "V", "junction potential", positive=True),
    Parameter("m", 0.5, "", "grading coefficient", non_negative=True),
    Parameter("fc", 0.5, "", "fraction of VJ up to which the depletion formula holds", non_negative=True),
    Parameter("bv", math.inf, "V", "breakdown voltage", positive=True),
    Parameter("ibv", 1e-3, "A", "current at the breakdown voltage", positive=True),
    Parameter("nbv", 1.0, "", "emission coefficient of the breakdown", positive=True),
    Parameter("eg", 1.11, "eV", "band gap"),
    Parameter("xti", 3.0, "", "temperature exponent of IS"),
    Parameter("area", 1.0, "", "area factor", positive=True),
)
IS, RS, N, TT, CJO, VJ, M, FC, BV, IBV, NBV, EG, XTI, AREA = range(14)
GIVEN = 14

# Derived values.
D_IS, D_GS, D_NVT, D_TT, D_CJ, D_VJ, D_M, D_FC, D_BV, D_IBV, D_NBVT, D_CRITICAL = range(12)
KEPT = 12

#: Jacobian positions of a record.
ENTRIES = 7


def _connect(element: Element, wiring: Wiring) -> Record:
    anode, cathode = (wiring.node(node) for node in element.nodes)
    inner = wiring.internal("anode") if element.values.get("rs", 0.0) > 0 else anode
    entries = (
        (inner, inner), (inner, cathode), (cathode, inner), (cathode, cathode),
        (anode, anode), (anode, inner), (inner, anode),
    )  # fmt: skip
    return Record((anode, inner, cathode), entries)


FAMILY = Family(name="diode", title="Diode", parameters=PARAMETER_TABLE, connect=_connect, derived=KEPT, state=1)


@kernel
def update(head: Integers, parameters: Floats, derived: Floats) -> None:
    celsius = parameters[AMBIENT]
    vt = thermal_voltage(celsius)
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        area, n, vj, m = parameters[p + AREA], parameters[p + N], parameters[p + VJ], parameters[p + M]
        saturation = area * saturation_at(parameters[p + IS], parameters[p + EG], parameters[p + XTI], n, celsius)
        derived[d + D_IS] = saturation
        derived[d + D_GS] = area / parameters[p + RS] if parameters[p + RS] > 0.0 else 0.0
        derived[d + D_NVT] = n * vt
        derived[d + D_TT] = parameters[p + TT]
        derived[d + D_CJ] = area * capacitance_at(parameters[p + CJO], vj, m, celsius)
        derived[d + D_VJ] = potential_at(vj, celsius)
        derived[d + D_M] = min(m, MAX_GRADING)
        derived[d + D_FC] = min(parameters[p + FC], MAX_FC)
        derived[d + D_BV] = parameters[p + BV]
        derived[d + D_IBV] = area * parameters[p + IBV]
        derived[d + D_NBVT] = parameters[p + NBV] * vt
        derived[d + D_CRITICAL] = critical_voltage(saturation, n * vt)


@kernel
def current(derived: Floats, d: int, v: float) -> tuple[float, float]:
    """(i, di/dv) of the junction at `v`, without GMIN."""
    forward, slope = exponential(v, derived[d + D_NVT])
    i, g = derived[d + D_IS] * forward, derived[d + D_IS] * slope
    if v < -0.5 * derived[d + D_BV]:
        back, slope = exponential(-(v + derived[d + D_BV]), derived[d + D_NBVT])
        i -= derived[d + D_IBV] * (back + 1.0)
        g += derived[d + D_IBV] * slope
    return i, g


@kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    limited = 0
    for k in range(head[COUNT]):
        t, s, d = head[TABLE] + 3 * k, head[SLOTS] + ENTRIES * k, head[DERIVED] + KEPT * k
        anode, inner, cathode = table[t], table[t + 1], table[t + 2]
        asked = x[inner] - x[cathode]
        old = state[head[STATE] + k]
        if options[STARTING] != 0.0:
            v = derived[d + D_CRITICAL]
        elif asked < -0.5 * derived[d + D_BV]:
            bv, scale = derived[d + D_BV], derived[d + D_NBVT]
            v = -(limit(-(asked + bv), -(old + bv), scale, critical_voltage(derived[d + D_IBV], scale)) + bv)
        else:
            v = limit(asked, old, derived[d + D_NVT], derived[d + D_CRITICAL])
        if v != asked:
            limited += 1
        state[head[STATE] + k] = v
        i, conductance = current(derived, d, v)
        charge, capacitance = depletion(v, derived[d + D_CJ], derived[d + D_VJ], derived[d + D_M], derived[d + D_FC])
        charge += derived[d + D_TT] * i
        capacitance += derived[d + D_TT] * conductance
        i += conductance * (asked - v) + options[GMIN] * asked
        conductance += options[GMIN]
        f[inner] += i
        f[cathode] -= i
        q[inner] += charge
        q[cathode] -= charge
        admittance(g, slots, s, conductance)
        admittance(c, slots, s, capacitance)
        series = derived[d + D_GS]
        drop = series * (x[anode] - x[inner])
        f[anode] += drop
        f[inner] -= drop
        g[slots[s + 4]] += series
        g[slots[s + 5]] -= series
        g[slots[s + 6]] -= series
        g[slots[s]] += series
    return limited
