"""What a solution knows of a voltage: beside volts, picovolts are rounding."""

from __future__ import annotations

#: Voltages below this part of the largest one in the circuit are none: equations are solved to that many digits.
KNOWN = 1e-11


def known_volts(value: float, largest: float) -> float:
    """The value, in V, or zero where it is less than what is known beside the largest voltage."""
    return value if abs(value) > KNOWN * largest else 0.0
