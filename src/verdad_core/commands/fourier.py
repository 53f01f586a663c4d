"""`.four`: harmonics of the last period of a transient."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.commands.transient import Tran
from verdad_core.errors import VerdadError
from verdad_core.measure.spectrum import fourier
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command, Output, read_output, written
from verdad_core.netlist.expressions import Value, write_value
from verdad_core.simulation import Run


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


@dataclass(frozen=True, kw_only=True)
class Fourier(Command):
    """Harmonics of the last period of a transient."""

    fundamental: Value
    outputs: tuple[Output, ...]

    keyword: ClassVar[str] = ".four"
    last: ClassVar[bool] = True

    @classmethod
    def read(cls, words: Words) -> Self:
        fundamental = words.number("a fundamental frequency")
        outputs: list[Output] = []
        while words.rest or not outputs:
            outputs.append(read_output(words))
        return cls(fundamental=fundamental, outputs=tuple(outputs), line=words.statement.line)

    def write(self) -> str:
        return f".four {write_value(self.fundamental)} {' '.join(map(written, self.outputs))}"

    def run(self, run: Run) -> Four:
        fundamental = run.number(self.fundamental)
        traces = [analysis for analysis in run.simulation.analyses if isinstance(analysis, Tran)]
        if not traces:
            raise VerdadError(".four needs a transient", remedy="Add .tran, with at least one period.")
        series = {}
        for plus, minus in self.outputs:
            one, other = (traces[-1].vectors.get(n if n.startswith("i(") else f"v({n})") for n in (plus, minus))
            if one is None or (other is None and minus != "0"):
                raise VerdadError(f".four: there is no output {written((plus, minus))}", remedy="Name a node.")
            values = one if other is None else one - other
            series[written((plus, minus))] = fourier(traces[-1].time, values, fundamental)
        return Four(
            fundamental * np.arange(1.0, 10.0),
            {name: each.magnitudes for name, each in series.items()},
            {name: each.degrees for name, each in series.items()},
            {name: each.mean for name, each in series.items()},
            {name: each.distortion for name, each in series.items()},
        )
