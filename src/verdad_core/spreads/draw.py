"""Drawing rows: a stream of random numbers each, so that a row depends on nothing but seed, stream and number.

Adding a spread, asking for more rows, or cutting the rows into blocks leaves all other numbers as they were.
The draws are made by inverting the distribution functions (Devroye, "Non-Uniform Random Variate Generation", 1986,
chapter 2) from PCG64 streams (O'Neill 2014) seeded by SHA-256 of seed and stream.
"""

from __future__ import annotations

import hashlib

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.spreads.distributions import DISTRIBUTIONS


def draw(seed: int, stream: str, distribution: str, rows: int, form: float | None = None) -> Floats:
    """Deviations of one stream in units of the tolerance, within ±1: [rows].

    `form` is what the distribution's form is chosen by, its usual one where it is None.
    """
    digest = hashlib.sha256(f"{seed}:{stream}".encode()).digest()
    generator = np.random.Generator(np.random.PCG64(int.from_bytes(digest[:16], "big")))
    chosen = DISTRIBUTIONS[distribution]
    usual = chosen.form.usual if chosen.form is not None else 0.0
    return chosen.inverse(generator.random(rows), usual if form is None else form)
