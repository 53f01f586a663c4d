"""Fewer points of a curve that look the same: of each stretch its ends and its extremes."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from verdad_core.arrays import Floats, Integers, Values


def thinned_indices(x: Floats, y: Values, most: int) -> Integers:
    """Which of the points [N] to keep, about `most` at most, in order; both ends and both extremes are among them."""
    if len(x) <= most:
        return np.arange(len(x), dtype=np.int32)
    values = np.abs(y) if np.iscomplexobj(y) else np.asarray(y, float)
    stretches = max(1, most // 4)
    edges = np.linspace(0, len(x), stretches + 1).astype(int)
    keep = {0, len(x) - 1}
    for first, last in pairwise(edges.tolist()):
        part = values[first:last]
        if len(part):
            keep.update((int(first), int(last) - 1, int(first + part.argmin()), int(first + part.argmax())))
    return np.array(sorted(keep), dtype=np.int32)
