"""Sparse LU with a fixed pattern: order and fill once, then refactor from precomputed lists.

`plan` chooses pivots by Markowitz's rule with threshold pivoting (Markowitz 1957; Duff, Erisman, Reid, "Direct
Methods for Sparse Matrices", 1986) on representative values and records the elimination as flat lists of positions.
`factor` and `solve` then walk those lists, by pointers (jit.py); the assembled values are the first entries of the
factor's storage, so nothing is permuted or copied. engine/lanes.py does the same for complex systems side by side.

A plan is one integer array. Its header holds offsets into itself (see the constants). Index n stands for ground
wherever unknowns are listed; it never enters a matrix.
"""

from __future__ import annotations

import numpy as np
from numba.core import types

from verdad_core.arrays import Complexes, Floats, Integers
from verdad_core.jit import FLOATS, INTEGERS, caller, kernel, pointer, reached

#: A pivot must be at least this fraction of the largest entry left in its row.
THRESHOLD = 1e-3

#: A solution is accepted when its componentwise backward error (Oettli and Prager 1964) is below this.
BACKWARD_ERROR = 1e-9

#: A point with a backward error below this solves its equations but for rounding; above it a last elimination is
#: refined.
ROUNDED = 1e-14

#: In that error every unknown counts as at least this fraction of the largest one: an equation all of whose unknowns
#: are nearly zero cannot be solved to more digits than the others leave it (Arioli, Demmel, Duff 1989).
FLOOR = 1e-6

# Header of a plan: sizes, then where each list starts; the last ones are lane_plan.py's.
ORDER, STORAGE, PIVOT_ROW, PIVOT_COLUMN, PIVOT_ENTRY, LOWER, UPPER, LOWER_ENTRY, LOWER_ROW = range(9)
UPPER_ENTRY, UPPER_COLUMN, TARGET, ENTRIES, KEPT, PLACE, BORN, BORN_ENTRY, BORN_ROW, SINGLE = range(9, 19)
HEADER = 19


@kernel
def _grow_integers(old: Integers, used: int, size: int) -> Integers:
    new = np.empty(size, np.int32)
    for k in range(used):
        new[k] = old[k]
    return new


@kernel
def _grow_complexes(old: Complexes, used: int, size: int) -> Complexes:
    new = np.zeros(size, np.complex128)
    for k in range(used):
        new[k] = old[k]
    return new


@kernel
def _find_pivot(
    n: int, row_count: Integers, column_count: Integers, done_row: Integers, done_column: Integers,
    row_head: Integers, row_next: Integers, column: Integers, value: Complexes, by_count: Integers, next_row: Integers,
) -> int:  # fmt: skip
    """The entry with the smallest Markowitz product that is large enough in its row; -1 if all that is left is zero.

    Rows are searched in the order of their counts (`by_count` heads chained by `next_row`); after four rows that
    offer a pivot the best is taken (Zlatev 1980).
    """
    best, best_cost, best_size, seen = -1, np.int64(1) << 62, 0.0, 0
    for count in range(1, n + 1):
        if best >= 0 and (count - 1) * (count - 1) >= best_cost:
            break
        row = by_count[count]
        while row >= 0:
            largest = 0.0
            e = row_head[row]
            while e >= 0:
                if done_column[column[e]] == 0:
                    largest = max(largest, abs(value[e]))
                e = row_next[e]
            if largest > 0.0:
                e = row_head[row]
                while e >= 0:
                    size = abs(value[e])
                    if done_column[column[e]] == 0 and size >= THRESHOLD * largest:
                        cost = np.int64(count - 1) * np.int64(column_count[column[e]] - 1)
                        if cost < best_cost or (cost == best_cost and size > best_size):
                            best, best_cost, best_size = e, cost, size
                    e = row_next[e]
                seen += 1
                if seen >= 4:
                    return best
            row = next_row[row]
    return best


@kernel
def _unlink(row: int, count: int, by_count: Integers, next_row: Integers, previous_row: Integers) -> None:
    if previous_row[row] >= 0:
        next_row[previous_row[row]] = next_row[row]
    else:
        by_count[count] = next_row[row]
    if next_row[row] >= 0:
        previous_row[next_row[row]] = previous_row[row]


