"""The registry of closed forms. All quantities in SI base units."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from verdad_core.errors import BoardError


@dataclass(frozen=True)
class ClosedForm:
    """A formula as text and as a function of the same symbols; `inputs` gives the unit and meaning of each."""

    key: str
    title: str
    formula: str
    inputs: Mapping[str, tuple[str, str]]
    unit: str
    source: str
    function: Callable[..., float]

    def evaluate(self, **values: float) -> float:
        """The number. Raises BoardError when a symbol is missing, unknown, or the formula has no value there."""
        if set(values) != set(self.inputs):
            raise BoardError(
                f"{self.title} needs {', '.join(self.inputs)}, but was given {', '.join(values) or 'nothing'}",
                remedy="Say which part stands for each symbol.",
            )
        try:
            return self.function(**values)
        except (ZeroDivisionError, ValueError, OverflowError):
            raise BoardError(f"{self.formula} has no value for these parts", remedy="Check for a zero value.") from None


_R = ("Ω", "resistance")
_C = ("F", "capacitance")

CLOSED_FORMS: dict[str, ClosedForm] = {
    form.key: form
    for form in (
        ClosedForm(
            "rc_cutoff", "RC cut-off", "f = 1 / (2π R C)", {"R": _R, "C": _C}, "Hz",
            "first-order section; any text on circuits", lambda R, C: 1 / (2 * math.pi * R * C),
        ),
        ClosedForm(
            "source_rc_cutoff", "RC cut-off behind a loaded source", "f = 1 / (2π (R + Rs‖Rp) C)",
            {"R": _R, "Rs": ("Ω", "source resistance"), "Rp": ("Ω", "load on the source"), "C": _C}, "Hz",
            "first-order section behind its Thévenin source",
            lambda R, Rs, Rp, C: 1 / (2 * math.pi * (R + Rs * Rp / (Rs + Rp)) * C),
        ),
        ClosedForm(
            "noninverting_gain", "Non-inverting gain", "G = 1 + Rf / Rg",
            {"Rf": ("Ω", "feedback resistor"), "Rg": ("Ω", "resistor to ground")}, "V/V",
            "ideal op-amp; any text on op-amps", lambda Rf, Rg: 1 + Rf / Rg,
        ),
        ClosedForm(
            "loaded_noninverting_gain", "Non-inverting gain behind a loaded source", "G = (1 + Rf / Rg) Rp / (Rp + Rs)",
            {"Rf": ("Ω", "feedback resistor"), "Rg": ("Ω", "resistor to ground"),
             "Rs": ("Ω", "source resistance"), "Rp": ("Ω", "load on the source")}, "V/V",
            "ideal op-amp and divider; any text on op-amps", lambda Rf, Rg, Rs, Rp: (1 + Rf / Rg) * Rp / (Rp + Rs),
        ),
        ClosedForm(
            "divider", "Voltage divider", "V = Vin R2 / (R1 + R2)",
            {"Vin": ("V", "input"), "R1": ("Ω", "upper resistor"), "R2": ("Ω", "lower resistor")}, "V",
            "unloaded divider; any text on circuits", lambda Vin, R1, R2: Vin * R2 / (R1 + R2),
        ),
    )
}  # fmt: skip
