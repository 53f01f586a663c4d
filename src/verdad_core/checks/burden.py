"""What parts bear in a check: volts between their pins, amperes into them, watts; what fixtures give and loads take."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.checks.compiled import Compiler, compiled
from verdad_core.checks.elaborate import Models
from verdad_core.checks.kind import kind_of
from verdad_core.checks.kinds.operating_point import OperatingPoint
from verdad_core.checks.prepared import Look
from verdad_core.checks.run import run_check
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Board
from verdad_core.document.fixtures import Load
from verdad_core.document.parts import pins_of
from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, SECONDS, VOLTS, WATTS
from verdad_core.measure.waveform import mean


@dataclass(frozen=True)
class Peak:
    """The largest size of something, and where along the check's axis it is; None at rest."""

    value: float
    at: float | None


@dataclass(frozen=True)
class Burden:
    """Of one part: volts between any two of its pins, amperes into any of them; watts, their mean over a run in time
    and the largest along any other axis.
    """

    volts: Peak
    amperes: Peak
    watts: float


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
    """Run a check with a meter in every pin; one that has no volts and amperes at an instant, as those over frequency,
    as it rests. Raises MeasurementError where its numbers are no evidence, and a VerdadError where it cannot be run.
    """
    board = _at_an_instant(board, check_id)
    circuit, check = board.check(check_id)
    pins = [f"{part.designator}.{pin}" for part in circuit.parts for pin in pins_of(part)]
    fixtures = [fixture.name for fixture in check.fixtures]
    result = run_check(board, check_id, models, [*pins, *fixtures], look, compiler)
    signals = result.signals
    if signals is None or result.objection is not None:
        why = result.objection.message if result.objection is not None else "it gave nothing"
        raise MeasurementError(f"its numbers are no evidence: {why}", remedy="Mend the circuit first.")
    parts = {part.designator: _burden(part.designator, signals) for part in circuit.parts if pins_of(part)}
    watts = {each.name: _watts(_power_of(signals, each.plus, each.minus, each.name)) for each in check.fixtures}
    loads = {fixture.name for fixture in check.fixtures if isinstance(fixture, Load)}
    given = {name: -value for name, value in watts.items() if name not in loads}
    return Burdens(parts, given, {name: watts[name] for name in watts if name in loads}, _ends(signals.axis))


def _ends(axis: Axis | None) -> Axis | None:
    """The axis by its ends: what is kept is no run."""
    return None if axis is None else replace(axis, values=axis.values[[0, -1]])


def _at_an_instant(board: Board, check_id: str) -> Board:
    """The board with a check that is made of phasors, densities or margins asking for its operating point instead."""
    circuit, check = board.check(check_id)
    kind = kind_of(check)
    axis = kind.axis(circuit, check)
    if kind.looks and (axis is None or axis.unit != HERTZ):
        return board
    resting = check.model_copy(update={"analysis": OperatingPoint(), "measurements": (), "cards": (), "overlays": ()})
    checks = tuple(resting if each is check else each for each in circuit.checks)
    changed = circuit.model_copy(update={"checks": checks})
    return board.model_copy(update={"circuits": tuple(changed if c is circuit else c for c in board.circuits)})


def _burden(part: str, signals: Signals) -> Burden:
    volts = np.array([_volts(signals, net) for net in signals.nets_of[part]])
    amperes = np.array([np.asarray(signals.currents[f"{part}.{pin}"], float) for pin in signals.names.parts[part]])
    return Burden(
        _peak(np.ptp(volts, axis=0), signals.axis), _peak(np.max(np.abs(amperes), axis=0), signals.axis),
        _watts(signals.evaluate(read_expression(f"p({part})"))),
    )  # fmt: skip


def _volts(signals: Signals, net: str) -> Floats:
    if net == "gnd":
        return np.zeros(() if signals.axis is None else len(signals.axis.values))
    return np.asarray(signals.voltages[net], float)


def _power_of(signals: Signals, plus: str, minus: str, name: str) -> Trace:
    """Watts into a fixture: halfway between two points its straight lines of volts and amperes are a product, too."""
    volts = Trace.of_lines(_volts(signals, plus) - _volts(signals, minus), VOLTS, signals.axis)
    amperes = Trace.of_lines(np.asarray(signals.currents[name], float), AMPERES, signals.axis)
    middle = None
    if volts.middle is not None and amperes.middle is not None:
        middle = volts.middle * amperes.middle
    return Trace(volts.values * amperes.values, WATTS, signals.axis, middle)


def _watts(power: Trace) -> float:
    """The mean in time, the largest along anything else."""
    values = np.atleast_1d(power.real())
    if power.axis is not None and power.axis.unit == SECONDS and len(values) > 1:
        return mean(power)
    return float(values[int(np.argmax(np.abs(values)))])


def _peak(values: Floats, axis: Axis | None) -> Peak:
    if axis is None:
        return Peak(float(values), None)
    k = int(np.argmax(values))
    return Peak(float(values[k]), float(axis.values[k]))
