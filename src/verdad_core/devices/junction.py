"""What all pn junctions share: exponentials that do not overflow, limiting, depletion charge, temperature.

Sources: Antognetti and Massobrio, "Semiconductor Device Modeling with SPICE", 1988, chapters 1 and 2 (depletion
charge, temperature); Nagel, "SPICE2: a computer program to simulate semiconductor circuits", 1975 (limiting).
"""

from __future__ import annotations

import math

from verdad_core.arrays import Floats
from verdad_core.devices.base import BOLTZMANN_OVER_CHARGE, ZERO_CELSIUS
from verdad_core.jit import kernel

#: Above this argument an exponential goes on as its tangent.
MAX_EXPONENT = 80.0

#: Grading and FC are held below 1, where the depletion formulas end.
MAX_GRADING = 0.9
MAX_FC = 0.95


@kernel
def thermal_voltage(celsius: float) -> float:
    """kT/q in volts."""
    return BOLTZMANN_OVER_CHARGE * (celsius + ZERO_CELSIUS)


@kernel
def exponential(v: float, scale: float) -> tuple[float, float]:
    """(exp(v / scale) - 1, its derivative with respect to v), continued as a tangent above MAX_EXPONENT."""
    u = v / scale
    if u > MAX_EXPONENT:
        top = math.exp(MAX_EXPONENT)
        return top * (1.0 + u - MAX_EXPONENT) - 1.0, top / scale
    e = math.exp(u)
    # Only near zero does the difference to 1 lose digits.
    return (e - 1.0 if abs(u) > 1.0 else math.expm1(u)), e / scale


@kernel
def critical_voltage(saturation_current: float, scale: float) -> float:
    """The voltage where the exponential's curvature is largest: limiting starts there."""
    return scale * math.log(scale / (math.sqrt(2.0) * max(saturation_current, 1e-300)))


@kernel
def limit(v: float, old: float, scale: float, critical: float) -> float:
    """The next voltage where Newton asks for `v`: above the knee, steps are taken in the logarithm."""
    if v <= critical or abs(v - old) <= 2.0 * scale:
        return v
    if old > 0.0:
        step = 1.0 + (v - old) / scale
        return old + scale * math.log(step) if step > 0.0 else critical
    return scale * math.log(v / scale)


@kernel
def note_knee(out: Floats, a: int, b: int, scale: float) -> None:
    """Lower out[a] and out[b] to the volts within which the current between them changes by a factor e."""
    out[a], out[b] = min(out[a], scale), min(out[b], scale)


@kernel
def depletion(v: float, cj: float, vj: float, m: float, fc: float) -> tuple[float, float]:
    """(charge, capacitance) of a depletion layer; above fc vj the capacitance goes on as a straight line."""
    if cj == 0.0:
        return 0.0, 0.0
    knee = fc * vj
    if v < knee:
        s = 1.0 - v / vj
        c = cj * s**-m
        return cj * vj / (1.0 - m) * (1.0 - s ** (1.0 - m)), c
    at_knee = vj / (1.0 - m) * (1.0 - (1.0 - fc) ** (1.0 - m))
    f2 = (1.0 - fc) ** (1.0 + m)
    f3 = 1.0 - fc * (1.0 + m)
    charge = at_knee + (f3 * (v - knee) + m / (2.0 * vj) * (v * v - knee * knee)) / f2
    return cj * charge, cj * (f3 + m * v / vj) / f2


@kernel
def band_gap(kelvin: float) -> float:
    """Silicon's band gap in eV at a temperature."""
    return 1.16 - 7.02e-4 * kelvin * kelvin / (kelvin + 1108.0)


@kernel
def potential_at(vj: float, celsius: float, nominal: float) -> float:
    """Built-in potential VJ at a temperature, from its value at the `nominal` one (both in °C)."""
    if celsius == nominal:
        return vj
    t, tn = celsius + ZERO_CELSIUS, nominal + ZERO_CELSIUS
    ratio = t / tn
    return vj * ratio - 3.0 * BOLTZMANN_OVER_CHARGE * t * math.log(ratio) - band_gap(tn) * ratio + band_gap(t)


@kernel
def capacitance_at(cj: float, vj: float, m: float, celsius: float, nominal: float) -> float:
    """Zero-bias depletion capacitance at a temperature, from its value at the `nominal` one (both in °C)."""
    return cj * (1.0 + m * (4e-4 * (celsius - nominal) - (potential_at(vj, celsius, nominal) - vj) / vj))


@kernel
def saturation_at(current: float, eg: float, xti: float, emission: float, celsius: float, nominal: float) -> float:
    """Saturation current at a temperature: IS r^(XTI/N) exp((r - 1) EG / (N kT/q)), r = T/Tnom."""
    if celsius == nominal:
        return current
    ratio = (celsius + ZERO_CELSIUS) / (nominal + ZERO_CELSIUS)
    return current * math.exp(
        (ratio - 1.0) * eg / (emission * thermal_voltage(celsius)) + xti / emission * math.log(ratio)
    )
