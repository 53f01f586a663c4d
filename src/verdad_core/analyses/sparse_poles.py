"""Poles of large circuits, near some frequencies: inverse iteration around several shifts.

Arnoldi's method on (G + shift C)⁻¹ C finds the natural frequencies nearest to each shift (Saad, "Numerical Methods for
Large Eigenvalue Problems", 2011).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy import sparse
from scipy.sparse.linalg import ArpackError, ArpackNoConvergence, LinearOperator, eigs, splu

from verdad_core.arrays import Complexes, Floats, Integers

#: Shifts of the sparse method, and how many poles it looks for around each.
SHIFTS = (1e1, 1e3, 1e5, 1e7, 1e9, 1e5j, 1e7j)
NEAREST = 12

#: Vectors that Arnoldi's method works with, and how often it starts again.
BASIS, RESTARTS = 40, 15


class _Inverse(LinearOperator):
    """v -> (G + shift C)⁻¹ C v."""

    def __init__(self, factors: Any, c: Any) -> None:
        init: Any = super().__init__
        init(np.dtype(complex), c.shape)
        self._factors, self._c = factors, c

    def _matvec(self, v: Complexes) -> Complexes:
        solved: Complexes = self._factors.solve(self._c @ v.astype(complex))
        return solved


def nearest_frequencies(rows: Integers, columns: Integers, g: Floats, c: Floats, n: int) -> Complexes:
    """Those s near SHIFTS for which a large sparse matrix, entries g + s c [nnz] at (rows, columns), is singular."""
    found: list[complex] = []
    sparse_c = sparse.csc_matrix((c, (rows, columns)), shape=(n, n))
    for shift in SHIFTS:
        try:
            factors = splu(sparse.csc_matrix((g + complex(shift) * c, (rows, columns)), shape=(n, n)))
            operator = _Inverse(factors, sparse_c)
            start = np.random.default_rng(1).standard_normal(n).astype(complex)
            shifted = eigs(
                operator, NEAREST, v0=operator.matvec(start), ncv=BASIS, maxiter=RESTARTS, return_eigenvectors=False,
                tol=1e-10,
            )  # fmt: skip
        except ArpackNoConvergence as error:
            # In a dense crowd of poles only some settle; the others are left out.
            shifted = np.asarray(error.eigenvalues, complex)
        except (ArpackError, RuntimeError):
            continue
        if not len(shifted):
            continue
        shifted = shifted[np.abs(shifted) > 1e-6 * np.abs(shifted).max()]
        # Far below a shift digits are lost; there another shift finds the same pole better.
        least = 0.0 if shift == SHIFTS[0] else 1e-3 * abs(shift)
        found += [s for s in shift - 1 / shifted if least <= abs(s) and abs(s - shift) < 1e3 * abs(shift)]
    # The circuit is real, so a pole found off the axis has a twin; a pole found from two shifts is one.
    values: list[complex] = []
    for s in [*found, *(complex(s).conjugate() for s in found)]:
        if abs(s.imag) < 1e-6 * abs(s):
            s = complex(s.real)
        if not any(abs(s - other) < 1e-5 * abs(s) for other in values):
            values.append(s)
    return np.array(sorted(values, key=abs), dtype=complex)
