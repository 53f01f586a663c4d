"""What studies over a range of temperature share: its two ends, both or none."""

from __future__ import annotations

from typing import Self

from pydantic import model_validator

from verdad_core.errors import BoardError
from verdad_core.schema import Celsius, setting
from verdad_core.studies.kind import StudyKind
from verdad_core.units import parse_value

#: The range of industrial parts in °C, where nobody gave one (common practice, no source).
INDUSTRIAL = (-40.0, 85.0)


class Between(StudyKind):
    """A study whose rows may lie between two temperatures."""

    coldest: Celsius | None = setting(None, label="Coldest", unit="°C", empty="as in the check")
    hottest: Celsius | None = setting(None, label="Hottest", unit="°C", empty="as in the check")

    @model_validator(mode="after")
    def _both_ends(self) -> Self:
        if (self.coldest is None) != (self.hottest is None):
            raise BoardError("a range of temperature has two ends", remedy="Give both, or neither.")
        if self.coldest and self.hottest and not parse_value(self.coldest) < parse_value(self.hottest):
            raise BoardError(f"{self.hottest} °C is not hotter than {self.coldest} °C", remedy="Exchange the two.")
        return self

    @property
    def range(self) -> tuple[float, float] | None:
        """Both ends in °C; None where every check keeps its own temperature."""
        return (parse_value(self.coldest), parse_value(self.hottest)) if self.coldest and self.hottest else None
