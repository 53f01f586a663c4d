"""A measurement by its key, with the one place, level or band that most of them need."""

from __future__ import annotations

import math
from typing import Any

from verdad_core.measure.entry import AtLevel, AtPlace, Settings, WithinBand, measured
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.measure.trace import Trace


def taken(key: str, trace: Trace, at: float = math.nan, **settings: Any) -> float:
    entry = MEASUREMENTS[key]
    main = {AtPlace: "place", AtLevel: "level", WithinBand: "band"}.get(entry.settings, "")
    given = settings if math.isnan(at) or not main else {main: repr(at), **settings}
    asked: Settings = entry.settings.model_validate(given)
    return measured(entry, trace, asked)
