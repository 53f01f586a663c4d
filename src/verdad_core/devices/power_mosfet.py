"""Vertical power MOSFET: channel with series resistances, gate charge as data sheets show it, body diode, noise.

    i = KP (u - vds/2) vds (1 + LAMBDA vds) / (1 + THETA u) below saturation (vds < u), u the overdrive vgs - VTO,
    which goes to zero over KSUB volts
    cgd(vgd) = CGDMIN + (CGDMAX - CGDMIN) (1/2 + arctan(A vgd) / π)

The gate-drain capacitance falls from CGDMAX, gate over drain, to CGDMIN, which gives the plateau of the gate charge
curve; its charge is the formula's integral. Temperature: VTO + VTOTC dT, KP (T/Tnom)^MU, RD (1 + TRD1 dT + TRD2 dT²).
Sources: Shichman and Hodges, 1968 (channel); Antognetti and Massobrio, 1988 (diode, temperature); the shape of the
gate-drain capacitance is common practice, no source. Noise: 4kT/RD, 4kT/RS, 4kT/RG, 8kT gm / 3 + KF i^AF / f.
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices import dual
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
from verdad_core.jit import at, kernel

PARAMETER_TABLE = (
    Parameter("polarity", 1.0, "", "1: n channel, -1: p channel", choice=True),
    Parameter("vto", 3.0, "V", "threshold voltage"),
    Parameter("kp", 10.0, "A/V²", "transconductance coefficient", positive=True),
    Parameter("lambda", 0.0, "1/V", "channel-length modulation", non_negative=True),
    Parameter("theta", 0.0, "1/V", "fall of the transconductance with overdrive", non_negative=True),
    Parameter("ksub", 0.05, "V", "width of the transition at threshold", positive=True),
    Parameter("rd", 0.0, "Ω", "drain resistance", non_negative=True, structural=True),
    Parameter("rs", 0.0, "Ω", "source resistance", non_negative=True, structural=True),
    Parameter("rg", 0.0, "Ω", "gate resistance", non_negative=True, structural=True),
    Parameter("rds", math.inf, "Ω", "leakage from drain to source", positive=True),
    Parameter("cgs", 0.0, "F", "gate-source capacitance", non_negative=True),
    Parameter("cgdmax", 0.0, "F", "gate-drain capacitance, gate well above drain", non_negative=True),
    Parameter("cgdmin", 0.0, "F", "gate-drain capacitance, drain well above gate", non_negative=True),
    Parameter("a", 1.0, "1/V", "how fast it changes between the two", positive=True),
    Parameter("is", 1e-14, "A", "saturation current of the body diode", positive=True),
    Parameter("n", 1.0, "", "its emission coefficient", positive=True),
    Parameter("rb", 0.0, "Ω", "its series resistance", non_negative=True, structural=True),
    Parameter("tt", 0.0, "s", "its transit time", non_negative=True),
    Parameter("cjo", 0.0, "F", "its depletion capacitance at zero bias", non_negative=True),
    Parameter("vj", 0.8, "V", "its junction potential", positive=True),
    Parameter("mj", 0.5, "", "its grading coefficient", non_negative=True),
    Parameter("fc", 0.5, "", "fraction of VJ up to which the depletion formula holds", non_negative=True),
    Parameter("bv", math.inf, "V", "its breakdown voltage", positive=True),
    Parameter("ibv", 1e-3, "A", "current at the breakdown voltage", positive=True),
    Parameter("nbv", 1.0, "", "emission coefficient of the breakdown", positive=True),
    Parameter("eg", 1.11, "eV", "band gap"),
    Parameter("xti", 3.0, "", "temperature exponent of IS"),
    Parameter("kf", 0.0, "", "flicker noise coefficient", non_negative=True),
    Parameter("af", 1.0, "", "flicker noise exponent"),
    Parameter("vtotc", 0.0, "V/°C", "temperature coefficient of VTO"),
    Parameter("mu", -1.5, "", "temperature exponent of KP"),
    Parameter("trd1", 0.0, "1/°C", "linear temperature coefficient of RD"),
    Parameter("trd2", 0.0, "1/°C²", "quadratic temperature coefficient of RD"),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the parameters hold"),
    Parameter("m", 1.0, "", "parallel devices", positive=True),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
)
(POLARITY, VTO, KP, LAMBDA, THETA, KSUB, RD, RS, RG, RDS, CGS, CGDMAX, CGDMIN, A, IS, N, RB, TT, CJO, VJ, MJ, FC, BV,
 IBV, NBV, EG, XTI, KF, AF, VTOTC, MU, TRD1, TRD2, TNOM, PARALLEL, RISE, TEMP) = range(37)  # fmt: skip
GIVEN = 37

# Derived values take the places of the parameters; these are their own. RD, RS, RG, RB and RDS become conductances.
VT, CRITICAL, FOUR_KT = range(GIVEN, GIVEN + 3)
KEPT = GIVEN + 3

#: A record: drain, gate, source inside; ground; outside drain, source, gate; the body diode's anode.
NODES = 8
DRAIN, SOURCE, GATE, BODY = 4, 5, 6, 7

# Jacobian positions: the inner flows, three for each of three series resistances, and the body diode's.
ENTRIES = FLOW_ENTRIES + 9 + 8


def _connect(element: Element, wiring: Wiring) -> Record:
    drain, gate, source = (wiring.node(node) for node in element.nodes)

    def inside(name: str, parameter: str, outer: int) -> int:
        return wiring.internal(name) if element.values.get(parameter, 0.0) > 0 else outer

    di, gi, si = inside("drain", "rd", drain), inside("gate", "rg", gate), inside("source", "rs", source)
    body = inside("body", "rb", source)
    inner = (di, gi, si, wiring.ground)
    entries = [(row, column) for row in inner for column in inner]
    for outer, within in ((drain, di), (source, si), (gate, gi)):
        entries += [(outer, outer), (outer, within), (within, outer)]
    for a, b in ((body, drain), (source, body)):
        entries += [(a, a), (a, b), (b, a), (b, b)]
    noise = ((drain, di), (source, si), (gate, gi), (di, si), (body, drain))
    return Record((*inner, drain, source, gate, body), tuple(entries), noise)


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, m = at(parameters, head[PARAMETERS] + GIVEN * k), at(derived, head[DERIVED] + KEPT * k)
        for j in range(GIVEN):
            m[j] = p[j]
        celsius, nominal, count = own_celsius(parameters[AMBIENT], p[RISE], p[TEMP]), p[TNOM], p[PARALLEL]
        warmer, vt = celsius - nominal, thermal_voltage(celsius)
        ratio = (celsius + ZERO_CELSIUS) / (nominal + ZERO_CELSIUS)
        m[VTO] = p[POLARITY] * p[VTO] + p[VTOTC] * warmer
        m[KP] = count * p[KP] * ratio ** p[MU]
        series = p[RD] * (1.0 + p[TRD1] * warmer + p[TRD2] * warmer * warmer)
        m[RD] = count / series if series > 0.0 else 0.0
        for j in (RS, RG, RB):
            m[j] = count / p[j] if p[j] > 0.0 else 0.0
        m[RDS] = count / p[RDS]
        for j in (CGS, CGDMAX, CGDMIN):
            m[j] = count * p[j]
        m[IS] = count * saturation_at(p[IS], p[EG], p[XTI], p[N], celsius, nominal)
        m[CJO] = count * capacitance_at(p[CJO], p[VJ], p[MJ], celsius, nominal)
        m[VJ] = potential_at(p[VJ], celsius, nominal)
        m[MJ], m[FC], m[IBV] = min(p[MJ], MAX_GRADING), min(p[FC], MAX_FC), count * p[IBV]
        m[VT], m[FOUR_KT] = vt, 4.0 * BOLTZMANN * (celsius + ZERO_CELSIUS)
        m[CRITICAL] = critical_voltage(m[IS], p[N] * vt)


@kernel
def _forward(m: Floats, vgs: float, vds: float) -> Dual:
    gs, ds = (vgs - m[VTO], 1.0, 0.0, 0.0), (vds, 0.0, 1.0, 0.0)
    over = dual.soft_positive(gs, m[KSUB])
    end = ds if ds[0] < over[0] else over
    shape = dual.mul(dual.sub(over, dual.scale(end, 0.5)), end)
    strength = dual.div(
        dual.scale(dual.shift(dual.scale(ds, m[LAMBDA]), 1.0), m[KP]), dual.shift(dual.scale(over, m[THETA]), 1.0)
    )
    return dual.mul(shape, strength)


@kernel
def channel(m: Floats, vgs: float, vds: float) -> Dual:
    """The current from drain to source, with derivatives to vgs and vds; the two change roles below zero."""
    if vds >= 0.0:
        return _forward(m, vgs, vds)
    i, gate, drain, _ = _forward(m, vgs - vds, -vds)
    return -i, -gate, gate + drain, 0.0


@kernel
def _gate_drain(m: Floats, v: float) -> tuple[float, float]:
    """(charge, capacitance) of the gate over the drain."""
    span, u = m[CGDMAX] - m[CGDMIN], m[A] * v
    turned = math.atan(u)
    charge = m[CGDMIN] * v + span * (0.5 * v + (v * turned - 0.5 * math.log1p(u * u) / m[A]) / math.pi)
    return charge, m[CGDMIN] + span * (0.5 + turned / math.pi)


@kernel
def body_current(m: Floats, v: float) -> tuple[float, float]:
    """(i, di/dv) of the body diode at v, from source to drain."""
    e, slope = exponential(v, m[N] * m[VT])
    i, g = m[IS] * e, m[IS] * slope
    if v < -0.5 * m[BV]:
        back, slope = exponential(-(v + m[BV]), m[NBV] * m[VT])
        i -= m[IBV] * (back + 1.0)
        g += m[IBV] * slope
    return i, g


@kernel
def _limited(m: Floats, asked: float, old: float) -> float:
    if asked < -0.5 * m[BV]:
        scale = m[NBV] * m[VT]
        return float(-(limit(-(asked + m[BV]), -(old + m[BV]), scale, critical_voltage(m[IBV], scale)) + m[BV]))
    return limit(asked, old, m[N] * m[VT], m[CRITICAL])


@kernel
def _between(
    f: Floats, g: Floats, x: Floats, slots: Integers, s: int, outer: int, inner: int, own: int, conductance: float
) -> None:
    """A series conductance: slots s.. hold (outer, outer), (outer, inner), (inner, outer), `own` (inner, inner)."""
    f[outer] += conductance * (x[outer] - x[inner])
    f[inner] -= conductance * (x[outer] - x[inner])
    g[slots[s]] += conductance
    g[slots[s + 1]] -= conductance
    g[slots[s + 2]] -= conductance
    g[slots[own]] += conductance


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    limited = 0
    for k in range(head[COUNT]):
        t, s, old = head[TABLE] + NODES * k, head[SLOTS] + ENTRIES * k, at(state, head[STATE] + 3 * k)
        m, nodes = at(derived, head[DERIVED] + KEPT * k), at(table, t)
        drain, gate, source = nodes[DRAIN], nodes[GATE], nodes[SOURCE]
        sign, body = m[POLARITY], nodes[BODY]
        asked_gs, asked_ds = sign * (x[nodes[1]] - x[nodes[2]]), sign * (x[nodes[0]] - x[nodes[2]])
        asked = sign * (x[body] - x[drain])
        if options[STARTING] != 0.0:
            vgs, vds, v = m[VTO], 0.0, 0.0
        else:
            vgs, vds = limit_step(asked_gs, old[0], m[VTO]), limit_step(asked_ds, old[1], 0.0)
            v = _limited(m, asked, old[2])
        if vgs != asked_gs or vds != asked_ds or v != asked:
            limited += 1
        old[0], old[1], old[2] = vgs, vds, v
        i = channel(m, vgs, vds)
        leak = m[RDS] + options[GMIN]
        i = (i[0] + leak * vds, i[1], i[2] + leak, 0.0)
        flow(f, g, nodes, slots, s, 0, 2, sign, follow(i, asked_gs - vgs, asked_ds - vds, 0.0))
        i_body, g_body = body_current(m, v)
        e = s + FLOW_ENTRIES + 9
        if options[CHARGES] != 0.0:
            flow(q, c, nodes, slots, s, 1, 2, sign, (m[CGS] * vgs, m[CGS], 0.0, 0.0))
            charge, capacitance = _gate_drain(m, vgs - vds)
            flow(q, c, nodes, slots, s, 1, 0, sign, (charge, capacitance, -capacitance, 0.0))
            charge, capacitance = depletion(v, m[CJO], m[VJ], m[MJ], m[FC])
            charge, capacitance = charge + m[TT] * i_body, capacitance + m[TT] * g_body
            q[body] += sign * charge
            q[drain] -= sign * charge
            admittance(c, slots, e, capacitance)
        i_body += g_body * (asked - v) + options[GMIN] * asked
        g_body += options[GMIN]
        f[body] += sign * i_body
        f[drain] -= sign * i_body
        admittance(g, slots, e, g_body)
        if m[RB] > 0.0:
            f[source] += m[RB] * (x[source] - x[body])
            f[body] -= m[RB] * (x[source] - x[body])
            admittance(g, slots, e + 4, m[RB])
        e = s + FLOW_ENTRIES
        if m[RD] > 0.0:
            _between(f, g, x, slots, e, drain, nodes[0], s, m[RD])
        if m[RS] > 0.0:
            _between(f, g, x, slots, e + 3, source, nodes[2], s + 10, m[RS])
        if m[RG] > 0.0:
            _between(f, g, x, slots, e + 6, gate, nodes[1], s + 5, m[RG])
    return limited


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        m, nodes = at(derived, head[DERIVED] + KEPT * k), at(table, head[TABLE] + NODES * k)
        sign = m[POLARITY]
        i, gm, _, _ = channel(m, sign * (x[nodes[1]] - x[nodes[2]]), sign * (x[nodes[0]] - x[nodes[2]]))
        i_body, _ = body_current(m, sign * (x[nodes[BODY]] - x[nodes[DRAIN]]))
        for j in range(5):
            out[15 * k + 3 * j], out[15 * k + 3 * j + 1], out[15 * k + 3 * j + 2] = 0.0, 0.0, 1.0
        out[15 * k], out[15 * k + 3], out[15 * k + 6] = m[FOUR_KT] * m[RD], m[FOUR_KT] * m[RS], m[FOUR_KT] * m[RG]
        out[15 * k + 9] = 2.0 / 3.0 * m[FOUR_KT] * abs(gm)
        out[15 * k + 10] = m[KF] * abs(i) ** m[AF]
        out[15 * k + 12] = 2.0 * 1.602176634e-19 * abs(i_body)


FAMILY = Family(
    name="power mosfet",
    title="Vertical power MOSFET",
    parameters=PARAMETER_TABLE,
    dynamic=frozenset({"cgs", "cgdmax", "cgdmin", "a", "tt", "cjo", "mj", "fc", "kf", "af"}),
    pins=("drain", "gate", "source"),
    connect=_connect,
    update=update,
    load=load,
    noise=noise,
    mechanisms=("thermal (RD)", "thermal (RS)", "thermal (RG)", "channel", "body diode shot"),
    derived=KEPT,
    state=3,
    paths=((0, 2),),
    gates=(1,),
)
