"""Numbers that carry their derivatives to three voltages, for device equations with many branches.

A dual is (value, d/dv1, d/dv2, d/dv3); Wengert, "A simple automatic derivative evaluation program", CACM 7, 1964.
"""

from __future__ import annotations

import math

from verdad_core.jit import kernel

Dual = tuple[float, float, float, float]


@kernel
def constant(value: float) -> Dual:
    return value, 0.0, 0.0, 0.0


@kernel
def add(a: Dual, b: Dual) -> Dual:
    return a[0] + b[0], a[1] + b[1], a[2] + b[2], a[3] + b[3]


@kernel
def sub(a: Dual, b: Dual) -> Dual:
    return a[0] - b[0], a[1] - b[1], a[2] - b[2], a[3] - b[3]


@kernel
def shift(a: Dual, by: float) -> Dual:
    """A + by."""
    return a[0] + by, a[1], a[2], a[3]


@kernel
def scale(a: Dual, by: float) -> Dual:
    """A * by."""
    return a[0] * by, a[1] * by, a[2] * by, a[3] * by


@kernel
def mul(a: Dual, b: Dual) -> Dual:
    return chain(a[0] * b[0], b[0], a, a[0], b)


@kernel
def div(a: Dual, b: Dual) -> Dual:
    value = a[0] / b[0]
    return chain(value, 1.0 / b[0], a, -value / b[0], b)


@kernel
def chain(value: float, by_a: float, a: Dual, by_b: float, b: Dual) -> Dual:
    """A function of a and b, from its value and its derivatives to both."""
    return value, by_a * a[1] + by_b * b[1], by_a * a[2] + by_b * b[2], by_a * a[3] + by_b * b[3]


@kernel
def of(value: float, slope: float, a: Dual) -> Dual:
    """A function of a, from its value and its derivative."""
    return value, slope * a[1], slope * a[2], slope * a[3]


@kernel
def sqrt(a: Dual) -> Dual:
    root = math.sqrt(max(a[0], 0.0))
    return of(root, 0.5 / max(root, 1e-30), a)


@kernel
def exp(a: Dual) -> Dual:
    e = math.exp(min(a[0], 80.0))
    return of(e, e, a)


@kernel
def power(a: Dual, exponent: float) -> Dual:
    """A ** exponent for a above zero."""
    value = a[0] ** exponent
    return of(value, exponent * value / a[0], a)


@kernel
def soft_positive(a: Dual, width: float) -> Dual:
    """A where it is well above zero, zero well below: width ln(1 + exp(a / width))."""
    u = a[0] / width
    if u > 40.0:
        return a
    e = math.exp(u)
    return of(width * math.log1p(e), e / (1.0 + e), a)
