"""`.tf`: the small-signal transfer and both resistances."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from verdad_core.analyses.transfer_function import transfer_function
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command, Output, read_output, written
from verdad_core.simulation import Run


@dataclass(frozen=True)
class Tf:
    kind: ClassVar[str] = "tf"
    transfer: float
    input_resistance: float
    output_resistance: float
    unstable: list[complex]


@dataclass(frozen=True, kw_only=True)
class TransferFunction(Command):
    """From a source to an output."""

    output: Output
    source: str

    keyword: ClassVar[str] = ".tf"

    @classmethod
    def read(cls, words: Words) -> Self:
        return cls(output=read_output(words), source=words.take("a source").text, line=words.statement.line)

    def write(self) -> str:
        return f".tf {written(self.output)} {self.source}"

    def run(self, run: Run) -> Tf:
        run.point.require()
        found = transfer_function(run.structure, self.output, self.source, run.matrix)
        return Tf(
            float(found.transfer[0]),
            float(found.input_resistance[0]),
            float(found.output_resistance[0]),
            run.unstable(self.line),
        )
