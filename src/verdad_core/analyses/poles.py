"""Natural frequencies of the linearised circuit: the s for which (G + sC) x = 0 has a solution; and zeros.

With a shift σ > 0, K = (G + σC)⁻¹ C has the eigenvalues 1 / (σ - s), and zero where s is infinite. C is singular in
every circuit with algebraic equations, and a defective zero of K would spread into spurious fast poles; so K is first
restricted to the row space of C, which leaves only simple zeros (Golub and Van Loan, "Matrix Computations", 4th
edition, sections 7.7 and 8.7, for the pencil; the restriction is the standard deflation of its null space).

The zeros of a transfer function from b to cᵀx are the s for which the equations have a solution with the output held
at zero: the natural frequencies of G + sC bordered by b and cᵀ (Rosenbrock, "State-space and Multivariable Theory",
1970). Large circuits are looked at with a sparse method (sparse_poles.py).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, one_row
from verdad_core.analyses.small_signal import linearised, output_indices
from verdad_core.arrays import Complexes, Floats
from verdad_core.devices import FAMILY_OF
from verdad_core.engine.circuit import JUNCTION_GMIN
from verdad_core.engine.structure import Structure

#: Larger circuits are looked at with the sparse method.
MAX_DENSE = 600

#: The shift in rad/s: between the slow and the fast poles of board-level circuits, which lie on both sides of it.
SHIFT = 1e4

#: Singular values of the equilibrated C below this fraction of the largest, and eigenvalues of K below this fraction
#: of its largest entry, count as zero.
ZERO = 1e-13

#: How near to a natural frequency its motion is looked for, and how often it is improved.
_BESIDE, _ITERATIONS = 1.0 + 1e-7, 3

#: A real part counts as positive when it is above this fraction of the pole's size: rounding moves poles by less.
POSITIVE = 1e-7


@dataclass(frozen=True)
class Poles:
    """Finite natural frequencies of one row in rad/s, the slowest first.

    `known` is False where none were computed, `complete` is False where only those near some frequencies were.
    """

    values: Complexes
    known: bool = True
    complete: bool = True

    @property
    def unstable(self) -> Complexes:
        """Those in the right half-plane: what is there grows until something limits it."""
        return self.values[self.values.real > POSITIVE * np.abs(self.values)]


UNKNOWN = Poles(np.empty(0, complex), known=False)


def poles(point: OperatingPoint) -> list[Poles]:
    """The poles of every row at its operating point, a list of S.

    Not known in rows whose operating point was not found, and in circuits with lines or tabulated responses, whose
    natural frequencies are without number.
    """
    structure = point.structure
    if any(FAMILY_OF[element.family].phasor for element in structure.elements):
        return [UNKNOWN] * len(point.values)
    g, c = linearised(point)
    found = []
    for row in range(len(point.values)):
        if not point.path(row).solved:
            found.append(UNKNOWN)
        elif structure.size > MAX_DENSE:
            from verdad_core.analyses.sparse_poles import nearest_frequencies

            near = nearest_frequencies(structure.rows, structure.columns, g[row], c[row], structure.size)
            found.append(Poles(near, complete=False, known=len(near) > 0))
        else:
            found.append(natural_frequencies(_dense(structure, g[row]), _dense(structure, c[row])))
    return found


def lasting(point: OperatingPoint) -> Poles:
    """The poles of the first row, but for those with which the charge of floating nodes leaks away.

    The 1 pS that holds them is no part of the circuit: a range or a length is not chosen for it.
    """
    found, structure = poles(one_row(point, 0))[0], point.structure
    if not structure.topology.islands or not found.known:
        return found
    c, keep = linearised(point, 0, 1)[1][0], np.ones(len(found.values), bool)
    for island in structure.topology.islands:
        inside = np.isin(np.arange(structure.size), [structure.index(node) for node in island])
        capacitance = float(c @ (inside[structure.rows] & inside[structure.columns]))
        if capacitance > 0.0 and np.any(may := keep & (found.values.imag == 0.0)):
            rate = JUNCTION_GMIN / capacitance
            nearest = int(np.argmin(np.where(may, np.abs(np.log(np.abs(found.values) / rate)), np.inf)))
            keep[nearest] = not 0.1 * rate < abs(found.values[nearest]) < 10.0 * rate
    return replace(found, values=found.values[keep])


@dataclass(frozen=True)
class AtBias:
    """A result of a circuit linearised at its operating points, and so of those points' stability."""

    operating_point: OperatingPoint

    @cached_property
    def poles(self) -> list[Poles]:
        """The natural frequencies of every row: with one in the right half-plane its result cannot be measured."""
        return poles(self.operating_point)


