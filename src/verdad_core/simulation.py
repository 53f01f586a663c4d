"""A netlist that is simulated: what its analysis statements share, and what it comes to."""

from __future__ import annotations

import dataclasses
import math
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.analyses.poles import poles
from verdad_core.arrays import Floats
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND, compile_structure
from verdad_core.engine.topology import first_of
from verdad_core.errors import Finding, Place, Severity, VerdadError
from verdad_core.netlist.command import Range
from verdad_core.netlist.expressions import Expression, Value
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.parameters import Parameters, evaluate
from verdad_core.netlist.scope import Netlist

#: So many times the limit of points is no long run, but a slip.
ABSURD = 1e4

#: Frequencies that are computed before the clock is looked at again.
BETWEEN_LOOKS = 4096


@dataclass(frozen=True)
class Limits:
    """What a run may take: points of one analysis, numbers that are kept for it, and seconds for the whole run.

    A transient may take `steps` of the length that it asks for. It keeps no more than the points and numbers: where
    there are more they are thinned, and the extremes of every vector stay.
    """

    points: int = 1_000_000
    numbers: int = 30_000_000
    steps: int = 100_000_000
    seconds: float = 600.0


class LimitReachedError(VerdadError):
    """A run that is larger, or takes longer, than its limits."""


@dataclass
class Simulation:
    """What a netlist file came to."""

    circuit: str
    warnings: list[Finding]
    analyses: list[Any] = field(default_factory=list)
    #: Why the run ended before its last analysis, where it did.
    stopped: VerdadError | None = None

    def json(self) -> dict[str, Any]:
        """The same in numbers, lists and dictionaries; what is not finite becomes None."""
        whole: dict[str, Any] = {
            "circuit": self.circuit,
            "warnings": [{"line": w.place.line, "message": _sentence(w.message, w.remedy)} for w in self.warnings],
            "analyses": [{"kind": analysis.kind, **_plain(analysis)} for analysis in self.analyses],
        }
        if self.stopped is not None:
            whole["stopped"] = {"error": str(self.stopped), "line": self.stopped.place.line}
        return whole


def _sentence(message: str, remedy: str) -> str:
    return f"{message}. {remedy}" if remedy else message


def _plain(value: Any) -> Any:
    match value:
        case np.ndarray() if np.iscomplexobj(value):
            return {"re": _plain(value.real), "im": _plain(value.imag)}
        case np.ndarray():
            return [number if math.isfinite(number) else None for number in value.tolist()]
        case dict():
            return {key: _plain(item) for key, item in value.items()}
        case list():
            return [_plain(item) for item in value]
        case complex():
            return {"re": value.real, "im": value.imag}
        case float():
            return value if math.isfinite(value) else None
        case _ if dataclasses.is_dataclass(value):
            items = {f.name: getattr(value, f.name) for f in dataclasses.fields(value)}
            return {name: _plain(item) for name, item in items.items() if item is not None}
    return value


