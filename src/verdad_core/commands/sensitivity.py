"""`.sens`: how an output follows each parameter."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, Self

from verdad_core.analyses.sensitivity import ac_sensitivity, dc_sensitivity
from verdad_core.arrays import Floats
from verdad_core.devices import FAMILY_OF
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command, Output, Range, read_output, read_range, write_range, written
from verdad_core.simulation import Run


@dataclass(frozen=True)
class Sens:
    """How the output follows each element's value, and each other parameter ("q1:bf"), per unit of it."""

    kind: ClassVar[str] = "sens"
    output: str
    by_element: dict[str, Any]
    by_parameter: dict[str, Any]
    frequency: Floats | None = None


@dataclass(frozen=True, kw_only=True)
class Sensitivity(Command):
    """Of an output, at rest or over frequency."""

    output: Output
    range: Range | None

    keyword: ClassVar[str] = ".sens"

    @classmethod
    def read(cls, words: Words) -> Self:
        output = read_output(words)
        words.skip("dc")
        over = read_range(words) if words.skip("ac") else None
        return cls(output=output, range=over, line=words.statement.line)

    def write(self) -> str:
        return f".sens {written(self.output)}" + (f" ac {write_range(self.range)}" if self.range else "")

    def run(self, run: Run) -> Sens:
        run.point.require()
        frequency = None
        if self.range is None:
            found: Any = dc_sensitivity(run.structure, [self.output], run.matrix)
            keys, values = found.parameters, [float(value) for value in found.values[0, 0]]
        else:
            frequency = run.frequencies(self.range, from_zero=True)
            run.check_size(len(frequency), 2 * len(run.structure.nominal))
            found = ac_sensitivity(run.structure, frequency, [self.output], run.matrix)
            keys, values = found.parameters, list(found.values[0, 0])
        family_of = {element.name: element.family for element in run.structure.elements}
        by_element, by_parameter = {}, {}
        for (name, parameter), value in zip(keys, values, strict=True):
            if name and parameter == FAMILY_OF[family_of[name]].value:
                by_element[name] = value
            else:
                by_parameter[f"{name}:{parameter}" if name else "temp"] = value
        return Sens(written(self.output), by_element, by_parameter, frequency)
