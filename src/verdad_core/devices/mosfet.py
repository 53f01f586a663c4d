"""MOS transistor, levels 1, 2 and 3: channel, body diodes, overlap and intrinsic charges, temperature, noise.

The channel's current is in mosfet_channel.py. The intrinsic charges are those of the charge-sheet approximation with
the partition of Ward and Dutton ("A charge-oriented model for MOS transistor capacitances", IEEE J. Solid-State
Circuits 13, 1978), written in the overdrives at source and drain; overdrives go to zero smoothly, so charge is
conserved and continuous everywhere. Body diodes and temperature: Antognetti and Massobrio, "Semiconductor Device
Modeling with SPICE", 1988, chapter 4; Vladimirescu, "The SPICE Book", 1994. Noise: 4kT/RD, 4kT/RS, and in the channel
8kT gm / 3 + KF i^AF / (COX L² f).
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats, Integers
from verdad_core.devices import dual
from verdad_core.devices import mosfet_channel as channel
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
    band_gap,
    critical_voltage,
    depletion,
    exponential,
    limit,
    potential_at,
    thermal_voltage,
)
from verdad_core.jit import at, kernel

_NOT_GIVEN = math.nan

PARAMETER_TABLE = (
    Parameter("polarity", 1.0, "", "1: n channel, -1: p channel", choice=True),
    Parameter("level", 1.0, "", "which equations: 1, 2 or 3", choice=True),
    Parameter("vto", _NOT_GIVEN, "V", "threshold voltage without body bias"),
    Parameter("kp", _NOT_GIVEN, "A/V²", "transconductance coefficient", positive=True),
    Parameter("gamma", _NOT_GIVEN, "√V", "body effect", non_negative=True),
    Parameter("phi", _NOT_GIVEN, "V", "surface potential", positive=True),
    Parameter("lambda", 0.0, "1/V", "channel-length modulation", non_negative=True),
    Parameter("rd", 0.0, "Ω", "drain resistance", non_negative=True, structural=True),
    Parameter("rs", 0.0, "Ω", "source resistance", non_negative=True, structural=True),
    Parameter("cbd", 0.0, "F", "bulk-drain capacitance at zero bias", non_negative=True),
    Parameter("cbs", 0.0, "F", "bulk-source capacitance at zero bias", non_negative=True),
    Parameter("is", 1e-14, "A", "saturation current of the body diodes", positive=True),
    Parameter("pb", 0.8, "V", "potential of the body diodes", positive=True),
    Parameter("cgso", 0.0, "F/m", "gate-source overlap per width", non_negative=True),
    Parameter("cgdo", 0.0, "F/m", "gate-drain overlap per width", non_negative=True),
    Parameter("cgbo", 0.0, "F/m", "gate-bulk overlap per length", non_negative=True),
    Parameter("rsh", 0.0, "Ω", "sheet resistance of drain and source", non_negative=True, structural=True),
    Parameter("cj", 0.0, "F/m²", "bottom capacitance of the body diodes", non_negative=True),
    Parameter("mj", 0.5, "", "its grading coefficient", non_negative=True),
    Parameter("cjsw", 0.0, "F/m", "edge capacitance of the body diodes", non_negative=True),
    Parameter("mjsw", 0.33, "", "its grading coefficient", non_negative=True),
    Parameter("js", 0.0, "A/m²", "saturation current of the body diodes per area", non_negative=True),
    Parameter("tox", _NOT_GIVEN, "m", "oxide thickness", positive=True),
    Parameter("nsub", 0.0, "1/cm³", "substrate doping", non_negative=True),
    Parameter("nss", 0.0, "1/cm²", "surface states"),
    Parameter("nfs", 0.0, "1/cm²", "fast surface states", non_negative=True),
    Parameter("tpg", 1.0, "", "gate: 1 opposite to substrate, -1 the same, 0 aluminium"),
    Parameter("xj", 0.0, "m", "junction depth", non_negative=True),
    Parameter("ld", 0.0, "m", "lateral diffusion", non_negative=True),
    Parameter("uo", 600.0, "cm²/Vs", "mobility", positive=True),
    Parameter("ucrit", 1e4, "V/cm", "field from which mobility falls (level 2)", non_negative=True),
    Parameter("uexp", 0.0, "", "exponent of its fall (level 2)", non_negative=True),
    Parameter("utra", 0.0, "", "transverse field coefficient (without effect)"),
    Parameter("vmax", 0.0, "m/s", "largest speed of carriers", non_negative=True),
    Parameter("neff", 1.0, "", "channel charge coefficient (level 2)", positive=True),
    Parameter("delta", 0.0, "", "effect of the width on the threshold", non_negative=True),
    Parameter("theta", 0.0, "1/V", "fall of mobility with the gate voltage (level 3)"),
    Parameter("eta", 0.0, "", "feedback of the drain on the threshold (level 3)"),
    Parameter("kappa", 0.2, "", "saturation field factor (level 3)", non_negative=True),
    Parameter("kf", 0.0, "", "flicker noise coefficient", non_negative=True),
    Parameter("af", 1.0, "", "flicker noise exponent"),
    Parameter("fc", 0.5, "", "fraction of PB up to which the depletion formulas hold", non_negative=True),
    Parameter("tnom", NOMINAL_CELSIUS, "°C", "temperature at which the parameters hold"),
    Parameter("l", 1e-4, "m", "length", positive=True),
    Parameter("w", 1e-4, "m", "width", positive=True),
    Parameter("ad", 0.0, "m²", "drain area", non_negative=True),
    Parameter("as", 0.0, "m²", "source area", non_negative=True),
    Parameter("pd", 0.0, "m", "drain perimeter", non_negative=True),
    Parameter("ps", 0.0, "m", "source perimeter", non_negative=True),
    Parameter("nrd", 1.0, "", "squares of the drain", non_negative=True),
    Parameter("nrs", 1.0, "", "squares of the source", non_negative=True),
    Parameter("m", 1.0, "", "parallel devices", positive=True),
    Parameter("rise", 0.0, "°C", "own temperature above ambient"),
    OWN_TEMPERATURE,
    Parameter("n", 1.0, "", "emission coefficient of the body diodes", positive=True),
    Parameter("tt", 0.0, "s", "transit time of the body diodes", non_negative=True),
    Parameter("pbsw", _NOT_GIVEN, "V", "potential of their edges (PB unless given)", positive=True),
    Parameter("jssw", 0.0, "A/m", "saturation current of the body diodes per perimeter", non_negative=True),
    Parameter("wd", 0.0, "m", "lateral diffusion of the width", non_negative=True),
)
(POLARITY, LEVEL, VTO, KP, GAMMA, PHI, LAMBDA, RD, RS, CBD, CBS, IS, PB, CGSO, CGDO, CGBO, RSH, CJ, MJ, CJSW, MJSW, JS,
 TOX, NSUB, NSS, NFS, TPG, XJ, LD, UO, UCRIT, UEXP, UTRA, VMAX, NEFF, DELTA, THETA, ETA, KAPPA, KF, AF, FC, TNOM, L, W,
 AD, AS, PD, PS, NRD, NRS, PARALLEL, RISE, TEMP, N, TT, PBSW, JSSW, WD) = range(59)  # fmt: skip
GIVEN = 59

# Derived values: those of the channel, then these.
(D_SIGN, D_COUNT, D_GD, D_GS, D_IS_D, D_IS_S, D_CRITICAL_D, D_CRITICAL_S, D_CBD, D_CBS, D_CBDW, D_CBSW, D_PB, D_MJ,
 D_MJSW, D_FC, D_CGSO, D_CGDO, D_CGBO, D_GATE, D_VFB, D_FLICKER, D_AF, D_FOUR_KT, D_NVT, D_TT, D_PBSW) = range(
    channel.SIZE, channel.SIZE + 27
)  # fmt: skip
KEPT = channel.SIZE + 27

#: A record: drain, gate, source inside and bulk, then outside drain and source.
NODES = 6
ENTRIES = FLOW_ENTRIES + 6

# Permittivities of oxide and silicon in F/m, and silicon's intrinsic density in 1/m³ at 27 °C (SPICE 2G6 manual).
OXIDE = 3.9 * 8.854187817e-12
SILICON = 11.7 * 8.854187817e-12
INTRINSIC = 1.45e16

#: Default oxide of levels 2 and 3.
TOX_DEFAULT = 1e-7

#: Width in which an overdrive goes to zero, in thermal voltages.
SMOOTH = 2.0


def _has_resistance(element: Element, direct: str, squares: str) -> bool:
    values = element.values
    return values.get(direct, 0.0) > 0 or (values.get("rsh", 0.0) > 0 and values.get(squares, 1.0) > 0)


def _connect(element: Element, wiring: Wiring) -> Record:
    drain, gate, source, bulk = (wiring.node(node) for node in element.nodes)
    di = wiring.internal("drain") if _has_resistance(element, "rd", "nrd") else drain
    si = wiring.internal("source") if _has_resistance(element, "rs", "nrs") else source
    inner = (di, gate, si, bulk)
    entries = [(row, column) for row in inner for column in inner]
    entries += [(drain, drain), (drain, di), (di, drain), (source, source), (source, si), (si, source)]
    return Record((*inner, drain, source), tuple(entries), ((drain, di), (source, si), (di, si)))


@kernel
def _series(direct: float, sheet: float, squares: float) -> float:
    """The conductance of a terminal's resistance, 0 where it has none."""
    resistance = direct if direct > 0.0 else sheet * squares
    return 1.0 / resistance if resistance > 0.0 else 0.0


