"""Which quantities a measurement's variation comes from: shares of its variance, by regression on what was drawn.

The measurement is fitted with a straight line and a square of every quantity, each by itself; a quantity's share is the
covariance of its own term with the measurement over the measurement's variance. Shares of quantities that were drawn
independently are their first-order effects (Saltelli et al., "Global sensitivity analysis: the primer", 2008, chapters
1 and 4, from memory); together they are the fit's R², and what is left acts jointly or more wildly than a square.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats

#: Rows for each coefficient that is fitted, at least: with fewer the noise of the draws is taken for an effect.
_ROWS_EACH = 5


@dataclass(frozen=True)
class Share:
    """A quantity's part of the variance, and the change of the measurement with one standard deviation of it."""

    name: str
    share: float
    effect: float


@dataclass(frozen=True)
class Blame:
    """Shares, the largest first; `explained` is R², corrected for the number of coefficients."""

    shares: tuple[Share, ...]
    explained: float


def blame(inputs: Mapping[str, Floats], values: Floats) -> Blame | None:
    """Of [rows] values, NaN where a row gave none, and what each quantity was in those rows [rows].

    None where nothing varies, or there are too few rows.
    """
    good = np.isfinite(values)
    moved = {name: given[good] for name, given in inputs.items()}
    moved = {name: given for name, given in moved.items() if np.std(given) > 1e-15 * np.max(np.abs(given), initial=0.0)}
    y, rows = values[good], int(np.sum(good))
    if not moved or rows < _ROWS_EACH * (1 + len(moved)):
        return None
    spread = float(np.std(y))
    if spread <= 1e-12 * float(np.max(np.abs(y))):
        return None
    y = (y - np.mean(y)) / spread
    standard = np.array([(given - np.mean(given)) / np.std(given) for given in moved.values()])
    terms = [standard]
    if rows >= _ROWS_EACH * (1 + 2 * len(moved)):
        squares = standard**2
        # Of a quantity with two values, the square says nothing that the line does not.
        terms.append(squares - np.mean(squares, axis=1, keepdims=True))
    matrix = np.concatenate(terms).T
    found = np.linalg.lstsq(matrix, y, rcond=1e-9)[0]
    parts = (matrix * found).reshape(rows, len(terms), len(moved)).sum(axis=1)
    shares = parts.T @ y / rows
    left = max(1.0 - float(np.sum(shares)), 0.0) * (rows - 1) / max(rows - 1 - matrix.shape[1], 1)
    named = [
        Share(name, float(share), float(slope) * spread)
        for name, share, slope in zip(moved, shares, found[: len(moved)], strict=True)
    ]
    return Blame(tuple(sorted(named, key=lambda each: -each.share)), max(1.0 - left, 0.0))
