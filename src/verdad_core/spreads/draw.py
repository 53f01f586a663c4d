"""Drawing rows: a stream of numbers between 0 and 1 for each that varies, turned into deviations.

Pseudo-random, a row depends on nothing but seed, stream and number: adding a spread, asking for more rows, or cutting
the rows into blocks leaves all other numbers as they were. The streams are PCG64 (O'Neill 2014) seeded by SHA-256 of
seed and stream. Spread evenly, they are the dimensions of Sobol' points (Joe & Kuo 2008) with Owen's scrambling (1998):
more rows and other blocks leave the numbers as they were, another stream does not. Deviations are made by inverting the
distribution functions (Devroye, "Non-Uniform Random Variate Generation", 1986, chapter 2).
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.spreads.distributions import DISTRIBUTIONS


class Draws(Protocol):
    """Where the numbers of a stream come from."""

    def between(self, stream: str, start: int, stop: int) -> Floats:
        """Those of rows start..stop-1, each between 0 and 1 [rows]."""


@dataclass(frozen=True)
class PseudoRandom:
    """Streams that know nothing of each other."""

    seed: int

    def between(self, stream: str, start: int, stop: int) -> Floats:
        digest = hashlib.sha256(f"{self.seed}:{stream}".encode()).digest()
        generator = np.random.Generator(np.random.PCG64(int.from_bytes(digest[:16], "big")))
        return generator.random(stop)[start:]


class Evenly:
    """Streams that fill the space of all of them evenly."""

    def __init__(self, seed: int, streams: Sequence[str]) -> None:
        self._seed, self._order = seed, {stream: k for k, stream in enumerate(sorted(streams))}
        self._kept: tuple[tuple[int, int], Floats] = (0, 0), np.empty((0, 0))

    def between(self, stream: str, start: int, stop: int) -> Floats:
        if self._kept[0] != (start, stop):
            self._kept = (start, stop), self._points(start, stop)
        return np.asarray(self._kept[1][:, self._order[stream]])

    def _points(self, start: int, stop: int) -> Floats:
        # A second to load, and most draws need none of it.
        from scipy.stats import qmc

        points = qmc.Sobol(len(self._order), scramble=True, rng=np.random.default_rng(self._seed))
        # One point first: of another number that is no power of two SciPy warns, whose balance nobody relies on here.
        first = points.random(1)
        if start == 0:
            return np.vstack([first, points.random(stop - 1)]) if stop > 1 else first[:stop]
        if start > 1:
            points.fast_forward(start - 1)
        return np.asarray(points.random(stop - start))


def draw(
    draws: Draws, stream: str, distribution: str, start: int, stop: int, form: float | None = None
) -> Floats:  # fmt: skip
    """Deviations of one stream in rows start..stop-1, in units of the tolerance, within ±1: [rows].

    `form` is what the distribution's form is chosen by, its usual one where it is None.
    """
    chosen = DISTRIBUTIONS[distribution]
    usual = chosen.form.usual if chosen.form is not None else 0.0
    return chosen.inverse(draws.between(stream, start, stop), usual if form is None else form)
