"""Junction diode: ideal and recombination current, high injection, series resistance, breakdown, charge, noise.

    i = IS (exp(v / (N Vt)) - 1) / sqrt(1 + i_ideal / IKF) + ISR (exp(v / (NR Vt)) - 1) ((1 - v / VJ)² + 0.005)^(M/2)
        - IBV exp(-(v + BV) / (NBV Vt)) - IBVL exp(-(v + BV) / (NBVL Vt)) + GMIN v,        q = TT i + depletion(v)

Sources: Antognetti and Massobrio, "Semiconductor Device Modeling with SPICE", 1988, chapter 1; for recombination
and high injection the 2nd edition, 1993, chapter 1. Noise: 4kT/RS, 2qi, KF i^AF / f.
The junction lies between the internal anode and the cathode; without RS the internal anode is the anode.
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    BOLTZMANN,
    CHARGE,
    CHARGES,
    COUNT,
    DERIVED,
    GMIN,
    NOMINAL_CELSIUS,
    OWN_TEMPERATURE,
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
    knees_kernel,
    load_kernel,
    noise_kernel,
    own_celsius,
    update_kernel,
)
from verdad_core.devices.junction import (
    MAX_FC,
    MAX_GRADING,
    capacitance_at,
    critical_voltage,
    depletion,
    exponential,
    limit,
    note_knee,
    potential_at,
    saturation_at,
    thermal_voltage,
)
from verdad_core.devices.stamps import admittance
from verdad_core.jit import kernel

PARAMETER_TABLE = (
    Parameter("is", 1e-14, "A", "saturation current", positive=True),
    Parameter("rs", 0.0, "Ω", "series resistance", non_negative=True, structural=True),
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
    Parameter("kf", 0.0, "", "flicker noise coefficient", non_negative=True),
    Parameter("af", 1.0, "", "flicker noise exponent"),
    Parameter("isr", 0.0, "A", "recombination saturation current", non_negative=True),
    Parameter("nr", 2.0, "", "emission coefficient of the recombination", positive=True),
    Parameter("ikf", math.inf, "A", "high-injection knee current", positive=True),
    Parameter("tbv1", 0.0, "1/°C", "linear temperature coefficient of BV"),
    Parameter("tbv2", 0.0, "1/°C²", "quadratic temperature coefficient of BV"),
    Parameter("trs1", 0.0, "1/°C", "linear temperature coefficient of RS"),
    Parameter("trs2", 0.0, "1/°C²", "quadratic temperature coefficient of RS"),
    Parameter("tikf", 0.0, "1/°C", "linear temperature coefficient of IKF"),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the parameters hold"),
    Parameter("area", 1.0, "", "area factor", positive=True),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
    Parameter("ibvl", 0.0, "A", "current of the low-level breakdown at BV", non_negative=True),
    Parameter("nbvl", 1.0, "", "emission coefficient of the low-level breakdown", positive=True),
)
(IS, RS, N, TT, CJO, VJ, M, FC, BV, IBV, NBV, EG, XTI, KF, AF, ISR, NR, IKF, TBV1, TBV2, TRS1, TRS2, TIKF, TNOM,
 AREA, RISE, TEMP, IBVL, NBVL) = range(29)  # fmt: skip
GIVEN = 29

# Derived values.
(D_IS, D_GS, D_NVT, D_TT, D_CJ, D_VJ, D_M, D_FC, D_BV, D_IBV, D_NBVT, D_CRITICAL, D_KF, D_AF, D_ISR, D_NRVT, D_IKF,
 D_THERMAL, D_IBVL, D_NBVLT) = range(20)  # fmt: skip
KEPT = 20

#: Jacobian positions of a record.
ENTRIES = 7


def _connect(element: Element, wiring: Wiring) -> Record:
    anode, cathode = (wiring.node(node) for node in element.nodes)
    inner = wiring.internal("anode") if element.values.get("rs", 0.0) > 0 else anode
    entries = (
        (inner, inner), (inner, cathode), (cathode, inner), (cathode, cathode),
        (anode, anode), (anode, inner), (inner, anode),
    )  # fmt: skip
    return Record((anode, inner, cathode), entries, ((anode, inner), (inner, cathode)))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        celsius = own_celsius(parameters[AMBIENT], parameters[p + RISE], parameters[p + TEMP])
        nominal = parameters[p + TNOM]
        vt, warmer = thermal_voltage(celsius), celsius - nominal
        area, n, vj, m = parameters[p + AREA], parameters[p + N], parameters[p + VJ], parameters[p + M]
        eg, xti = parameters[p + EG], parameters[p + XTI]
        saturation = area * saturation_at(parameters[p + IS], eg, xti, n, celsius, nominal)
        series = parameters[p + RS] * (1.0 + parameters[p + TRS1] * warmer + parameters[p + TRS2] * warmer * warmer)
        derived[d + D_IS] = saturation
        derived[d + D_GS] = area / series if series > 0.0 else 0.0
        derived[d + D_NVT] = n * vt
        derived[d + D_TT] = parameters[p + TT]
        derived[d + D_CJ] = area * capacitance_at(parameters[p + CJO], vj, m, celsius, nominal)
        derived[d + D_VJ] = potential_at(vj, celsius, nominal)
        derived[d + D_M] = min(m, MAX_GRADING)
        derived[d + D_FC] = min(parameters[p + FC], MAX_FC)
        breakdown = 1.0 + parameters[p + TBV1] * warmer + parameters[p + TBV2] * warmer * warmer
        derived[d + D_BV] = parameters[p + BV] * max(breakdown, 0.01)
        derived[d + D_IBV] = area * parameters[p + IBV]
        derived[d + D_NBVT] = parameters[p + NBV] * vt
        derived[d + D_IBVL] = area * parameters[p + IBVL]
        derived[d + D_NBVLT] = parameters[p + NBVL] * vt
        derived[d + D_CRITICAL] = critical_voltage(saturation, n * vt)
        derived[d + D_KF] = parameters[p + KF]
        derived[d + D_AF] = parameters[p + AF]
        derived[d + D_ISR] = area * saturation_at(parameters[p + ISR], eg, xti, parameters[p + NR], celsius, nominal)
        derived[d + D_NRVT] = parameters[p + NR] * vt
        derived[d + D_IKF] = area * parameters[p + IKF] * max(1.0 + parameters[p + TIKF] * warmer, 0.01)
        derived[d + D_THERMAL] = 4.0 * BOLTZMANN * (celsius + ZERO_CELSIUS) * derived[d + D_GS]


@kernel
def current(derived: Floats, d: int, v: float) -> tuple[float, float]:
    """(i, di/dv) of the junction at `v`, without GMIN."""
    forward, slope = exponential(v, derived[d + D_NVT])
    i, g = derived[d + D_IS] * forward, derived[d + D_IS] * slope
    if i > 0.0 and derived[d + D_IKF] < math.inf:
        crowded = 1.0 + i / derived[d + D_IKF]
        root = math.sqrt(crowded)
        g *= (1.0 - 0.5 * i / (derived[d + D_IKF] * crowded)) / root
        i /= root
    if derived[d + D_ISR] > 0.0:
        recombined, slope = exponential(v, derived[d + D_NRVT])
        away = 1.0 - v / derived[d + D_VJ]
        inside = away * away + 0.005
        width = inside ** (0.5 * derived[d + D_M])
        i += derived[d + D_ISR] * recombined * width
        g += derived[d + D_ISR] * width * (slope - recombined * derived[d + D_M] * away / (derived[d + D_VJ] * inside))
    if v < -0.5 * derived[d + D_BV]:
        back, slope = exponential(-(v + derived[d + D_BV]), derived[d + D_NBVT])
        i -= derived[d + D_IBV] * (back + 1.0)
        g += derived[d + D_IBV] * slope
        if derived[d + D_IBVL] > 0.0:
            back, slope = exponential(-(v + derived[d + D_BV]), derived[d + D_NBVLT])
            i -= derived[d + D_IBVL] * (back + 1.0)
            g += derived[d + D_IBVL] * slope
    return i, g


@load_kernel
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
        if options[CHARGES] != 0.0:
            vj, m, fc = derived[d + D_VJ], derived[d + D_M], derived[d + D_FC]
            charge, capacitance = depletion(v, derived[d + D_CJ], vj, m, fc)
            charge += derived[d + D_TT] * i
            capacitance += derived[d + D_TT] * conductance
            q[inner] += charge
            q[cathode] -= charge
            admittance(c, slots, s, capacitance)
        i += conductance * (asked - v) + options[GMIN] * asked
        conductance += options[GMIN]
        f[inner] += i
        f[cathode] -= i
        admittance(g, slots, s, conductance)
        series = derived[d + D_GS]
        if series > 0.0:
            drop = series * (x[anode] - x[inner])
            f[anode] += drop
            f[inner] -= drop
            g[slots[s + 4]] += series
            g[slots[s + 5]] -= series
            g[slots[s + 6]] -= series
            g[slots[s]] += series
    return limited


@knees_kernel
def knees(head: Integers, table: Integers, derived: Floats, out: Floats) -> None:
    for k in range(head[COUNT]):
        t, d = head[TABLE] + 3 * k, head[DERIVED] + KEPT * k
        scale = derived[d + D_NVT]
        if derived[d + D_ISR] > 0.0:
            scale = min(scale, derived[d + D_NRVT])
        if derived[d + D_BV] < math.inf:
            scale = min(scale, derived[d + D_NBVT])
        note_knee(out, table[t + 1], table[t + 2], scale)


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        t, d = head[TABLE] + 3 * k, head[DERIVED] + KEPT * k
        i, _ = current(derived, d, x[table[t + 1]] - x[table[t + 2]])
        out[6 * k], out[6 * k + 1], out[6 * k + 2] = derived[d + D_THERMAL], 0.0, 1.0
        out[6 * k + 3] = 2.0 * CHARGE * abs(i)
        out[6 * k + 4] = derived[d + D_KF] * abs(i) ** derived[d + D_AF]
        out[6 * k + 5] = 1.0


FAMILY = Family(
    name="diode",
    title="Diode",
    parameters=PARAMETER_TABLE,
    dynamic=frozenset({"tt", "cjo", "fc", "kf", "af"}),
    pins=("anode", "cathode"),
    connect=_connect,
    update=update,
    load=load,
    noise=noise,
    knees=knees,
    mechanisms=("thermal (RS)", "shot and flicker"),
    derived=KEPT,
    state=1,
    paths=((0, 1),),
)
