"""At rest: the voltages and currents of the operating point."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

from verdad_core.analyses.device_values import device_values
from verdad_core.checks.cause import Cause
from verdad_core.checks.kind import CheckKind, Naming, Taking
from verdad_core.checks.prepared import Look, Prepared, RowResult
from verdad_core.checks.signals import Signals
from verdad_core.checks.stability import STAYS, stability
from verdad_core.commands.operating_point import OperatingPoint as Statement
from verdad_core.document.fixtures import Supply
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import Severity
from verdad_core.measure.entry import Takes
from verdad_core.netlist.command import Command
from verdad_core.units import format_value

#: Amperes that are none.
_NOTHING = 1e-12


class OperatingPoint(CheckKind):
    """The voltages and currents at rest."""

    kind: Literal["operating point"] = "operating point"

    title: ClassVar[str] = "Operating point"
    question: ClassVar[str] = "Where does it rest, and what does it draw?"
    meaning: ClassVar[str] = "Volts, amperes and watts at rest: they stand on the sheet."
    looks: ClassVar[str] = ""
    gives: ClassVar[frozenset[Takes]] = frozenset({"number or trace"})

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        point, natural = prepared.points(matrix)
        index = [prepared.structure.index(unknown) for unknown, _ in prepared.outputs]
        for row, found in enumerate(natural):
            solved = point.path(row).solved
            signals = prepared.signals(None, point.values[row, index]) if solved else None
            cause = Cause.UNSTABLE if len(found.unstable) else Cause.NUMBER
            findings = tuple(stability(found, Severity.ERROR, STAYS))
            yield RowResult(signals, findings, cause if solved else Cause.NOT_SOLVED)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        """What every supply gives or takes, and all of them together."""
        drawn, back, together = list[str](), list[str](), 0.0
        supplies = [fixture for fixture in prepared.check.fixtures if isinstance(fixture, Supply)]
        for supply in supplies:
            values = device_values(prepared.point, supply.name)
            amperes, together = abs(float(values.currents[0])), together - values.power
            if amperes > _NOTHING:
                taken = values.power > 0.0
                (back if taken else drawn).append(
                    f"{format_value(amperes, 'A', 3)} {'back to' if taken else 'from'} {supply.plus}"
                )
        said = [f"{verb} {_listed(each)}" for verb, each in (("draws", drawn), ("gives", back)) if each]
        if not said:
            return "It draws nothing at rest." if supplies else ""
        return f"It {' and '.join(said)} at rest: {format_value(together, 'W', 3)}."

    @classmethod
    def taken(cls, command: Command, netlist: Taking) -> Self | None:
        return cls() if isinstance(command, Statement) else None

    def written(self, prepared: Prepared, names: Naming) -> str:
        return ".op"


def _listed(words: list[str]) -> str:
    return f"{', '.join(words[:-1])} and {words[-1]}" if words[1:] else words[0]
