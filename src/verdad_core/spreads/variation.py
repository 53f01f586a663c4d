"""What one quantity is in every row: its nominal value and all that makes it differ."""

from __future__ import annotations

from dataclasses import dataclass

from verdad_core.arrays import Floats
from verdad_core.errors import BoardError, Place
from verdad_core.spreads.amount import Amount, Deviations
from verdad_core.spreads.draw import Draws, draw
from verdad_core.spreads.spread import Spread


@dataclass(frozen=True)
class Variation:
    """One quantity that differs from unit to unit, by the sum of its `amounts`, one of each contribution."""

    spread: Spread
    nominal: float
    amounts: tuple[Amount, ...]

    def __post_init__(self) -> None:
        if not self.nominal and any(not amount.absolute for amount in self.amounts):
            raise BoardError(
                f"{self.spread.of} is zero: per cent of it are nothing", place=Place(part=self.spread.owner),
                remedy="Say how far it lies from zero, such as ±50ppm or ±1m.",
            )  # fmt: skip

    def values(self, draws: Draws, start: int, stop: int) -> Floats:
        """Its values in rows start..stop-1. A draw belongs to its stream and the row's number."""
        deviations = Deviations(stop - start)
        for each, amount, stream in zip(self.spread.contributions, self.amounts, self.spread.streams, strict=True):
            drawn = draw(draws, stream, each.distribution, start, stop, each.form)
            deviations.add(amount, amount.deviation(drawn))
        return deviations.of(self.nominal)