@kernel
def _link(row: int, count: int, by_count: Integers, next_row: Integers, previous_row: Integers) -> None:
    previous_row[row] = -1
    next_row[row] = by_count[count]
    if by_count[count] >= 0:
        previous_row[by_count[count]] = row
    by_count[count] = row


_PLAN = types.Array(types.int32, 1, "C")(types.int64, types.int64, INTEGERS, INTEGERS, FLOATS, FLOATS, types.int64)
call_plan = caller(_PLAN)


@reached(_PLAN)
def plan(n: int, nnz: int, rows: Integers, columns: Integers, re: Floats, im: Floats, stride: int) -> Integers:
    """The elimination of an n by n matrix with nnz entries at (rows[k], columns[k]).

    Entry k has the value re[stride k] + j im[stride k]; with stride 0 it is real and re[k]. Returns the
    plan, or an array of the unknowns that no pivot was left for, each as -1 - column, when the matrix is singular (its
    first element is then negative).
    """
    capacity = 4 * nnz + 16
    row, column, value = np.empty(capacity, np.int32), np.empty(capacity, np.int32), np.zeros(capacity, np.complex128)
    for e in range(nnz):
        row[e], column[e] = rows[e], columns[e]
        value[e] = complex(re[e], 0.0) if stride == 0 else complex(re[stride * e], im[stride * e])
    row_next, column_next = np.full(capacity, -1, np.int32), np.full(capacity, -1, np.int32)
    row_head, column_head = np.full(n, -1, np.int32), np.full(n, -1, np.int32)
    row_count, column_count = np.zeros(n, np.int32), np.zeros(n, np.int32)
    for e in range(nnz):
        row_next[e], row_head[row[e]] = row_head[row[e]], e
        column_next[e], column_head[column[e]] = column_head[column[e]], e
        row_count[row[e]] += 1
        column_count[column[e]] += 1
    by_count = np.full(n + 1, -1, np.int32)
    next_row, previous_row = np.full(n, -1, np.int32), np.full(n, -1, np.int32)
    for r in range(n):
        _link(r, row_count[r], by_count, next_row, previous_row)
    done_row, done_column = np.zeros(n, np.int32), np.zeros(n, np.int32)
    pivot = np.empty(n, np.int32)
    lower, upper = np.zeros(n + 1, np.int32), np.zeros(n + 1, np.int32)
    lower_entry, upper_entry = np.empty(capacity, np.int32), np.empty(capacity, np.int32)
    target = np.empty(8 * nnz + 16, np.int32)
    targets = 0
    where = np.full(n, -1, np.int32)
    storage = nnz
    for k in range(n):
        p = _find_pivot(n, row_count, column_count, done_row, done_column,
                        row_head, row_next, column, value, by_count, next_row)  # fmt: skip
        if p < 0:
            left = np.empty(n - k, np.int32)
            at = 0
            for c in range(n):
                if done_column[c] == 0:
                    left[at] = -1 - c
                    at += 1
            return left
        r0, c0 = row[p], column[p]
        pivot[k] = p
        done_row[r0], done_column[c0] = 1, 1
        _unlink(r0, row_count[r0], by_count, next_row, previous_row)
        lower[k + 1], upper[k + 1] = lower[k], upper[k]
        e = row_head[r0]
        while e >= 0:
            if done_column[column[e]] == 0:
                upper_entry[upper[k + 1]] = e
                upper[k + 1] += 1
                column_count[column[e]] -= 1
            e = row_next[e]
        e = column_head[c0]
        while e >= 0:
            if done_row[row[e]] == 0:
                lower_entry[lower[k + 1]] = e
                lower[k + 1] += 1
            e = column_next[e]
        for at in range(lower[k], lower[k + 1]):
            low = lower_entry[at]
            r = row[low]
            factor_ = value[low] / value[p]
            value[low] = factor_
            _unlink(r, row_count[r], by_count, next_row, previous_row)
            row_count[r] -= 1
            e = row_head[r]
            while e >= 0:
                where[column[e]] = e
                e = row_next[e]
            for a in range(upper[k], upper[k + 1]):
                u = upper_entry[a]
                c = column[u]
                e = where[c]
                if e < 0:
                    if storage == capacity:
                        capacity *= 2
                        row, column = _grow_integers(row, storage, capacity), _grow_integers(column, storage, capacity)
                        value = _grow_complexes(value, storage, capacity)
                        row_next = _grow_integers(row_next, storage, capacity)
                        column_next = _grow_integers(column_next, storage, capacity)
                        lower_entry = _grow_integers(lower_entry, storage, capacity)
                        upper_entry = _grow_integers(upper_entry, storage, capacity)
                    e = storage
                    storage += 1
                    row[e], column[e], value[e] = r, c, 0.0
                    row_next[e], row_head[r] = row_head[r], e
                    column_next[e], column_head[c] = column_head[c], e
                    row_count[r] += 1
                    column_count[c] += 1
                    where[c] = e
                if targets == len(target):
                    target = _grow_integers(target, targets, 2 * targets)
                target[targets] = e
                targets += 1
                value[e] -= factor_ * value[u]
            e = row_head[r]
            while e >= 0:
                where[column[e]] = -1
                e = row_next[e]
            _link(r, row_count[r], by_count, next_row, previous_row)
    return _flatten(n, storage, pivot, lower, upper, lower_entry, upper_entry, row, column, target, targets)


