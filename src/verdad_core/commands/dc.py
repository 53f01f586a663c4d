"""`.dc`: points at rest while one or two quantities are swept."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from verdad_core.analyses.dc_sweep import Swept, dc_sweep
from verdad_core.arrays import Floats
from verdad_core.devices import FAMILY_OF
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.errors import VerdadError
from verdad_core.netlist.cards.card import Words, write_list
from verdad_core.netlist.command import Command, Range
from verdad_core.netlist.expressions import Value
from verdad_core.simulation import ABSURD, Run


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
class Sweep:
    """One source's value, one element's parameter ("r1", "q1:bf"), or "temp".

    From start to stop in steps ("lin"), with `step` points per decade or octave ("dec", "oct"), or a list's values.
    """

    name: str
    start: Value
    stop: Value
    step: Value
    variation: str = "lin"
    values: tuple[Value, ...] = ()


@dataclass(frozen=True, kw_only=True)
class DcSweep(Command):
    """One or two sweeps; the first runs through for every value of the second."""

    sweeps: tuple[Sweep, ...]

    keyword: ClassVar[str] = ".dc"

    @classmethod
    def read(cls, words: Words) -> Self:
        sweeps: list[Sweep] = []
        while words.rest and len(sweeps) < 2:
            sweeps.append(_sweep(words))
        if not sweeps:
            raise words.error("needs what to sweep, start, stop and step", "Write .dc v1 0 5 0.1.")
        return cls(sweeps=tuple(sweeps), line=words.statement.line)

    def write(self) -> str:
        return f".dc {' '.join(map(_written, self.sweeps))}"

    def run(self, run: Run) -> Dc:
        sweeps = [_swept(run, sweep) for sweep in reversed(self.sweeps)]
        names = run.names()
        points = math.prod(len(sweep.values) for sweep in sweeps)
        run.check_size(points, len(names))
        found = dc_sweep(run.structure, sweeps, list(names.values()), run.matrix, look=run.check_clock)
        values = found.values[0].reshape(len(names), points)
        failed = int(np.sum(found.paths < 0))
        if failed:
            run.warn(f"{failed} of {points} points have no operating point", "Take a smaller step.", self.line)
        axes = np.meshgrid(*(sweep.values for sweep in sweeps), indexing="ij")
        inner = SweepAxis(self.sweeps[0].name, axes[-1].ravel())
        outer = SweepAxis(self.sweeps[1].name, axes[0].ravel()) if len(sweeps) > 1 else None
        return Dc(inner, dict(zip(names, values, strict=True)), outer)


def _sweep(words: Words) -> Sweep:
    variation = words.take("how").text if words.peek() in ("lin", "dec", "oct") else "lin"
    name = words.take("what to sweep").text
    if words.skip("list"):
        values = words.numbers()
        if not values:
            raise words.error("LIST names no value", "Write .dc v1 list 1 2 5.")
        return Sweep(name, values[0], values[-1], 0.0, "list", values)
    if words.rest and not words.is_number():
        name = f"{name}:{words.take('a parameter').text}"
    step = "a step" if variation == "lin" else "a number of points"
    return Sweep(name, words.number("a start"), words.number("a stop"), words.number(step), variation)


def _written(s: Sweep) -> str:
    if s.values:
        return f"{s.name} list {write_list(s.values)}"
    return f"{'' if s.variation == 'lin' else s.variation + ' '}{s.name} {write_list((s.start, s.stop, s.step))}"


def _swept(run: Run, sweep: Sweep) -> Swept:
    if sweep.values:
        return Swept(_parameter(run, sweep.name), np.array([run.number(value) for value in sweep.values]))
    start, stop, step = (run.number(v) for v in (sweep.start, sweep.stop, sweep.step))
    if sweep.variation != "lin":
        points = run.frequencies(Range(sweep.variation, step, start, stop), from_zero=False)
        return Swept(_parameter(run, sweep.name), points)
    if not math.isfinite((stop - start) / step if step else math.inf) or (stop - start) * step < 0:
        raise VerdadError(
            f"{sweep.name}: a step of {step:g} does not lead from {start:g} to {stop:g}",
            remedy="Give a step other than zero that points from the start to the stop.",
        )
    count = math.floor((stop - start) / step + 1e-9) + 1
    if count > ABSURD * run.limits.points:
        raise VerdadError(
            f"{sweep.name}: steps of {step:g} from {start:g} to {stop:g} are {count:.3g} points",
            remedy=f"Take a larger step: {run.limits.points:,} points are the limit.",
        )
    run.check_size(count, 1)
    return Swept(_parameter(run, sweep.name), np.asarray(start + step * np.arange(count), float))


def _parameter(run: Run, name: str) -> tuple[str, str]:
    """The key of "r1", "q1:bf" or "temp"."""
    if name in ("temp", "temper"):
        return AMBIENT_KEY
    element, _, parameter = name.partition(":")
    found = next((e for e in run.structure.elements if e.name == element), None)
    return element, parameter or (FAMILY_OF[found.family].value if found else "")
