"""The linear equations of a step: whether they are solved, and refining what is not."""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.engine.circuit import Circuit, Work, copy
from verdad_core.engine.linear import BACKWARD_ERROR, backward_error, solve
from verdad_core.jit import kernel


@kernel
def is_solved(circuit: Circuit, work: Work, x: Floats, right: Floats, room: Floats) -> bool:
    """Whether x solves the linear equations well enough; what is missing is left in work.f."""
    return error_of(circuit, work, x, right, room) < BACKWARD_ERROR


@kernel
def error_of(circuit: Circuit, work: Work, x: Floats, right: Floats, room: Floats) -> float:
    """The backward error of x in the linear equations; of the x that they were made at, it is the circuit's own."""
    return float(
        backward_error(circuit.n, circuit.nnz, circuit.rows, circuit.columns, work.linear, x, right, work.f, room)
    )


@kernel
def refine(circuit: Circuit, work: Work, steps: Integers, a: Floats, x: Floats, room: Floats) -> None:
    """Take from x what `is_solved` has left in work.f (iterative refinement; Golub and Van Loan, section 3.5)."""
    copy(work.f, work.scratch, circuit.n)
    solve(steps, a, work.scratch, room)
    for k in range(circuit.n):
        x[k] -= room[k]


@kernel
def refill(values: Floats, count: int, a: Floats) -> None:
    """A matrix's values into the storage of its factors, the fill cleared."""
    for e in range(count):
        a[e] = values[e]
    for e in range(count, len(a)):
        a[e] = 0.0
