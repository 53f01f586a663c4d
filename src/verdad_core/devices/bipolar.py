"""Bipolar transistor after Gummel and Poon (Bell System Technical Journal 49, 1970).

With base charge qb (Early voltages and knee currents), leakage diodes, base resistance modulated by qb or IRB,
depletion and diffusion charges, transit time rising with current, and a substrate junction at the collector.
Equations as in Antognetti and Massobrio, "Semiconductor Device Modeling with SPICE", 1988, chapter 2. The small
influence of the junction voltages on the base resistance itself is left out of the Jacobian, as it is there.

All quantities inside are those of an NPN; `polarity` is -1 for a PNP and turns voltages and currents round.
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    COUNT,
    DERIVED,
    GMIN,
    NOMINAL_CELSIUS,
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
    potential_at,
    saturation_at,
    thermal_voltage,
)
from verdad_core.jit import kernel

PARAMETER_TABLE = (
    Parameter("polarity", 1.0, "", "+1 for NPN, -1 for PNP"),
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
    Parameter("rb", 0.0, "Ω", "base resistance at zero bias", non_negative=True),
    Parameter("irb", math.inf, "A", "current where the base resistance falls halfway to RBM", positive=True),
    Parameter("rbm", math.nan, "Ω", "least base resistance (RB unless given)"),
    Parameter("re", 0.0, "Ω", "emitter resistance", non_negative=True),
    Parameter("rc", 0.0, "Ω", "collector resistance", non_negative=True),
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
)
(POLARITY, IS, BF, NF, VAF, IKF, ISE, NE, BR, NR, VAR, IKR, ISC, NC, RB, IRB, RBM, RE, RC, CJE, VJE, MJE, TF, XTF,
 VTF, ITF, CJC, VJC, MJC, XCJC, TR, CJS, VJS, MJS, XTB, EG, XTI, FC, AREA) = range(39)  # fmt: skip
GIVEN = 39

# Derived values: the given ones, scaled by area and temperature, in the same places, and these after them.
VT, CRITICAL_E, CRITICAL_C = 39, 40, 41
KEPT = 42

#: Jacobian positions of a record.
ENTRIES = 23


def _connect(element: Element, wiring: Wiring) -> Record:
    collector, base, emitter = (wiring.node(node) for node in element.nodes[:3])
    substrate = wiring.node(element.nodes[3]) if len(element.nodes) > 3 else wiring.ground
    ci = wiring.internal("collector") if element.values.get("rc", 0.0) > 0 else collector
    bi = wiring.internal("base") if element.values.get("rb", 0.0) > 0 else base
    ei = wiring.internal("emitter") if element.values.get("re", 0.0) > 0 else emitter
    entries = (
        (collector, collector), (collector, ci), (ci, collector),
        (base, base), (base, bi), (bi, base),
        (emitter, emitter), (emitter, ei), (ei, emitter),
        (ci, ci), (ci, bi), (ci, ei), (bi, ci), (bi, bi), (bi, ei), (ei, ci), (ei, bi), (ei, ei),
        (base, ci), (ci, base),
        (substrate, substrate), (substrate, ci), (ci, substrate),
    )  # fmt: skip
    return Record((collector, base, emitter, ci, bi, ei, substrate), entries)


FAMILY = Family(
    name="bipolar", title="Bipolar transistor", parameters=PARAMETER_TABLE, connect=_connect, derived=KEPT, state=2
)


@kernel
def update(head: Integers, parameters: Floats, derived: Floats) -> None:
    celsius = parameters[AMBIENT]
    vt = thermal_voltage(celsius)
    ratio = (celsius + ZERO_CELSIUS) / (NOMINAL_CELSIUS + ZERO_CELSIUS)
    for k in range(head[COUNT]):
        p, d = head[PARAMETERS] + GIVEN * k, head[DERIVED] + KEPT * k
        for j in range(GIVEN):
            derived[d + j] = parameters[p + j]
        area, eg, xti = parameters[p + AREA], parameters[p + EG], parameters[p + XTI]
        gain = ratio ** parameters[p + XTB]
        warming = saturation_at(1.0, eg, xti, 1.0, celsius)
        derived[d + IS] *= area * warming
        derived[d + ISE] *= area * warming ** (1.0 / parameters[p + NE]) / gain
        derived[d + ISC] *= area * warming ** (1.0 / parameters[p + NC]) / gain
        derived[d + BF] *= gain
        derived[d + BR] *= gain
        for j in (IKF, IKR, IRB, ITF):
            derived[d + j] *= area
        if math.isnan(parameters[p + RBM]):
            derived[d + RBM] = parameters[p + RB]
        for j in (RB, RBM, RE, RC):
            derived[d + j] /= area
        for j in (CJE, CJC, CJS):
            vj, m = parameters[p + j + 1], parameters[p + j + 2]
            derived[d + j] = area * capacitance_at(parameters[p + j], vj, m, celsius)
            derived[d + j + 1] = potential_at(vj, celsius)
            derived[d + j + 2] = min(m, MAX_GRADING)
        derived[d + FC] = min(parameters[p + FC], MAX_FC)
        derived[d + VT] = vt
        derived[d + CRITICAL_E] = critical_voltage(derived[d + IS], parameters[p + NF] * vt)
        derived[d + CRITICAL_C] = critical_voltage(derived[d + IS], parameters[p + NR] * vt)


@kernel
def _base_resistance(m: Floats, qb: float, base_current: float) -> float:
    """Base resistance at base charge qb: falling with qb, or with the base current where IRB is given."""
    if not math.isfinite(m[IRB]):
        return float(m[RBM] + (m[RB] - m[RBM]) / qb)
    u = max(base_current / m[IRB], 1e-9)
    z = (math.sqrt(1.0 + 144.0 / math.pi**2 * u) - 1.0) / (24.0 / math.pi**2 * math.sqrt(u))
    tangent = math.tan(z)
    return float(m[RBM] + 3.0 * (m[RB] - m[RBM]) * (tangent - z) / (z * tangent * tangent))


@kernel
def _add(f: Floats, g: Floats, slots: Integers, s: int, a: int, b: int, conductance: float, drop: float) -> None:
    """A conductance between an outer node and its inner one: slots s.. hold (a, a), (a, b), (b, a)."""
    f[a] += conductance * drop
    f[b] -= conductance * drop
    g[slots[s]] += conductance
    g[slots[s + 1]] -= conductance
    g[slots[s + 2]] -= conductance


@kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    limited = 0
    for k in range(head[COUNT]):
        t, s, d, st = head[TABLE] + 7 * k, head[SLOTS] + ENTRIES * k, head[DERIVED] + KEPT * k, head[STATE] + 2 * k
        collector, base, emitter = table[t], table[t + 1], table[t + 2]
        ci, bi, ei, substrate = table[t + 3], table[t + 4], table[t + 5], table[t + 6]
        m = derived[d : d + KEPT]
        sign, vt = m[POLARITY], m[VT]
        asked_be, asked_bc = sign * (x[bi] - x[ei]), sign * (x[bi] - x[ci])
        if options[STARTING] != 0.0:
            vbe, vbc = m[CRITICAL_E], 0.0
        else:
            vbe = limit(asked_be, state[st], m[NF] * vt, m[CRITICAL_E])
            vbc = limit(asked_bc, state[st + 1], m[NR] * vt, m[CRITICAL_C])
        if vbe != asked_be or vbc != asked_bc:
            limited += 1
        state[st], state[st + 1] = vbe, vbc

        # Ideal and leakage diodes.
        e, slope = exponential(vbe, m[NF] * vt)
        i_f, g_f = m[IS] * e, m[IS] * slope
        e, slope = exponential(vbc, m[NR] * vt)
        i_r, g_r = m[IS] * e, m[IS] * slope
        e, slope = exponential(vbe, m[NE] * vt)
        i_le, g_le = m[ISE] * e, m[ISE] * slope
        e, slope = exponential(vbc, m[NC] * vt)
        i_lc, g_lc = m[ISC] * e, m[ISC] * slope

        # Base charge and transport current.
        q1 = 1.0 / (1.0 - vbc / m[VAF] - vbe / m[VAR])
        q2 = i_f / m[IKF] + i_r / m[IKR]
        root = math.sqrt(max(1.0 + 4.0 * q2, 1e-12))
        qb = 0.5 * q1 * (1.0 + root)
        qb_be = q1 * (qb / m[VAR] + g_f / (m[IKF] * root))
        qb_bc = q1 * (qb / m[VAF] + g_r / (m[IKR] * root))
        i_t = (i_f - i_r) / qb
        g_t_be, g_t_bc = (g_f - i_t * qb_be) / qb, (-g_r - i_t * qb_bc) / qb
        i_be, g_be = i_f / m[BF] + i_le, g_f / m[BF] + g_le
        i_bc, g_bc = i_r / m[BR] + i_lc, g_r / m[BR] + g_lc

        # Charges.
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
        v_substrate = sign * (x[substrate] - x[ci])
        q_substrate, c_substrate = depletion(v_substrate, m[CJS], m[VJS], m[MJS], 0.0)

        # Currents at the asked voltages: the tangent at the limited ones.
        base_resistance = _base_resistance(m, qb, i_be + i_bc)
        d_be, d_bc = asked_be - vbe, asked_bc - vbc
        i_t += g_t_be * d_be + g_t_bc * d_bc
        i_be += g_be * d_be + options[GMIN] * asked_be
        i_bc += g_bc * d_bc + options[GMIN] * asked_bc
        g_be += options[GMIN]
        g_bc += options[GMIN]
        f[ci] += sign * (i_t - i_bc)
        f[bi] += sign * (i_be + i_bc)
        f[ei] -= sign * (i_t + i_be)
        q[bi] += sign * (q_be + q_bc)
        q[ei] -= sign * q_be
        q[ci] -= sign * (q_bc + q_outer + q_substrate)
        q[base] += sign * q_outer
        q[substrate] += sign * q_substrate

        # d/dvbe and d/dvbc turn into columns bi, ei and ci.
        g[slots[s + 9]] += g_bc - g_t_bc
        g[slots[s + 10]] += g_t_be + g_t_bc - g_bc
        g[slots[s + 11]] -= g_t_be
        g[slots[s + 12]] -= g_bc
        g[slots[s + 13]] += g_be + g_bc
        g[slots[s + 14]] -= g_be
        g[slots[s + 15]] += g_t_bc
        g[slots[s + 16]] -= g_t_be + g_t_bc + g_be
        g[slots[s + 17]] += g_t_be + g_be
        c[slots[s + 9]] += c_bc + c_outer + c_substrate
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

        # Ohmic resistances.
        if m[RC] > 0.0:
            _add(f, g, slots, s, collector, ci, 1.0 / m[RC], x[collector] - x[ci])
            g[slots[s + 9]] += 1.0 / m[RC]
        if m[RB] > 0.0:
            _add(f, g, slots, s + 3, base, bi, 1.0 / base_resistance, x[base] - x[bi])
            g[slots[s + 13]] += 1.0 / base_resistance
        if m[RE] > 0.0:
            _add(f, g, slots, s + 6, emitter, ei, 1.0 / m[RE], x[emitter] - x[ei])
            g[slots[s + 17]] += 1.0 / m[RE]
    return limited
