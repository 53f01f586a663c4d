"""How far a quantity may lie from its nominal value, as designers and data sheets write it.

1        5 %      ±5%         per cent of the nominal value, both ways
-20 +80  +10                  per cent, not the same both ways; one way
±100ppm                       millionths of the nominal value
±0.5p    -1m +2m  0.5 pF      in the quantity's own unit, where there is a prefix or a unit
±50ppm   50ppm/°C             of a temperature coefficient: per degree
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.errors import ValueTextError
from verdad_core.units import PER_DEGREE, parse_value

_PLAIN = re.compile(r"\d+\.?\d*(e[+-]?\d+)?|\.\d+(e[+-]?\d+)?", re.IGNORECASE)
_REMEDY = "Write it like 5, -20 +80, ±100ppm or ±0.5p."


@dataclass(frozen=True)
class Amount:
    """Deviations between `low` and `high`: in the quantity's unit where `absolute`, else as a part of its value."""

    low: float
    high: float
    absolute: bool = False

    def deviation(self, draws: Floats) -> Floats:
        """Draws within ±1 [rows], spread over what there is from low to high."""
        return np.asarray(0.5 * (self.high + self.low) + 0.5 * (self.high - self.low) * draws)


def between(level: Floats, low: float, drawn: float, high: float) -> Floats:
    """What stands at levels from -1, low, over 0, as drawn, to 1, high [rows]: in proportion on both sides of what is
    drawn, or, where that lies beyond an end, from end to end.
    """
    if low <= drawn <= high:
        return np.asarray(drawn + np.where(level < 0.0, level * (drawn - low), level * (high - drawn)))
    return np.asarray(np.where(level == 0.0, drawn, 0.5 * (low + high) + 0.5 * (high - low) * level))


class Deviations:
    """How far a quantity is from nominal in [rows]: all that adds up, relative and absolute."""

    def __init__(self, rows: int) -> None:
        self._share, self._own = np.zeros(rows), np.zeros(rows)

    def add(self, amount: Amount, deviation: Floats) -> None:
        if amount.absolute:
            self._own += deviation
        else:
            self._share += deviation

    def of(self, nominal: float) -> Floats:
        """The quantity's values."""
        return np.asarray(nominal * (1.0 + self._share) + self._own)


def parse_amount(text: str, unit: str = "") -> Amount:
    """What `text` says of a quantity in `unit`. Raises ValueTextError for what is no amount, or has another unit."""
    stripped = text.strip().replace("\u2212", "-").removeprefix("±").strip()
    bounds = _bounds(stripped)
    both = not stripped.startswith(("+", "-"))
    if len(bounds) > (1 if both else 2):
        raise ValueTextError(f"'{text.strip()}' is no tolerance", remedy=_REMEDY)
    read = [_bound(bound, unit, relative="%" in stripped) for bound in bounds]
    values, absolute = sorted(value for value, _ in read), any(is_absolute for _, is_absolute in read)
    if absolute and not all(is_absolute or value == 0.0 for value, is_absolute in read):
        raise ValueTextError(f"'{text.strip()}' is half per cent and half not", remedy="Write both bounds alike.")
    if both:
        found = Amount(-abs(values[0]), abs(values[0]), absolute)
    else:
        found = Amount(min(values[0], 0.0), max(values[-1], 0.0), absolute) if len(values) == 1 else Amount(
            values[0], values[1], absolute
        )  # fmt: skip
    if not found.low < found.high:
        raise ValueTextError(f"'{text.strip()}' leaves no room", remedy=_REMEDY)
    if not absolute and not (found.low > -1.0 and found.high < 100.0):
        raise ValueTextError(f"'{text.strip()}' would take the value to zero or below", remedy="Write less than 100 %.")
    return found


def read_amount(text: str) -> None:
    """Raises ValueTextError for what is no amount of any quantity."""
    try:
        parse_amount(text)
    except ValueTextError:
        # A temperature coefficient's is written in a way of its own.
        parse_amount(text, PER_DEGREE)


def _bounds(text: str) -> list[str]:
    """What begins with a sign that is no exponent's, and what stands before the first."""
    starts = [
        k for k, c in enumerate(text) if c in "+-" and k and not (text[k - 1] in "eE" and text[: k - 1][-1:].isdigit())
    ]
    return [text[a:b].strip() for a, b in zip([0, *starts], [*starts, len(text)], strict=True)]


def _bound(text: str, unit: str, *, relative: bool) -> tuple[float, bool]:
    """A bound's size with its sign, and whether it is in the quantity's unit."""
    sign = -1.0 if text.startswith("-") else 1.0
    bare = text.lstrip("+-").strip()
    share = bare.removesuffix("%").strip()
    if _PLAIN.fullmatch(share):
        return sign * float(share) / 100.0, False
    if relative:
        raise ValueTextError(f"'{bare}' is no number of per cent", remedy=_REMEDY)
    if bare.endswith("ppm") and unit != PER_DEGREE:
        return sign * parse_value(bare.removesuffix("ppm").strip()) / 1e6, False
    return sign * parse_value(bare, unit), True


def told(text: str) -> str:
    """An amount in words, as typed: "±5 %", "-20 +80 %", "±0.5p"."""
    stripped = text.strip().removeprefix("±").strip()
    signed = stripped if stripped.startswith(("+", "-", "\u2212")) else f"±{stripped}"
    last = stripped.split("-")[-1].split("+")[-1].strip()
    return f"{signed} %" if _PLAIN.fullmatch(last) else signed