@kernel
def _at_temperature(cj: float, m: float, pb: float, celsius: float, nominal: float) -> float:
    warmer = celsius - nominal
    return cj * (1.0 + m * (4e-4 * warmer - (potential_at(pb, celsius, nominal) - pb) / pb))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    for k in range(head[COUNT]):
        p, m = at(parameters, head[PARAMETERS] + GIVEN * k), at(derived, head[DERIVED] + KEPT * k)
        celsius, nominal = own_celsius(parameters[AMBIENT], p[RISE], p[TEMP]), p[TNOM]
        ratio = (celsius + ZERO_CELSIUS) / (nominal + ZERO_CELSIUS)
        vt, vt_nominal, sign = thermal_voltage(celsius), thermal_voltage(nominal), p[POLARITY]
        tox = p[TOX] if p[TOX] > 0.0 else (0.0 if p[LEVEL] == 1.0 else TOX_DEFAULT)
        cox = OXIDE / tox if tox > 0.0 else 0.0
        phi, gamma, vto, doping = p[PHI], p[GAMMA], p[VTO], 1e6 * p[NSUB]
        if math.isnan(phi):
            phi = max(2.0 * vt_nominal * math.log(doping / INTRINSIC), 0.1) if doping > INTRINSIC else 0.6
        if math.isnan(gamma):
            gamma = math.sqrt(2.0 * SILICON * CHARGE * doping) / cox if doping > 0.0 and cox > 0.0 else 0.0
        gap = band_gap(nominal + ZERO_CELSIUS)
        work = -0.05 - 0.5 * gap - 0.5 * sign * phi if p[TPG] == 0.0 else -0.5 * sign * (p[TPG] * gap + phi)
        if math.isnan(vto):
            vto = 0.0
            if doping > INTRINSIC and cox > 0.0:
                vto = work - 1e4 * p[NSS] * CHARGE / cox + sign * (gamma * math.sqrt(phi) + phi)
        kp = p[KP]
        if math.isnan(kp):
            kp = 1e-4 * p[UO] * cox if cox > 0.0 else 2e-5
        warm_phi = max(potential_at(phi, celsius, nominal), 0.05)
        warm_gap = band_gap(celsius + ZERO_CELSIUS)
        vbi = sign * vto - gamma * math.sqrt(phi) + 0.5 * (gap - warm_gap) + 0.5 * (warm_phi - phi)
        length, width = max(p[L] - 2.0 * p[LD], 1e-9), max(p[W] - 2.0 * p[WD], 1e-9)
        m[channel.LEVEL], m[channel.VBI], m[channel.GAMMA], m[channel.PHI] = p[LEVEL], vbi, gamma, warm_phi
        m[channel.BETA] = p[PARALLEL] * kp * ratio**-1.5 * width / length
        m[channel.LAMBDA], m[channel.COX], m[channel.LENGTH], m[channel.WIDTH] = p[LAMBDA], cox, length, width
        m[channel.UO] = 1e-4 * p[UO] * ratio**-1.5
        m[channel.UCRIT], m[channel.UEXP], m[channel.VMAX] = 100.0 * p[UCRIT], p[UEXP], p[VMAX]
        m[channel.NEFF], m[channel.NFS], m[channel.XJ], m[channel.LD] = p[NEFF], 1e4 * p[NFS], p[XJ], p[LD]
        m[channel.XD] = math.sqrt(2.0 * SILICON / (CHARGE * doping)) if doping > 0.0 else 0.0
        narrow = 0.25 if p[LEVEL] == 2.0 else 0.5
        m[channel.NARROW] = narrow * p[DELTA] * math.pi * SILICON / (cox * width) if cox > 0.0 else 0.0
        m[channel.THETA], m[channel.ETA], m[channel.KAPPA], m[channel.VT] = p[THETA], p[ETA], p[KAPPA], vt
        m[channel.WALL] = m[channel.XD] * math.sqrt(p[PB])
        m[D_SIGN], m[D_COUNT] = sign, p[PARALLEL]
        m[D_GD] = p[PARALLEL] * _series(p[RD], p[RSH], p[NRD])
        m[D_GS] = p[PARALLEL] * _series(p[RS], p[RSH], p[NRS])
        warming = math.exp(gap / vt_nominal - warm_gap / vt)
        by_area = p[JS] > 0.0 and p[AD] > 0.0 and p[AS] > 0.0
        m[D_IS_D] = p[PARALLEL] * warming * (p[JS] * p[AD] + p[JSSW] * p[PD] if by_area else p[IS])
        m[D_IS_S] = p[PARALLEL] * warming * (p[JS] * p[AS] + p[JSSW] * p[PS] if by_area else p[IS])
        m[D_NVT], m[D_TT] = p[N] * vt, p[TT]
        m[D_CRITICAL_D] = critical_voltage(m[D_IS_D], m[D_NVT])
        m[D_CRITICAL_S] = critical_voltage(m[D_IS_S], m[D_NVT])
        bottom_d = p[CBD] if p[CBD] > 0.0 else p[CJ] * p[AD]
        bottom_s = p[CBS] if p[CBS] > 0.0 else p[CJ] * p[AS]
        m[D_CBD] = p[PARALLEL] * _at_temperature(bottom_d, p[MJ], p[PB], celsius, nominal)
        m[D_CBS] = p[PARALLEL] * _at_temperature(bottom_s, p[MJ], p[PB], celsius, nominal)
        edge = p[PB] if math.isnan(p[PBSW]) else p[PBSW]
        m[D_CBDW] = p[PARALLEL] * _at_temperature(p[CJSW] * p[PD], p[MJSW], edge, celsius, nominal)
        m[D_CBSW] = p[PARALLEL] * _at_temperature(p[CJSW] * p[PS], p[MJSW], edge, celsius, nominal)
        m[D_PBSW] = max(potential_at(edge, celsius, nominal), 0.05)
        m[D_PB] = max(potential_at(p[PB], celsius, nominal), 0.05)
        m[D_MJ], m[D_MJSW], m[D_FC] = min(p[MJ], MAX_GRADING), min(p[MJSW], MAX_GRADING), min(p[FC], MAX_FC)
        m[D_CGSO], m[D_CGDO] = p[PARALLEL] * p[CGSO] * width, p[PARALLEL] * p[CGDO] * width
        m[D_CGBO] = p[PARALLEL] * p[CGBO] * length
        m[D_GATE] = p[PARALLEL] * cox * length * width
        m[D_VFB] = vbi - warm_phi
        m[D_FLICKER] = p[KF] / (cox * length * length) if cox > 0.0 else p[KF]
        m[D_AF], m[D_FOUR_KT] = p[AF], 4.0 * BOLTZMANN * (celsius + ZERO_CELSIUS)


