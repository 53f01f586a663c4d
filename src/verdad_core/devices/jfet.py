"""Junction field-effect transistor (Shichman and Hodges), with gate junctions, depletion charges and noise.

    i = BETA (vgs - VTO)² (1 + LAMBDA vds) in saturation, BETA vds (2 (vgs - VTO) - vds) (1 + LAMBDA vds) below it

Sources: Shichman and Hodges, "Modeling and simulation of insulated-gate field-effect transistor switching circuits",
IEEE J. Solid-State Circuits 3, 1968; Antognetti and Massobrio, "Semiconductor Device Modeling with SPICE", 1988,
chapter 3. Noise: 4kT/RD, 4kT/RS, 8kT gm / 3 + KF i^AF / f in the channel.
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    BOLTZMANN,
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
    load_kernel,
    noise_kernel,
    own_celsius,
    update_kernel,
)
from verdad_core.devices.channel import FLOW_ENTRIES, flow, follow, limit_step
from verdad_core.devices.dual import Dual
from verdad_core.devices.junction import (
    MAX_FC,
    capacitance_at,
    critical_voltage,
    depletion,
    exponential,
    limit,
    potential_at,
    saturation_at,
    thermal_voltage,
)
from verdad_core.jit import at, kernel

PARAMETER_TABLE = (
    Parameter("vto", -2.0, "V", "threshold voltage"),
    Parameter("beta", 1e-4, "A/V²", "transconductance coefficient", positive=True),
    Parameter("lambda", 0.0, "1/V", "channel-length modulation"),
    Parameter("rd", 0.0, "Ω", "drain resistance", non_negative=True, structural=True),
    Parameter("rs", 0.0, "Ω", "source resistance", non_negative=True, structural=True),
    Parameter("cgs", 0.0, "F", "gate-source capacitance at zero bias", non_negative=True),
    Parameter("cgd", 0.0, "F", "gate-drain capacitance at zero bias", non_negative=True),
    Parameter("pb", 1.0, "V", "gate junction potential", positive=True),
    Parameter("m", 0.5, "", "grading coefficient of the gate junctions", non_negative=True),
    Parameter("fc", 0.5, "", "fraction of PB up to which the depletion formula holds", non_negative=True),
    Parameter("is", 1e-14, "A", "saturation current of the gate junctions", positive=True),
    Parameter("n", 1.0, "", "emission coefficient of the gate junctions", positive=True),
    Parameter("isr", 0.0, "A", "recombination current of the gate junctions", non_negative=True),
    Parameter("nr", 2.0, "", "emission coefficient of the recombination", positive=True),
    Parameter("xti", 3.0, "", "temperature exponent of IS"),
    Parameter("eg", 1.11, "eV", "band gap"),
    Parameter("kf", 0.0, "", "flicker noise coefficient", non_negative=True),
    Parameter("af", 1.0, "", "flicker noise exponent"),
    Parameter("vtotc", 0.0, "V/°C", "temperature coefficient of VTO"),
    Parameter("betatce", 0.0, "%/°C", "exponential temperature coefficient of BETA"),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the parameters hold"),
    Parameter("area", 1.0, "", "area factor", positive=True),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
    Parameter("polarity", 1.0, "", "1: n channel, -1: p channel", choice=True),
    Parameter("alpha", 0.0, "1/V", "ionization coefficient", non_negative=True),
    Parameter("vk", 0.0, "V", "ionization knee", non_negative=True),
)
(VTO, BETA, LAMBDA, RD, RS, CGS, CGD, PB, M, FC, IS, N, ISR, NR, XTI, EG, KF, AF, VTOTC, BETATCE, TNOM, AREA, RISE,
 TEMP, POLARITY, ALPHA, VK) = range(27)  # fmt: skip
GIVEN = 27

# Derived values take the places of the parameters; these are their own.
VT, CRITICAL, FOUR_KT = range(GIVEN, GIVEN + 3)
KEPT = GIVEN + 3

#: A record: drain, gate, source inside, then outside drain and source.
NODES = 6
ENTRIES = FLOW_ENTRIES + 6


def _connect(element: Element, wiring: Wiring) -> Record:
    drain, gate, source = (wiring.node(node) for node in element.nodes)
    di = wiring.internal("drain") if element.values.get("rd", 0.0) > 0 else drain
    si = wiring.internal("source") if element.values.get("rs", 0.0) > 0 else source
    inner = (di, gate, si, wiring.ground)
    entries = [(row, column) for row in inner for column in inner]
    entries += [(drain, drain), (drain, di), (di, drain), (source, source), (source, si), (si, source)]
    return Record((*inner, drain, source), tuple(entries), ((drain, di), (source, si), (di, si)))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        for j in range(GIVEN):
            derived[d + j] = parameters[p + j]
        celsius = own_celsius(parameters[AMBIENT], parameters[p + RISE], parameters[p + TEMP])
        nominal = parameters[p + TNOM]
        area, warmer = parameters[p + AREA], celsius - nominal
        eg, xti = parameters[p + EG], parameters[p + XTI]
        derived[d + VTO] = parameters[p + VTO] + parameters[p + VTOTC] * warmer
        derived[d + BETA] = area * parameters[p + BETA] * 1.01 ** (parameters[p + BETATCE] * warmer)
        derived[d + IS] = area * saturation_at(parameters[p + IS], eg, xti, parameters[p + N], celsius, nominal)
        derived[d + ISR] = area * saturation_at(parameters[p + ISR], eg, xti, parameters[p + NR], celsius, nominal)
        for j in (CGS, CGD):
            derived[d + j] = area * capacitance_at(
                parameters[p + j], parameters[p + PB], parameters[p + M], celsius, nominal
            )
        derived[d + PB] = potential_at(parameters[p + PB], celsius, nominal)
        derived[d + FC] = min(parameters[p + FC], MAX_FC)
        derived[d + RD] = parameters[p + RD] / area
        derived[d + RS] = parameters[p + RS] / area
        derived[d + VT] = thermal_voltage(celsius)
        derived[d + CRITICAL] = critical_voltage(derived[d + IS], parameters[p + N] * derived[d + VT])
        derived[d + FOUR_KT] = 4.0 * BOLTZMANN * (celsius + ZERO_CELSIUS)


@kernel
def _forward(m: Floats, vgs: float, vds: float) -> tuple[float, float, float]:
    """(i, gm, gds) of the channel for vds not below zero."""
    over = vgs - m[VTO]
    if over <= 0.0:
        return 0.0, 0.0, 0.0
    modulation = m[BETA] * (1.0 + m[LAMBDA] * vds)
    if over <= vds:
        return modulation * over * over, 2.0 * modulation * over, m[BETA] * m[LAMBDA] * over * over
    shape = vds * (2.0 * over - vds)
    return modulation * shape, 2.0 * modulation * vds, 2.0 * modulation * (over - vds) + m[BETA] * m[LAMBDA] * shape


@kernel
def channel(m: Floats, vgs: float, vds: float) -> Dual:
    """The current from drain to source, with derivatives to vgs and vds; drain and source change roles below zero."""
    if vds >= 0.0:
        i, gm, gds = _forward(m, vgs, vds)
        return i, gm, gds, 0.0
    i, gm, gds = _forward(m, vgs - vds, -vds)
    return -i, -gm, gm + gds, 0.0


@kernel
def _ionized(m: Floats, vgs: float, vds: float) -> Dual:
    """What collisions in the channel make flow from the drain into the gate, with derivatives to vgs and vds >= 0.

    id ALPHA v exp(-VK / v), v being how far the drain is beyond pinch-off (a common extension, from memory).
    """
    beyond = vds - max(vgs - m[VTO], 0.0)
    if m[ALPHA] == 0.0 or beyond <= 0.0:
        return 0.0, 0.0, 0.0, 0.0
    i, gm, gds = _forward(m, vgs, vds)
    part = m[ALPHA] * beyond * math.exp(-m[VK] / beyond)
    slope = m[ALPHA] * math.exp(-m[VK] / beyond) * (1.0 + m[VK] / beyond)
    follows = 1.0 if vgs > m[VTO] else 0.0
    return i * part, gm * part - follows * i * slope, gds * part + i * slope, 0.0


@kernel
def _junction(m: Floats, v: float) -> tuple[float, float]:
    """(i, di/dv) of a gate junction."""
    e, slope = exponential(v, m[N] * m[VT])
    i, g = m[IS] * e, m[IS] * slope
    if m[ISR] > 0.0:
        e, slope = exponential(v, m[NR] * m[VT])
        i, g = i + m[ISR] * e, g + m[ISR] * slope
    return i, g


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    limited = 0
    for k in range(head[COUNT]):
        t, s, st = head[TABLE] + NODES * k, head[SLOTS] + ENTRIES * k, head[STATE] + 2 * k
        m, nodes = at(derived, head[DERIVED] + KEPT * k), at(table, t)
        drain, gate, source = nodes[0], nodes[1], nodes[2]
        sign = m[POLARITY]
        asked_gs, asked_gd = sign * (x[gate] - x[source]), sign * (x[gate] - x[drain])
        if options[STARTING] != 0.0:
            vgs, vgd = 0.5 * m[VTO], 0.5 * m[VTO]
        else:
            scale = m[N] * m[VT]
            vgs = limit(limit_step(asked_gs, state[st], m[VTO]), state[st], scale, m[CRITICAL])
            vgd = limit(limit_step(asked_gd, state[st + 1], m[VTO]), state[st + 1], scale, m[CRITICAL])
        if vgs != asked_gs or vgd != asked_gd:
            limited += 1
        state[st], state[st + 1] = vgs, vgd
        vds = vgs - vgd
        to_gs, to_ds = asked_gs - vgs, asked_gs - asked_gd - vds
        gmin = options[GMIN]
        flow(f, g, nodes, slots, s, 0, 2, sign, follow(channel(m, vgs, vds), to_gs, to_ds, 0.0))
        if m[ALPHA] > 0.0 and vds >= 0.0:
            flow(f, g, nodes, slots, s, 0, 1, sign, follow(_ionized(m, vgs, vds), to_gs, to_ds, 0.0))
        elif m[ALPHA] > 0.0:
            i, gm, gds, _ = _ionized(m, vgd, -vds)
            flow(f, g, nodes, slots, s, 2, 1, sign, follow((i, gm, -gm - gds, 0.0), to_gs, to_ds, 0.0))
        i, conductance = _junction(m, vgs)
        i, conductance = i + gmin * vgs, conductance + gmin
        flow(f, g, nodes, slots, s, 1, 2, sign, follow((i, conductance, 0.0, 0.0), to_gs, to_ds, 0.0))
        i, conductance = _junction(m, vgd)
        i, conductance = i + gmin * vgd, conductance + gmin
        flow(f, g, nodes, slots, s, 1, 0, sign, follow((i, conductance, -conductance, 0.0), to_gs, to_ds, 0.0))
        if options[CHARGES] != 0.0:
            charge, capacitance = depletion(vgs, m[CGS], m[PB], m[M], m[FC])
            flow(q, c, nodes, slots, s, 1, 2, sign, (charge, capacitance, 0.0, 0.0))
            charge, capacitance = depletion(vgd, m[CGD], m[PB], m[M], m[FC])
            flow(q, c, nodes, slots, s, 1, 0, sign, (charge, capacitance, -capacitance, 0.0))
        for end in range(2):
            if m[RD + end] > 0.0:
                outer, inner, e = nodes[4 + end], nodes[2 * end], s + FLOW_ENTRIES + 3 * end
                conductance = 1.0 / m[RD + end]
                f[outer] += conductance * (x[outer] - x[inner])
                f[inner] -= conductance * (x[outer] - x[inner])
                g[slots[e]] += conductance
                g[slots[e + 1]] -= conductance
                g[slots[e + 2]] -= conductance
                g[slots[s + 10 * end]] += conductance
    return limited


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        t, m = head[TABLE] + NODES * k, at(derived, head[DERIVED] + KEPT * k)
        drain, gate, source = table[t], table[t + 1], table[t + 2]
        sign = m[POLARITY]
        i, gm, _, _ = channel(m, sign * (x[gate] - x[source]), sign * (x[drain] - x[source]))
        for j in range(3):
            out[9 * k + 3 * j], out[9 * k + 3 * j + 1], out[9 * k + 3 * j + 2] = 0.0, 0.0, 1.0
        if m[RD] > 0.0:
            out[9 * k] = m[FOUR_KT] / m[RD]
        if m[RS] > 0.0:
            out[9 * k + 3] = m[FOUR_KT] / m[RS]
        out[9 * k + 6] = 2.0 / 3.0 * m[FOUR_KT] * abs(gm)
        out[9 * k + 7] = m[KF] * abs(i) ** m[AF]


FAMILY = Family(
    name="jfet",
    title="Junction field-effect transistor",
    parameters=PARAMETER_TABLE,
    dynamic=frozenset({"cgs", "cgd", "fc", "m", "kf", "af"}),
    pins=("drain", "gate", "source"),
    connect=_connect,
    update=update,
    load=load,
    noise=noise,
    mechanisms=("thermal (RD)", "thermal (RS)", "channel"),
    derived=KEPT,
    state=2,
    paths=((0, 1), (1, 2)),
)
