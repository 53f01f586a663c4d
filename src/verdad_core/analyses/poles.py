"""Natural frequencies of the linearised circuit: the s for which (G + sC) x = 0 has a solution.

With a shift σ > 0, K = (G + σC)⁻¹ C has the eigenvalues 1 / (σ - s), and zero where s is infinite. C is singular in
every circuit with algebraic equations, and a defective zero of K would spread into spurious fast poles; so K is first
restricted to the row space of C, which leaves only simple zeros (Golub and Van Loan, "Matrix Computations", 4th
edition, sections 7.7 and 8.7, for the pencil; the restriction is the standard deflation of its null space).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.linalg import LinAlgError, eigvals, lu_factor, lu_solve, svd

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.arrays import Complexes, Floats, Integers
from verdad_core.devices.base import OPTIONS
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.rows import linearise_row
from verdad_core.engine.structure import Structure
from verdad_core.jit import entry

#: Larger circuits are not looked at: the method works on dense matrices.
MAX_SIZE = 600

#: The shift in rad/s: between the slow and the fast poles of board-level circuits, which lie on both sides of it.
SHIFT = 1e4

#: Singular values of the equilibrated C, and eigenvalues of K, below this fraction of the largest count as zero.
ZERO = 1e-13

#: A real part counts as positive when it is above this fraction of the pole's size: rounding moves poles by less.
POSITIVE = 1e-7


@dataclass(frozen=True)
class Poles:
    """Finite natural frequencies of one row in rad/s, the slowest first; `known` is False where none were computed."""

    values: Complexes
    known: bool = True

    @property
    def unstable(self) -> Complexes:
        """Those in the right half-plane: what is there grows until something limits it."""
        return self.values[self.values.real > POSITIVE * np.abs(self.values)]


@entry
def _linearise(
    heads: Integers, table: Integers, slots: Integers, sizes: Integers, nominal: Floats, columns: Integers,
    values: Floats, points: Floats, g: Floats, c: Floats,
) -> None:  # fmt: skip
    """Conductances and capacitances [S, nnz + 1] of all rows at their operating points [S, n + 1]."""
    n, nnz = points.shape[1] - 1, g.shape[1] - 1
    parameters, derived = np.empty(len(nominal)), np.empty(sizes[0])
    options, state = np.empty(OPTIONS), np.zeros(sizes[1])
    f, q = np.empty(n + 1), np.empty(n + 1)
    one_g, one_c = np.empty(nnz + 1), np.empty(nnz + 1)
    for row in range(len(points)):
        linearise_row(heads, table, slots, nominal, columns, values, row, points[row], parameters, derived,
                      options, state, f, q, one_g, one_c)  # fmt: skip
        for e in range(nnz + 1):
            g[row, e], c[row, e] = one_g[e], one_c[e]


def poles(structure: Structure, point: OperatingPoint, matrix: ParameterMatrix | None = None) -> list[Poles]:
    """The poles of every row of `matrix` at its operating point, a list of S.

    Not known in rows whose operating point was not found, and in circuits with more than MAX_SIZE unknowns.
    """
    matrix = matrix or ParameterMatrix.single(structure)
    unknown = Poles(np.empty(0, complex), known=False)
    if structure.size > MAX_SIZE:
        return [unknown] * matrix.rows
    nnz = len(structure.rows)
    g, c = np.empty((matrix.rows, nnz + 1)), np.empty((matrix.rows, nnz + 1))
    sizes = np.array([structure.derived, structure.states], dtype=np.int32)
    _linearise(structure.heads, structure.table, structure.slots, sizes, matrix.nominal, matrix.columns,
               matrix.values, point.values, g, c)  # fmt: skip
    return [
        natural_frequencies(_dense(structure, g[row]), _dense(structure, c[row])) if point.path(row).solved else unknown
        for row in range(matrix.rows)
    ]


def _dense(structure: Structure, entries: Floats) -> Floats:
    dense = np.zeros((structure.size, structure.size))
    dense[structure.rows, structure.columns] = entries[:-1]
    return dense


def natural_frequencies(g: Floats, c: Floats) -> Poles:
    """The finite s, in rad/s, for which g + s c is singular; g and c are [n, n]."""
    # A congruence with a diagonal matrix evens out farads, henries and siemens, and leaves the poles where they are.
    largest = np.maximum(np.abs(c).max(axis=0, initial=0), np.abs(c).max(axis=1, initial=0))
    scale = np.where(largest > 0, 1 / np.sqrt(np.where(largest > 0, largest, 1.0)), 1.0)
    g, c = scale[:, None] * g * scale, scale[:, None] * c * scale
    try:
        _, singular, rows = svd(c)
        rank = int(np.sum(singular > ZERO * singular[:1].sum())) if singular.size and singular[0] > 0 else 0
        if rank == 0:
            return Poles(np.empty(0, complex))
        space = rows[:rank].T
        shifted = eigvals(space.T @ lu_solve(lu_factor(g + SHIFT * c), c @ space))
    except (LinAlgError, ValueError):
        return Poles(np.empty(0, complex), known=False)
    finite = shifted[np.abs(shifted) > ZERO * np.abs(shifted).max()]
    found = SHIFT - 1 / finite
    return Poles(found[np.argsort(np.abs(found))])
