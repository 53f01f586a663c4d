"""A netlist file simulated as it says: its analysis statements in their order, each with its result.

    simulation = simulate(text)
    simulation.analyses[0].values["v(out)"]

`simulate` raises a VerdadError for a text that cannot be simulated; `place.line` is the line to look at. A run that
reaches one of its `Limits`, or a transient that cannot go on, ends with the results so far and says why in `stopped`.
`Simulation.json()` is what `verdad simulate FILE --json` prints.
"""

from __future__ import annotations

import dataclasses
import math
import time
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar

import numpy as np

from verdad_core.analyses.ac import ac_at
from verdad_core.analyses.crowding import crowded
from verdad_core.analyses.dc_sweep import Swept, dc_sweep
from verdad_core.analyses.in_time import approximated
from verdad_core.analyses.marcher import Accuracy, Rule
from verdad_core.analyses.noise import integrate, noise_at
from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.analyses.poles import Poles, pole_zero, poles
from verdad_core.analyses.sensitivity import ac_sensitivity, dc_sensitivity
from verdad_core.analyses.transfer_function import transfer_function
from verdad_core.analyses.transient import Start, transient
from verdad_core.arrays import Complexes, Floats
from verdad_core.devices import FAMILY_OF
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND, compile_structure
from verdad_core.engine.topology import first_of
from verdad_core.errors import Finding, Place, Severity, VerdadError
from verdad_core.measure.spectrum import fourier
from verdad_core.netlist import commands
from verdad_core.netlist.expressions import Expression, Value
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.parameters import Parameters, evaluate
from verdad_core.netlist.reader import Netlist, Texts, read

#: What `.options method=..` asks for.
_RULES = {"trap": Rule.TRAPEZOIDAL, "gear": Rule.GEAR}

#: So many times the limit of points is no long run, but a slip.
_ABSURD = 1e4

#: Frequencies that are computed before the clock is looked at again.
_BETWEEN_LOOKS = 4096


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


@dataclass(frozen=True)
class Op:
    kind: ClassVar[str] = "op"
    values: dict[str, float]


@dataclass(frozen=True)
class SweepAxis:
    """One swept quantity; with two of them both have a value for every point."""

    name: str
    values: Floats


@dataclass(frozen=True)
class Dc:
    kind: ClassVar[str] = "dc"
    sweep: SweepAxis
    vectors: dict[str, Floats]
    outer: SweepAxis | None = None


@dataclass(frozen=True)
class Ac:
    kind: ClassVar[str] = "ac"
    frequency: Floats
    vectors: dict[str, Complexes]
    #: Poles in the right half-plane, in rad/s: with any, the response cannot be measured.
    unstable: list[complex]


@dataclass(frozen=True)
class Noise:
    """Densities in V/√Hz (A/√Hz for a current), totals over the whole range of frequencies."""

    kind: ClassVar[str] = "noise"
    frequency: Floats
    vectors: dict[str, Floats]
    contributions: dict[str, Floats]
    totals: dict[str, float]
    unstable: list[complex]


@dataclass(frozen=True)
class Tf:
    kind: ClassVar[str] = "tf"
    transfer: float
    input_resistance: float
    output_resistance: float
    unstable: list[complex]


@dataclass(frozen=True)
class Pz:
    """Poles and zeros in rad/s; empty where the statement did not ask for them."""

    kind: ClassVar[str] = "pz"
    poles: list[complex]
    zeros: list[complex]


@dataclass(frozen=True)
class Sens:
    """How the output follows each element's value, and each other parameter ("q1:bf"), per unit of it."""

    kind: ClassVar[str] = "sens"
    output: str
    by_element: dict[str, Any]
    by_parameter: dict[str, Any]
    frequency: Floats | None = None


@dataclass(frozen=True)
class Tran:
    """Points as the transient took them; in `counts` its steps, and what else it did."""

    kind: ClassVar[str] = "tran"
    time: Floats
    vectors: dict[str, Floats]
    counts: dict[str, int]


@dataclass(frozen=True)
class Four:
    """Harmonics of the last period of the transient before it: frequency [H], and by output peak values [H], phases of
    cosines in degrees [H], the mean, and the total harmonic distortion as a fraction.
    """

    kind: ClassVar[str] = "four"
    frequency: Floats
    magnitudes: dict[str, Floats]
    degrees: dict[str, Floats]
    means: dict[str, float]
    thd: dict[str, float]


Analysis = Op | Dc | Ac | Noise | Tf | Pz | Sens | Tran | Four


@dataclass
class Simulation:
    """What a netlist file came to."""

    circuit: str
    warnings: list[Finding]
    analyses: list[Analysis] = field(default_factory=list)
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


