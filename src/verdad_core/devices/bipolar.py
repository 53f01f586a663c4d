"""Bipolar transistor after Gummel and Poon (Bell System Technical Journal 49, 1970).

With base charge qb (Early voltages and knee currents), leakage diodes, base resistance modulated by qb or IRB,
depletion and diffusion charges, transit time rising with current, a substrate junction at the collector, excess
phase and noise. Equations as in Antognetti and Massobrio, "Semiconductor Device Modeling with SPICE", 1988, chapter 2.
Excess phase PTF delays the transport current by TF PTF through a second-order Bessel response (Weil and McNamee,
IEEE Trans. Circuits and Systems 25, 1978), which is part of the circuit's equations: all analyses agree on it.
Noise: 4kT of the three resistances, 2q Ic, 2q Ib + KF Ib^AF / f.

All quantities inside are those of an NPN; `polarity` is -1 for a PNP and turns voltages and currents round.
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
    MAX_EXPONENT,
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
from verdad_core.jit import at, kernel

PARAMETER_TABLE = (
    Parameter("polarity", 1.0, "", "+1 for NPN, -1 for PNP", choice=True),
    Parameter("is", 1e-16, "A", "transport saturation current", positive=True),
    Parameter("bf", 100.0, "", "forward current gain", positive=True),
    Parameter("nf", 1.0, "", "forward emission coefficient", positive=True),
    Parameter("vaf", math.inf, "V", "forward Early voltage", positive=True),
    Parameter("ikf", math.inf, "A", "forward knee current", positive=True),
    Parameter("ise", 0.0, "A", "base-emitter leakage saturation current", non_negative=True),
    Parameter("ne", 1.5, "", "base-emitter leakage emission coefficient", positive=True),
    Parameter("br", 1.0, "", "reverse current gain", positive=True),
    Parameter("nr", 1.0, "", "reverse emission coefficient", positive=True),
    Parameter("var", math.inf, "V", "reverse Early voltage", positive=True),
    Parameter("ikr", math.inf, "A", "reverse knee current", positive=True),
    Parameter("isc", 0.0, "A", "base-collector leakage saturation current", non_negative=True),
    Parameter("nc", 2.0, "", "base-collector leakage emission coefficient", positive=True),
    Parameter("rb", 0.0, "Ω", "base resistance at zero bias", non_negative=True, structural=True),
    Parameter("irb", math.inf, "A", "current where the base resistance falls halfway to RBM", positive=True),
    Parameter("rbm", math.nan, "Ω", "least base resistance (RB unless given)"),
    Parameter("re", 0.0, "Ω", "emitter resistance", non_negative=True, structural=True),
    Parameter("rc", 0.0, "Ω", "collector resistance", non_negative=True, structural=True),
    Parameter("cje", 0.0, "F", "base-emitter depletion capacitance at zero bias", non_negative=True),
    Parameter("vje", 0.75, "V", "base-emitter junction potential", positive=True),
    Parameter("mje", 0.33, "", "base-emitter grading coefficient", non_negative=True),
    Parameter("tf", 0.0, "s", "forward transit time", non_negative=True),
    Parameter("xtf", 0.0, "", "bias dependence of TF", non_negative=True),
    Parameter("vtf", math.inf, "V", "dependence of TF on the base-collector voltage", positive=True),
    Parameter("itf", 0.0, "A", "dependence of TF on the collector current", non_negative=True),
    Parameter("cjc", 0.0, "F", "base-collector depletion capacitance at zero bias", non_negative=True),
    Parameter("vjc", 0.75, "V", "base-collector junction potential", positive=True),
    Parameter("mjc", 0.33, "", "base-collector grading coefficient", non_negative=True),
    Parameter("xcjc", 1.0, "", "fraction of CJC at the internal base", non_negative=True),
    Parameter("tr", 0.0, "s", "reverse transit time", non_negative=True),
    Parameter("cjs", 0.0, "F", "collector-substrate depletion capacitance at zero bias", non_negative=True),
    Parameter("vjs", 0.75, "V", "substrate junction potential", positive=True),
    Parameter("mjs", 0.0, "", "substrate grading coefficient", non_negative=True),
    Parameter("xtb", 0.0, "", "temperature exponent of BF and BR"),
    Parameter("eg", 1.11, "eV", "band gap"),
    Parameter("xti", 3.0, "", "temperature exponent of IS"),
    Parameter("fc", 0.5, "", "fraction of the potentials up to which the depletion formula holds", non_negative=True),
    Parameter("area", 1.0, "", "area factor", positive=True),
    Parameter("iss", 0.0, "A", "substrate junction saturation current", non_negative=True),
    Parameter("ns", 1.0, "", "substrate junction emission coefficient", positive=True),
    Parameter("ptf", 0.0, "°", "excess phase at 1/(2π TF)", non_negative=True, structural=True),
    Parameter("nk", 0.5, "", "exponent of the knee currents' roll-off", positive=True),
    Parameter("kf", 0.0, "", "flicker noise coefficient", non_negative=True),
    Parameter("af", 1.0, "", "flicker noise exponent"),
    Parameter("lateral", 0.0, "", "1 where the substrate lies at the base, as in LPNP", choice=True),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the parameters hold"),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
    Parameter("trb", 0.0, "1/°C", "linear temperature coefficient of RB"),
    Parameter("trm", 0.0, "1/°C", "linear temperature coefficient of RBM"),
    Parameter("tre", 0.0, "1/°C", "linear temperature coefficient of RE"),
    Parameter("trc", 0.0, "1/°C", "linear temperature coefficient of RC"),
)
(POLARITY, IS, BF, NF, VAF, IKF, ISE, NE, BR, NR, VAR, IKR, ISC, NC, RB, IRB, RBM, RE, RC, CJE, VJE, MJE, TF, XTF,
 VTF, ITF, CJC, VJC, MJC, XCJC, TR, CJS, VJS, MJS, XTB, EG, XTI, FC, AREA, ISS, NS, PTF, NK, KF, AF,
 LATERAL, TNOM, RISE, TEMP, TRB, TRM, TRE, TRC) = range(53)  # fmt: skip
GIVEN = 53

# Derived values: the given ones, scaled by area and temperature, in the same places, and these after them.
VT, CRITICAL_E, CRITICAL_C, DELAY = range(GIVEN, GIVEN + 4)
KEPT = GIVEN + 4

#: Unknowns of a record, and Jacobian positions.
NODES = 10
ENTRIES = 34

#: Least value of the base charge's Early denominator: beyond it the model has no meaning.
LEAST_EARLY = 0.02


def _connect(element: Element, wiring: Wiring) -> Record:
    collector, base, emitter = (wiring.node(node) for node in element.nodes[:3])
    substrate = wiring.node(element.nodes[3]) if len(element.nodes) > 3 else wiring.ground
    ci = wiring.internal("collector") if element.values.get("rc", 0.0) > 0 else collector
    bi = wiring.internal("base") if element.values.get("rb", 0.0) > 0 else base
    ei = wiring.internal("emitter") if element.values.get("re", 0.0) > 0 else emitter
    joined = bi if element.values.get("lateral", 0.0) else ci
    # With excess phase the delayed transport current is an unknown, and so is its rate of change.
    delayed = element.values.get("ptf", 0.0) > 0 and element.values.get("tf", 0.0) > 0
    y, z = (wiring.auxiliary("transport"), wiring.auxiliary("rate")) if delayed else (wiring.ground, wiring.ground)
    entries = (
        (collector, collector), (collector, ci), (ci, collector),
        (base, base), (base, bi), (bi, base),
        (emitter, emitter), (emitter, ei), (ei, emitter),
        (ci, ci), (ci, bi), (ci, ei), (bi, ci), (bi, bi), (bi, ei), (ei, ci), (ei, bi), (ei, ei),
        (base, ci), (ci, base),
        (substrate, substrate), (substrate, joined), (joined, substrate),
        (base, ei), (ci, y), (ei, y), (y, y), (y, z), (z, y), (z, z), (z, bi), (z, ei), (z, ci),
        (joined, joined),
    )  # fmt: skip
    noise = ((collector, ci), (base, bi), (emitter, ei), (ci, ei), (bi, ei))
    return Record((collector, base, emitter, ci, bi, ei, substrate, y, z, joined), entries, noise)


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        celsius = own_celsius(parameters[AMBIENT], parameters[p + RISE], parameters[p + TEMP])
        nominal = parameters[p + TNOM]
        vt = thermal_voltage(celsius)
        ratio = (celsius + ZERO_CELSIUS) / (nominal + ZERO_CELSIUS)
        for j in range(GIVEN):
            derived[d + j] = parameters[p + j]
        area, eg, xti = parameters[p + AREA], parameters[p + EG], parameters[p + XTI]
        warming = saturation_at(1.0, eg, xti, 1.0, celsius, nominal)
        gain = leakage_e = leakage_c = 1.0
        if celsius != nominal:
            gain = ratio ** parameters[p + XTB]
            leakage_e = warming ** (1.0 / parameters[p + NE]) / gain
            leakage_c = warming ** (1.0 / parameters[p + NC]) / gain
        derived[d + IS] *= area * warming
        derived[d + ISE] *= area * leakage_e
        derived[d + ISC] *= area * leakage_c
        derived[d + ISS] *= area * warming
        derived[d + BF] *= gain
        derived[d + BR] *= gain
        for j in (IKF, IKR, IRB, ITF):
            derived[d + j] *= area
        if math.isnan(parameters[p + RBM]):
            derived[d + RBM] = parameters[p + RB]
        warmer = celsius - nominal
        slope_m = parameters[p + TRB] if math.isnan(parameters[p + RBM]) else parameters[p + TRM]
        derived[d + RB] *= max(1.0 + parameters[p + TRB] * warmer, 0.01)
        derived[d + RBM] *= max(1.0 + slope_m * warmer, 0.01)
        derived[d + RE] *= max(1.0 + parameters[p + TRE] * warmer, 0.01)
        derived[d + RC] *= max(1.0 + parameters[p + TRC] * warmer, 0.01)
        for j in (RB, RBM, RE, RC):
            derived[d + j] /= area
        for j in (CJE, CJC, CJS):
            vj, m = parameters[p + j + 1], parameters[p + j + 2]
            derived[d + j] = area * capacitance_at(parameters[p + j], vj, m, celsius, nominal)
            derived[d + j + 1] = potential_at(vj, celsius, nominal)
            derived[d + j + 2] = min(m, MAX_GRADING)
        derived[d + FC] = min(parameters[p + FC], MAX_FC)
        derived[d + VT] = vt
        derived[d + DELAY] = parameters[p + TF] * parameters[p + PTF] * math.pi / 180.0
        derived[d + RISE] = 4.0 * BOLTZMANN * (celsius + ZERO_CELSIUS)
        derived[d + CRITICAL_E] = critical_voltage(derived[d + IS], parameters[p + NF] * vt)
        derived[d + CRITICAL_C] = critical_voltage(derived[d + IS], parameters[p + NR] * vt)


@kernel
def _base_resistance(m: Floats, qb: float, i_b: float) -> tuple[float, float, float]:
    """Base resistance and its derivatives to base charge and base current: falling with qb, or with IRB given, ib."""
    if not math.isfinite(m[IRB]):
        return m[RBM] + (m[RB] - m[RBM]) / qb, -(m[RB] - m[RBM]) / (qb * qb), 0.0
    u = i_b / m[IRB]
    if u < 1e-6:
        return m[RB], 0.0, 0.0
    a, b = 144.0 / math.pi**2, 24.0 / math.pi**2
    root = math.sqrt(1.0 + a * u)
    z = (root - 1.0) / (b * math.sqrt(u))
    z_u = a / (2.0 * root * b * math.sqrt(u)) - z / (2.0 * u)
    t = math.tan(z)
    below = z * t * t
    share = 3.0 * (t - z) / below
    share_z = 3.0 * (t * t * below - (t - z) * (t * t + 2.0 * z * t * (1.0 + t * t))) / (below * below)
    return m[RBM] + (m[RB] - m[RBM]) * share, 0.0, (m[RB] - m[RBM]) * share_z * z_u / m[IRB]


@kernel
def _junctions(m: Floats, vbe: float, vbc: float) -> tuple[float, ...]:
    """Ideal and leakage diodes: i_f, g_f, i_r, g_r, then base-emitter and base-collector i, g, i, g."""
    vt = m[VT]
    e, slope = exponential(vbe, m[NF] * vt)
    i_f, g_f = m[IS] * e, m[IS] * slope
    e, slope = exponential(vbc, m[NR] * vt)
    i_r, g_r = m[IS] * e, m[IS] * slope
    i_be, g_be, i_bc, g_bc = i_f / m[BF], g_f / m[BF], i_r / m[BR], g_r / m[BR]
    if m[ISE] > 0.0:
        e, slope = exponential(vbe, m[NE] * vt)
        i_be, g_be = i_be + m[ISE] * e, g_be + m[ISE] * slope
    if m[ISC] > 0.0:
        e, slope = exponential(vbc, m[NC] * vt)
        i_bc, g_bc = i_bc + m[ISC] * e, g_bc + m[ISC] * slope
    return i_f, g_f, i_r, g_r, i_be, g_be, i_bc, g_bc


@kernel
def _base_charge(m: Floats, vbe: float, vbc: float, i_f: float, g_f: float, i_r: float, g_r: float) -> tuple[
    float, float, float
]:  # fmt: skip
    """Base charge qb, with its derivatives to vbe and vbc."""
    early = 1.0 - vbc / m[VAF] - vbe / m[VAR]
    q1, slope = 1.0 / max(early, LEAST_EARLY), 1.0 if early > LEAST_EARLY else 0.0
    q2 = max(i_f / m[IKF] + i_r / m[IKR], -0.2499)
    root = (1.0 + 4.0 * q2) ** m[NK]
    rise = 2.0 * m[NK] * root / (1.0 + 4.0 * q2)
    qb = 0.5 * q1 * (1.0 + root)
    qb_be = q1 * (slope * qb / m[VAR] + rise * g_f / m[IKF])
    qb_bc = q1 * (slope * qb / m[VAF] + rise * g_r / m[IKR])
    return qb, qb_be, qb_bc


@kernel
def _add(f: Floats, g: Floats, slots: Integers, s: int, a: int, b: int, conductance: float, drop: float) -> None:
    """A conductance between an outer node and its inner one: slots s.. hold (a, a), (a, b), (b, a)."""
    f[a] += conductance * drop
    f[b] -= conductance * drop
    g[slots[s]] += conductance
    g[slots[s + 1]] -= conductance
    g[slots[s + 2]] -= conductance


@kernel
def _delayed(
    table: Integers, t: int, slots: Integers, s: int, x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
    delay: float, i_t: float, g_be: float, g_bc: float,
) -> None:  # fmt: skip
    """The transport current from collector to emitter is y = i_t / (1 + sT + (sT)²/3); z is T dy/dt.

    T dy/dt = z and T dz/dt = 3 (i_t - y - z); slots s + 24 .. s + 32 hold y's and z's positions.
    """
    ci, ei, y, z = table[t + 3], table[t + 5], table[t + 7], table[t + 8]
    f[ci] += x[y]
    f[ei] -= x[y]
    f[y] -= x[z]
    q[y] += delay * x[y]
    f[z] -= 3.0 * (i_t - x[y] - x[z])
    q[z] += delay * x[z]
    g[slots[s + 24]] += 1.0
    g[slots[s + 25]] -= 1.0
    g[slots[s + 27]] -= 1.0
    g[slots[s + 28]] += 3.0
    g[slots[s + 29]] += 3.0
    g[slots[s + 30]] -= 3.0 * (g_be + g_bc)
    g[slots[s + 31]] += 3.0 * g_be
    g[slots[s + 32]] += 3.0 * g_bc
    c[slots[s + 26]] += delay
    c[slots[s + 29]] += delay


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    limited = 0
    for k in range(head[COUNT]):
        t, s, d, st = head[TABLE] + NODES * k, head[SLOTS] + ENTRIES * k, head[DERIVED] + KEPT * k, head[STATE] + 2 * k
        collector, base, emitter = table[t], table[t + 1], table[t + 2]
        ci, bi, ei, substrate, joined = table[t + 3], table[t + 4], table[t + 5], table[t + 6], table[t + 9]
        m = at(derived, d)
        sign, vt = m[POLARITY], m[VT]
        # What lies under a lateral transistor is of the other kind than its base.
        own = -sign if m[LATERAL] != 0.0 else sign
        asked_be, asked_bc = sign * (x[bi] - x[ei]), sign * (x[bi] - x[ci])
        if options[STARTING] != 0.0:
            vbe, vbc = m[CRITICAL_E], 0.0
        else:
            vbe = limit(asked_be, state[st], m[NF] * vt, m[CRITICAL_E])
            vbc = limit(asked_bc, state[st + 1], m[NR] * vt, m[CRITICAL_C])
        if vbe != asked_be or vbc != asked_bc:
            limited += 1
        state[st], state[st + 1] = vbe, vbc

        i_f, g_f, i_r, g_r, i_be, g_be, i_bc, g_bc = _junctions(m, vbe, vbc)
        qb, qb_be, qb_bc = _base_charge(m, vbe, vbc, i_f, g_f, i_r, g_r)
        i_t = (i_f - i_r) / qb
        g_t_be, g_t_bc = (g_f - i_t * qb_be) / qb, (-g_r - i_t * qb_bc) / qb

        if options[CHARGES] != 0.0:
            q_be, c_be = depletion(vbe, m[CJE], m[VJE], m[MJE], m[FC])
            c_be_bc = 0.0
            if m[TF] > 0.0:
                rise, rise_be, rise_bc = 1.0, 0.0, 0.0
                if m[XTF] > 0.0 and i_f > 0.0:
                    share = i_f / (i_f + m[ITF])
                    lift = m[XTF] * share * share * math.exp(min(vbc / (1.44 * m[VTF]), MAX_EXPONENT))
                    rise += lift
                    rise_be = lift * 2.0 * g_f * (1.0 / i_f - 1.0 / (i_f + m[ITF]))
                    rise_bc = lift / (1.44 * m[VTF])
                q_be += m[TF] * rise * i_f / qb
                c_be += m[TF] * (rise_be * i_f + rise * g_f - rise * i_f * qb_be / qb) / qb
                c_be_bc = m[TF] * (rise_bc * i_f - rise * i_f * qb_bc / qb) / qb
            q_bc, c_bc = depletion(vbc, m[XCJC] * m[CJC], m[VJC], m[MJC], m[FC])
            q_bc += m[TR] * i_r
            c_bc += m[TR] * g_r
            v_outer = sign * (x[base] - x[ci])
            q_outer, c_outer = depletion(v_outer, (1.0 - m[XCJC]) * m[CJC], m[VJC], m[MJC], m[FC])
            v_substrate = own * (x[substrate] - x[joined])
            q_substrate, c_substrate = depletion(v_substrate, m[CJS], m[VJS], m[MJS], 0.0)
            q[bi] += sign * (q_be + q_bc)
            q[ei] -= sign * q_be
            q[ci] -= sign * (q_bc + q_outer)
            q[joined] -= own * q_substrate
            q[base] += sign * q_outer
            q[substrate] += own * q_substrate
            c[slots[s + 9]] += c_bc + c_outer
            c[slots[s + 33]] += c_substrate
            c[slots[s + 10]] -= c_bc
            c[slots[s + 12]] -= c_bc + c_be_bc
            c[slots[s + 13]] += c_be + c_bc + c_be_bc
            c[slots[s + 14]] -= c_be
            c[slots[s + 15]] += c_be_bc
            c[slots[s + 16]] -= c_be + c_be_bc
            c[slots[s + 17]] += c_be
            c[slots[s + 3]] += c_outer
            c[slots[s + 18]] -= c_outer
            c[slots[s + 19]] -= c_outer
            c[slots[s + 20]] += c_substrate
            c[slots[s + 21]] -= c_substrate
            c[slots[s + 22]] -= c_substrate

        # Currents at the asked voltages: the tangent at the limited ones.
        i_b, ib_be, ib_bc = i_be + i_bc, g_be, g_bc
        d_be, d_bc = asked_be - vbe, asked_bc - vbc
        i_t += g_t_be * d_be + g_t_bc * d_bc
        i_be += g_be * d_be + options[GMIN] * asked_be
        i_bc += g_bc * d_bc + options[GMIN] * asked_bc
        g_be += options[GMIN]
        g_bc += options[GMIN]
        f[ci] -= sign * i_bc
        f[bi] += sign * (i_be + i_bc)
        f[ei] -= sign * i_be
        if m[DELAY] > 0.0:
            _delayed(table, t, slots, s, x, f, q, g, c, m[DELAY], sign * i_t, g_t_be, g_t_bc)
        else:
            f[ci] += sign * i_t
            f[ei] -= sign * i_t
            g[slots[s + 9]] -= g_t_bc
            g[slots[s + 10]] += g_t_be + g_t_bc
            g[slots[s + 11]] -= g_t_be
            g[slots[s + 15]] += g_t_bc
            g[slots[s + 16]] -= g_t_be + g_t_bc
            g[slots[s + 17]] += g_t_be

        # d/dvbe and d/dvbc turn into columns bi, ei and ci.
        g[slots[s + 9]] += g_bc
        g[slots[s + 10]] -= g_bc
        g[slots[s + 12]] -= g_bc
        g[slots[s + 13]] += g_be + g_bc
        g[slots[s + 14]] -= g_be
        g[slots[s + 16]] -= g_be
        g[slots[s + 17]] += g_be

        # The substrate junction conducts as an ideal diode.
        if m[ISS] > 0.0:
            e, slope = exponential(own * (x[substrate] - x[joined]), m[NS] * vt)
            f[substrate] += own * m[ISS] * e
            f[joined] -= own * m[ISS] * e
            g[slots[s + 20]] += m[ISS] * slope
            g[slots[s + 21]] -= m[ISS] * slope
            g[slots[s + 22]] -= m[ISS] * slope
            g[slots[s + 33]] += m[ISS] * slope

        # Ohmic resistances.
        if m[RC] > 0.0:
            _add(f, g, slots, s, collector, ci, 1.0 / m[RC], x[collector] - x[ci])
            g[slots[s + 9]] += 1.0 / m[RC]
        if m[RB] > 0.0:
            r, r_qb, r_ib = _base_resistance(m, qb, i_b)
            drop = x[base] - x[bi]
            _add(f, g, slots, s + 3, base, bi, 1.0 / r, drop)
            g[slots[s + 13]] += 1.0 / r
            # The resistance itself moves with the junction voltages; the current follows its tangent too.
            r_be, r_bc = r_qb * qb_be + r_ib * ib_be, r_qb * qb_bc + r_ib * ib_bc
            g_be, g_bc = -drop * r_be / (r * r), -drop * r_bc / (r * r)
            extra = g_be * d_be + g_bc * d_bc
            f[base] += extra
            f[bi] -= extra
            g[slots[s + 4]] += sign * (g_be + g_bc)
            g[slots[s + 13]] -= sign * (g_be + g_bc)
            g[slots[s + 23]] -= sign * g_be
            g[slots[s + 14]] += sign * g_be
            g[slots[s + 18]] -= sign * g_bc
            g[slots[s + 12]] += sign * g_bc
        if m[RE] > 0.0:
            _add(f, g, slots, s + 6, emitter, ei, 1.0 / m[RE], x[emitter] - x[ei])
            g[slots[s + 17]] += 1.0 / m[RE]
    return limited


@knees_kernel
def knees(head: Integers, table: Integers, derived: Floats, out: Floats) -> None:
    for k in range(head[COUNT]):
        t, m = head[TABLE] + NODES * k, at(derived, head[DERIVED] + KEPT * k)
        note_knee(out, table[t + 4], table[t + 5], m[NF] * m[VT])
        note_knee(out, table[t + 4], table[t + 3], m[NR] * m[VT])


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        t, d = head[TABLE] + NODES * k, head[DERIVED] + KEPT * k
        ci, bi, ei = table[t + 3], table[t + 4], table[t + 5]
        m = at(derived, d)
        vbe, vbc = m[POLARITY] * (x[bi] - x[ei]), m[POLARITY] * (x[bi] - x[ci])
        i_f, g_f, i_r, g_r, i_be, _, i_bc, _ = _junctions(m, vbe, vbc)
        qb, _, _ = _base_charge(m, vbe, vbc, i_f, g_f, i_r, g_r)
        r_base = _base_resistance(m, qb, i_be + i_bc)[0]
        i_c, i_b = abs((i_f - i_r) / qb - i_bc), abs(i_be + i_bc)
        for j in range(5):
            out[15 * k + 3 * j], out[15 * k + 3 * j + 1], out[15 * k + 3 * j + 2] = 0.0, 0.0, 1.0
        if m[RC] > 0.0:
            out[15 * k] = m[RISE] / m[RC]
        if m[RB] > 0.0:
            out[15 * k + 3] = m[RISE] / r_base
        if m[RE] > 0.0:
            out[15 * k + 6] = m[RISE] / m[RE]
        out[15 * k + 9] = 2.0 * CHARGE * i_c
        out[15 * k + 12] = 2.0 * CHARGE * i_b
        out[15 * k + 13] = m[KF] * i_b ** m[AF]


DYNAMIC = frozenset(
    {"cje", "vje", "mje", "tf", "xtf", "vtf", "itf", "ptf", "cjc", "vjc", "mjc", "xcjc", "tr", "cjs", "vjs", "mjs",
     "fc", "kf", "af"}
)  # fmt: skip

FAMILY = Family(
    name="bipolar",
    title="Bipolar transistor",
    parameters=PARAMETER_TABLE,
    dynamic=DYNAMIC,
    pins=("collector", "base", "emitter", "substrate"),
    connect=_connect,
    update=update,
    load=load,
    noise=noise,
    knees=knees,
    mechanisms=("thermal (RC)", "thermal (RB)", "thermal (RE)", "collector shot", "base shot and flicker"),
    derived=KEPT,
    state=2,
    paths=((0, 1), (1, 2)),
)
