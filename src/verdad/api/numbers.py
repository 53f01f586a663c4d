"""Numbers in JSON: what is not finite becomes null."""

from __future__ import annotations

import math
from typing import Annotated

from pydantic import BeforeValidator


def _finite(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None


#: A number that may be missing.
Number = Annotated[float | None, BeforeValidator(_finite)]
