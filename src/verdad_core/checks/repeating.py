"""What kinds of check around a periodic steady state share: the period, how the search begins, and what came of it."""

from __future__ import annotations

import math
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.common_period import common_period, periods
from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.periodic import SteadyState, steady_state
from verdad_core.analyses.periodic_response import multipliers
from verdad_core.analyses.poles import Poles
from verdad_core.analyses.transient import Start
from verdad_core.arrays import Complexes, Floats
from verdad_core.checks.feedback import CONTROLS, loops
from verdad_core.checks.kind import CheckKind
from verdad_core.checks.prepared import Look, Prepared, Scale
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Source
from verdad_core.document.parts import pins_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, CircuitError, Finding, Severity
from verdad_core.schema import Net, Seconds, setting
from verdad_core.units import format_value, parse_value

#: Operations that looking whether a steady state holds may take: of steps, by the cube of the unknowns.
_MOST_OPERATIONS = 5e9

#: Points that the shortest of all periods has at least, so that means of it are right to 1e-3.
POINTS = 100

#: How many volts an oscillator's net is pushed from where it rests, so that it begins.
_PUSH = 0.1

_NOT_LOOKED_AT = "whether it stays in this period was not looked at"

#: A multiplier that is no more than this beyond 1 is the error of the steps.
_ROUNDING = 1e-3


class Repeating(CheckKind):
    """A circuit in the period that it settles to."""

    period: Seconds | None = setting(
        None, label="Period", unit="s", empty="of its sources",
        hint="Empty: the shortest one that holds whole periods of all sources. Of an oscillator about how long it is",
    )  # fmt: skip
    oscillates: Net | None = setting(
        None, label="Oscillates at", chooses="net", empty="it is driven",
        hint="A net of an oscillator, whose period is found",
    )  # fmt: skip
    begin: Literal["operating point", "cold"] = setting(
        "operating point", label="Search begins at",
        titles={"operating point": "its operating point", "cold": "cold: zero, or its ic"},
    )  # fmt: skip

    moves: ClassVar[bool] = True
    rests: ClassVar[bool] = False
    one_by_one: ClassVar[bool] = True
    has_statement: ClassVar[bool] = False

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        return cls.proposals(circuit, fixtures)[0]

    def scale(self, circuit: Circuit, check: Check, point: OperatingPoint, natural: Poles) -> Scale:
        """The period, in seconds. Raises CircuitError where there is none."""
        if self.period is not None:
            return Scale(0.0, parse_value(self.period))
        if self.oscillates is not None:
            return _about(natural)
        found = periods(point.structure)
        period = common_period(found)
        several = "the shortest that holds whole periods of" if len(set(found.values())) > 1 else "that of"
        return Scale(0.0, period, f"{format_value(period, 's', 4)}: {several} {', '.join(found)}")

    def steady(
        self, prepared: Prepared, row: ParameterMatrix | None, look: Look, longest: float | None = None
    ) -> SteadyState:
        """The period that one row settles to, in steps of at most `longest` s. Raises NotPeriodicError where it
        settles to none.
        """
        shortest = min([prepared.scale.stop, *periods(prepared.structure).values()])
        pushed = {}
        if self.oscillates is not None:
            resting = prepared.point.value(self.oscillates) if prepared.point.path().solved else 0.0
            pushed = {self.oscillates: resting + _PUSH}
        [found] = steady_state(
            prepared.structure, prepared.scale.stop, matrix=row, oscillates=self.oscillates, initial=pushed, look=look,
            longest=longest or shortest / POINTS,
            start=Start.CONDITIONS if self.begin == "cold" else Start.OPERATING_POINT,
        )  # fmt: skip
        return found


def _about(natural: Poles) -> Scale:
    """About how long an oscillator's period is: by the pole that grows fastest. Raises CircuitError where none does."""
    growing = natural.unstable[natural.unstable.imag > 0.0]
    if not len(growing):
        raise CircuitError(
            "it does not begin to oscillate where it rests",
            remedy="Give the check about how long its period is, if it does.",
        )
    period = 2.0 * math.pi / float(growing[np.argmax(growing.real)].imag)
    return Scale(0.0, period, f"about {format_value(period, 's', 3)}, as it begins to oscillate")


def each_row(matrix: ParameterMatrix | None) -> list[ParameterMatrix | None]:
    """The rows one by one; a single one as drawn."""
    return [None] if matrix is None else [matrix.row(row) for row in range(matrix.rows)]


def kept(prepared: Prepared, found: SteadyState) -> Floats:
    """What is kept of a period: [outputs, T]."""
    return np.array([found.value(plus, minus) for plus, minus in prepared.outputs]).reshape(-1, len(found.time))


def holding(found: SteadyState, oscillates: bool) -> Finding | None:
    """Why a circuit would leave its steady state, as `leaving`; a note where that was not looked at."""
    if len(found.time) * found.structure.size**3 > _MOST_OPERATIONS:
        return Finding(Severity.NOTE, f"{_NOT_LOOKED_AT}: the circuit is too large")
    try:
        return leaving(multipliers(found), oscillates)
    except CircuitError as error:
        return Finding(Severity.NOTE, f"{_NOT_LOOKED_AT}: {error.message}")


def leaving(sizes: Complexes, oscillates: bool) -> Finding | None:
    """Why a circuit would leave its steady state, by what a period does to small charges; None where it stays."""
    if oscillates and len(sizes):
        # It may be ahead or behind: the one at 1 is that, and says nothing.
        sizes = np.delete(sizes, np.argmin(np.abs(sizes - 1.0)))
    if not len(sizes) or np.max(np.abs(sizes)) <= 1.0 + _ROUNDING:
        return None
    most = sizes[np.argmax(np.abs(sizes))]
    words = f"it would not stay in this period: what is small grows {abs(most):.3g} times with each"
    if most.real < 0.0:
        remedy = "Add slope compensation, or less gain around the loop."
        return Finding(Severity.ERROR, f"{words}, every second period the other way", remedy=remedy)
    return Finding(Severity.ERROR, words, remedy="Look where it goes in a transient.")


def active(circuit: Circuit, fixtures: tuple[Fixture, ...]) -> bool:
    """Whether a circuit could oscillate by itself: a loop around an amplifier, or a transistor."""
    return bool(loops(circuit, fixtures)) or any(not set(CONTROLS).isdisjoint(pins_of(p)) for p in circuit.parts)


def driven(fixtures: tuple[Fixture, ...]) -> list[Source]:
    """The sources that repeat themselves. Raises BoardError where there is none."""
    found = [f for f in fixtures if isinstance(f, Source) and f.waveform is not None and f.waveform.period]
    if not found:
        raise BoardError(
            "no source repeats itself, so there is no period", remedy="Give a source a sine or a pulse in time."
        )
    return found
