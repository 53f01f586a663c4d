"""What the S-parameters of a network say in other words: Z, Y and H, impedances seen, stability and gain.

All of `s` [F, ports, ports] at real reference resistances [ports] in Ω; NaN where a form does not exist. Conversions as
in Pozar, Microwave Engineering, table 4.2 (from memory), written as matrices; K as in Rollett 1962, μ as in Edwards and
Sinsky 1992.
"""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Complexes, Floats

#: Waves whose power is no more than this of another's are rounding.
_ROUNDING = 1e-10


def to_z(s: Complexes, resistances: Floats) -> Complexes:
    """Impedances in Ω: √R (1 - S)⁻¹ (1 + S) √R."""
    root, one = np.sqrt(resistances), np.eye(len(resistances))
    return np.asarray(root[:, None] * _solved(one - s, one + s) * root)


def to_y(s: Complexes, resistances: Floats) -> Complexes:
    """Admittances in S: (1 + S)⁻¹ (1 - S) between 1/√R."""
    root, one = np.sqrt(resistances), np.eye(len(resistances))
    return np.asarray(_solved(one + s, one - s) / root[:, None] / root)


def to_h(s: Complexes, resistances: Floats) -> Complexes:
    """Hybrid parameters of two ports: h11 in Ω, h12 and h21 without unit, h22 in S."""
    y = to_y(s, resistances)
    y11, y12, y21, y22 = y[:, 0, 0], y[:, 0, 1], y[:, 1, 0], y[:, 1, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        rows = [[1.0 / y11, -y12 / y11], [y21 / y11, (y11 * y22 - y12 * y21) / y11]]
    return np.moveaxis(np.array(rows), 2, 0)


def from_form(form: str, values: Complexes, resistances: Floats) -> Complexes:
    """S [F, ports, ports] of "s", "z" (Ω), "y" (S), "h" or "g" parameters; the last two are those of two ports.

    Each says A v = B i; with v = √R (a + b) and i = (a - b) / √R, b = (A √R + B / √R)⁻¹ (B / √R - A √R) a. NaN where
    there is none.
    """
    if form == "s":
        return values
    root = np.sqrt(resistances)
    a, b = np.zeros(values.shape, complex), np.zeros(values.shape, complex)
    if form in ("z", "y"):
        a[:], b[:] = (np.eye(len(root)), values) if form == "z" else (values, np.eye(len(root)))
    else:
        # h: v1 and i2 by i1 and v2; g: i1 and v2 by v1 and i2.
        known, other = (0, 1) if form == "h" else (1, 0)
        a[:, known, known] = 1.0
        a[:, :, other] -= values[:, :, other]
        b[:, :, known] += values[:, :, known]
        b[:, other, other] -= 1.0
    return _solved(np.asarray(a * root + b / root), np.asarray(b / root - a * root))


def seen(s: Complexes, resistances: Floats) -> Complexes:
    """What each port shows while all others are closed by their own resistances, in Ω: [F, ports]."""
    own = np.diagonal(s, axis1=1, axis2=2)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(resistances * (1.0 + own) / (1.0 - own))


def rollett(s: Complexes) -> Floats:
    """K: above 1, with |Δ| < 1, no passive source and load makes two ports oscillate. NaN where it is but rounding."""
    s11, s12, s21, s22, delta = _two(s)
    left = 1.0 - np.abs(s11) ** 2 - np.abs(s22) ** 2 + np.abs(delta) ** 2
    with np.errstate(divide="ignore", invalid="ignore"):
        k = left / (2.0 * np.abs(s12 * s21))
    return np.where(np.abs(left) > _ROUNDING, k, np.nan)


def mu(s: Complexes) -> Floats:
    """μ: above 1 no passive source and load makes two ports oscillate. NaN where all comes back, but for rounding."""
    s11, s12, s21, s22, delta = _two(s)
    taken = 1.0 - np.abs(s11) ** 2
    with np.errstate(divide="ignore", invalid="ignore"):
        found = taken / (np.abs(s22 - delta * s11.conj()) + np.abs(s12 * s21))
    return np.where(np.abs(taken) > _ROUNDING, found, np.nan)


def largest_gain(s: Complexes) -> Floats:
    """The power gain with both ports matched, where that is stable; else the largest one that is, |s21 / s12|."""
    _, s12, s21, _, _ = _two(s)
    k = rollett(s)
    with np.errstate(divide="ignore", invalid="ignore"):
        most = np.abs(s21 / s12)
        return np.asarray(np.where(k > 1.0, most / (k + np.sqrt(np.maximum(k**2 - 1.0, 0.0))), most))


def _two(s: Complexes) -> tuple[Complexes, ...]:
    s11, s12, s21, s22 = s[:, 0, 0], s[:, 0, 1], s[:, 1, 0], s[:, 1, 1]
    return s11, s12, s21, s22, s11 * s22 - s12 * s21


def _solved(a: Complexes, b: Complexes) -> Complexes:
    """a⁻¹ b for each frequency; NaN where a has no inverse."""
    found = np.full(np.broadcast_shapes(a.shape, b.shape), np.nan + 0j)
    regular = np.abs(np.linalg.det(a)) > 1e-14
    found[regular] = np.linalg.solve(a[regular], np.broadcast_to(b, found.shape)[regular])
    return found
