"""Ringing: what a loop makes of a small step in time, beside what its phase margin foretells."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.ac import logarithmic
from verdad_core.analyses.in_time import approximated
from verdad_core.analyses.loop_gain import Crossing, loop_at, margins_of
from verdad_core.analyses.marcher import Accuracy
from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.poles import Poles
from verdad_core.analyses.transient import transient
from verdad_core.arrays import Floats, Values
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import meter_element
from verdad_core.checks.kind import CheckKind, First, Naming
from verdad_core.checks.kinds.loop import Loop
from verdad_core.checks.outputs import usual_card
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.signals import Names, Signals
from verdad_core.checks.stability import stability
from verdad_core.devices import Element
from verdad_core.devices.waveforms import PULSE, Waveform
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture
from verdad_core.document.parts import pins_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND
from verdad_core.errors import CircuitError, Finding, MeasurementError, Severity
from verdad_core.measure.steps import overshoot
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import NONE, SECONDS, Unit
from verdad_core.schema import Name, Seconds, VoltsAboveZero, setting
from verdad_core.units import format_value, parse_value

#: What comes of the step, as a part of it.
STEP = "step"

#: How long it is looked at, in time constants of a ring, and in periods of the crossover at least and at most.
_CONSTANTS, _LEAST, _MOST = 10.0, 5.0, 200.0

#: Points that it has at least, so that straight lines between them are a curve.
_POINTS = 2_000

#: How long the step rises, in periods of the crossover: a wire's own capacitance passes nothing of it on, and the loop
#: hardly sees it.
_RISE = 0.01

#: A ring of some millivolts stands on volts of bias: steps of the run are as small as it asks for.
_CLOSELY = Accuracy(relative=1e-6, volts=1e-8)

#: What moves by itself.
_SOURCES = frozenset({"voltage source", "current source"})

#: Less overshoot than this, in per cent, is no ring.
_RINGS = 0.5


class Ringing(CheckKind):
    """What the loop that goes through a pin makes of a small step of voltage in the pin's wire."""

    kind: Literal["ringing"] = "ringing"
    around: Name = setting(label="Step at", chooses="pin", hint="The pin in whose wire the step is")
    step: VoltsAboveZero = setting("5m", label="Step", unit="V", hint="So small that nothing slews or clips")
    stop: Seconds | None = setting(
        None, label="Stop", unit="s", empty="from the loop", hint="Empty: until a ring as its margin foretells has gone"
    )

    title: ClassVar[str] = "Ringing"
    question: ClassVar[str] = "How does the loop around {around} ring?"
    meaning: ClassVar[str] = (
        "A small step in a loop's own wire, in time: overshoot and ring beside what its phase margin foretells."
    )
    moves: ClassVar[bool] = True
    one_by_one: ClassVar[bool] = True
    has_statement: ClassVar[bool] = False
    brings: ClassVar[frozenset[str]] = frozenset({STEP})
    main: ClassVar[str] = STEP
    relies_on: ClassVar[frozenset[str]] = Loop.relies_on | {"overshoot"}
    begins_with: ClassVar[tuple[First, ...]] = (First("overshoot", STEP), First("settling_time", STEP))

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        return cls.proposals(circuit, fixtures)[0]

    @classmethod
    def proposals(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[Self]:
        """Every loop that can be asked for, with the step at its amplifier's input, which draws nothing.

        At an output what loads it passes a part of the step on, whatever the loop does.
        """
        found = []
        for loop in Loop.proposals(circuit, fixtures):
            part, _, pin = loop.around.partition(".")
            sensed = pin.removesuffix("out") + "in-"
            found.append(cls(around=f"{part}.{sensed}" if sensed in pins_of(circuit.part(part)) else loop.around))
        return found

    @classmethod
    def asked(cls, settings: Self | None, likely: str = "") -> str:
        return cls.question.format(around=settings.around.partition(".")[0] if settings else "an amplifier")

    def changed(self, elements: list[Element]) -> list[Element]:
        """The meter in the pin's wire is a step, and nothing else moves."""
        step = Waveform.of(PULSE, 0.0, parse_value(self.step), 0.0, 1e-12, 1e-12, math.inf, math.inf)
        meter = meter_element(self.around).lower()
        return [
            replace(each, extra=step if each.name.lower() == meter else None) if each.family in _SOURCES else each
            for each in elements
        ]

    def unit_of(self, trace: str, check: Check) -> Unit:
        return NONE

    def scale(self, circuit: Circuit, check: Check, point: OperatingPoint, natural: Poles) -> Scale:
        """How long it runs, in seconds: by the crossover and the damping that its margin foretells."""
        if self.stop is not None:
            return Scale(0.0, parse_value(self.stop))
        crossing = self._margin(Names.of(circuit, check), point, natural)
        if crossing is None and len(natural.unstable):
            length = _LEAST * 2.0 * math.pi / float(np.max(np.abs(natural.unstable)))
            return Scale(0.0, length, f"{format_value(length, 's', 3)}: as fast as it grows")
        if crossing is None:
            raise CircuitError(
                f"the gain of the loop at {self.around} does not fall through 1: nothing says how long it rings",
                remedy="Say when it stops, or take a pin that a loop goes through.",
            )
        damping = max(damped(max(crossing.margin, 0.0)), 1e-3)
        periods = min(max(_CONSTANTS / (2.0 * math.pi * damping), _LEAST), _MOST)
        length = periods / crossing.frequency
        words = f"{periods:.0f} periods of its crossover, {format_value(crossing.frequency, 'Hz', 3)}"
        return Scale(0.0, length, f"{format_value(length, 's', 3)}: {words}")

    def _margin(self, names: Names, point: OperatingPoint, natural: Poles) -> Crossing | None:
        """The smallest phase margin of the loop around the first row; None where its gain does not go through 1."""
        over = Loop(around=self.around).range_for(point, natural)
        found = loop_at(point, meter_element(names.pin(self.around)), logarithmic(over.start, over.stop, 50))
        return margins_of(*found.refined()).phase_margin if np.all(np.isfinite(found.values)) else None

    def axis(self, circuit: Circuit, check: Check) -> Axis:
        return Axis("time", SECONDS, np.array([0.0, 1.0]))

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        structure, volts = prepared.structure, parse_value(self.step)
        meter = meter_element(prepared.names.pin(self.around))
        ends = next(each for each in structure.elements if each.name == meter).nodes
        outputs = [*prepared.outputs, *((node, GROUND) for node in ends)]
        stop = prepared.scale.stop
        crossing = self._margin(prepared.names, prepared.point, prepared.natural)
        rising = matrix or structure.unvaried
        nominal = rising.nominal.copy()
        nominal[structure.column(meter, "rise")] = stop / _POINTS if crossing is None else _RISE / crossing.frequency
        result = transient(
            structure, stop, outputs, matrix=replace(rising, nominal=nominal), longest=stop / _POINTS,
            accuracy=_CLOSELY, look=look,
        )  # fmt: skip
        _, natural = prepared.points(matrix)
        told = [*structure.topology.findings(), *approximated(structure, matrix)]
        for trace, poles in zip(result.traces, natural, strict=True):
            findings = [*told, *stability(poles, Severity.ERROR, "what it does after a step is no evidence")]
            cause = Cause.UNSTABLE if len(poles.unstable) else Cause.NUMBER
            if trace.failure is not None:
                findings.append(Finding.of(trace.failure))
                cause = Cause.NOT_SOLVED
            if trace.unsettled or len(trace.time) < 2:
                yield RowResult(None, tuple(findings), Cause.NOT_SOLVED)
                continue
            axis = Axis("time", SECONDS, trace.time, thinned=trace.thinned)
            followed = Trace.of_lines(_followed(trace.values[-2:], volts), NONE, axis)
            yield RowResult(prepared.signals(axis, trace.values[:-2], {STEP: followed}), tuple(findings), cause)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        trace = signals.others[STEP]
        crossing = self._margin(prepared.names, prepared.point, prepared.natural)
        foretold = ""
        if crossing is not None and crossing.margin > 0.0:
            expected = 100.0 * overshoots(damped(crossing.margin))
            foretold = f" {crossing.margin:.0f}° of phase margin foretell {expected:.2g} % in a loop of two poles."
        try:
            found = overshoot(trace.along().values, trace.real())
        except MeasurementError:
            return f"What comes of the step has not settled.{foretold}"
        if found < _RINGS:
            return f"It does not ring: {found:.2g} % of overshoot.{foretold}"
        ring = _ring(prepared.natural, crossing)
        return f"{found:.2g} % of overshoot{ring}.{foretold}"

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        return (
            usual_card(f"A step at {self.around}", STEP),
            CheckCard(id="poles", title="Poles", shape="poles"),
        )

    def written(self, prepared: Prepared, names: Naming) -> str:
        return f"* how the loop at {self.around} rings: no statement asks for it"


def damped(margin: float) -> float:
    """The damping of a loop K / (s (s + a)) that has this phase margin, in degrees.

    From the margin's closed form, tan(margin) = 2 zeta / sqrt(sqrt(1 + 4 zeta^4) - 2 zeta^2) (Ogata, "Modern Control
    Engineering", from memory), solved for zeta: tan^2 = t gives zeta^2 = t / (4 sqrt(1 + t)).
    """
    t = math.tan(math.radians(min(margin, 89.9))) ** 2
    return math.sqrt(t / (4.0 * math.sqrt(1.0 + t)))


def overshoots(damping: float) -> float:
    """The overshoot of a second-order step response, as a part of the step: exp(-pi zeta / sqrt(1 - zeta^2))."""
    return math.exp(-math.pi * damping / math.sqrt(1.0 - damping**2)) if damping < 1.0 else 0.0


def _followed(ends: Values, volts: float) -> Floats:
    """What moves with the step, of the two sides [2, T] of the wire: T / (1 + T), where the other is 1 / (1 + T)."""
    moved = np.asarray(ends - ends[:, :1], float)
    side = moved[int(np.argmax(np.abs(moved[:, -1])))]
    return np.asarray(side * math.copysign(1.0 / volts, side[-1]))


def _ring(natural: Poles, crossing: Crossing | None) -> str:
    """At which frequency it rings: the pair of poles nearest to the crossover."""
    pairs = natural.values[natural.values.imag > 0.0]
    if crossing is None or not len(pairs):
        return ""
    near = pairs[np.argmin(np.abs(np.log(np.abs(pairs) / (2.0 * math.pi * crossing.frequency))))]
    return f", ringing at {format_value(float(near.imag) / (2.0 * math.pi), 'Hz', 3)}"
