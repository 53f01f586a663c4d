"""The spread of one part's value, as the board document keeps it."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, field_validator

from verdad_core.errors import BoardError
from verdad_core.schema import Designator, Document
from verdad_core.spreads.distributions import DISTRIBUTIONS


class Spread(Document):
    """The value of `part` lies within ± `tolerance` per cent of nominal."""

    part: Designator
    tolerance: Annotated[float, Field(gt=0, lt=100, allow_inf_nan=False, description="per cent of the nominal value")]
    distribution: str = "uniform"

    @field_validator("distribution")
    @classmethod
    def _known(cls, distribution: str) -> str:
        if distribution not in DISTRIBUTIONS:
            raise BoardError(
                f"there is no distribution '{distribution}'", remedy=f"Use one of {', '.join(DISTRIBUTIONS)}."
            )
        return distribution