@kernel
def current(m: Floats, vgs: float, vds: float, vbs: float) -> Dual:
    """The channel's current from drain to source; the two change roles where vds is below zero."""
    base = min(vds, 0.0)
    i, gate, drain, bulk = channel.drain_current(m, vgs - base, abs(vds), vbs - base)
    if vds >= 0.0:
        return i, gate, drain, bulk
    return -i, -gate, gate + drain + bulk, -bulk


@kernel
def _body_diode(saturation: float, vt: float, gmin: float, v: float) -> tuple[float, float]:
    e, slope = exponential(v, vt)
    return saturation * e + gmin * v, saturation * slope + gmin


@kernel
def _channel_charges(m: Floats, vgs: float, vds: float, vbs: float) -> tuple[Dual, Dual, Dual]:
    """The intrinsic charges of drain, source and bulk, in C; the gate has the opposite of their sum."""
    width = SMOOTH * m[channel.VT]
    gs, ds, bs = (vgs, 1.0, 0.0, 0.0), (vds, 0.0, 1.0, 0.0), (vbs, 0.0, 0.0, 1.0)
    phi, gamma = m[channel.PHI], m[channel.GAMMA]
    away = dual.soft_positive(dual.shift(dual.scale(bs, -1.0), phi), width)
    threshold = dual.shift(dual.scale(dual.sqrt(away), gamma), m[channel.VBI])
    over = dual.sub(gs, threshold)
    bulk_factor = 1.0 + 0.5 * gamma / math.sqrt(phi)
    at_source = dual.shift(dual.soft_positive(over, width), 1e-9)
    at_drain = dual.shift(dual.soft_positive(dual.sub(over, dual.scale(ds, bulk_factor)), width), 1e-9)
    both = dual.add(at_source, at_drain)
    inverse = dual.div(dual.constant(-2.0 / 15.0 * m[D_GATE]), dual.mul(both, both))
    s2, d2 = dual.mul(at_source, at_source), dual.mul(at_drain, at_drain)
    s3, d3 = dual.mul(s2, at_source), dual.mul(d2, at_drain)
    s2d, d2s = dual.mul(s2, at_drain), dual.mul(d2, at_source)
    drain = dual.add(
        dual.add(dual.scale(d3, 3.0), dual.scale(d2s, 6.0)), dual.add(dual.scale(s2d, 4.0), dual.scale(s3, 2.0))
    )
    source = dual.add(
        dual.add(dual.scale(s3, 3.0), dual.scale(s2d, 6.0)), dual.add(dual.scale(d2s, 4.0), dual.scale(d3, 2.0))
    )
    # The bulk: accumulation below flat band, depletion above it until the channel forms.
    gb = dual.shift(dual.sub(gs, bs), -m[D_VFB])
    formed = phi + gamma * math.sqrt(phi)
    depleting = dual.sub(dual.soft_positive(gb, width), dual.soft_positive(dual.shift(gb, -formed), width))
    accumulating = dual.sub(gb, dual.soft_positive(gb, width))
    depleted = dual.constant(0.0)
    if gamma > 0.0:
        root = dual.sqrt(dual.shift(dual.scale(depleting, 4.0 / (gamma * gamma)), 1.0))
        depleted = dual.scale(dual.shift(root, -1.0), 0.5 * gamma * gamma)
    bulk = dual.scale(dual.add(accumulating, depleted), -m[D_GATE])
    return dual.mul(drain, inverse), dual.mul(source, inverse), bulk


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    limited = 0
    for k in range(head[COUNT]):
        t, s, old = head[TABLE] + NODES * k, head[SLOTS] + ENTRIES * k, at(state, head[STATE] + 3 * k)
        m, nodes = at(derived, head[DERIVED] + KEPT * k), at(table, t)
        sign, nvt, gmin = m[D_SIGN], m[D_NVT], options[GMIN]
        base = x[nodes[2]]
        asked_gs, asked_ds = sign * (x[nodes[1]] - base), sign * (x[nodes[0]] - base)
        asked_bs = sign * (x[nodes[3]] - base)
        if options[STARTING] != 0.0:
            vgs, vds, vbs = m[channel.VBI] + m[channel.GAMMA] * math.sqrt(m[channel.PHI]), 0.0, -1.0
        else:
            vgs = limit_step(asked_gs, old[0], m[channel.VBI])
            vds = limit_step(asked_ds, old[1], 0.0)
            vbs = asked_bs + vds - asked_ds
            if vds >= 0.0:
                vbs = limit(asked_bs, old[2], nvt, m[D_CRITICAL_S])
            else:
                vbs = limit(asked_bs - vds, old[2] - old[1], nvt, m[D_CRITICAL_D]) + vds
        if vgs != asked_gs or vds != asked_ds or abs(vbs - asked_bs) > 1e-12 * abs(asked_ds):
            limited += 1
        old[0], old[1], old[2] = vgs, vds, vbs
        to_gs, to_ds, to_bs = asked_gs - vgs, asked_ds - vds, asked_bs - vbs
        i = current(m, vgs, vds, vbs)
        flow(f, g, nodes, slots, s, 0, 2, sign, follow(i, to_gs, to_ds, to_bs))
        i_s, g_s = _body_diode(m[D_IS_S], nvt, gmin, vbs)
        flow(f, g, nodes, slots, s, 3, 2, sign, follow((i_s, 0.0, 0.0, g_s), to_gs, to_ds, to_bs))
        i_d, g_d = _body_diode(m[D_IS_D], nvt, gmin, vbs - vds)
        flow(f, g, nodes, slots, s, 3, 0, sign, follow((i_d, 0.0, -g_d, g_d), to_gs, to_ds, to_bs))
        if options[CHARGES] != 0.0:
            _load_charges(m, nodes, slots, s, sign, vgs, vds, vbs, q, c)
        for end in range(2):
            conductance = m[D_GD + end]
            if conductance > 0.0:
                outer, inner, e = nodes[4 + end], nodes[2 * end], s + FLOW_ENTRIES + 3 * end
                f[outer] += conductance * (x[outer] - x[inner])
                f[inner] -= conductance * (x[outer] - x[inner])
                g[slots[e]] += conductance
                g[slots[e + 1]] -= conductance
                g[slots[e + 2]] -= conductance
                g[slots[s + 10 * end]] += conductance
    return limited


