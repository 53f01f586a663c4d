"""Drain current of MOS transistors, levels 1, 2 and 3, for a drain-source voltage not below zero.

Sources: Shichman and Hodges, 1968 (level 1); Vladimirescu and Liu, "The simulation of MOS integrated circuits using
SPICE2", UCB/ERL M80/7, 1980 (levels 2 and 3); Antognetti and Massobrio, "Semiconductor Device Modeling with SPICE",
1988, chapter 4. Voltages are those of an n channel, as duals with derivatives to vgs, vds and vbs; lengths in metres,
capacitance per area in F/m².

Where the channel's carriers reach their largest speed in level 2 is the root of a fourth-order polynomial (Baum and
Beneking, "Drift velocity saturation in MOS transistors", IEEE Trans. Electron Devices 17, 1970); it is found here by
bisection, and its derivatives by one step of Newton's method in duals.
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats
from verdad_core.devices import dual
from verdad_core.devices.dual import Dual
from verdad_core.jit import kernel

# Where `model` holds what the equations need.
(LEVEL, VBI, BETA, GAMMA, PHI, LAMBDA, COX, LENGTH, WIDTH, UO, UCRIT, UEXP, VMAX, NEFF, NFS, XJ, LD, XD, NARROW, THETA,
 ETA, KAPPA, VT, WALL) = range(24)  # fmt: skip
SIZE = 24

ELECTRON = 1.602176634e-19


@kernel
def drain_current(m: Floats, vgs: float, vds: float, vbs: float) -> Dual:
    """The current in A from drain to source."""
    gs, ds, bs = (vgs, 1.0, 0.0, 0.0), (vds, 0.0, 1.0, 0.0), (vbs, 0.0, 0.0, 1.0)
    if m[LEVEL] == 1.0:
        return _level_1(m, gs, ds, bs)
    if m[LEVEL] == 2.0:
        return _level_2(m, gs, ds, bs)
    return _level_3(m, gs, ds, bs)


@kernel
def _depletion_root(m: Floats, bs: Dual) -> Dual:
    """sqrt(PHI - vbs), going on as a hyperbola into forward bias."""
    if bs[0] <= 0.0:
        return dual.sqrt(dual.shift(dual.scale(bs, -1.0), m[PHI]))
    return dual.div(dual.constant(math.sqrt(m[PHI])), dual.shift(dual.scale(bs, 0.5 / m[PHI]), 1.0))


@kernel
def _level_1(m: Floats, gs: Dual, ds: Dual, bs: Dual) -> Dual:
    threshold = dual.shift(dual.scale(_depletion_root(m, bs), m[GAMMA]), m[VBI])
    over = dual.sub(gs, threshold)
    if over[0] <= 0.0:
        return dual.constant(0.0)
    modulation = dual.scale(dual.shift(dual.scale(ds, m[LAMBDA]), 1.0), m[BETA])
    if over[0] <= ds[0]:
        return dual.mul(modulation, dual.scale(dual.mul(over, over), 0.5))
    return dual.mul(modulation, dual.mul(dual.sub(over, dual.scale(ds, 0.5)), ds))


@kernel
def _baum_beneking(m: Floats, drive: Dual, v2: Dual, root: Dual, gamma: Dual, mobility: Dual) -> Dual:
    """Drain voltage at which carriers reach VMAX; `drive` is the gate's overdrive over the bulk factor."""
    v1 = dual.add(drive, v2)
    speed = dual.div(dual.constant(m[VMAX] * m[LENGTH]), mobility)
    a = dual.scale(gamma, 4.0 / 3.0)
    b = dual.scale(dual.add(v1, speed), -2.0)
    c = dual.scale(dual.mul(gamma, speed), -2.0)
    d = dual.scale(dual.mul(v1, dual.add(v2, speed)), 2.0)
    d = dual.sub(d, dual.mul(v2, v2))
    d = dual.sub(d, dual.scale(dual.mul(gamma, dual.mul(root, dual.mul(root, root))), 4.0 / 3.0))
    low, high = root[0], math.sqrt(max(v1[0], root[0] * root[0]))
    for _ in range(60):
        y = 0.5 * (low + high)
        if (((y + a[0]) * y + b[0]) * y + c[0]) * y + d[0] > 0.0:
            low = y
        else:
            high = y
    y = 0.5 * (low + high)
    slope = ((4.0 * y + 3.0 * a[0]) * y + 2.0 * b[0]) * y + c[0]
    exact = dual.constant(y)
    value = dual.add(dual.mul(dual.add(dual.mul(dual.add(dual.mul(dual.add(exact, a), exact), b), exact), c), exact), d)
    if slope == 0.0:
        return dual.constant(max(y * y - v2[0], 0.0))
    exact = dual.sub(exact, dual.scale(value, 1.0 / slope))
    return dual.sub(dual.mul(exact, exact), v2)


