"""What the corners of a worst case say of a measurement: each factor by itself, and three ways to put them together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Booleans, Floats


@dataclass(frozen=True)
class Effect:
    """What a measurement is with one factor at its low and at its high end, all others as drawn; None for no number.

    `turns` where it does not lie on both sides of what it is as drawn: it has an extreme in between.
    """

    factor: str
    low: float | None
    high: float | None
    turns: bool


@dataclass(frozen=True)
class Between:
    """A factor that stands between its ends: `part` of the way from what is drawn, -1 at the low and 1 at the high."""

    factor: str
    part: float


@dataclass(frozen=True)
class Extreme:
    """The least or the greatest of all rows, in which row it is, and which factors are low, high and between there."""

    value: float
    row: int
    low: tuple[str, ...]
    high: tuple[str, ...]
    between: tuple[Between, ...]


@dataclass(frozen=True)
class Corners:
    """`effects`, the largest first; the extreme values; and the root sum of squares of the effects to both sides.

    `within` says how many rows were looked at between the ends, and `passed` whether one of them is worse than any
    corner.

    The latter takes every factor as independent of the others and the effects as adding up, and is exceeded by one unit
    in many (JCGM 100:2008, 5.1.2, with the ends as bounds of each). None where a number is missing.
    """

    nominal: float | None
    effects: tuple[Effect, ...]
    least: Extreme | None
    greatest: Extreme | None
    square_low: float | None
    square_high: float | None
    within: int
    passed: bool


def singles(count: int) -> Floats:
    """Where factors stand in the rows that `corners` begins with: as drawn, then each low and high by itself."""
    levels = np.zeros((1 + 2 * count, count))
    levels[1 + 2 * np.arange(count), np.arange(count)] = -1.0
    levels[2 + 2 * np.arange(count), np.arange(count)] = 1.0
    return levels


def is_corner(levels: Floats) -> Booleans:
    """Which rows have every factor at an end or as drawn."""
    return np.asarray(np.all(np.isin(levels, (-1.0, 0.0, 1.0)), axis=1))


def corners(values: Floats, levels: Floats, factors: Sequence[str]) -> Corners:
    """Of [rows] values with the levels of the factors, from -1 over 0 as drawn to 1 [rows, factors].

    The first rows are those of `singles`.
    """
    nominal = _number(values[0]) if len(values) else None
    effects = []
    for k, factor in enumerate(factors):
        low, high = (_number(values[row]) if row < len(values) else None for row in (1 + 2 * k, 2 + 2 * k))
        turns = (
            nominal is not None and low is not None and high is not None and (low - nominal) * (high - nominal) > 0.0
            # What differs by rounding turns nowhere.
            and min(abs(low - nominal), abs(high - nominal)) > 1e-6 * max(abs(low - nominal), abs(high - nominal))
        )  # fmt: skip
        effects.append(Effect(factor, low, high, turns))
    square_low = square_high = None
    if nominal is not None and all(each.low is not None and each.high is not None for each in effects):
        ends = [(each.low - nominal, each.high - nominal) for each in effects]  # type: ignore[operator]
        square_low = nominal - math.hypot(*(min(0.0, *pair) for pair in ends))
        square_high = nominal + math.hypot(*(max(0.0, *pair) for pair in ends))
    known = np.flatnonzero(np.isfinite(values))
    least = _extreme(values, levels, factors, int(known[np.argmin(values[known])])) if len(known) else None
    greatest = _extreme(values, levels, factors, int(known[np.argmax(values[known])])) if len(known) else None
    ordered = sorted(effects, key=_span, reverse=True)
    within = int(np.sum(~is_corner(levels)))
    passed = any(extreme is not None and bool(extreme.between) for extreme in (least, greatest))
    return Corners(nominal, tuple(ordered), least, greatest, square_low, square_high, within, passed)


def _number(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None


def _span(effect: Effect) -> float:
    return abs(effect.high - effect.low) if effect.high is not None and effect.low is not None else 0.0


def _extreme(values: Floats, levels: Floats, factors: Sequence[str], row: int) -> Extreme:
    stands = list(zip(factors, levels[row].tolist(), strict=True))
    return Extreme(
        float(values[row]), row, tuple(name for name, level in stands if level == -1.0),
        tuple(name for name, level in stands if level == 1.0),
        tuple(Between(name, level) for name, level in stands if level not in (-1.0, 0.0, 1.0)),
    )  # fmt: skip
