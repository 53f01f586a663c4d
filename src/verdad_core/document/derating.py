"""How much of their ratings parts are used up to."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from verdad_core.schema import Document

PerCent = Annotated[float, Field(gt=0.0, le=100.0)]


class Derating(Document):
    """Of one kind of part, in per cent of each rating; all of it where nothing is said."""

    power: PerCent | None = None
    voltage: PerCent | None = None
    current: PerCent | None = None
