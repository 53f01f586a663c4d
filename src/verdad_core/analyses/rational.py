"""A rational function through a frequency response, by vector fitting, so that it has a form in time.

Gustavsen and Semlyen, "Rational approximation of frequency domain responses by vector fitting", IEEE Trans. Power
Delivery 14, 1999: with poles a_k that are moved from solve to solve, H(s) sigma(s) = p(s) is linear in the residues of
both sides, and the zeros of sigma are better poles. Poles that would grow are mirrored into the left half-plane.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Complexes, Floats

#: Orders that are tried, and solves that move the poles of each.
ORDERS = range(2, 21, 2)
SOLVES = 12

#: A higher order is taken where it leaves less than this part of the error.
WORTH_IT = 0.7

#: A response is weighed by its own size, but by no less than this part of its largest.
SMALLEST = 1e-2


@dataclass(frozen=True)
class Rational:
    """H(s) = constant + sum residues / (s - poles), s in rad/s; poles are real or come in conjugate pairs.

    `error` is how far it is from what it was fitted to, at most, as a part of the largest value.
    """

    constant: float
    poles: Complexes
    residues: Complexes
    error: float

    def at(self, s: Complexes) -> Complexes:
        """Its values at complex frequencies [K] (rad/s)."""
        return np.asarray(self.constant + (self.residues / (s[:, None] - self.poles)).sum(axis=1))

    def sections(self) -> list[tuple[tuple[float, ...], tuple[float, ...]]]:
        """Real numerators and denominators in rising powers of s, one for each real pole or pair; their sum is H."""
        found: list[tuple[tuple[float, ...], tuple[float, ...]]] = []
        for pole, residue in zip(self.poles, self.residues, strict=True):
            if pole.imag == 0.0:
                found.append(((float(residue.real),), (float(-pole.real), 1.0)))
            elif pole.imag > 0.0:
                above = (-2.0 * float((residue * pole.conjugate()).real), 2.0 * float(residue.real))
                found.append((above, (float(abs(pole)) ** 2, -2.0 * float(pole.real), 1.0)))
        return found


def fitted(frequency: Floats, values: Complexes, within: float) -> Rational:
    """The rational function of lowest order that is near `values` [K] at `frequency` [K] (Hz, rising, the first may
    be 0): within this part of the largest one, or as near as any that was tried.
    """
    s: Complexes = np.asarray(2j * np.pi * frequency, complex)
    largest = float(np.max(np.abs(values)))
    if largest == 0.0:
        return Rational(0.0, np.empty(0, complex), np.empty(0, complex), 0.0)
    weights = 1.0 / np.maximum(np.abs(values), SMALLEST * largest)
    best = _residues(s, values, weights, np.empty(0, complex))
    for order in ORDERS:
        if best.error <= within or 2 * order + 1 > 2 * len(s):
            break
        poles = _start(s, order)
        for _ in range(SOLVES):
            poles = _moved(s, values, weights, poles)
        tried = _residues(s, values, weights, poles)
        best = tried if tried.error < WORTH_IT * best.error else best
    return best


def _start(s: Complexes, order: int) -> Complexes:
    """Lightly damped pairs over all frequencies."""
    positive = np.abs(s[s != 0])
    at = np.geomspace(positive[0], positive[-1], order // 2)
    upper = at * (-0.1 + 1j)
    return np.stack([upper, upper.conj()], axis=1).ravel()


def _basis(s: Complexes, poles: Complexes) -> Complexes:
    """Partial fractions [K, N] whose factors are real: of a pair, the sum and j times the difference."""
    columns = []
    for pole in poles:
        if pole.imag == 0.0:
            columns.append(1.0 / (s - pole))
        elif pole.imag > 0.0:
            columns.append(1.0 / (s - pole) + 1.0 / (s - pole.conjugate()))
            columns.append(1j / (s - pole) - 1j / (s - pole.conjugate()))
    return np.stack(columns, axis=1) if columns else np.empty((len(s), 0), complex)


def _solve(columns: Complexes, values: Complexes, weights: Floats) -> Floats:
    """Real factors of complex columns, by weighed least squares, each column scaled to unit length."""
    a = weights[:, None] * columns
    both, right = np.concatenate([a.real, a.imag]), np.concatenate([(weights * values).real, (weights * values).imag])
    lengths = np.linalg.norm(both, axis=0)
    lengths[lengths == 0.0] = 1.0
    return np.asarray(np.linalg.lstsq(both / lengths, right, rcond=1e-13)[0] / lengths)


def _moved(s: Complexes, values: Complexes, weights: Floats, poles: Complexes) -> Complexes:
    """The zeros of sigma."""
    n, basis = len(poles), _basis(s, poles)
    columns = np.concatenate([basis, np.ones((len(s), 1)), -values[:, None] * basis], axis=1)
    factors = _solve(columns, values, weights)[n + 1 :]
    a, b, k = np.zeros((n, n)), np.zeros(n), 0
    for pole in poles:
        if pole.imag == 0.0:
            a[k, k], b[k] = pole.real, 1.0
            k += 1
        elif pole.imag > 0.0:
            a[k : k + 2, k : k + 2] = [[pole.real, pole.imag], [-pole.imag, pole.real]]
            b[k] = 2.0
            k += 2
    zeros = np.linalg.eigvals(a - np.outer(b, factors))
    zeros = np.where(zeros.real > 0.0, -zeros.conj(), zeros)
    # An eigenvalue of a real matrix is real exactly, or has its partner.
    real = zeros[zeros.imag == 0.0]
    upper = zeros[zeros.imag > 0.0]
    return np.concatenate(
        [np.minimum(real.real, -1e-9 * np.abs(s[-1])).astype(complex), *([p, p.conj()] for p in upper)]
    )


def _residues(s: Complexes, values: Complexes, weights: Floats, poles: Complexes) -> Rational:
    basis = _basis(s, poles)
    factors = _solve(np.concatenate([basis, np.ones((len(s), 1))], axis=1), values, weights)
    residues, k = np.zeros(len(poles), complex), 0
    for j, pole in enumerate(poles):
        if pole.imag == 0.0:
            residues[j] = factors[k]
            k += 1
        elif pole.imag > 0.0:
            residues[j] = complex(factors[k], factors[k + 1])
            residues[j + 1] = residues[j].conjugate()
            k += 2
    found = Rational(float(factors[-1]), poles, residues, 0.0)
    error = float(np.max(np.abs(found.at(s) - values)) / np.max(np.abs(values)))
    return Rational(found.constant, poles, residues, error)
