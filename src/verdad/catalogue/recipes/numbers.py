"""Numbers as model files write them."""

from __future__ import annotations

import math

_SUFFIX = {12: "T", 9: "G", 6: "MEG", 3: "K", 0: "", -3: "M", -6: "U", -9: "N", -12: "P", -15: "F"}

#: Boltzmann's constant in J/K and the elementary charge in C (SI, 2019), 27 °C in K, and kT/q there in V.
BOLTZMANN, CHARGE, KELVIN = 1.380649e-23, 1.602176634e-19, 300.15
THERMAL = BOLTZMANN * KELVIN / CHARGE


def n(value: float) -> str:
    """A number with four digits and a scale letter: 663.1, 30P, 11.05MEG."""
    if value == 0:
        return "0"
    power = min(max(3 * math.floor(math.log10(abs(value)) / 3 + 1e-9), -15), 12)
    mantissa = f"{value / 10.0**power:.4g}"
    return f"{value:.4g}" if power == -15 and abs(value) < 1e-15 else f"{mantissa}{_SUFFIX[power]}"
