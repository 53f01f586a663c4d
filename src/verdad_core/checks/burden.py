"""What parts bear in a check: volts between their pins, amperes into them, watts; what fixtures give and loads take."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.checks.compiled import Compiler, compiled
from verdad_core.checks.elaborate import Models
from verdad_core.checks.prepared import Look
from verdad_core.checks.run import run_check
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Board
from verdad_core.document.fixtures import Load
from verdad_core.document.parts import pins_of
from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import SECONDS, WATTS
from verdad_core.measure.waveform import mean, rms


@dataclass(frozen=True)
class Peak:
    """The largest size of something, and where along the check's axis it is; None at rest."""

    value: float
    at: float | None


@dataclass(frozen=True)
class Burden:
    """Of one part: volts between any two of its pins, amperes into any of them, watts.

    `watts` is the mean over a run in time, and the largest along any other axis; `rms` that of the largest current.
    """

    volts: Peak
    amperes: Peak
    rms: float
    watts: float
    most_watts: Peak


@dataclass(frozen=True)
class Burdens:
    """Burdens by part; watts that fixtures give, and those that loads take of them, on average over a run in time."""

    parts: Mapping[str, Burden]
    given: Mapping[str, float]
    taken: Mapping[str, float]
    axis: Axis | None

    @property
    def efficiency(self) -> float | None:
        """What loads take of what is given, as a part of it; None where nothing is given, or taken."""
        given, taken = sum(self.given.values()), sum(self.taken.values())
        return taken / given if self.axis is not None and given > 0.0 and taken > 0.0 else None


def burdens(
    board: Board, check_id: str, models: Models, look: Look = lambda _: None, compiler: Compiler = compiled
) -> Burdens:  # fmt: skip
    """Run a check with a meter in every pin. Raises MeasurementError where its numbers are no evidence, or no volts and
    amperes at an instant; and a VerdadError where it cannot be run.
    """
    circuit, check = board.check(check_id)
    pins = [f"{part.designator}.{pin}" for part in circuit.parts for pin in pins_of(part)]
    fixtures = [fixture.name for fixture in check.fixtures]
    result = run_check(board, check_id, models, [*pins, *fixtures], look, compiler)
    signals = result.signals
    if signals is None or result.objection is not None:
        why = result.objection.message if result.objection is not None else "it gave nothing"
        raise MeasurementError(f"its numbers are no evidence: {why}", remedy="Mend the circuit first.")
    if not signals.voltages or (signals.axis is not None and signals.axis.unit.name == "Hz"):
        words = "it has no volts and amperes at an instant"
        raise MeasurementError(words, remedy="Look at a check in time or at rest.")
    parts = {part.designator: _burden(part.designator, signals) for part in circuit.parts if pins_of(part)}
    watts = {each.name: _watts(_power_of(signals, each.plus, each.minus, each.name))[0] for each in check.fixtures}
    loads = {fixture.name for fixture in check.fixtures if isinstance(fixture, Load)}
    given = {name: -value for name, value in watts.items() if name not in loads}
    return Burdens(parts, given, {name: watts[name] for name in watts if name in loads}, _ends(signals.axis))


def _ends(axis: Axis | None) -> Axis | None:
    """The axis by its ends: what is kept is no run."""
    return None if axis is None else replace(axis, values=axis.values[[0, -1]])


def _burden(part: str, signals: Signals) -> Burden:
    nets = signals.nets_of[part]
    volts = np.array([np.real(_volts(signals, net)) for net in nets], float)
    amperes = np.array([np.real(signals.currents[f"{part}.{pin}"]) for pin in signals.names.parts[part]], float)
    across, largest = np.ptp(volts, axis=0), int(np.argmax(np.max(np.abs(amperes).reshape(len(amperes), -1), axis=1)))
    watts, most = _watts(signals.evaluate(read_expression(f"p({part})")))
    return Burden(
        _peak(across, signals.axis), _peak(np.max(np.abs(amperes), axis=0), signals.axis),
        _rms(amperes[largest], signals.axis), watts, most,
    )  # fmt: skip


def _volts(signals: Signals, net: str) -> Floats:
    if net == "gnd":
        return np.zeros(() if signals.axis is None else len(signals.axis.values))
    return np.asarray(signals.voltages[net], float)


def _power_of(signals: Signals, plus: str, minus: str, name: str) -> Trace:
    volts = _volts(signals, plus) - _volts(signals, minus)
    return Trace.of_lines(volts * np.asarray(signals.currents[name], float), WATTS, signals.axis)


def _watts(power: Trace) -> tuple[float, Peak]:
    """The mean in time, the largest along anything else; and the largest at an instant."""
    most = _peak(np.abs(power.real()), power.axis)
    if power.axis is None:
        return float(power.values.real), most
    if power.axis.unit == SECONDS and len(power.axis.values) > 1:
        return mean(power), most
    values = power.real()
    return float(values[int(np.argmax(np.abs(values)))]), most


def _peak(values: Floats, axis: Axis | None) -> Peak:
    if axis is None:
        return Peak(float(values), None)
    k = int(np.argmax(values))
    return Peak(float(values[k]), float(axis.values[k]))


def _rms(values: Floats, axis: Axis | None) -> float:
    if axis is None:
        return float(abs(values))
    if axis.unit == SECONDS and len(axis.values) > 1:
        return rms(Trace.of_lines(values, WATTS, axis))
    return float(np.max(np.abs(values)))