@kernel
def _flatten(
    n: int, storage: int, pivot: Integers, lower: Integers, upper: Integers, lower_entry: Integers,
    upper_entry: Integers, row: Integers, column: Integers, target: Integers, targets: int,
) -> Integers:  # fmt: skip
    lows, ups = lower[n], upper[n]
    flat = np.empty(HEADER + 3 * n + 2 * (n + 1) + 2 * lows + 2 * ups + targets, np.int32)
    flat[ORDER], flat[STORAGE], flat[PIVOT_ROW] = n, storage, HEADER
    flat[PIVOT_COLUMN] = flat[PIVOT_ROW] + n
    flat[PIVOT_ENTRY] = flat[PIVOT_COLUMN] + n
    flat[LOWER] = flat[PIVOT_ENTRY] + n
    flat[UPPER] = flat[LOWER] + n + 1
    flat[LOWER_ENTRY] = flat[UPPER] + n + 1
    flat[LOWER_ROW] = flat[LOWER_ENTRY] + lows
    flat[UPPER_ENTRY] = flat[LOWER_ROW] + lows
    flat[UPPER_COLUMN] = flat[UPPER_ENTRY] + ups
    flat[TARGET] = flat[UPPER_COLUMN] + ups
    for k in range(n):
        flat[flat[PIVOT_ROW] + k] = row[pivot[k]]
        flat[flat[PIVOT_COLUMN] + k] = column[pivot[k]]
        flat[flat[PIVOT_ENTRY] + k] = pivot[k]
    for k in range(n + 1):
        flat[flat[LOWER] + k] = lower[k]
        flat[flat[UPPER] + k] = upper[k]
    for k in range(lows):
        flat[flat[LOWER_ENTRY] + k] = lower_entry[k]
        flat[flat[LOWER_ROW] + k] = row[lower_entry[k]]
    for k in range(ups):
        flat[flat[UPPER_ENTRY] + k] = upper_entry[k]
        flat[flat[UPPER_COLUMN] + k] = column[upper_entry[k]]
    for k in range(targets):
        flat[flat[TARGET] + k] = target[k]
    return flat


