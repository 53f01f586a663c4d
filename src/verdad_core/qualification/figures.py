"""What a bench brings: figures, each a number or the reason why there is none, and cards with curves or a table."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.errors import Finding


@dataclass(frozen=True)
class FigureType:
    """One entry of a bench's registry: a figure as a data sheet names it, its unit, and how it is measured.

    `names` are other names under which data sheets list it. A figure in decibels may be off by `decibels`, any other
    by `share`, where the data sheet gives only a typical value. With `size`, signs are not compared.
    """

    key: str
    title: str
    unit: str
    meaning: str
    names: tuple[str, ...] = ()
    share: float = 0.25
    decibels: float = 3.0
    size: bool = False


class Standing(StrEnum):
    """Whether a figure has a value, is not modelled, or could not be found out."""

    MEASURED = "measured"
    ABSENT = "absent from the model"
    FAILED = "not found out"


@dataclass(frozen=True)
class Figure:
    """One measured figure; `value` is None where there is none, and `remark` then says why."""

    key: str
    value: float | None
    standing: Standing = Standing.MEASURED
    remark: str = ""


@dataclass(frozen=True)
class Axis:
    """An axis of a card."""

    title: str
    unit: str
    logarithmic: bool = False


@dataclass(frozen=True)
class Curve:
    """A curve of a card: y over x, or over the second y axis."""

    title: str
    x: tuple[float, ...]
    y: tuple[float, ...]
    second: bool = False


@dataclass(frozen=True)
class Card:
    """A result to look at: curves over axes, or a table with a heading."""

    key: str
    title: str
    x: Axis | None = None
    y: Axis | None = None
    second: Axis | None = None
    curves: tuple[Curve, ...] = ()
    heading: tuple[str, ...] = ()
    table: tuple[tuple[str, ...], ...] = ()
    remark: str = ""


@dataclass
class Outcome:
    """What one experiment brought: whatever was learnt before it ended."""

    figures: list[Figure] = field(default_factory=list)
    cards: list[Card] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)

    def measured(self, key: str, value: float, remark: str = "") -> None:
        """A figure's value; not a number counts as not found out."""
        if math.isfinite(value):
            self.figures.append(Figure(key, float(value), Standing.MEASURED, remark))
        else:
            self.failed(key, remark or "the measurement gave no number")

    def absent(self, key: str, remark: str) -> None:
        """The model does not model it."""
        self.figures.append(Figure(key, None, Standing.ABSENT, remark))

    def failed(self, key: str, remark: str) -> None:
        """It could not be found out."""
        self.figures.append(Figure(key, None, Standing.FAILED, remark))

    def value(self, key: str) -> float:
        """A figure that was measured; NaN where it was not."""
        return next((f.value for f in self.figures if f.key == key and f.value is not None), math.nan)


#: Points that a curve keeps.
MOST_POINTS = 600


def curve(title: str, x: Floats, y: Floats, *, second: bool = False) -> Curve:
    """A curve of finite points, at most about MOST_POINTS of them."""
    good = np.isfinite(x) & np.isfinite(y)
    x, y = x[good], y[good]
    step = max(1, math.ceil(len(x) / MOST_POINTS))
    keep = np.unique(np.append(np.arange(0, len(x), step), len(x) - 1)) if len(x) else np.empty(0, int)
    return Curve(title, tuple(_short(x[keep])), tuple(_short(y[keep])), second)


def _short(values: Floats) -> Sequence[float]:
    return [float(f"{value:.6g}") for value in values.tolist()]
