"""The array types of the core. Floats are double, unless a docstring says otherwise in SI base units."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]
Integers = NDArray[np.int32]
Booleans = NDArray[np.bool_]
#: Real or complex.
Values = NDArray[Any]
#: Addresses of kernels.
Addresses = NDArray[np.int64]
#: A table of words (words.py).
Packed = NDArray[np.int64]
