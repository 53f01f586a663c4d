"""What one quantity is in every row: its nominal value and all that makes it differ."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.spreads.contributors import CONTRIBUTORS
from verdad_core.spreads.draw import draw
from verdad_core.spreads.spread import Spread


@dataclass(frozen=True)
class Variation:
    """One quantity that differs from unit to unit."""

    spread: Spread
    nominal: float

    def values(self, seed: int, start: int, stop: int) -> Floats:
        """Its values in rows start..stop-1.

        A draw belongs to the contributor, the quantity or its group, and the row's number: more rows, other blocks and
        other quantities leave it as it is.
        """
        deviation = np.zeros(stop - start)
        for each in self.spread.contributions:
            shared = self.spread.group is not None and CONTRIBUTORS[each.contributor].shared
            subject = f"group {self.spread.group}" if shared else self.spread.of
            # What is bought has no name of its own here: a part's first draws are what they always were.
            stream = subject if each.contributor == "purchase" else f"{subject}:{each.contributor}"
            deviation += each.tolerance / 100.0 * draw(seed, stream, each.distribution, stop)[start:]
        return np.asarray(self.nominal * (1.0 + deviation))
