"""Sources of a netlist as fixtures, and the other way round."""

from __future__ import annotations

import math
from typing import Any

from pydantic import ValidationError

from verdad_core.devices import Element
from verdad_core.devices.waveforms import GAUSSIAN, PULSE, PWL, SIN, Waveform
from verdad_core.document.fixtures import Source
from verdad_core.units import parse_value, plain_value

_WORDS = {PULSE: "pulse", SIN: "sin", PWL: "pwl", GAUSSIAN: "gaussian"}


def written_form(source: Source) -> str:
    """A source's waveform as it follows its values in a statement; empty without one, and for noise (`noise_form`)."""
    form = source.waveform.form(parse_value(source.dc)) if source.waveform is not None else None
    return "" if form is None or form.kind == GAUSSIAN else _form(form)


def noise_form(source: Source) -> str:
    """A source's noise, which has no direct value in the language and so needs a source of its own; empty without."""
    form = source.waveform.form(0.0) if source.waveform is not None else None
    return _form(form) if form is not None and form.kind == GAUSSIAN else ""


def _form(form: Waveform) -> str:
    values = list(form.values)
    repeat = ""
    if form.kind == PWL:
        repeat = "" if math.isnan(values[0]) else f" repeat={values[0]!r}"
        values = values[1:]
    # A width without end is what a pulse has that names none.
    numbers = [value for k, value in enumerate(values) if all(map(math.isfinite, values[: k + 1]))]
    return f" {_WORDS[form.kind]}({' '.join(map(repr, numbers))}){repeat}"


def taken_source(element: Element) -> dict[str, Any] | None:
    """A source's fields for an element of a netlist; None for one that they cannot say."""
    if element.family not in ("voltage source", "current source") or set(element.values) - {"dc", "ac", "phase"}:
        return None
    form: Waveform | None = element.extra
    direct = element.values.get("dc")
    fields: dict[str, Any] = {"ac": plain_value(element.values.get("ac", 0.0)), "resistance": "0"}
    if turned := element.values.get("phase", 0.0):
        fields["phase"] = plain_value(turned)
    if form is None:
        return fields | {"dc": plain_value(direct or 0.0)}
    waveform, begins = _waveform(form)
    if waveform is None or (direct is not None and direct != begins):
        return None
    fields |= {"dc": plain_value(begins), "waveform": waveform}
    try:
        Source.model_validate({"name": "tried", "plus": "a", **fields})
    except ValidationError:
        return None
    return fields


def _waveform(form: Waveform) -> tuple[dict[str, Any] | None, float]:
    """A waveform's document, and the value that it begins with."""
    values = form.values
    text = [plain_value(value) if math.isfinite(value) else "" for value in values]
    if form.kind in (PULSE, SIN) and values[-1] > 0:
        return None, 0.0
    if form.kind == SIN and values[4] == 0:
        sine = {"amplitude": text[1], "frequency": text[2], "delay": text[3], "phase": text[5]}
        return {"kind": "sine", **sine}, values[0]
    if form.kind == PULSE and math.isinf(values[5]) and values[6] == 0:
        return {"kind": "step", "level": text[1], "delay": text[2], "rise": text[3]}, values[0]
    if form.kind == PULSE and math.isfinite(values[5]):
        pulse = {"level": text[1], "delay": text[2], "rise": text[3], "fall": text[4], "width": text[5]}
        return {"kind": "pulse", **pulse, "every": text[6] if values[6] > 0 else None}, values[0]
    if form.kind == PWL and (math.isnan(values[0]) or values[0] == values[1]):
        corners = list(zip(text[1::2], text[2::2], strict=True))
        return {"kind": "piecewise linear", "corners": corners, "repeat": not math.isnan(values[0])}, values[2]
    return None, 0.0