@kernel
def _level_2(m: Floats, gs: Dual, ds: Dual, bs: Dual) -> Dual:
    v2 = dual.shift(dual.scale(bs, -1.0), m[PHI])
    root = _depletion_root(m, bs)
    if bs[0] > 0.0:
        v2 = dual.mul(root, root)
    drain_root = dual.sqrt(dual.add(v2, ds))
    gamma = dual.constant(m[GAMMA])
    if m[XJ] > 0.0 and m[GAMMA] > 0.0:
        # Charge shared with source and drain (Yau 1974).
        share = 0.5 * m[XJ] / m[LENGTH]
        at_source = dual.sqrt(dual.shift(dual.scale(root, 2.0 * m[XD] / m[XJ]), 1.0))
        at_drain = dual.sqrt(dual.shift(dual.scale(drain_root, 2.0 * m[XD] / m[XJ]), 1.0))
        lost = dual.scale(dual.shift(dual.add(at_source, at_drain), -2.0), share)
        gamma = dual.scale(dual.shift(dual.scale(lost, -1.0), 1.0), m[GAMMA])
    bulk = 1.0 + m[NARROW]
    barrier = dual.shift(dual.scale(v2, m[NARROW]), m[VBI])
    threshold = dual.add(barrier, dual.mul(gamma, root))
    on, slope = threshold, dual.constant(1.0)
    if m[NFS] > 0.0:
        depletion = dual.div(dual.scale(gamma, 0.5), root)
        slope = dual.shift(depletion, 1.0 + ELECTRON * m[NFS] / m[COX] + m[NARROW])
        on = dual.add(threshold, dual.scale(slope, m[VT]))
    elif gs[0] <= threshold[0]:
        return dual.constant(0.0)
    weak = gs[0] < on[0]
    gate = on if weak else gs
    over = dual.sub(gate, threshold)
    loss = dual.constant(1.0)
    if m[UCRIT] > 0.0 and m[COX] > 0.0:
        critical = m[UCRIT] * 1.0359433e-10 / m[COX]
        if over[0] > critical:
            loss = dual.power(dual.scale(over, 1.0 / critical), -m[UEXP])
    drive = dual.scale(dual.sub(gate, barrier), 1.0 / bulk)
    scaled = dual.scale(gamma, 1.0 / bulk)
    saturation = drive
    if m[GAMMA] > 0.0:
        square = dual.mul(scaled, scaled)
        inside = dual.shift(dual.scale(dual.div(dual.add(drive, v2), square), 4.0), 1.0)
        saturation = dual.constant(0.0)
        if inside[0] > 1.0:
            back = dual.shift(dual.scale(dual.sqrt(inside), -1.0), 1.0)
            saturation = dual.add(drive, dual.scale(dual.mul(square, back), 0.5))
    mobility = dual.scale(loss, m[UO])
    if m[VMAX] > 0.0:
        saturation = _baum_beneking(m, drive, v2, root, scaled, mobility)
    if saturation[0] < 0.0:
        saturation = dual.constant(0.0)
    shortening = dual.scale(ds, m[LAMBDA])
    if m[LAMBDA] == 0.0 and m[XD] > 0.0:
        beyond = dual.sub(ds, saturation)
        if m[VMAX] <= 0.0:
            quarter = dual.scale(beyond, 0.25)
            rooted = dual.sqrt(dual.shift(dual.mul(quarter, quarter), 1.0))
            shortening = dual.scale(dual.sqrt(dual.add(quarter, rooted)), m[XD] / m[LENGTH])
        elif beyond[0] > 0.0:
            depth = m[XD] / math.sqrt(m[NEFF])
            field = dual.div(dual.constant(0.5 * m[VMAX] * depth), mobility)
            reach = dual.sub(dual.sqrt(dual.add(dual.mul(field, field), beyond)), field)
            shortening = dual.scale(reach, depth / m[LENGTH])
        else:
            shortening = dual.constant(0.0)
    left = dual.shift(dual.scale(shortening, -1.0), 1.0)
    least = m[WALL] / m[LENGTH]
    if left[0] < least and least > 0.0:
        # The drain's depletion layer reaches the source's: punch-through.
        past = dual.shift(dual.scale(dual.shift(shortening, least - 1.0), 1.0 / least), 1.0)
        left = dual.div(dual.constant(least), past)
    end, end_root = ds, drain_root
    if ds[0] > saturation[0]:
        end = saturation
        end_root = dual.sqrt(dual.add(v2, saturation))
    body = dual.sub(dual.mul(end_root, dual.mul(end_root, end_root)), dual.mul(root, dual.mul(root, root)))
    charge = dual.mul(dual.sub(dual.sub(gate, barrier), dual.scale(end, 0.5 * bulk)), end)
    charge = dual.sub(charge, dual.scale(dual.mul(gamma, body), 2.0 / 3.0))
    current = dual.scale(dual.div(dual.mul(charge, loss), left), m[BETA])
    if weak:
        current = dual.mul(current, dual.exp(dual.div(dual.sub(gs, on), dual.scale(slope, m[VT]))))
    return current


