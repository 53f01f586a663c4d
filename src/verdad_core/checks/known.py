"""What a solution knows of a voltage: beside ten volts, picovolts are rounding."""

from __future__ import annotations

#: Voltages below this part of the largest one in the circuit are none: doubles carry sixteen digits, and elimination
#: and subtraction cost some four of them.
KNOWN = 1e-12


def known_volts(value: float, largest: float) -> float:
    """The value, in V, or zero where it is less than what is known beside the largest voltage."""
    return value if abs(value) > KNOWN * largest else 0.0
