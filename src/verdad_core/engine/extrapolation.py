"""Third order from the trapezoidal rule: what its error is known to make of the unknowns is taken away.

That error is e = J⁻¹ a0 ε (engine/attempt.py), known after every step; taking it away (local extrapolation; Hairer,
Norsett, Wanner, "Solving Ordinary Differential Equations I", 1993, section II.4) leaves one of the fourth power of the
step. By itself that is the third-order rule of Adams, which is not stable where rates are fast. So what is taken away
is (1 + DAMPING) W e - DAMPING e with W = J⁻¹ a0 C, which is 1 where signals are slow against the step and 0 where they
are fast. Of v' = λ v a step of h has W = 1 / (1 - hλ/2), and the rule

    v = trapezoidal(v0) - ((1 + DAMPING) W² - DAMPING W) (hλ/12) (trapezoidal(v0) - 2 v0 + v1)

is stable for all λ whose real part is not above zero, from a DAMPING of 0.11 on: without it what is not damped at all
and faster than the step would grow, by up to 3.7 % a step. Where the trapezoidal rule swings to and fro for ever, this
one loses a seventh a step. What rings with ω loses ω⁴h⁴/66 of its size in a step, and its period is ω⁴h⁴/41 too long;
by the trapezoidal rule it loses nothing and is ω²h²/12 too long.
"""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.engine.circuit import Circuit, Work, fill
from verdad_core.engine.linear import solve
from verdad_core.engine.past import CAPACITANCES, NEW_D, NEW_Q, NEW_X, PLACES, RATE_ERROR, entries, vector
from verdad_core.jit import kernel

#: See above.
DAMPING = 0.2


@kernel
def extrapolate(circuit: Circuit, work: Work, past: Floats, steps: Integers, a: Floats, a0: float) -> None:
    """Take the error in work.new [n] from the point just solved, and what goes with it from charges and rates.

    `a` are the factors of J, work.c [nnz] the capacitances in it, and RATE_ERROR is a0 ε.
    """
    n, taken, charge = circuit.n, work.new, work.q
    x, q, d = vector(past, n, NEW_X), vector(past, n, NEW_Q), vector(past, n, NEW_D)
    rate_error = vector(past, n, RATE_ERROR)
    _times_c(circuit, work, past, taken, charge)
    # J (W e) = a0 C e and J e = a0 ε, so this is J times what is taken away: by what currents and rates change.
    for k in range(n):
        rate_error[k] = (1.0 + DAMPING) * a0 * charge[k] - DAMPING * rate_error[k]
        work.right[k] = rate_error[k]
    solve(steps, a, work.right, taken)
    _times_c(circuit, work, past, taken, charge)
    for k in range(n):
        x[k] -= taken[k]
        q[k] -= charge[k]
        d[k] += rate_error[k] - a0 * charge[k]


@kernel
def _times_c(circuit: Circuit, work: Work, past: Floats, x: Floats, charge: Floats) -> None:
    """The charges that go with changes x [n] of the unknowns, into `charge` [n]."""
    places = entries(past, circuit.n, circuit.nnz, PLACES)
    fill(charge, circuit.n, 0.0)
    for k in range(int(past[CAPACITANCES])):
        e = int(places[k])
        charge[circuit.rows[e]] += work.c[e] * x[circuit.columns[e]]
