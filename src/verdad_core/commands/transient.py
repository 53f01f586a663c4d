"""`.tran`: the circuit in time."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar, Self

from verdad_core.analyses.in_time import approximated
from verdad_core.analyses.marcher import Accuracy, Rule
from verdad_core.analyses.transient import Start, transient
from verdad_core.arrays import Floats
from verdad_core.errors import VerdadError
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command
from verdad_core.netlist.expressions import Value, write_value
from verdad_core.simulation import Run

#: What `.options method=..` asks for.
_RULES = {"trap": Rule.TRAPEZOIDAL, "gear": Rule.GEAR}


@dataclass(frozen=True)
class Tran:
    """Points as the transient took them; in `counts` its steps, and what else it did."""

    kind: ClassVar[str] = "tran"
    time: Floats
    vectors: dict[str, Floats]
    counts: dict[str, int]


@dataclass(frozen=True, kw_only=True)
class Transient(Command):
    """From `start` to `stop` in steps that are at most `largest`."""

    #: None: a fiftieth of the run.
    step: Value | None
    stop: Value
    start: Value | None
    largest: Value | None
    from_conditions: bool

    keyword: ClassVar[str] = ".tran"
    moves: ClassVar[bool] = True

    @classmethod
    def read(cls, words: Words) -> Self:
        first = words.number("a step")
        # A single number is the end.
        step, stop = (first, words.number()) if words.is_number() else (None, first)
        step = None if step == 0.0 else step
        start = words.number() if words.is_number() else None
        largest = words.number() if words.is_number() else None
        uic = words.skip("uic")
        return cls(step=step, stop=stop, start=start, largest=largest, from_conditions=uic, line=words.statement.line)

    def write(self) -> str:
        values = [
            v for v in (0.0 if self.step is None else self.step, self.stop, self.start, self.largest) if v is not None
        ]
        return f".tran {' '.join(map(write_value, values))}{' uic' if self.from_conditions else ''}"

    def run(self, run: Run) -> Tran:
        stop = run.number(self.stop)
        start = 0.0 if self.start is None else run.number(self.start)
        step = (stop - start) / 50 if self.step is None else run.number(self.step)
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
        longest = min(step, (stop - start) / 50) if self.largest is None else run.number(self.largest)
        if longest > 0 and stop / longest > run.limits.steps:
            raise VerdadError(
                f".tran asks for {stop / longest:.2g} steps of {longest:g} s; the limit is {run.limits.steps:g}",
                remedy="Take longer steps: between them the error is controlled in any case.",
            )
        names = run.names()
        result = transient(
            run.structure, stop, list(names.values()), matrix=run.matrix, initial=run.initial, since=start,
            start=Start.CONDITIONS if self.from_conditions else Start.OPERATING_POINT, longest=longest,
            accuracy=_accuracy(run), most_points=min(run.limits.points, run.limits.numbers // (len(names) + 1)),
            look=lambda _: run.check_clock(),
        )  # fmt: skip
        trace = result.trace()
        if trace.failure is not None and not len(trace.time):
            raise trace.failure
        if trace.unsettled:
            run.warn(
                "no operating point was found, so the transient starts with everything at zero",
                "Give a start with .ic and uic, or expect what follows to be a start from rest.",
                self.line,
            )
        for finding in approximated(run.structure, run.matrix):
            run.warn(finding.message, finding.remedy, finding.place.line)
        if trace.caution is not None:
            run.warn(trace.caution.message, trace.caution.remedy, self.line)
        run.simulation.stopped = trace.failure
        counts = trace.counts._asdict() if trace.counts else {}
        return Tran(trace.time, dict(zip(names, trace.values, strict=True)), counts)

    @property
    def span(self) -> tuple[Value | None, Value]:
        return self.step, self.stop


def _accuracy(run: Run) -> Accuracy:
    """The transient's tolerances, as the netlist's options say."""
    given = {name: run.number(value) for name, value in run.netlist.tolerances.items()}
    default = Accuracy()
    return Accuracy(
        given.get("reltol", default.relative), given.get("vntol", default.volts),
        given.get("abstol", default.amperes), _RULES.get(run.netlist.method, default.rule),
    )  # fmt: skip
