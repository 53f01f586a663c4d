"""`.ac`: the response to all AC sources over frequency."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from verdad_core.analyses.ac import ac_at
from verdad_core.arrays import Complexes, Floats
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command, Range, read_range, write_range
from verdad_core.simulation import Run


@dataclass(frozen=True)
class AcResult:
    kind: ClassVar[str] = "ac"
    frequency: Floats
    vectors: dict[str, Complexes]
    #: Poles in the right half-plane, in rad/s: with any, the response cannot be measured.
    unstable: list[complex]


@dataclass(frozen=True, kw_only=True)
class Ac(Command):
    """A range of frequencies."""

    range: Range

    keyword: ClassVar[str] = ".ac"
    moves: ClassVar[bool] = True

    @classmethod
    def read(cls, words: Words) -> Self:
        return cls(range=read_range(words), line=words.statement.line)

    def write(self) -> str:
        return f".ac {write_range(self.range)}"

    def run(self, run: Run) -> AcResult:
        frequency, names = run.frequencies(self.range, from_zero=True), run.names()
        run.check_size(len(frequency), 2 * len(names))
        outputs = list(names.values())
        parts = [ac_at(run.point, part, outputs).values[0] for part in run.in_parts(frequency)]
        values = np.concatenate(parts, axis=1)
        return AcResult(frequency, dict(zip(names, values, strict=True)), run.unstable(self.line))

    @property
    def frequencies(self) -> Range:
        return self.range
