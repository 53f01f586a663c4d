"""Under which conditions a bench measures: a table for each kind, with defaults that the user may change."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from verdad_core.errors import BoardError
from verdad_core.units import format_value


@dataclass(frozen=True)
class Condition:
    """One number that a bench is set to, within bounds."""

    key: str
    title: str
    unit: str
    default: float
    least: float
    most: float


_AMPLIFIER = (
    Condition("high", "positive supply", "V", 5.0, -100.0, 100.0),
    Condition("low", "negative supply", "V", -5.0, -100.0, 100.0),
    Condition("load", "load, to mid-supply", "Ω", 10e3, 1.0, 1e9),
    Condition("noise", "frequency of the noise densities", "Hz", 1e3, 1.0, 1e6),
)
_COLD_HOT = (
    Condition("cold", "lowest temperature", "°C", -40.0, -100.0, 200.0),
    Condition("hot", "highest temperature", "°C", 85.0, -100.0, 200.0),
)
_THREE_PIN = (
    Condition("input", "input", "V", 12.0, 0.1, 200.0),
    Condition("swing", "change of the input", "V", 3.0, 0.01, 100.0),
    Condition("current", "load current", "A", 1e-3, 1e-7, 100.0),
)

CONDITIONS: dict[str, tuple[Condition, ...]] = {
    "op-amp": _AMPLIFIER + _COLD_HOT,
    "comparator": (
        *_AMPLIFIER[:3],
        Condition("overdrive", "overdrive of the delay", "V", 0.1, 1e-3, 10.0),
    ),
    "diode": (
        Condition("current", "forward current", "A", 10e-3, 1e-6, 100.0),
        Condition("reverse", "reverse voltage", "V", 10.0, 0.1, 5000.0),
        Condition("breakdown", "breakdown current", "A", 1e-3, 1e-6, 10.0),
        *_COLD_HOT,
    ),
    "bipolar": (
        Condition("current", "collector current", "A", 2e-3, 1e-6, 100.0),
        Condition("voltage", "collector-emitter voltage", "V", 5.0, 0.1, 1000.0),
        *_COLD_HOT,
    ),
    "jfet": (
        Condition("voltage", "drain-source voltage", "V", 10.0, 0.1, 200.0),
        Condition("cutoff", "drain current at cut-off", "A", 1e-9, 1e-12, 1e-3),
        *_COLD_HOT,
    ),
    "mosfet": (
        Condition("drive", "gate drive", "V", 10.0, 0.5, 50.0),
        Condition("current", "drain current", "A", 1.0, 1e-6, 1000.0),
        Condition("threshold", "drain current at threshold", "A", 250e-6, 1e-9, 1.0),
        Condition("voltage", "drain-source voltage", "V", 25.0, 0.1, 2000.0),
        *_COLD_HOT,
    ),
    "reference": _THREE_PIN + _COLD_HOT,
    "regulator": (*_THREE_PIN[:2], Condition("current", "load current", "A", 0.1, 1e-6, 100.0), *_COLD_HOT),
    "switch": (
        Condition("on", "control when on", "V", 5.0, -100.0, 100.0),
        Condition("off", "control when off", "V", 0.0, -100.0, 100.0),
        Condition("voltage", "voltage across it", "V", 1.0, 1e-3, 1000.0),
    ),
    "transformer": (Condition("frequency", "frequency", "Hz", 10e3, 1.0, 100e6),),
}
CONDITIONS["clamp"] = CONDITIONS["diode"]


def conditions_for(kind: str, given: Mapping[str, float]) -> dict[str, float]:
    """All conditions of a kind's bench, with those that are given. Raises BoardError for one that is out of bounds."""
    table = {condition.key: condition for condition in CONDITIONS.get(kind, ())}
    if unknown := sorted(set(given) - set(table)):
        raise BoardError(f"the bench has no condition '{unknown[0]}'", remedy=f"It has {', '.join(table) or 'none'}.")
    result = {key: condition.default for key, condition in table.items()}
    for key, value in given.items():
        condition = table[key]
        if not (math.isfinite(value) and condition.least <= value <= condition.most):
            least, most = (format_value(bound, condition.unit) for bound in (condition.least, condition.most))
            raise BoardError(
                f"{condition.title}: between {least} and {most}, not {format_value(value, condition.unit)}"
            )
        result[key] = value
    if {"high", "low"} <= set(result) and result["high"] - result["low"] < 0.5:
        raise BoardError("the positive supply has to lie above the negative one", remedy="Correct the supplies.")
    if {"cold", "hot"} <= set(result) and not result["cold"] < result["hot"]:
        raise BoardError("the highest temperature has to lie above the lowest one", remedy="Correct the temperatures.")
    return result
