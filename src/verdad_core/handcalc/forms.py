"""The library of closed forms: formulas with symbols that values of parts take the place of. Quantities in SI units."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class ClosedForm:
    """A formula, the unit and meaning of each of its symbols, the unit of what it gives, and when it holds."""

    key: str
    title: str
    formula: str
    symbols: Mapping[str, tuple[str, str]]
    unit: str
    holds: str
    source: str

    @property
    def pieces(self) -> tuple[str, ...]:
        """The formula cut so that every symbol is a piece of its own."""
        return tuple(re.split(r"([A-Za-z_]\w*)", self.formula))

    def written(self, names: Mapping[str, str]) -> str:
        """The formula with names in the place of symbols; those not given stay."""
        return "".join(names.get(piece, piece) for piece in self.pieces)


_ANY, _OP_AMPS = "any text on circuits", "any text on op-amps"
_IDEAL = "The op-amp is ideal: much gain, no current into its inputs."
_R, _C, _L = ("Ω", "resistance"), ("F", "capacitance"), ("H", "inductance")
_FEEDBACK = {"Rf": ("Ω", "feedback resistor"), "Rg": ("Ω", "resistor to ground")}
_SOURCE = {"Rs": ("Ω", "source resistance"), "Rp": ("Ω", "load on the source")}
_TWO = {"R1": ("Ω", "first resistor"), "R2": ("Ω", "second resistor")}
_WARM = {"temperature": ("°C", "temperature")}
_ONE_POLE = "There is one pole, far from all others."

CLOSED_FORMS: dict[str, ClosedForm] = {
    form.key: form
    for form in (
        ClosedForm("rc_cutoff", "RC corner", "1/(2*pi*R*C)", {"R": _R, "C": _C}, "Hz",
                   "Driven by a source without resistance, and not loaded.", _ANY),
        ClosedForm("source_rc_cutoff", "RC corner behind a loaded source", "1/(2*pi*(R + Rs||Rp)*C)",
                   {"R": _R, **_SOURCE, "C": _C}, "Hz", "What follows does not load it.", _ANY),
        ClosedForm("rl_cutoff", "RL corner", "R/(2*pi*L)", {"R": _R, "L": _L}, "Hz",
                   "R is all the resistance in the loop, the inductor's own too.", _ANY),
        ClosedForm("lc_resonance", "LC resonance", "1/(2*pi*sqrt(L*C))", {"L": _L, "C": _C}, "Hz",
                   "The losses are small.", _ANY),
        ClosedForm("second_order_rc", "Natural frequency of two RC sections with an amplifier",
                   "1/(2*pi*sqrt(R1*R2*C1*C2))", {**_TWO, "C1": _C, "C2": _C}, "Hz",
                   f"{_IDEAL} It is the -3 dB frequency where Q is 0.707.", "Sallen and Key, 1955"),
        ClosedForm("closed_loop_bandwidth", "Bandwidth of a non-inverting stage", "GBW/(1 + Rf/Rg)",
                   {"GBW": ("Hz", "gain-bandwidth product"), **_FEEDBACK}, "Hz",
                   "The open-loop gain falls by one pole through the crossing; the signal does not slew.", _OP_AMPS),
        ClosedForm("inverting_bandwidth", "Bandwidth of an inverting stage", "GBW/(1 + Rf/Ri)",
                   {"GBW": ("Hz", "gain-bandwidth product"), "Rf": _FEEDBACK["Rf"], "Ri": ("Ω", "input resistor")},
                   "Hz", "As for a non-inverting stage: the noise gain counts.", _OP_AMPS),
        ClosedForm("full_power_bandwidth", "Full-power bandwidth", "SR/(2*pi*Vp)",
                   {"SR": ("V/s", "slew rate"), "Vp": ("V", "peak volts")}, "Hz",
                   "A sine whose steepest place is the slew rate.", _OP_AMPS),
        ClosedForm("noise_bandwidth", "Equivalent noise bandwidth of a corner", "pi/2*f", {"f": ("Hz",
                   "-3 dB frequency")},
                   "Hz", _ONE_POLE, "any text on noise"),
        ClosedForm("noninverting_gain", "Non-inverting gain", "1 + Rf/Rg", _FEEDBACK, "V/V", _IDEAL, _OP_AMPS),
        ClosedForm("loaded_noninverting_gain", "Non-inverting gain behind a loaded source", "(1 + Rf/Rg)*Rp/(Rp + Rs)",
                   {**_FEEDBACK, **_SOURCE}, "V/V", _IDEAL, _OP_AMPS),
        ClosedForm("inverting_gain", "Size of an inverting gain", "Rf/Ri",
                   {"Rf": _FEEDBACK["Rf"], "Ri": ("Ω", "input resistor")}, "V/V", _IDEAL, _OP_AMPS),
        ClosedForm("finite_gain", "Closed-loop gain with a finite open-loop gain", "A/(1 + A*Rg/(Rf + Rg))",
                   {"A": ("", "open-loop gain"), **_FEEDBACK}, "V/V", "Only the gain is finite.", _OP_AMPS),
        ClosedForm("instrument_gain", "Gain of an instrument amplifier's first pair", "1 + 2*Rf/Rg",
                   {"Rf": ("Ω", "each feedback resistor"), "Rg": ("Ω", "resistor between them")}, "V/V",
                   _IDEAL, _OP_AMPS),
        ClosedForm("division", "Ratio of a divider", "R2/(R1 + R2)", _TWO, "V/V", "It is not loaded.", _ANY),
        ClosedForm("divider", "Volts of a divider", "V*R2/(R1 + R2)", {"V": ("V", "volts across both"), **_TWO}, "V",
                   "It is not loaded.", _ANY),
        ClosedForm("offset", "Offset at the output", "Vos*(1 + Rf/Rg)", {"Vos": ("V", "input offset"),
                   **_FEEDBACK}, "V",
                   "Bias currents are left out.", _OP_AMPS),
        ClosedForm("ripple", "Ripple of a reservoir", "I/(f*C)",
                   {"I": ("A", "load current"), "f": ("Hz", "frequency of charging"), "C": _C}, "V",
                   "Charged in a short time, emptied by a steady current.", _ANY),
        ClosedForm("noise_of_capacitor", "Noise of a capacitor that a resistor feeds",
                   "sqrt(k_B*kelvin(temperature)/C)",
                   {**_WARM, "C": _C}, "V", "Over all frequencies, whatever the resistor.", "Nyquist, 1928"),
        ClosedForm("thermal_noise", "Thermal noise of a resistor", "sqrt(4*k_B*kelvin(temperature)*R)",
                   {**_WARM, "R": _R},
                   "V/√Hz", "Open at its ends.", "Johnson, 1928; Nyquist, 1928"),
        ClosedForm("amplifier_noise", "Noise of a non-inverting stage",
                   "(1 + Rf/Rg)*sqrt(en^2 + 4*k_B*kelvin(temperature)*(Rf||Rg))",
                   {"en": ("V/√Hz", "voltage noise of the op-amp"), **_FEEDBACK, **_WARM}, "V/√Hz",
                   "The input's current noise and the source's resistance add little.", "any text on noise"),
        ClosedForm("rise_time", "Rise time of an RC", "ln(9)*R*C", {"R": _R, "C": _C}, "s",
                   f"From 10 to 90 %. {_ONE_POLE}", _ANY),
        ClosedForm("rise_of_bandwidth", "Rise time of a bandwidth", "ln(9)/(2*pi*f)", {"f": ("Hz",
                   "-3 dB frequency")}, "s",
                   f"From 10 to 90 %. {_ONE_POLE}", _ANY),
        ClosedForm("settling", "Settling of an RC", "R*C*ln(100/band)",
                   {"R": _R, "C": _C, "band": ("", "band in per cent")}, "s", _ONE_POLE, _ANY),
        ClosedForm("overshoot", "Overshoot of a second-order step", "exp(-pi*z/sqrt(1 - z^2))",
                   {"z": ("", "damping ratio, 1/(2 Q)")}, "%", "Two poles and no zero.", "any text on control"),
        ClosedForm("two_pole_margin", "Phase margin with a second pole", "90 - deg(atan(fc/fp))",
                   {"fc": ("Hz", "where the loop gain crosses 1"), "fp": ("Hz", "second pole")}, "°",
                   "One pole lies far below the crossing.", "any text on control"),
        ClosedForm("current", "Current through a resistor", "V/R", {"V": ("V", "volts across it"), "R": _R},
                   "A", "Ohm's law.", _ANY),
        ClosedForm("power", "Power of a resistor", "V^2/R", {"V": ("V", "rms volts across it"), "R": _R},
                   "W", "Joule's law.", _ANY),
    )
}  # fmt: skip
