"""Small-signal frequency response: (G + jωC) X = B at the operating point of each row, frequencies side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.arrays import Complexes, Floats, Integers
from verdad_core.devices.base import OPTIONS
from verdad_core.engine.linear import (
    LANES,
    STORAGE,
    backward_error_lanes,
    factor_lanes,
    plan,
    solve_lanes,
)
from verdad_core.engine.load import drive
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.rows import in_chunks, linearise_row
from verdad_core.engine.structure import Structure
from verdad_core.errors import CircuitError
from verdad_core.jit import entry, kernel

#: Elimination orders that are tried for one block of frequencies before its rows are given up.
ATTEMPTS = 4


@dataclass(frozen=True)
class AcResult:
    """`values` [S, outputs, F]: phasors in V or A; NaN in rows whose operating point was not found."""

    frequency: Floats
    values: Complexes
    operating_point: OperatingPoint


def logarithmic(start: float, stop: float, per_decade: int) -> Floats:
    """Frequencies in hertz from start to stop, both included, with at least `per_decade` points per decade."""
    if not 0 < start < stop or per_decade < 1:
        raise CircuitError(
            f"a frequency range from {start:g} Hz to {stop:g} Hz with {per_decade} points per decade is not possible",
            remedy="Start above 0 Hz, stop above the start, and take at least one point per decade.",
        )
    points = int(np.ceil(np.log10(stop / start) * per_decade - 1e-9)) + 1
    return np.geomspace(start, stop, max(points, 2))


@kernel
def _plan_at(rows: Integers, columns: Integers, g: Floats, c: Floats, n: int, omega: float) -> Integers:
    values = np.empty(len(rows), np.complex128)
    for e in range(len(rows)):
        values[e] = complex(g[e], omega * c[e])
    return plan(n, rows, columns, values)


@kernel
def _sweep(
    rows: Integers, columns: Integers, g: Floats, c: Floats, re: Floats, im: Floats, frequency: Floats,
    plus: Integers, minus: Integers, out: Complexes,
) -> None:  # fmt: skip
    """All frequencies of one row: out [outputs, F] = x[plus] - x[minus]. What cannot be solved stays as it was."""
    n, nnz, points = len(re) - 1, len(rows), len(frequency)
    steps = _plan_at(rows, columns, g, c, n, 2.0 * np.pi * frequency[points // 2])
    if steps[0] < 0:
        return
    a, b = np.empty((steps[STORAGE], 2 * LANES)), np.empty((n, 2 * LANES))
    x, work = np.zeros((n + 1, 2 * LANES)), np.empty((n, 3 * LANES))
    matrix, right, omega = np.empty((nnz, 2 * LANES)), np.empty((n, 2 * LANES)), np.empty(LANES)
    for i in range(n):
        for w in range(LANES):
            right[i, w], right[i, LANES + w] = re[i], im[i]
    for first in range(0, points, LANES):
        for w in range(LANES):
            omega[w] = 2.0 * np.pi * frequency[min(first + w, points - 1)]
        for e in range(nnz):
            for w in range(LANES):
                matrix[e, w], matrix[e, LANES + w] = g[e], omega[w] * c[e]
        for attempt in range(ATTEMPTS):
            for e in range(len(a)):
                for w in range(2 * LANES):
                    a[e, w] = matrix[e, w] if e < nnz else 0.0
            for i in range(n):
                for w in range(2 * LANES):
                    b[i, w] = right[i, w]
            factor_lanes(steps, a)
            solve_lanes(steps, a, b, x)
            bad = backward_error_lanes(rows, columns, matrix, x, right, work)
            if bad < 0 or attempt == ATTEMPTS - 1:
                break
            other = _plan_at(rows, columns, g, c, n, omega[bad])
            if other[0] < 0:
                return
            steps = other
            a = np.empty((steps[STORAGE], 2 * LANES))
        for w in range(min(LANES, points - first)):
            for o in range(len(plus)):
                p, m = x[plus[o]], x[minus[o]]
                out[o, first + w] = complex(p[w] - m[w], p[LANES + w] - m[LANES + w])


@entry
def _ac_rows(
    heads: Integers, table: Integers, slots: Integers, pattern_rows: Integers, pattern_columns: Integers,
    sizes: Integers, nominal: Floats, columns: Integers, values: Floats, start: int, stop: int,
    points: Floats, paths: Integers, frequency: Floats, plus: Integers, minus: Integers, out: Complexes,
) -> None:  # fmt: skip
    """Rows start..stop-1 at their operating points [S, n + 1]; out [S, outputs, F] is written."""
    n, nnz = points.shape[1] - 1, len(pattern_rows)
    parameters, derived = np.empty(len(nominal)), np.empty(sizes[0])
    options, state = np.empty(OPTIONS), np.zeros(sizes[1])
    f, q, g, c = np.empty(n + 1), np.empty(n + 1), np.empty(nnz + 1), np.empty(nnz + 1)
    re, im = np.empty(n + 1), np.empty(n + 1)
    for row in range(start, stop):
        if paths[row] < 0:
            continue
        linearise_row(heads, table, slots, nominal, columns, values, row, points[row], parameters, derived,
                      options, state, f, q, g, c)  # fmt: skip
        drive(heads, table, derived, re, im)
        _sweep(pattern_rows, pattern_columns, g, c, re, im, frequency, plus, minus, out[row])


def ac(
    structure: Structure,
    frequency: Floats,
    outputs: Sequence[tuple[str, str]],
    matrix: ParameterMatrix | None = None,
    threads: int | None = None,
) -> AcResult:
    """The response at `frequency` [F], in hertz, of each output (plus, minus) for every row of `matrix`.

    An output is a difference of two nodes ("0" is ground), or a branch current ("i(v1)", "0"). The drive is the
    small-signal magnitude and phase of the independent sources. Raises CircuitError for an output that does not
    exist and when no source drives the circuit.
    """
    matrix = matrix or ParameterMatrix.single(structure)
    if not any(element.values.get("ac", 0.0) for element in structure.elements):
        raise CircuitError(
            "no source has a small-signal magnitude, so the response would be zero everywhere",
            remedy="Give the driving source an AC magnitude, 1 V for example.",
        )
    plus = np.array([structure.index(p) for p, _ in outputs], dtype=np.int32)
    minus = np.array([structure.index(m) for _, m in outputs], dtype=np.int32)
    point = operating_point(structure, matrix, threads)
    out = np.full((matrix.rows, len(outputs), len(frequency)), np.nan, dtype=np.complex128)
    sizes = np.array([structure.derived, structure.states], dtype=np.int32)

    def work(start: int, stop: int) -> None:
        _ac_rows(structure.heads, structure.table, structure.slots, structure.rows, structure.columns,
                 sizes, matrix.nominal, matrix.columns, matrix.values, start, stop,
                 point.values, point.paths, frequency, plus, minus, out)  # fmt: skip

    in_chunks(matrix.rows, work, threads)
    return AcResult(frequency, out, point)
