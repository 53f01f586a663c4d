"""Fewer points: the ends and every stretch's extremes stay."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from verdad_core.measure.thinning import thinned_indices


@settings(max_examples=60)
@given(arrays(float, st.integers(1, 3000), elements=st.floats(-1e3, 1e3)), st.integers(8, 400))
def test_ends_and_extremes_stay(y: np.ndarray, most: int) -> None:
    x = np.arange(len(y), dtype=float)
    keep = thinned_indices(x, y, most)
    assert keep[0] == 0
    assert keep[-1] == len(y) - 1
    assert np.all(np.diff(keep) > 0)
    assert len(keep) <= max(most, 8) + 4
    assert y[keep].max() == y.max()
    assert y[keep].min() == y.min()
