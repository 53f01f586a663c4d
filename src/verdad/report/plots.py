"""Curves of cards as vectors: black on white, told apart by their dashes."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from html import escape

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.checks.signals import Signals
from verdad_core.document.cards import CheckCard
from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.thinning import thinned_indices
from verdad_core.measure.trace import Axis
from verdad_core.units import format_value

#: The size of a plot, what its frame leaves for numbers around it, and points of a curve.
_WIDTH, _HEIGHT, _LEFT, _RIGHT, _BELOW, _ABOVE, _POINTS = 460.0, 190.0, 62.0, 24.0, 34.0, 18.0, 600

#: Strokes of curves, one after the other: width and dashes.
_STROKES = ((1.6, ""), (1.4, "6 3"), (1.4, "1.5 2.5"), (1.4, "8 3 2 3"), (0.9, ""), (0.9, "6 3"))


@dataclass(frozen=True)
class _Curve:
    name: str
    x: Floats
    y: Floats


def plots_of(card: CheckCard, signals: Signals) -> Iterator[str]:
    """The plots of a card as SVG elements: one for each pane and unit. Of other shapes than curves there is none."""
    if card.shape != "axis":
        return
    groups: dict[tuple[int, str], list[_Curve]] = {}
    axes: dict[tuple[int, str], Axis] = {}
    for curve in card.curves:
        try:
            trace = signals.evaluate(read_expression(curve.expression))
        except MeasurementError:
            continue
        if trace.axis is None:
            continue
        keep = thinned_indices(trace.axis.values, trace.values, _POINTS)
        values = np.abs(trace.values[keep]) if trace.is_complex else np.asarray(trace.values[keep], float)
        group = (curve.pane, trace.unit.name)
        groups.setdefault(group, []).append(_Curve(curve.expression, trace.axis.values[keep], values))
        axes.setdefault(group, trace.axis)
    for group, curves in groups.items():
        yield _plot(curves, axes[group], group[1])


def _plot(curves: Sequence[_Curve], axis: Axis, unit: str) -> str:
    logarithmic = axis.logarithmic and all(np.all(curve.x > 0.0) for curve in curves)
    low, high = min(float(c.x[0]) for c in curves), max(float(c.x[-1]) for c in curves)
    values = np.concatenate([c.y[np.isfinite(c.y)] for c in curves])
    if not len(values) or not high > low:
        return ""
    bottom, top = float(np.min(values)), float(np.max(values))
    room = 0.06 * (top - bottom) or 0.1 * abs(top) or 1.0
    bottom, top = bottom - room, top + room

    def across(x: Floats) -> Floats:
        along, ends = (np.log10(x), (math.log10(low), math.log10(high))) if logarithmic else (x, (low, high))
        return np.asarray(_LEFT + (along - ends[0]) / (ends[1] - ends[0]) * (_WIDTH - _LEFT - _RIGHT))

    def up(y: Floats) -> Floats:
        return np.asarray(_HEIGHT - _BELOW - (y - bottom) / (top - bottom) * (_HEIGHT - _BELOW - _ABOVE))

    floor = _HEIGHT - _BELOW
    parts = [
        f'<rect x="{_LEFT}" y="{_ABOVE}" width="{_WIDTH - _LEFT - _RIGHT}" height="{floor - _ABOVE}" class="frame"/>'
    ]
    for x in _decades(low, high) if logarithmic else _ticks(low, high):
        at = float(across(np.array(x)))
        parts.append(f'<path d="M{at:.1f} {_ABOVE}V{floor}" class="grid"/>')
        parts.append(f'<text x="{at:.1f}" y="{floor + 13}" text-anchor="middle">{_short(x)}</text>')
    for y in _ticks(bottom, top):
        at = float(up(np.array(y)))
        parts.append(f'<path d="M{_LEFT} {at:.1f}H{_WIDTH - _RIGHT}" class="grid"/>')
        parts.append(f'<text x="{_LEFT - 5}" y="{at + 3.5:.1f}" text-anchor="end">{_short(y)}</text>')
    for k, curve in enumerate(curves):
        width, dashes = _STROKES[k % len(_STROKES)]
        parts.append(f'<path d="{_path(across(curve.x), up(curve.y))}" class="curve" stroke-width="{width}"'
                     f' stroke-dasharray="{dashes}"/>')  # fmt: skip
    title = f"{axis.title} / {axis.unit.name}" if axis.unit.name else axis.title
    parts.append(f'<text x="{_WIDTH / 2}" y="{_HEIGHT - 6}" text-anchor="middle">{escape(title)}</text>')
    parts.append(f'<text x="{_LEFT - 5}" y="{_ABOVE - 6}" text-anchor="end">{escape(unit or "1")}</text>')
    named = ", ".join(curve.name for curve in curves)
    svg = f'<svg viewBox="0 0 {_WIDTH:g} {_HEIGHT:g}" role="img" aria-label="{escape(named)}">{"".join(parts)}</svg>'
    legend = " ".join(_legend(k, curve.name) for k, curve in enumerate(curves))
    return f"<figure>{svg}<figcaption>{legend}</figcaption></figure>"


def _legend(k: int, name: str) -> str:
    width, dashes = _STROKES[k % len(_STROKES)]
    line = f'<path d="M0 4H26" class="curve" stroke-width="{width}" stroke-dasharray="{dashes}"/>'
    return f'<span><svg width="28" height="8" aria-hidden="true">{line}</svg> <code>{escape(name)}</code></span>'


def _path(x: Floats, y: Floats) -> str:
    """Lines from point to point; where there is no number the curve is broken."""
    pieces, pen = [], "M"
    for a, b in zip(x.tolist(), y.tolist(), strict=True):
        if math.isfinite(a) and math.isfinite(b):
            pieces.append(f"{pen}{a:.1f} {b:.1f}")
            pen = "L"
        else:
            pen = "M"
    return "".join(pieces)


def _ticks(low: float, high: float) -> list[float]:
    """Round numbers between two ends, about five."""
    raw = (high - low) / 5.0
    power = 10.0 ** math.floor(math.log10(raw))
    step = next(digit * power for digit in (1.0, 2.0, 5.0, 10.0) if digit * power >= raw)
    first = math.ceil(low / step)
    return [k * step for k in range(first, math.floor(high / step) + 1)]


def _decades(low: float, high: float) -> list[float]:
    first, last = math.ceil(math.log10(low) - 1e-9), math.floor(math.log10(high) + 1e-9)
    every = max(1, math.ceil((last - first + 1) / 8))
    return [10.0**k for k in range(first, last + 1, every)]


def _short(value: float) -> str:
    return escape(format_value(value, digits=3).strip()) if value else "0"
