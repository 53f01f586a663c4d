"""`.op`: the operating point."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command
from verdad_core.simulation import Run


@dataclass(frozen=True)
class Op:
    kind: ClassVar[str] = "op"
    values: dict[str, float]


@dataclass(frozen=True, kw_only=True)
class OperatingPoint(Command):
    """The operating point."""

    keyword: ClassVar[str] = ".op"

    @classmethod
    def read(cls, words: Words) -> Self:
        return cls(line=words.statement.line)

    def write(self) -> str:
        return ".op"

    def run(self, run: Run) -> Op:
        point = run.point
        return Op({name: point.value(unknown) for name, (unknown, _) in run.names().items()})
