"""Sparse LU for LANES complex systems of one pattern side by side: the frequencies of a response.

Real and imaginary halves lie apart: row e of a value array is [re of lane 0..LANES-1, im of lane 0..LANES-1], so that
the innermost loops run along memory. The elimination is a plan of engine/lane_plan.py; all arrays are pointers.

What is on the right turns into the solution in place: row r stands from the beginning at its place, that of the unknown
that its pivot is to give (PLACE). Pivots divide their rows, not their columns (Crout's form; Golub and Van Loan,
"Matrix Computations"), so that going back, where a large circuit's factors come from memory, needs no pivots.
"""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.engine.circuit import copy, fill
from verdad_core.engine.linear import (
    BORN,
    BORN_ENTRY,
    BORN_ROW,
    ENTRIES,
    LOWER,
    LOWER_ENTRY,
    LOWER_ROW,
    ORDER,
    PIVOT_COLUMN,
    PIVOT_ENTRY,
    PIVOT_ROW,
    PLACE,
    TARGET,
    UPPER,
    UPPER_COLUMN,
    UPPER_ENTRY,
)
from verdad_core.jit import at, kernel, pointer, prefetch

#: Frequencies that are factored side by side.
LANES = 16
WIDE = 2 * LANES

#: Steps of the elimination before which memory is asked for, and numbers in a line of the cache.
AHEAD, LINE = 3, 8


@kernel
def entry_of(g: Floats, c: Floats, omega: Floats, extra: Floats, extras: int, e: int, into: Floats) -> None:
    """Position e of LANES matrices g + jω c + extra [WIDE]; extra [extras, WIDE], omega [LANES]."""
    by_g, by_c = g[e], c[e]
    for w in range(LANES):
        into[w], into[LANES + w] = by_g, omega[w] * by_c
    if extras > 0:
        added = at(extra, WIDE * e)
        for w in range(WIDE):
            into[w] += added[w]


@kernel
def fill_lanes(re: float, im: float, into: Floats) -> None:
    """One number in all lanes [WIDE]."""
    for w in range(LANES):
        into[w], into[LANES + w] = re, im


@kernel
def _ask_for(row: Floats) -> None:
    """Bring a row [WIDE] into the cache before it is needed."""
    for line in range(0, WIDE, LINE):
        prefetch(at(row, line))


@kernel
def eliminate_lanes(
    plan_: Integers, factors: Floats, g: Floats, c: Floats, omega: Floats, extra: Floats, nnz: int, extras: int,
    right: Floats, x: Floats,
) -> None:  # fmt: skip
    """Factor LANES complex matrices side by side (see `entry_of`) into factors [STORAGE, WIDE], and what is on the
    right of all of them, right [2, n + 1], into x [n, WIDE].

    What is left in x is for `back_lanes`. Every entry is filled in when it is first needed, so that a large circuit's
    goes through memory once. Zero pivots give non-finite results.
    """
    steps, a = pointer(plan_), pointer(factors)
    n, entries = steps[ORDER], steps[ENTRIES]
    imaginary, place = at(right, n + 1), steps[PLACE]
    pivot_column, pivot_entry, lower, upper = steps[PIVOT_COLUMN], steps[PIVOT_ENTRY], steps[LOWER], steps[UPPER]
    lower_entry, lower_row = steps[LOWER_ENTRY], steps[LOWER_ROW]
    upper_entry, target = steps[UPPER_ENTRY], steps[TARGET]
    born, born_entry, born_row = steps[BORN], steps[BORN_ENTRY], steps[BORN_ROW]
    for k in range(n):
        soon = min(k + AHEAD, n - 1)
        for j in range(steps[born + soon], steps[born + soon + 1]):
            _ask_for(at(a if steps[born_entry + j] < entries else x, WIDE * steps[born_row + j]))
        for j in range(steps[born + k], steps[born + k + 1]):
            e, there = steps[born_entry + j], WIDE * steps[born_row + j]
            if e < nnz:
                entry_of(g, c, omega, extra, extras, e, at(a, there))
            elif e < entries:
                fill(at(a, there), WIDE, 0.0)
            else:
                fill_lanes(right[e - entries], imaginary[e - entries], at(x, there))
        p, y = at(a, WIDE * steps[pivot_entry + k]), at(x, WIDE * steps[pivot_column + k])
        for w in range(LANES):
            re, im = p[w], p[LANES + w]
            scale = 1.0 / (re * re + im * im)
            p[w], p[LANES + w] = re * scale, -im * scale
        _multiply(p, y)
        first, last = steps[upper + k], steps[upper + k + 1]
        for up in range(first, last):
            _multiply(p, at(a, WIDE * steps[upper_entry + up]))
        for low in range(steps[lower + k], steps[lower + k + 1]):
            m, r = at(a, WIDE * steps[lower_entry + low]), at(x, WIDE * steps[place + steps[lower_row + low]])
            _subtract(m, y, r)
            for up in range(first, last):
                _subtract(m, at(a, WIDE * steps[upper_entry + up]), at(a, WIDE * steps[target]))
                target += 1