def moving(point: OperatingPoint, values: Complexes, nodes: Sequence[str]) -> list[str]:
    """Which of some nodes swings farthest in each natural frequency of the first row, in rad/s; empty where that cannot
    be told.

    By inverse iteration (Golub and Van Loan, section 7.6.1): what a solution of (G + sC) x = Cy, with s beside the
    natural frequency, mostly consists of is the motion that belongs to it.
    """
    from scipy.sparse import csc_array
    from scipy.sparse.linalg import splu

    structure = point.structure
    where = [structure.index(node) for node in nodes]
    g, c = (
        csc_array((entries[0], (structure.rows, structure.columns)), shape=(structure.size, structure.size))
        for entries in linearised(point, 0, 1)
    )
    found = []
    for s in values:
        try:
            factors = splu((g + s * _BESIDE * c).astype(complex).tocsc())
        except RuntimeError:
            found.append("")
            continue
        # Nothing is orthogonal to it by a symmetry of the circuit.
        x = np.cos(np.arange(structure.size)).astype(complex)
        for _ in range(_ITERATIONS):
            x = factors.solve(c @ (x / np.max(np.abs(x))))
        found.append(nodes[int(np.argmax(np.abs(x[where])))])
    return found


def pole_zero(
    point: OperatingPoint, port: tuple[str, str], output: tuple[str, str], driven_by: Literal["voltage", "current"]
) -> tuple[list[Poles], list[Poles]]:
    """Poles and zeros, for every row, of the transfer from a port (plus, minus) that is driven to an output.

    A port driven by a voltage is shorted for the natural frequencies, one driven by a current is open. A voltage
    source of the circuit's own across the port is its drive. Raises CircuitError for a node that does not exist.
    """
    structure = point.structure
    source = next((e for e in structure.elements if e.family == "voltage source" and set(e.nodes) == set(port)), None)
    if source is not None:
        return poles(point), zeros(point, source.name, output)
    into = _selection(structure, port)
    found = poles(point) if driven_by == "current" else _bordered(point, into, into)
    return found, _finite(point, found, into, _selection(structure, output))


def zeros(point: OperatingPoint, source: str, output: tuple[str, str]) -> list[Poles]:
    """The zeros of the transfer from an independent source to an output (plus, minus), for every row.

    Raises CircuitError for a source or an output that does not exist.
    """
    structure = point.structure
    return _finite(point, poles(point), structure.unit_drive(source), _selection(structure, output))


def possible_zeros(point: OperatingPoint, source: str, output: tuple[str, str]) -> list[Poles]:
    """The zeros, and what rounding makes of those at infinity, far beyond the poles: several times as quick as `zeros`.

    Raises CircuitError for a source or an output that does not exist.
    """
    structure = point.structure
    return _bordered(point, structure.unit_drive(source), _selection(structure, output))


def _finite(point: OperatingPoint, found: list[Poles], drive: Floats, select: Floats) -> list[Poles]:
    """Zeros of a transfer with these poles: those that do not lie at infinity.

    Where many do, rounding brings them back as eigenvalues far out, on both sides. How many zeros lie within a circle
    far beyond the poles is counted by the argument principle, as s tr((G + sC)⁻¹ C) there: det(G + sC) goes as s to
    that power. So many of the smallest are kept (Emami-Naeini and Van Dooren, "Computation of zeros of linear
    multivariable systems", Automatica 18, 1982, on what happens without it).
    """
    kept = []
    for row, candidates in enumerate(_bordered(point, drive, select)):
        if not candidates.known or not found[row].known:
            kept.append(candidates)
            continue
        g, c = _bordered_matrices(point, row, drive, select)
        farthest = float(np.max(np.abs(found[row].values), initial=0.0))
        count = _degree(g, c, farthest) if farthest > 0.0 else 0
        kept.append(Poles(candidates.values[:count]))
    return kept


