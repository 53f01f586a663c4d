"""A plan of engine/linear.py, arranged for many systems side by side (engine/lanes.py).

Every number is a row of LANES complex ones there, so that a large circuit's factors do not fit into the cache. What
each step of the elimination is the first to touch is listed (BORN), so that it can be filled in then. And where factors
serve one right-hand side only, all that going back does not need, pivots and multipliers, lies in a few rows that are
used again and again.
"""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Integers
from verdad_core.engine.linear import (
    BORN,
    BORN_ENTRY,
    BORN_ROW,
    ENTRIES,
    KEPT,
    LOWER,
    LOWER_ENTRY,
    LOWER_ROW,
    ORDER,
    PIVOT_COLUMN,
    PIVOT_ENTRY,
    PIVOT_ROW,
    PLACE,
    SINGLE,
    STORAGE,
    TARGET,
    UPPER,
    UPPER_ENTRY,
)
from verdad_core.jit import kernel


@kernel
def lane_plan(steps: Integers, keep: bool) -> Integers:
    """The plan for lanes; with `keep`, factors serve further right-hand sides, and lie where the matrix's entries do.

    Its lists name rows of the factors, of which there are STORAGE, and of the right-hand sides. PLACE [n] is where a
    row of the equations stands among the latter. BORN .. of BORN_ENTRY are the entries that a step is the first to
    touch, fill included, and rows of the right-hand side after them (row r is ENTRIES + r); BORN_ROW says where they
    lie. From SINGLE on, the plan as it was comes along.
    """
    n, entries = steps[ORDER], steps[STORAGE]
    births = entries + n
    single = len(steps) + 2 * n + 1 + 2 * births
    flat = np.empty(single + len(steps), np.int32)
    for k in range(len(steps)):
        flat[k] = flat[single + k] = steps[k]
    flat[SINGLE] = single
    flat[ENTRIES], flat[KEPT] = entries, 1 if keep else 0
    flat[PLACE] = len(steps)
    flat[BORN] = flat[PLACE] + n
    flat[BORN_ENTRY] = flat[BORN] + n + 1
    flat[BORN_ROW] = flat[BORN_ENTRY] + births
    for k in range(n):
        flat[flat[PLACE] + flat[flat[PIVOT_ROW] + k]] = flat[flat[PIVOT_COLUMN] + k]
    targets = _note_births(flat)
    rows = np.empty(entries, np.int32)
    if keep:
        for e in range(entries):
            rows[e] = e
    else:
        flat[STORAGE] = _share_rows(flat, rows)
    for k in range(births):
        e = flat[flat[BORN_ENTRY] + k]
        flat[flat[BORN_ROW] + k] = rows[e] if e < entries else flat[flat[PLACE] + e - entries]
    _rename(flat, flat[PIVOT_ENTRY], n, rows)
    _rename(flat, flat[LOWER_ENTRY], flat[flat[LOWER] + n], rows)
    _rename(flat, flat[UPPER_ENTRY], flat[flat[UPPER] + n], rows)
    _rename(flat, flat[TARGET], targets, rows)
    return flat


@kernel
def kept_plan(steps: Integers) -> Integers:
    """The elimination of a plan for lanes with factors that are kept: with the same operations, number by number."""
    return lane_plan(steps[steps[SINGLE] :].copy(), True)


@kernel
def _rename(flat: Integers, first: int, count: int, rows: Integers) -> None:
    for k in range(first, first + count):
        flat[k] = rows[flat[k]]


@kernel
def _note_births(flat: Integers) -> int:
    """Fill BORN and BORN_ENTRY in. Returns how many targets the elimination has."""
    n, entries = flat[ORDER], flat[ENTRIES]
    seen = np.zeros(entries + n, np.int32)
    count, target = 0, 0
    for k in range(n):
        flat[flat[BORN] + k] = count
        lower, upper = flat[LOWER], flat[UPPER]
        lows, ups = flat[lower + k + 1] - flat[lower + k], flat[upper + k + 1] - flat[upper + k]
        for j in range((1 + lows) * (2 + ups)):
            # Row by row: the pivot's first, in each the pivot's column, the others of the pivot's row, the right side.
            low, up = j // (2 + ups), j % (2 + ups)
            row = flat[flat[PIVOT_ROW] + k] if low == 0 else flat[flat[LOWER_ROW] + flat[lower + k] + low - 1]
            if up == 1 + ups:
                e = entries + row
            elif low > 0 and up > 0:
                e = flat[flat[TARGET] + target]
                target += 1
            elif up > 0:
                e = flat[flat[UPPER_ENTRY] + flat[upper + k] + up - 1]
            elif low > 0:
                e = flat[flat[LOWER_ENTRY] + flat[lower + k] + low - 1]
            else:
                e = flat[flat[PIVOT_ENTRY] + k]
            if seen[e] == 0:
                seen[e] = 1
                flat[flat[BORN_ENTRY] + count] = e
                count += 1
    flat[flat[BORN] + n] = count
    return target


@kernel
def _share_rows(flat: Integers, rows: Integers) -> int:
    """Where entries lie when pivots and multipliers are not kept, into rows [ENTRIES]. Returns how many rows they take.

    Upper entries follow each other in the order of the steps; a row of another entry is free again after its step.
    """
    n, entries = flat[ORDER], flat[ENTRIES]
    for e in range(entries):
        rows[e] = -1
    used = flat[flat[UPPER] + n]
    for j in range(used):
        rows[flat[flat[UPPER_ENTRY] + j]] = j
    free, count = np.empty(entries, np.int32), 0
    for k in range(n):
        for j in range(flat[flat[BORN] + k], flat[flat[BORN] + k + 1]):
            e = flat[flat[BORN_ENTRY] + j]
            if e < entries and rows[e] < 0:
                if count > 0:
                    count -= 1
                    rows[e] = free[count]
                else:
                    rows[e] = used
                    used += 1
        free[count] = rows[flat[flat[PIVOT_ENTRY] + k]]
        count += 1
        for low in range(flat[flat[LOWER] + k], flat[flat[LOWER] + k + 1]):
            free[count] = rows[flat[flat[LOWER_ENTRY] + low]]
            count += 1
    return int(used)
