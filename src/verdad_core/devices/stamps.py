"""How a device's numbers go into the Jacobian's slots."""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.jit import kernel


@kernel
def admittance(matrix: Floats, slots: Integers, s: int, value: float) -> None:
    """An admittance between a and b: slots s.. hold (a, a), (a, b), (b, a), (b, b)."""
    matrix[slots[s]] += value
    matrix[slots[s + 1]] -= value
    matrix[slots[s + 2]] -= value
    matrix[slots[s + 3]] += value


@kernel
def branch(f: Floats, g: Floats, slots: Integers, s: int, x: Floats, a: int, b: int, i: int) -> None:
    """A branch from a to b with current x[i] and, in its own equation, the voltage from a to b.

    Slots s.. hold (a, i), (b, i), (i, a), (i, b).
    """
    f[a] += x[i]
    f[b] -= x[i]
    f[i] += x[a] - x[b]
    g[slots[s]] += 1.0
    g[slots[s + 1]] -= 1.0
    g[slots[s + 2]] += 1.0
    g[slots[s + 3]] -= 1.0