@kernel
def _level_3(m: Floats, gs: Dual, ds: Dual, bs: Dual) -> Dual:
    root = _depletion_root(m, bs)
    v2 = dual.mul(root, root)
    short = dual.constant(1.0)
    if m[XJ] > 0.0:
        # Charge shared with source and drain (Dang 1979).
        depth = dual.scale(root, m[XD] / m[XJ])
        curved = dual.add(
            dual.shift(dual.scale(depth, 0.8013292), 0.0631353), dual.scale(dual.mul(depth, depth), -0.01110777)
        )
        inside = dual.div(depth, dual.shift(depth, 1.0))
        rest = dual.sqrt(dual.shift(dual.scale(dual.mul(inside, inside), -1.0), 1.0))
        shared = dual.mul(dual.shift(curved, m[LD] / m[XJ]), rest)
        short = dual.shift(dual.scale(dual.shift(shared, -m[LD] / m[XJ]), -m[XJ] / m[LENGTH]), 1.0)
    gamma = dual.scale(short, m[GAMMA])
    body = dual.shift(dual.div(dual.scale(gamma, 0.25), root), m[NARROW])
    bulk_charge = dual.add(dual.mul(gamma, root), dual.scale(v2, m[NARROW]))
    lowering = 8.15e-22 * m[ETA] / (m[COX] * m[LENGTH] ** 3)
    threshold = dual.add(dual.shift(dual.scale(ds, -lowering), m[VBI]), bulk_charge)
    on, slope = threshold, dual.constant(1.0)
    if m[NFS] > 0.0:
        slope = dual.shift(dual.div(dual.scale(bulk_charge, 0.5), v2), 1.0 + ELECTRON * m[NFS] / m[COX])
        on = dual.add(threshold, dual.scale(slope, m[VT]))
    elif gs[0] <= threshold[0]:
        return dual.constant(0.0)
    weak = gs[0] < on[0]
    over = dual.sub(on if weak else gs, threshold)
    loss = dual.div(dual.constant(1.0), dual.shift(dual.scale(over, m[THETA]), 1.0))
    factor = dual.shift(body, 1.0)
    saturation = dual.div(over, factor)
    inverse = dual.constant(0.0)
    if m[VMAX] > 0.0:
        critical = dual.div(dual.constant(m[VMAX] * m[LENGTH]), dual.scale(loss, m[UO]))
        inverse = dual.div(dual.constant(1.0), critical)
        both = dual.add(dual.mul(saturation, saturation), dual.mul(critical, critical))
        saturation = dual.sub(dual.add(saturation, critical), dual.sqrt(both))
    end = ds if ds[0] <= saturation[0] else saturation
    shape = dual.mul(dual.sub(over, dual.scale(dual.mul(factor, end), 0.5)), end)
    current = dual.scale(dual.mul(shape, loss), m[BETA])
    drop = dual.div(dual.constant(1.0), dual.shift(dual.mul(end, inverse), 1.0))
    current = dual.mul(current, drop)
    if ds[0] > saturation[0]:
        beyond = dual.sub(ds, saturation)
        alpha = m[XD] * m[XD]
        if m[VMAX] > 0.0:
            conductance = dual.mul(current, dual.mul(dual.shift(dual.scale(drop, -1.0), 1.0), inverse))
            if conductance[0] < 1e-12:
                conductance = dual.constant(1e-12)
            field = dual.div(dual.scale(current, m[KAPPA] / m[LENGTH]), conductance)
            half = dual.scale(field, 0.5 * alpha)
            inside = dual.add(dual.mul(half, half), dual.scale(beyond, m[KAPPA] * alpha))
            shortened = dual.sub(dual.sqrt(inside), half)
        else:
            shortened = dual.sqrt(dual.scale(beyond, m[KAPPA] * alpha))
        if shortened[0] > 0.5 * m[LENGTH]:
            # Punch-through.
            shortened = dual.shift(
                dual.scale(dual.div(dual.constant(1.0), shortened), -0.25 * m[LENGTH] ** 2), m[LENGTH]
            )
        left = dual.shift(dual.scale(shortened, -1.0 / m[LENGTH]), 1.0)
        current = dual.div(current, left)
    if weak:
        current = dual.mul(current, dual.exp(dual.div(dual.sub(gs, on), dual.scale(slope, m[VT]))))
    return current
