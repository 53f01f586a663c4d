"""What is looked at between the ends of a worst case: whether the corners are the worst, and what is else.

On the straight ways from what is drawn to the corners at which a measurement is least and greatest, three rows tell
whether it goes on in one direction. Where one does not, or where a single factor has an extreme in between, the box of
the factors that matter is searched: Sobol' points over all of it, then over ever smaller boxes around the best
(recursive random search: Ye & Kalyanaraman 2003, with points that are spread evenly instead of drawn), where each
factor is tried at its ends as well.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.studies.corners import Effect, corners, is_corner

#: Where rows lie on the way to a corner.
_ON_THE_WAY = np.array([0.25, 0.5, 0.75])

#: Factors that are searched in, rows over the whole box, then rounds of rows in boxes that shrink by a factor each, to
#: which the ends of the factors come.
_MOST_FACTORS, _WHOLE, _ROUNDS, _IN_ROUND, _SHRINK = 6, 64, 7, 16, 0.5

#: At the most so many rows are looked at for the least, and for the greatest, of a measurement.
MOST_ROWS = len(_ON_THE_WAY) + _WHOLE + _ROUNDS * (_IN_ROUND + 2 * _MOST_FACTORS)

#: Changes below this part of the whole spread are no turn.
_NOTHING = 1e-3


def next_levels(levels: Floats, columns: Sequence[Floats]) -> Floats:
    """The rows that come next [more, factors], none where enough is known.

    `levels` [rows, factors] are those of the rows so far, `columns` what they gave, [rows] each; the first rows are
    those of `corners.singles`, then come all corners.
    """
    count = levels.shape[1]
    ends = int(np.argmin(is_corner(levels))) if not np.all(is_corner(levels)) else len(levels)
    targets = [
        (column, sign, int(np.nanargmax(sign * column[:ends])))
        for column in columns if np.any(np.isfinite(column[:ends])) for sign in (-1.0, 1.0)
    ]  # fmt: skip
    if not count or not targets:
        return levels[:0]
    if ends == len(levels):
        return np.vstack([np.outer(_ON_THE_WAY, levels[best]) for _column, _sign, best in targets])
    probed = ends + len(_ON_THE_WAY) * len(targets)
    searched = len(levels) - probed
    suspicious = [
        (column, sign) for k, (column, sign, best) in enumerate(targets)
        if _turns(levels, column[:probed], ends + len(_ON_THE_WAY) * k, best)
    ]  # fmt: skip
    in_round = _IN_ROUND + 2 * min(count, _MOST_FACTORS)
    if not suspicious or searched >= len(suspicious) * (_WHOLE + _ROUNDS * in_round):
        return levels[:0]
    found = []
    for column, sign in suspicious:
        best, factors = levels[int(np.nanargmax(sign * column))], _mattering(column, levels)
        if not searched:
            found.append(_box(best, factors, 1.0, _WHOLE))
        else:
            half = _SHRINK ** (1 + (searched // len(suspicious) - _WHOLE) // in_round)
            found += [_box(best, factors, half, _IN_ROUND), _ends(best, factors)]
    return np.vstack(found)


def _turns(levels: Floats, column: Floats, first: int, best: int) -> bool:
    """Whether a measurement turns: for a single factor, or in the rows from `first` on, on the way to a corner."""
    spread = float(np.nanmax(column) - np.nanmin(column))
    way = np.array([column[0], *column[first : first + len(_ON_THE_WAY)], column[best]])
    steps = np.diff(way[np.isfinite(way)])
    turned = bool(np.any(steps > _NOTHING * spread) and np.any(steps < -_NOTHING * spread))
    return turned or any(effect.turns and _size(effect) > _NOTHING * spread for effect in _effects(column, levels))


def _mattering(column: Floats, levels: Floats) -> list[int]:
    """The factors that are searched in: those that do most by themselves, one that turns before others."""
    sizes = {int(effect.factor): (effect.turns, _size(effect)) for effect in _effects(column, levels)}
    return sorted(sorted(sizes, key=lambda k: sizes[k], reverse=True)[:_MOST_FACTORS])


def _effects(column: Floats, levels: Floats) -> Sequence[Effect]:
    rows = 1 + 2 * levels.shape[1]
    return corners(column[:rows], levels[:rows], [str(k) for k in range(levels.shape[1])]).effects


def _size(effect: Effect) -> float:
    return abs(effect.high - effect.low) if effect.high is not None and effect.low is not None else np.inf


def _box(around: Floats, factors: Sequence[int], half: float, rows: int) -> Floats:
    """Rows [rows, factors] spread evenly over a box in some factors, all others where they are; never as drawn."""
    # A second to load, and few boxes are searched.
    from scipy.stats import qmc

    points = qmc.Sobol(len(factors), scramble=False).random_base2(int(np.log2(rows)))
    # The middle of each cell, so that no point lies on an edge of the box.
    spread = 2.0 * (points + 0.5 / rows) - 1.0
    middle = np.clip(around[list(factors)], -1.0 + half, 1.0 - half) if half < 1.0 else np.zeros(len(factors))
    found = np.tile(around, (rows, 1))
    found[:, list(factors)] = np.clip(middle + half * spread, -1.0, 1.0)
    return found


def _ends(around: Floats, factors: Sequence[int]) -> Floats:
    """Each of some factors at its low and at its high end, all others where they are [2 * factors, all factors]."""
    found = np.tile(around, (2 * len(factors), 1))
    found[np.arange(len(found)), np.repeat(factors, 2)] = np.tile([-1.0, 1.0], len(factors))
    return found