@kernel
def _load_charges(
    m: Floats, nodes: Integers, slots: Integers, s: int, sign: float, vgs: float, vds: float, vbs: float,
    q: Floats, c: Floats,
) -> None:  # fmt: skip
    for part in range(2):
        grading, potential = m[D_MJ + part], m[D_PB] if part == 0 else m[D_PBSW]
        charge, capacitance = depletion(vbs, m[D_CBS + 2 * part], potential, grading, m[D_FC])
        if part == 0 and m[D_TT] > 0.0:
            i, conductance = _body_diode(m[D_IS_S], m[D_NVT], 0.0, vbs)
            charge, capacitance = charge + m[D_TT] * i, capacitance + m[D_TT] * conductance
        flow(q, c, nodes, slots, s, 3, 2, sign, (charge, 0.0, 0.0, capacitance))
        charge, capacitance = depletion(vbs - vds, m[D_CBD + 2 * part], potential, grading, m[D_FC])
        if part == 0 and m[D_TT] > 0.0:
            i, conductance = _body_diode(m[D_IS_D], m[D_NVT], 0.0, vbs - vds)
            charge, capacitance = charge + m[D_TT] * i, capacitance + m[D_TT] * conductance
        flow(q, c, nodes, slots, s, 3, 0, sign, (charge, 0.0, -capacitance, capacitance))
    flow(q, c, nodes, slots, s, 1, 2, sign, (m[D_CGSO] * vgs, m[D_CGSO], 0.0, 0.0))
    flow(q, c, nodes, slots, s, 1, 0, sign, (m[D_CGDO] * (vgs - vds), m[D_CGDO], -m[D_CGDO], 0.0))
    flow(q, c, nodes, slots, s, 1, 3, sign, (m[D_CGBO] * (vgs - vbs), m[D_CGBO], 0.0, -m[D_CGBO]))
    if m[D_GATE] > 0.0:
        drain, source, bulk = _channel_charges(m, vgs, vds, vbs)
        flow(q, c, nodes, slots, s, 0, 1, sign, drain)
        flow(q, c, nodes, slots, s, 2, 1, sign, source)
        flow(q, c, nodes, slots, s, 3, 1, sign, bulk)