class Run:
    """A netlist that is being simulated, as its analysis statements see it."""

    def __init__(self, netlist: Netlist, limits: Limits) -> None:
        flat = flatten(netlist)
        self.netlist = netlist
        self.limits = limits
        self.ends = time.monotonic() + limits.seconds
        # In time and over frequency, what floats and what is shorted for direct current has a meaning.
        lenient = any(command.moves for command in netlist.commands)
        self.structure = compile_structure(flat.elements, flat.nodesets, lenient)
        self.parameters = Parameters(netlist.top.parameters, netlist.top.functions)
        self.simulation = Simulation(netlist.title, list(netlist.findings))
        self.initial = flat.initial
        self._point: OperatingPoint | None = None

    def tell_of_circuit(self) -> None:
        """What was supplied where the netlist leaves it open, and what looks like a slip."""
        self.simulation.warnings += self.structure.topology.findings()
        pins = Counter(node for element in self.structure.elements for node in element.nodes)
        seen = {node for e in self.structure.elements for c in e.controls for node in (c.plus, c.minus)}
        lone = [node for node, count in pins.items() if count == 1 and not {":", "."} & set(node) and node not in seen]
        lone = [node for node in lone if node != GROUND]
        if lone:
            self.simulation.warnings.append(
                Finding(
                    Severity.NOTE, f"only one pin is on {first_of(tuple(lone))}", Place(nodes=tuple(lone[:8])),
                    "A letter may be missing in its name, or it is meant to be open.",
                )
            )  # fmt: skip
        for element in self.structure.elements:
            if element.family == "resistor" and element.values.get("resistance") == 0.0:
                self.warn(f"{element.name} has 0 Ω; it counts as 1 µΩ", "", element.line)

    def check_clock(self) -> None:
        if time.monotonic() > self.ends:
            raise LimitReachedError(
                f"the run took longer than {self.limits.seconds:g} s, its limit",
                remedy="Ask for fewer points, or raise the limit.",
            )

    def check_size(self, points: int, vectors: int) -> None:
        if points > self.limits.points or points * vectors > self.limits.numbers:
            raise LimitReachedError(
                f"the analysis asks for {points:,} points of {vectors:,} values; the limits are "
                f"{self.limits.points:,} points and {self.limits.numbers:,} numbers in all",
                remedy="Ask for fewer points.",
            )

    def warn(self, message: str, remedy: str, line: int | None) -> None:
        self.simulation.warnings.append(Finding(Severity.WARNING, message, Place(line=line), remedy))

    def number(self, value: Value) -> float:
        return evaluate(value, self.parameters) if isinstance(value, Expression) else value

    @property
    def matrix(self) -> ParameterMatrix:
        """One row at the netlist's temperature."""
        celsius = 27.0 if self.netlist.celsius is None else self.number(self.netlist.celsius)
        return ParameterMatrix.varied(self.structure, {AMBIENT_KEY: np.array([celsius])})

    @property
    def point(self) -> OperatingPoint:
        """The operating point, solved once. Raises ConvergenceError."""
        if self._point is None:
            self._point = operating_point(self.structure, self.matrix, look=self.check_clock)
            self._point.require()
        return self._point

    def names(self) -> dict[str, tuple[str, str]]:
        """Everything that is listed: node voltages and branch currents, by their names in results."""
        structure = self.structure
        found = {}
        for k, unknown in enumerate(structure.unknowns):
            if ":" not in unknown:
                found[f"v({unknown})" if k < structure.nodes else unknown] = (unknown, "0")
        return found

    def unstable(self, line: int) -> list[complex]:
        """Poles of the operating point in the right half-plane, with a warning where there are any."""
        [found] = poles(self.point)
        values = [complex(s) for s in found.unstable]
        if values:
            listed = ", ".join(f"{s.real:.3g}{s.imag:+.3g}j" for s in values[:4])
            self.warn(
                f"the circuit does not stay where it was linearised: {len(values)} of its poles lie in the right "
                f"half-plane ({listed} rad/s), so this result cannot be measured",
                "Look at the feedback and at inputs that may be swapped.",
                line,
            )
        elif not found.known:
            self.warn("the stability of the operating point is not known", "Look at the loop gain.", line)
        elif not found.complete:
            self.warn(
                "the circuit is large: of its poles only those near some frequencies were looked at, and none lies "
                "in the right half-plane",
                "Look at the loop gain.",
                line,
            )
        return values

    def frequencies(self, r: Range, *, from_zero: bool) -> Floats:
        if r.values:
            listed = np.array([self.number(value) for value in r.values])
            if np.any(listed < 0.0 if from_zero else listed <= 0.0) or np.any(np.diff(listed) <= 0.0):
                raise VerdadError(
                    "the frequencies of a list rise from above 0 Hz", remedy="Write them in rising order, each once."
                )
            return listed
        start, stop, points = self.number(r.start), self.number(r.stop), self.number(r.points)
        low = start >= 0 if from_zero and r.variation == "lin" else start > 0
        possible = low and math.isfinite(stop) and start <= stop and math.isfinite(points) and points >= 1
        if not possible or points != int(points):
            raise VerdadError(
                f"a range from {start:g} Hz to {stop:g} Hz with {points:g} points is not possible",
                remedy="Start above 0 Hz, stop above the start, and take a whole number of points.",
            )
        if r.variation == "lin":
            self.check_size(int(points), 1)
            return np.linspace(start, stop, int(points))
        base = 10.0 if r.variation == "dec" else 2.0
        steps = (math.log(stop) - math.log(start)) / math.log(base) * points
        if steps > ABSURD * self.limits.points:
            raise VerdadError(f"a range of {steps:.3g} points is not possible", remedy="Take fewer points a decade.")
        count = math.floor(steps + 1e-9) + 1
        self.check_size(count, 1)
        return np.asarray(start * base ** (np.arange(count) / points))

    def in_parts(self, frequency: Floats) -> Iterator[Floats]:
        for start in range(0, len(frequency), BETWEEN_LOOKS):
            self.check_clock()
            yield frequency[start : start + BETWEEN_LOOKS]
