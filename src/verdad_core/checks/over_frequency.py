"""What kinds of check over frequency share: their range, chosen from the poles, and their points."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Annotated, ClassVar, Self

import numpy as np
from pydantic import Field, model_validator

from verdad_core.analyses.ac import logarithmic
from verdad_core.analyses.operating_point import OperatingPoint, one_row
from verdad_core.analyses.poles import Poles, lasting
from verdad_core.analyses.table_span import table_span
from verdad_core.arrays import Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.kind import CheckKind
from verdad_core.checks.prepared import Prepared, RowResult, Scale
from verdad_core.checks.signals import Signals
from verdad_core.checks.stability import stability
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, Finding, Severity
from verdad_core.measure.trace import Axis
from verdad_core.measure.units import HERTZ
from verdad_core.netlist.command import Range
from verdad_core.schema import Hertz, setting
from verdad_core.units import format_span, format_value, parse_value, plain_value

#: Poles above the second frequency, in Hz, are those of models, not of boards; beyond the others they are rounding.
_SLOWEST, _FASTEST, _ROUNDING = 1e-9, 1e9, 1e13
#: What is shown where the circuit says nothing: the audible band and a decade around it.
_USUAL = (1.0, 1e6)
#: Decades that are shown at most.
_DECADES = 11

#: More points than these are not added to a response.
MOST_REFINED = 4_000


class OverFrequency(CheckKind):
    """A logarithmic sweep."""

    start: Hertz | None = setting(
        None, label="Start", unit="Hz", empty="from the poles",
        hint="The lowest frequency; empty: two decades below the slowest pole",
    )  # fmt: skip
    stop: Hertz | None = setting(
        None, label="Stop", unit="Hz", empty="from the poles",
        hint="The highest frequency; empty: two decades above the fastest pole",
    )  # fmt: skip
    points_per_decade: Annotated[int, Field(ge=1, le=500)] = setting(50, label="Points a decade")

    moves: ClassVar[bool] = True

    @model_validator(mode="after")
    def _ascending(self) -> Self:
        if self.start is None or self.stop is None:
            return self
        start, stop = parse_value(self.start, "Hz"), parse_value(self.stop, "Hz")
        if not start < stop <= start * 1e15:
            raise BoardError(
                f"the sweep from {self.start} to {self.stop} does not rise", remedy="Stop above the start frequency."
            )
        return self

    def scale(self, circuit: Circuit, check: Check, point: OperatingPoint, natural: Poles) -> Scale:
        return self.range_for(point, natural)

    def range_for(self, point: OperatingPoint, natural: Poles) -> Scale:
        """The range in hertz: whole decades, from two below the slowest pole to two above the fastest.

        A pass band is level to 1e-4 two decades away from the pole that ends it. Where poles lie too far apart for one
        range, those around the middle ones count, and the words say what was left out.
        """
        found = np.sort(np.abs(natural.values) / (2 * math.pi))
        found = found[(found > _SLOWEST) & (found < _ROUNDING)]
        within = _window(found[found < _FASTEST]) if np.any(found < _FASTEST) else _window(found)
        if len(within):
            low, high = (10.0 ** (rounded(math.log10(f)) + away) for rounded, f, away in
                         ((math.floor, within[0], -2), (math.ceil, within[-1], 2)))  # fmt: skip
            words = f"two decades beyond the poles, {_ends(within)}"
            if len(within) < len(found):
                words += f"; left out are poles at {_ends(np.setdiff1d(found, within))}"
        elif (tables := table_span(point.structure)) is not None:
            low, high = tables
            words = "the frequencies of the tables in it"
        else:
            low, high = _USUAL
            words = "the circuit has no poles to choose it from"
        start = low if self.start is None else parse_value(self.start)
        stop = high if self.stop is None else parse_value(self.stop)
        if not start < stop:
            # One end was given, beyond what would have been chosen for the other.
            start, stop = (start, start * 1e3) if self.stop is None else (stop / 1e3, stop)
        given = self.start is not None and self.stop is not None
        return Scale(start, stop, "" if given else f"{format_span(start, stop, 'Hz')}: {words}")

    def axis(self, circuit: Circuit, check: Check) -> Axis:
        return Axis("frequency", HERTZ, np.array([1.0, 10.0]))

    def length(self, scale: Scale) -> int:
        return 4 + int(2 * self.points_per_decade * math.log10(max(scale.stop / scale.start, 10.0)))

    def grids(self, prepared: Prepared, point: OperatingPoint, natural: list[Poles]) -> list[Floats]:
        """The points of every row. Where the range was left open each row has that of its own poles.

        So a part that is turned far takes the range along, and rows do not depend on what is drawn.
        """
        if self.start is not None and self.stop is not None:
            return [self._grid(prepared, prepared.scale)] * len(natural)
        held = bool(prepared.structure.topology.islands)
        of_range: dict[tuple[float, float], Floats] = {}
        grids = []
        for row, found in enumerate(natural):
            own = one_row(point, row)
            scale = self.range_for(own, lasting(own) if held else found)
            ends = scale.start, scale.stop
            of_range[ends] = of_range[ends] if ends in of_range else self._grid(prepared, scale)
            grids.append(of_range[ends])
        return grids

    def _grid(self, prepared: Prepared, scale: Scale) -> Floats:
        """The points of a range, closer where lines would turn the phase by more than an eighth between two.

        Nothing tells afterwards that a phase has turned all the way round.
        """
        grid = logarithmic(scale.start, scale.stop, self.points_per_decade)
        delay = sum(e.values.get("td", 0.0) for e in prepared.structure.elements if e.family == "line")
        parts = np.ceil(8.0 * delay * np.diff(grid)).astype(int)
        if not np.any(parts > 1) or np.sum(np.maximum(parts, 1)) > MOST_REFINED:
            return grid
        between = [np.linspace(a, b, max(n, 1), endpoint=False) for a, b, n in zip(grid, grid[1:], parts, strict=False)]
        return np.concatenate([*between, grid[-1:]])

    def row_by_row(
        self, prepared: Prepared, matrix: ParameterMatrix | None, means: str,
        run: Callable[[OperatingPoint, Floats, Poles], tuple[Signals | None, list[Finding]]],
    ) -> Iterator[RowResult]:  # fmt: skip
        """Every row by itself: `run` gets its operating point, its points and its poles, and says what it found.

        No signals are none that were solved; `means` is what an unstable circuit makes of them.
        """
        point, natural = prepared.points(matrix)
        grids = self.grids(prepared, point, natural)
        for row, poles in enumerate(natural):
            if not point.path(row).solved:
                yield RowResult(None, (), Cause.NOT_SOLVED)
                continue
            signals, more = run(one_row(point, row), grids[row], poles)
            told = [*prepared.structure.topology.findings(), *stability(poles, Severity.ERROR, means), *more]
            cause = Cause.UNSTABLE if len(poles.unstable) else Cause.NUMBER
            yield RowResult(signals, tuple(told), Cause.NOT_SOLVED if signals is None else cause)

    def written_range(self, scale: Scale) -> str:
        """The range as statements write it."""
        return f"dec {self.points_per_decade} {scale.start!r} {scale.stop!r}"


def not_everywhere(what: str) -> Finding:
    """What is said where some frequency has no solution."""
    words = f"{what} could not be computed at every frequency"
    return Finding(Severity.ERROR, words, remedy="Look for extreme values.")


def taken_range(over: Range, start: float, stop: float) -> dict[str, str | int] | None:
    """Settings for the range of a statement; None for one that does not rise from above zero."""
    if not 0 < start < stop:
        return None
    return {"start": plain_value(start), "stop": plain_value(stop)}


def _window(found: Floats) -> Floats:
    """Of poles in rising order those within _DECADES: as many as there can be, of equal numbers the faster ones."""
    best = found[:0]
    for k in range(len(found)):
        part = found[k:][found[k:] <= found[k] * 10.0 ** (_DECADES - 4)]
        best = part if len(part) >= len(best) else best
    return best


def _ends(found: Floats) -> str:
    return " to ".join(dict.fromkeys(format_value(float(f), "Hz", 3) for f in (found.min(), found.max())))
