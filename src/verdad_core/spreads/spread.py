"""The spread of one part's value, as the board document keeps it."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from verdad_core.schema import Designator, Document
from verdad_core.spreads.draw import Distribution


class Spread(Document):
    """The value of `part` lies within ± `tolerance` per cent of nominal."""

    part: Designator
    tolerance: Annotated[float, Field(gt=0, lt=100, allow_inf_nan=False, description="per cent of the nominal value")]
    distribution: Distribution = Distribution.UNIFORM
