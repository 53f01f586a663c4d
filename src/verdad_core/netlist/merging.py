"""An element's own values and its model's, put together into the parameters of its device family."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from verdad_core.devices import FAMILY_OF
from verdad_core.devices.trade import TRADE

Values = Mapping[str, float]


def merge(family: str, own: Values, model: Values) -> dict[str, float]:
    """The values of an element of `family`.

    Raises ValueError with the reason where they do not make one.
    """
    # An element's own m counts parallel ones; a model's may be something else, such as a grading coefficient.
    count, own = own.get("m", 1.0), {name: value for name, value in own.items() if name != "m"}
    if not count > 0.0:
        raise ValueError(f"has m = {count:g}; parallel ones are counted from above zero")
    values = _SPECIAL[family](own, model) if family in _SPECIAL else {**model, **own}
    defaults = {parameter.name: parameter.default for parameter in FAMILY_OF[family].parameters}
    if count != 1.0:
        for name, power in TRADE[family].parallel:
            values[name] = values.get(name, defaults[name]) * count**power
    return values


def _resistor(own: Values, model: Values) -> dict[str, float]:
    values = {**model, **own}
    sheet = values.pop("rsh", 0.0)
    wide, narrow = values.pop("w", values.get("defw", 1e-5)), values.pop("narrow", 0.0)
    values.pop("defw", None)
    long = values.pop("l", 0.0)
    if "resistance" not in values:
        if not (sheet > 0 and long > narrow and wide > narrow):
            raise ValueError("has no resistance, and its model no sheet resistance with a length")
        values["resistance"] = sheet * (long - narrow) / (wide - narrow)
    values["resistance"] *= values.pop("scale", 1.0)
    return values


def _capacitor(own: Values, model: Values) -> dict[str, float]:
    values = {**model, **own}
    area, edge, narrow = values.pop("cj", 0.0), values.pop("cjsw", 0.0), values.pop("narrow", 0.0)
    wide, long = values.pop("w", values.get("defw", 1e-5)) - narrow, values.pop("l", 0.0) - narrow
    values.pop("defw", None)
    if "capacitance" not in values:
        if not (long > 0 and wide > 0):
            raise ValueError("has no capacitance, and its model none from a length")
        values["capacitance"] = area * long * wide + 2.0 * edge * (long + wide)
    values["capacitance"] *= values.pop("scale", 1.0)
    return values


def _inductor(own: Values, model: Values) -> dict[str, float]:
    values = {**model, **own}
    if "inductance" not in values:
        raise ValueError("has no inductance")
    values["inductance"] *= values.pop("scale", 1.0)
    return values


def _line(own: Values, model: Values) -> dict[str, float]:
    values = {**model, **own}
    if "z0" in values:
        if "td" not in values:
            if values["f"] <= 0:
                raise ValueError("has a frequency that is not above zero")
            values["td"] = values.get("nl", 0.25) / values["f"]
        return {"z0": values["z0"], "td": values["td"]}
    if "len" not in values:
        raise ValueError("has no length, and neither has its model")
    lossless = values.get("r", 0.0) == 0.0 == values.get("g", 0.0)
    inductance, capacitance = values.get("l", 0.0), values.get("c", 0.0)
    if lossless and inductance > 0.0 and capacitance > 0.0:
        # A line without losses is exact: sqrt(L/C), and the length times sqrt(LC).
        return {"z0": math.sqrt(inductance / capacitance), "td": values["len"] * math.sqrt(inductance * capacitance)}
    return values


def _switch(own: Values, model: Values) -> dict[str, float]:
    """The hysteresis form, with thresholds written either way."""
    values = {**model, **own}
    on, off = values.pop("on", None), values.pop("off", None)
    if on is not None or off is not None:
        on, off = on if on is not None else 1.0, off if off is not None else 0.0
        values.setdefault("threshold", (on + off) / 2)
        values.setdefault("hysteresis", (on - off) / 2)
    return values


def _smooth_switch(own: Values, model: Values) -> dict[str, float]:
    values = {**model, **own}
    middle, half = values.pop("threshold", None), values.pop("hysteresis", 0.0)
    if middle is not None:
        values.setdefault("on", middle + max(half, 1e-3))
        values.setdefault("off", middle - max(half, 1e-3))
    values.pop("initially", None)
    return values


_SPECIAL: dict[str, Callable[[Values, Values], dict[str, float]]] = {
    "resistor": _resistor,
    "capacitor": _capacitor,
    "inductor": _inductor,
    "line": _line,
    "switch": _switch,
    "smooth switch": _smooth_switch,
}