def _degree(g: Floats, c: Floats, farthest: float) -> int:
    """How many s that make g + s c singular lie within a circle far beyond `farthest`, in rad/s."""
    counts = []
    for decades in (3.0, 4.0, 5.0, 6.0):
        s = farthest * 10.0**decades * np.exp(0.3j * np.pi)
        whole = g + s * c
        rows = 1.0 / np.maximum(np.abs(whole).max(axis=1, initial=0.0), 1e-300)
        columns = 1.0 / np.maximum(np.abs(rows[:, None] * whole).max(axis=0, initial=0.0), 1e-300)
        try:
            solved = np.linalg.solve(rows[:, None] * whole * columns, rows[:, None] * c * s)
        except np.linalg.LinAlgError:
            continue
        counts.append(complex(np.sum(np.diag(solved) * columns)))
    if not counts:
        return 0
    # The one that is nearest to a whole number: at another radius a zero may lie.
    return max(round(min(counts, key=lambda count: abs(count - round(count.real))).real), 0)


def _selection(structure: Structure, output: tuple[str, str]) -> Floats:
    """The vector [n + 1] that picks an output out of the unknowns."""
    (plus,), (minus,) = output_indices(structure, [output])
    select = np.zeros(structure.size + 1)
    select[plus] += 1.0
    select[minus] -= 1.0
    return select


def _bordered(point: OperatingPoint, drive: Floats, select: Floats) -> list[Poles]:
    """The s for which the equations, driven by `drive`, have a solution with `select` of it held at zero."""
    structure, n = point.structure, point.structure.size
    if n > MAX_DENSE or any(FAMILY_OF[element.family].phasor for element in structure.elements):
        return [UNKNOWN] * len(point.values)
    return [
        natural_frequencies(*_bordered_matrices(point, row, drive, select)) if point.path(row).solved else UNKNOWN
        for row in range(len(point.values))
    ]


def _bordered_matrices(point: OperatingPoint, row: int, drive: Floats, select: Floats) -> tuple[Floats, Floats]:
    """G and C of a row with one more unknown, which drives, and one more equation, which holds `select` at zero."""
    structure, n = point.structure, point.structure.size
    g, c = linearised(point, row, row + 1)
    bordered_g, bordered_c = np.zeros((n + 1, n + 1)), np.zeros((n + 1, n + 1))
    bordered_g[:n, :n], bordered_c[:n, :n] = _dense(structure, g[0]), _dense(structure, c[0])
    bordered_g[:n, n], bordered_g[n, :n] = drive[:n], select[:n]
    return bordered_g, bordered_c


def _dense(structure: Structure, entries: Floats) -> Floats:
    dense = np.zeros((structure.size, structure.size))
    dense[structure.rows, structure.columns] = entries
    return dense


def natural_frequencies(g: Floats, c: Floats) -> Poles:
    """The finite s, in rad/s, for which g + s c is singular; g and c are [n, n]."""
    # Loaded when it is needed: a first result does not wait for it.
    from scipy.linalg import LinAlgError, eigvals, svd

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
        solved = np.linalg.solve(g + SHIFT * c, c @ space)
        shifted = eigvals(space.T @ solved)
    except (LinAlgError, ValueError):
        return Poles(np.empty(0, complex), known=False)
    # What is left of an infinite pole is rounding: small beside what was solved, which its eigenvalue is made of.
    finite = shifted[np.abs(shifted) > ZERO * np.abs(solved).max()]
    found = SHIFT - 1 / finite
    return Poles(found[np.argsort(np.abs(found))])