@kernel
def _multiply(p: Floats, t: Floats) -> None:
    """T = p T in all lanes."""
    for w in range(LANES):
        re, im = t[w], t[LANES + w]
        t[w], t[LANES + w] = re * p[w] - im * p[LANES + w], re * p[LANES + w] + im * p[w]


@kernel
def _subtract(m: Floats, u: Floats, t: Floats) -> None:
    """T -= m u in all lanes."""
    for w in range(LANES):
        t[w] -= m[w] * u[w] - m[LANES + w] * u[LANES + w]
        t[LANES + w] -= m[w] * u[LANES + w] + m[LANES + w] * u[w]


@kernel
def back_lanes(plan_: Integers, factors: Floats, x: Floats, largest: Floats) -> None:
    """The second half of `solve_lanes`: what the elimination has left in x [n, WIDE] -> the solutions.

    The size of the largest unknown is left in largest [LANES].
    """
    steps, a = pointer(plan_), pointer(factors)
    n = steps[ORDER]
    pivot_column, upper = steps[PIVOT_COLUMN], steps[UPPER]
    upper_entry, upper_column = steps[UPPER_ENTRY], steps[UPPER_COLUMN]
    fill(largest, LANES, 0.0)
    for k in range(n - 1, -1, -1):
        soon = max(k - AHEAD, 0)
        _ask_for(at(x, WIDE * steps[pivot_column + soon]))
        for up in range(steps[upper + soon], steps[upper + soon + 1]):
            _ask_for(at(a, WIDE * steps[upper_entry + up]))
        v = at(x, WIDE * steps[pivot_column + k])
        for up in range(steps[upper + k], steps[upper + k + 1]):
            _subtract(at(a, WIDE * steps[upper_entry + up]), at(x, WIDE * steps[upper_column + up]), v)
        for w in range(LANES):
            largest[w] = max(largest[w], abs(v[w]) + abs(v[LANES + w]))


@kernel
def solve_lanes(plan_: Integers, factors: Floats, x: Floats, largest: Floats) -> None:
    """LANES complex systems side by side: right sides in x [n, WIDE], each row at its place -> solutions by unknown.

    The size of the largest unknown is left in largest [LANES].
    """
    steps, a = pointer(plan_), pointer(factors)
    pivot_column, pivot_entry, place = steps[PIVOT_COLUMN], steps[PIVOT_ENTRY], steps[PLACE]
    lower, lower_entry, lower_row = steps[LOWER], steps[LOWER_ENTRY], steps[LOWER_ROW]
    for k in range(steps[ORDER]):
        y = at(x, WIDE * steps[pivot_column + k])
        _multiply(at(a, WIDE * steps[pivot_entry + k]), y)
        for low in range(steps[lower + k], steps[lower + k + 1]):
            _subtract(at(a, WIDE * steps[lower_entry + low]), y, at(x, WIDE * steps[place + steps[lower_row + low]]))
    back_lanes(plan_, factors, x, largest)


@kernel
def solve_transposed_lanes(plan_: Integers, factors: Floats, b: Floats, x: Floats) -> None:
    """The transposed (not conjugated) systems: b by unknown [n, WIDE] (overwritten) -> x by row [n, WIDE]."""
    steps, a = pointer(plan_), pointer(factors)
    n = steps[ORDER]
    pivot_row, pivot_column, pivot_entry = steps[PIVOT_ROW], steps[PIVOT_COLUMN], steps[PIVOT_ENTRY]
    lower, upper = steps[LOWER], steps[UPPER]
    lower_entry, lower_row = steps[LOWER_ENTRY], steps[LOWER_ROW]
    upper_entry, upper_column = steps[UPPER_ENTRY], steps[UPPER_COLUMN]
    for k in range(n):
        y = at(b, WIDE * steps[pivot_column + k])
        copy(y, at(x, WIDE * steps[pivot_row + k]), WIDE)
        for up in range(steps[upper + k], steps[upper + k + 1]):
            _subtract(at(a, WIDE * steps[upper_entry + up]), y, at(b, WIDE * steps[upper_column + up]))
    for k in range(n - 1, -1, -1):
        v = at(x, WIDE * steps[pivot_row + k])
        for low in range(steps[lower + k], steps[lower + k + 1]):
            _subtract(at(a, WIDE * steps[lower_entry + low]), at(x, WIDE * steps[lower_row + low]), v)
        _multiply(at(a, WIDE * steps[pivot_entry + k]), v)