@kernel
def factor(plan_: Integers, factors: Floats) -> bool:
    """Factor in place. `factors` has STORAGE entries: the matrix in its first nnz, zero fill after them.

    Leaves 1/pivot in the pivots' places and the multipliers in the lower ones. Returns False at a zero pivot.
    """
    steps, a = pointer(plan_), pointer(factors)
    n = steps[ORDER]
    pivot_entry, lower, upper = steps[PIVOT_ENTRY], steps[LOWER], steps[UPPER]
    lower_entry, upper_entry, target = steps[LOWER_ENTRY], steps[UPPER_ENTRY], steps[TARGET]
    for k in range(n):
        p = a[steps[pivot_entry + k]]
        if p == 0.0 or not np.isfinite(p):
            return False
        p = 1.0 / p
        a[steps[pivot_entry + k]] = p
        first, last = steps[upper + k], steps[upper + k + 1]
        for low in range(steps[lower + k], steps[lower + k + 1]):
            m = a[steps[lower_entry + low]] * p
            a[steps[lower_entry + low]] = m
            for up in range(first, last):
                a[steps[target]] -= m * a[steps[upper_entry + up]]
                target += 1
    return True


@kernel
def solve(plan_: Integers, factors: Floats, b: Floats, x: Floats) -> None:
    """Solve with the `factors`: b (by row, n entries, overwritten) -> x (by unknown)."""
    steps, a = pointer(plan_), pointer(factors)
    n = steps[ORDER]
    pivot_row, pivot_column, pivot_entry = steps[PIVOT_ROW], steps[PIVOT_COLUMN], steps[PIVOT_ENTRY]
    lower, upper = steps[LOWER], steps[UPPER]
    lower_entry, lower_row = steps[LOWER_ENTRY], steps[LOWER_ROW]
    upper_entry, upper_column = steps[UPPER_ENTRY], steps[UPPER_COLUMN]
    for k in range(n):
        y = b[steps[pivot_row + k]]
        for low in range(steps[lower + k], steps[lower + k + 1]):
            b[steps[lower_row + low]] -= a[steps[lower_entry + low]] * y
    for k in range(n - 1, -1, -1):
        y = b[steps[pivot_row + k]]
        for up in range(steps[upper + k], steps[upper + k + 1]):
            y -= a[steps[upper_entry + up]] * x[steps[upper_column + up]]
        x[steps[pivot_column + k]] = y * a[steps[pivot_entry + k]]


@kernel
def solve_transposed(plan_: Integers, factors: Floats, b: Floats, x: Floats) -> None:
    """Solve the transposed system with the `factors`: b (by unknown, overwritten) -> x (by row)."""
    steps, a = pointer(plan_), pointer(factors)
    n = steps[ORDER]
    pivot_row, pivot_column, pivot_entry = steps[PIVOT_ROW], steps[PIVOT_COLUMN], steps[PIVOT_ENTRY]
    lower, upper = steps[LOWER], steps[UPPER]
    lower_entry, lower_row = steps[LOWER_ENTRY], steps[LOWER_ROW]
    upper_entry, upper_column = steps[UPPER_ENTRY], steps[UPPER_COLUMN]
    for k in range(n):
        y = b[steps[pivot_column + k]] * a[steps[pivot_entry + k]]
        x[steps[pivot_row + k]] = y
        for up in range(steps[upper + k], steps[upper + k + 1]):
            b[steps[upper_column + up]] -= a[steps[upper_entry + up]] * y
    for k in range(n - 1, -1, -1):
        y = x[steps[pivot_row + k]]
        for low in range(steps[lower + k], steps[lower + k + 1]):
            y -= a[steps[lower_entry + low]] * x[steps[lower_row + low]]
        x[steps[pivot_row + k]] = y


@kernel
def backward_error(
    n: int, nnz: int, rows: Integers, columns: Integers, a: Floats, x: Floats, b: Floats, residual: Floats,
    size: Floats,
) -> float:  # fmt: skip
    """Largest componentwise backward error |Ax - b| / (|A||x| + |b|) of a solution. NaN counts as infinite.

    `residual` and `size` are room for n numbers each.
    """
    floor = 0.0
    for i in range(n):
        residual[i], size[i] = -b[i], abs(b[i])
        floor = max(floor, FLOOR * abs(x[i]))
    for e in range(nnz):
        t = a[e] * x[columns[e]]
        residual[rows[e]] += t
        size[rows[e]] += abs(t) + abs(a[e]) * floor
    worst = 0.0
    for i in range(n):
        if not np.isfinite(residual[i]):
            return np.inf
        if size[i] > 0.0:
            worst = max(worst, abs(residual[i]) / size[i])
    return worst