@noise_kernel
def noise(head: Integers, table: Integers, derived: Floats, x: Floats, omega: float, out: Floats) -> None:
    for k in range(head[COUNT]):
        m, nodes = at(derived, head[DERIVED] + KEPT * k), at(table, head[TABLE] + NODES * k)
        sign, base = m[D_SIGN], x[nodes[2]]
        i, gm, _, _ = current(
            m, sign * (x[nodes[1]] - base), sign * (x[nodes[0]] - base), sign * (x[nodes[3]] - base)
        )  # fmt: skip
        for j in range(3):
            out[9 * k + 3 * j], out[9 * k + 3 * j + 1], out[9 * k + 3 * j + 2] = 0.0, 0.0, 1.0
        out[9 * k] = m[D_FOUR_KT] * m[D_GD]
        out[9 * k + 3] = m[D_FOUR_KT] * m[D_GS]
        out[9 * k + 6] = 2.0 / 3.0 * m[D_FOUR_KT] * abs(gm)
        out[9 * k + 7] = m[D_FLICKER] * abs(i) ** m[D_AF]


FAMILY = Family(
    name="mosfet",
    title="MOS transistor",
    parameters=PARAMETER_TABLE,
    dynamic=frozenset({"cbd", "cbs", "cgso", "cgdo", "cgbo", "cj", "mj", "cjsw", "mjsw", "pd", "ps", "fc", "kf", "af"}),
    pins=("drain", "gate", "source", "bulk"),
    connect=_connect,
    update=update,
    load=load,
    noise=noise,
    mechanisms=("thermal (RD)", "thermal (RS)", "channel"),
    derived=KEPT,
    state=3,
    paths=((0, 2), (0, 3), (2, 3)),
    gates=(1,),
)
