"""What a line remembers of its ends: rows of waves at accepted points, and how they are read in between.

A row is [t, 1 where a corner is there, waves ..]. Between rows a wave goes along the parabola through three of them,
all on one side of a corner; where there are no three, along a straight line.
"""

from __future__ import annotations

from verdad_core.arrays import Floats
from verdad_core.jit import kernel

#: Where a row's corner mark and its waves stand.
CORNER, WAVE = 1, 2


@kernel
def row_before(waves: Floats, count: int, width: int, t: float) -> int:
    """The last of `count` rows that is not after t; the first one where all are."""
    low, high = 0, count
    while high - low > 1:
        middle = (low + high) // 2
        if waves[middle * width] <= t:
            low = middle
        else:
            high = middle
    return low


@kernel
def weights(
    waves: Floats, count: int, width: int, row: int, then: float, t: float
) -> tuple[float, float, float, float]:
    """How the wave at `then` is made of the one sought at t, and of those at `row`, before it, and after it."""
    here = waves[row * width]
    if then <= here:
        return 0.0, 1.0, 0.0, 0.0
    last = row == count - 1
    after = t if last else waves[(row + 1) * width]
    u = (then - here) / (after - here)
    share, one, two = u, 1.0 - u, 0.0
    # A parabola needs the row before, on the same side of a corner; at the corner itself a wave may have jumped.
    if row > 0 and waves[row * width + CORNER] == 0.0 and waves[(row - 1) * width + CORNER] == 0.0:
        back = (here - waves[(row - 1) * width]) / (after - here)
        two = u * (u - 1.0) / (back * (1.0 + back))
        one = (u + back) * (1.0 - u) / back
        share = u * (u + back) / (1.0 + back)
    return (share, one, two, 0.0) if last else (0.0, one, two, share)