def simulate(text: str, texts: Texts | Mapping[str, str] | None = None, limits: Limits | None = None) -> Simulation:
    """Simulate a netlist file, whose first line is its title.

    `texts` holds what its `.include` and `.lib` statements may ask for. Raises VerdadError.
    """
    netlist = read(text, has_title=True, texts=texts).require()
    run = _Run(netlist, limits or Limits())
    return run.whole()


class _Run:
    def __init__(self, netlist: Netlist, limits: Limits) -> None:
        flat = flatten(netlist)
        self.netlist = netlist
        self.limits = limits
        self.ends = time.monotonic() + limits.seconds
        # In time and over frequency, what floats and what is shorted for direct current has a meaning.
        lenient = any(isinstance(command, commands.Ac | commands.Transient) for command in netlist.commands)
        self.structure = compile_structure(flat.elements, flat.nodesets, lenient)
        self.parameters = Parameters(netlist.top.parameters, netlist.top.functions)
        self.simulation = Simulation(netlist.title, list(netlist.findings))
        self.initial = flat.initial
        self._point: OperatingPoint | None = None

    def whole(self) -> Simulation:
        if not self.netlist.commands:
            self.warn("the file has no analysis statement, so nothing was computed", "Add .op, for one.", None)
        self.tell_of_circuit()
        # Harmonics are those of a transient, wherever their statement stands.
        for command in sorted(self.netlist.commands, key=lambda each: isinstance(each, commands.Fourier)):
            try:
                self.check_clock()
                analysis = _RUNNERS[type(command)](self, command)
            except LimitReachedError as error:
                error.place = replace(error.place, line=command.line)
                self.simulation.stopped = error
                break
            except VerdadError as error:
                if error.place.line is None:
                    error.place = replace(error.place, line=command.line)
                raise
            if analysis is not None:
                self.simulation.analyses.append(analysis)
            if self.simulation.stopped is not None:
                self.simulation.stopped.place = replace(self.simulation.stopped.place, line=command.line)
                break
        return self.simulation

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

    def frequencies(self, r: commands.Range, *, from_zero: bool) -> Floats:
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
        if steps > _ABSURD * self.limits.points:
            raise VerdadError(f"a range of {steps:.3g} points is not possible", remedy="Take fewer points a decade.")
        count = math.floor(steps + 1e-9) + 1
        self.check_size(count, 1)
        return np.asarray(start * base ** (np.arange(count) / points))

    def op(self, command: commands.OperatingPoint) -> Op:
        point = self.point
        return Op({name: point.value(unknown) for name, (unknown, _) in self.names().items()})

    def swept(self, sweep: commands.Sweep) -> Swept:
        if sweep.values:
            return Swept(self.parameter(sweep.name), np.array([self.number(value) for value in sweep.values]))
        start, stop, step = (self.number(v) for v in (sweep.start, sweep.stop, sweep.step))
        if sweep.variation != "lin":
            points = self.frequencies(commands.Range(sweep.variation, step, start, stop), from_zero=False)
            return Swept(self.parameter(sweep.name), points)
        if not math.isfinite((stop - start) / step if step else math.inf) or (stop - start) * step < 0:
            raise VerdadError(
                f"{sweep.name}: a step of {step:g} does not lead from {start:g} to {stop:g}",
                remedy="Give a step other than zero that points from the start to the stop.",
            )
        count = math.floor((stop - start) / step + 1e-9) + 1
        if count > _ABSURD * self.limits.points:
            raise VerdadError(
                f"{sweep.name}: steps of {step:g} from {start:g} to {stop:g} are {count:.3g} points",
                remedy=f"Take a larger step: {self.limits.points:,} points are the limit.",
            )
        self.check_size(count, 1)
        return Swept(self.parameter(sweep.name), np.asarray(start + step * np.arange(count), float))

    def parameter(self, name: str) -> tuple[str, str]:
        """The key of "r1", "q1:bf" or "temp"."""
        if name in ("temp", "temper"):
            return AMBIENT_KEY
        element, _, parameter = name.partition(":")
        found = next((e for e in self.structure.elements if e.name == element), None)
        return element, parameter or (FAMILY_OF[found.family].value if found else "")

    def dc(self, command: commands.DcSweep) -> Dc:
        sweeps = [self.swept(sweep) for sweep in reversed(command.sweeps)]
        names = self.names()
        points = math.prod(len(sweep.values) for sweep in sweeps)
        self.check_size(points, len(names))
        found = dc_sweep(self.structure, sweeps, list(names.values()), self.matrix, look=self.check_clock)
        values = found.values[0].reshape(len(names), points)
        failed = int(np.sum(found.paths < 0))
        if failed:
            self.warn(f"{failed} of {points} points have no operating point", "Take a smaller step.", command.line)
        axes = np.meshgrid(*(sweep.values for sweep in sweeps), indexing="ij")
        inner = SweepAxis(command.sweeps[0].name, axes[-1].ravel())
        outer = SweepAxis(command.sweeps[1].name, axes[0].ravel()) if len(sweeps) > 1 else None
        return Dc(inner, dict(zip(names, values, strict=True)), outer)

    def in_parts(self, frequency: Floats) -> Iterator[Floats]:
        for start in range(0, len(frequency), _BETWEEN_LOOKS):
            self.check_clock()
            yield frequency[start : start + _BETWEEN_LOOKS]

    def ac(self, command: commands.Ac) -> Ac:
        frequency, names = self.frequencies(command.range, from_zero=True), self.names()
        self.check_size(len(frequency), 2 * len(names))
        outputs = list(names.values())
        parts = [ac_at(self.point, part, outputs).values[0] for part in self.in_parts(frequency)]
        values = np.concatenate(parts, axis=1)
        return Ac(frequency, dict(zip(names, values, strict=True)), self.unstable(command.line))

    def noise(self, command: commands.Noise) -> Noise:
        ranges = [command.range, *(each.range for each in self.netlist.commands if isinstance(each, commands.Ac))]
        over = next((each for each in ranges if each is not None), None)
        if over is None:
            raise VerdadError(".noise says nothing of the frequencies", remedy="Add dec 10 1 1meg, or an .ac.")
        frequency = self.frequencies(over, from_zero=False)
        # Totals are taken over more points than are listed, where the density is narrow.
        [natural] = poles(self.point)
        fine = crowded(frequency, natural.values)
        listed = np.isin(fine, frequency)
        self.check_size(len(fine), len(self.structure.noise) + 2)
        parts = [noise_at(self.point, part, [command.output], command.source) for part in self.in_parts(fine)]
        total = np.concatenate([part.total[0, 0] for part in parts])
        referred = np.concatenate([part.input_referred[0, 0] for part in parts])
        shares = np.concatenate([part.contributions[0, 0] for part in parts], axis=1)
        contributions = {
            name: np.sqrt(share[listed])
            for (name, _), share in zip(parts[0].contributors, shares, strict=True)
            if share.any()
        }
        totals = {
            "onoise_rms": math.sqrt(float(integrate(fine, total))),
            "inoise_rms": math.sqrt(float(integrate(fine, referred))),
        }
        vectors = {"onoise": np.sqrt(total[listed]), "inoise": np.sqrt(referred[listed])}
        return Noise(frequency, vectors, contributions, totals, self.unstable(command.line))

    def tf(self, command: commands.TransferFunction) -> Tf:
        self.point.require()
        found = transfer_function(self.structure, command.output, command.source, self.matrix)
        return Tf(
            float(found.transfer[0]),
            float(found.input_resistance[0]),
            float(found.output_resistance[0]),
            self.unstable(command.line),
        )

    def pz(self, command: commands.PoleZero) -> Pz:
        driven = "voltage" if command.drive == "vol" else "current"
        [found], [zeros] = pole_zero(self.point, command.input, command.output, driven)  # type: ignore[arg-type]
        for what, values in (("poles", found), ("zeros", zeros)):
            if not values.known:
                self.warn(
                    f"the {what} are not known: the circuit has lines or tabulated responses, or is too large",
                    "Look at its response.",
                    command.line,
                )
            elif not values.complete:
                self.warn(f"only the {what} near some frequencies were computed", "", command.line)
        return Pz(
            _listed(found) if command.which in ("pol", "pz") else [],
            _listed(zeros) if command.which in ("zer", "pz") else [],
        )

    def sens(self, command: commands.Sensitivity) -> Sens:
        self.point.require()
        frequency = None
        if command.range is None:
            found: Any = dc_sensitivity(self.structure, [command.output], self.matrix)
            keys, values = found.parameters, [float(value) for value in found.values[0, 0]]
        else:
            frequency = self.frequencies(command.range, from_zero=True)
            self.check_size(len(frequency), 2 * len(self.structure.nominal))
            found = ac_sensitivity(self.structure, frequency, [command.output], self.matrix)
            keys, values = found.parameters, list(found.values[0, 0])
        family_of = {element.name: element.family for element in self.structure.elements}
        by_element, by_parameter = {}, {}
        for (name, parameter), value in zip(keys, values, strict=True):
            if name and parameter == FAMILY_OF[family_of[name]].value:
                by_element[name] = value
            else:
                by_parameter[f"{name}:{parameter}" if name else "temp"] = value
        plus, minus = command.output
        output = plus if plus.startswith("i(") else f"v({plus})" if minus == "0" else f"v({plus},{minus})"
        return Sens(output, by_element, by_parameter, frequency)

    def tran(self, command: commands.Transient) -> Tran:
        stop = self.number(command.stop)
        start = 0.0 if command.start is None else self.number(command.start)
        step = (stop - start) / 50 if command.step is None else self.number(command.step)
        if not (step > 0 and math.isfinite(stop) and 0 <= start < stop):
            raise VerdadError(
                f".tran from {start:g} s to {stop:g} s in steps of {step:g} s is not possible",
                remedy="Give a step above zero, and an end after the start: .tran 1u 1m.",
            )
        if step > stop - start:
            raise VerdadError(
                f".tran: the step of {step:g} s is longer than the run of {stop - start:g} s",
                remedy="The step comes first, then the end: .tran 1u 1m.",
            )
        # The default is that of the SPICE 3F5 user's manual.
        longest = min(step, (stop - start) / 50) if command.largest is None else self.number(command.largest)
        if longest > 0 and stop / longest > self.limits.steps:
            raise VerdadError(
                f".tran asks for {stop / longest:.2g} steps of {longest:g} s; the limit is {self.limits.steps:g}",
                remedy="Take longer steps: between them the error is controlled in any case.",
            )
        names = self.names()
        result = transient(
            self.structure, stop, list(names.values()), matrix=self.matrix, initial=self.initial, since=start,
            start=Start.CONDITIONS if command.from_conditions else Start.OPERATING_POINT, longest=longest,
            accuracy=self.accuracy, most_points=min(self.limits.points, self.limits.numbers // (len(names) + 1)),
            look=lambda _: self.check_clock(),
        )  # fmt: skip
        trace = result.trace()
        if trace.failure is not None and not len(trace.time):
            raise trace.failure
        if trace.unsettled:
            self.warn(
                "no operating point was found, so the transient starts with everything at zero",
                "Give a start with .ic and uic, or expect what follows to be a start from rest.",
                command.line,
            )
        for finding in approximated(self.structure, self.matrix):
            self.warn(finding.message, finding.remedy, finding.place.line)
        if trace.caution is not None:
            self.warn(trace.caution.message, trace.caution.remedy, command.line)
        self.simulation.stopped = trace.failure
        counts = trace.counts._asdict() if trace.counts else {}
        return Tran(trace.time, dict(zip(names, trace.values, strict=True)), counts)

    @property
    def accuracy(self) -> Accuracy:
        """The transient's tolerances, as the netlist's options say."""
        given = {name: self.number(value) for name, value in self.netlist.tolerances.items()}
        default = Accuracy()
        return Accuracy(
            given.get("reltol", default.relative), given.get("vntol", default.volts),
            given.get("abstol", default.amperes), _RULES.get(self.netlist.method, default.rule),
        )  # fmt: skip

    def four(self, command: commands.Fourier) -> Four:
        fundamental = self.number(command.fundamental)
        traces = [analysis for analysis in self.simulation.analyses if isinstance(analysis, Tran)]
        if not traces:
            raise VerdadError(".four needs a transient", remedy="Add .tran, with at least one period.")
        series = {}
        for plus, minus in command.outputs:
            one, other = (traces[-1].vectors.get(n if n.startswith("i(") else f"v({n})") for n in (plus, minus))
            if one is None or (other is None and minus != "0"):
                raise VerdadError(f".four: there is no output {commands.written((plus, minus))}", remedy="Name a node.")
            values = one if other is None else one - other
            series[commands.written((plus, minus))] = fourier(traces[-1].time, values, fundamental)
        return Four(
            fundamental * np.arange(1.0, 10.0),
            {name: each.magnitudes for name, each in series.items()},
            {name: each.degrees for name, each in series.items()},
            {name: each.mean for name, each in series.items()},
            {name: each.distortion for name, each in series.items()},
        )


def _listed(found: Poles) -> list[complex]:
    return [complex(s) for s in found.values]


_RUNNERS: dict[type, Callable[[_Run, Any], Analysis | None]] = {
    commands.OperatingPoint: _Run.op,
    commands.DcSweep: _Run.dc,
    commands.Ac: _Run.ac,
    commands.Noise: _Run.noise,
    commands.TransferFunction: _Run.tf,
    commands.PoleZero: _Run.pz,
    commands.Sensitivity: _Run.sens,
    commands.Transient: _Run.tran,
    commands.Fourier: _Run.four,
}
