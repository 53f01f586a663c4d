"""Sparse LU for LANES complex systems of one pattern side by side: the frequencies of a response.

Real and imaginary halves lie apart: row e of a value array is [re of lane 0..LANES-1, im of lane 0..LANES-1], so that
the innermost loops run along memory. The elimination is a plan of engine/linear.py; all arrays are pointers.
"""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.engine.linear import (
    LOWER,
    LOWER_ENTRY,
    LOWER_ROW,
    ORDER,
    PIVOT_COLUMN,
    PIVOT_ENTRY,
    PIVOT_ROW,
    TARGET,
    UPPER,
    UPPER_COLUMN,
    UPPER_ENTRY,
)
from verdad_core.jit import at, kernel

#: Frequencies that are factored side by side.
LANES = 16
WIDE = 2 * LANES


@kernel
def factor_lanes(steps: Integers, a: Floats) -> None:
    """`factor` for LANES complex matrices side by side, `a` [STORAGE, 2 LANES]. Zero pivots give non-finite results."""
    n = steps[ORDER]
    pivot_entry, lower, upper = steps[PIVOT_ENTRY], steps[LOWER], steps[UPPER]
    lower_entry, upper_entry, target = steps[LOWER_ENTRY], steps[UPPER_ENTRY], steps[TARGET]
    for k in range(n):
        p = at(a, WIDE * steps[pivot_entry + k])
        for w in range(LANES):
            re, im = p[w], p[LANES + w]
            scale = 1.0 / (re * re + im * im)
            p[w], p[LANES + w] = re * scale, -im * scale
        first, last = steps[upper + k], steps[upper + k + 1]
        for low in range(steps[lower + k], steps[lower + k + 1]):
            m = at(a, WIDE * steps[lower_entry + low])
            for w in range(LANES):
                re, im = m[w], m[LANES + w]
                m[w], m[LANES + w] = re * p[w] - im * p[LANES + w], re * p[LANES + w] + im * p[w]
            for up in range(first, last):
                t, u = at(a, WIDE * steps[target]), at(a, WIDE * steps[upper_entry + up])
                target += 1
                for w in range(LANES):
                    t[w] -= m[w] * u[w] - m[LANES + w] * u[LANES + w]
                    t[LANES + w] -= m[w] * u[LANES + w] + m[LANES + w] * u[w]


@kernel
def solve_lanes(steps: Integers, a: Floats, b: Floats, x: Floats) -> None:
    """`solve` for LANES complex systems side by side: b [n, 2 LANES] (overwritten) -> x [n, 2 LANES]."""
    n = steps[ORDER]
    pivot_row, pivot_column, pivot_entry = steps[PIVOT_ROW], steps[PIVOT_COLUMN], steps[PIVOT_ENTRY]
    lower, upper = steps[LOWER], steps[UPPER]
    lower_entry, lower_row = steps[LOWER_ENTRY], steps[LOWER_ROW]
    upper_entry, upper_column = steps[UPPER_ENTRY], steps[UPPER_COLUMN]
    for k in range(n):
        y = at(b, WIDE * steps[pivot_row + k])
        for low in range(steps[lower + k], steps[lower + k + 1]):
            t, m = at(b, WIDE * steps[lower_row + low]), at(a, WIDE * steps[lower_entry + low])
            for w in range(LANES):
                t[w] -= m[w] * y[w] - m[LANES + w] * y[LANES + w]
                t[LANES + w] -= m[w] * y[LANES + w] + m[LANES + w] * y[w]
    for k in range(n - 1, -1, -1):
        y = at(b, WIDE * steps[pivot_row + k])
        for up in range(steps[upper + k], steps[upper + k + 1]):
            u, v = at(a, WIDE * steps[upper_entry + up]), at(x, WIDE * steps[upper_column + up])
            for w in range(LANES):
                y[w] -= u[w] * v[w] - u[LANES + w] * v[LANES + w]
                y[LANES + w] -= u[w] * v[LANES + w] + u[LANES + w] * v[w]
        p, v = at(a, WIDE * steps[pivot_entry + k]), at(x, WIDE * steps[pivot_column + k])
        for w in range(LANES):
            v[w] = y[w] * p[w] - y[LANES + w] * p[LANES + w]
            v[LANES + w] = y[w] * p[LANES + w] + y[LANES + w] * p[w]


@kernel
def solve_transposed_lanes(steps: Integers, a: Floats, b: Floats, x: Floats) -> None:
    """The transposed (not conjugated) systems: b by unknown [n, 2 LANES] (overwritten) -> x by row [n, 2 LANES]."""
    n = steps[ORDER]
    pivot_row, pivot_column, pivot_entry = steps[PIVOT_ROW], steps[PIVOT_COLUMN], steps[PIVOT_ENTRY]
    lower, upper = steps[LOWER], steps[UPPER]
    lower_entry, lower_row = steps[LOWER_ENTRY], steps[LOWER_ROW]
    upper_entry, upper_column = steps[UPPER_ENTRY], steps[UPPER_COLUMN]
    for k in range(n):
        y, v = at(b, WIDE * steps[pivot_column + k]), at(x, WIDE * steps[pivot_row + k])
        p = at(a, WIDE * steps[pivot_entry + k])
        for w in range(LANES):
            v[w] = y[w] * p[w] - y[LANES + w] * p[LANES + w]
            v[LANES + w] = y[w] * p[LANES + w] + y[LANES + w] * p[w]
        for up in range(steps[upper + k], steps[upper + k + 1]):
            t, u = at(b, WIDE * steps[upper_column + up]), at(a, WIDE * steps[upper_entry + up])
            for w in range(LANES):
                t[w] -= u[w] * v[w] - u[LANES + w] * v[LANES + w]
                t[LANES + w] -= u[w] * v[LANES + w] + u[LANES + w] * v[w]
    for k in range(n - 1, -1, -1):
        v = at(x, WIDE * steps[pivot_row + k])
        for low in range(steps[lower + k], steps[lower + k + 1]):
            t, m = at(x, WIDE * steps[lower_row + low]), at(a, WIDE * steps[lower_entry + low])
            for w in range(LANES):
                v[w] -= m[w] * t[w] - m[LANES + w] * t[LANES + w]
                v[LANES + w] -= m[w] * t[LANES + w] + m[LANES + w] * t[w]
