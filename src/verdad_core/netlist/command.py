"""Analysis statements: what each is, and how outputs and ranges are read and written.

A command is one file in `verdad_core/commands`: it reads itself from a statement, runs, and writes itself back. It
stands above the netlist, as it knows how it is run: its table is looked up when the first such statement is read.
"""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, field
from importlib import import_module
from typing import Any, ClassVar, Self

from verdad_core.netlist.cards.card import Words, write_list
from verdad_core.netlist.expressions import Value
from verdad_core.netlist.lines import Statement

_TABLE = "verdad_core.commands"

#: What an analysis looks at, as the analyses take it: ("out", "0") for a voltage, ("i(v1)", "0") for a current.
Output = tuple[str, str]


@dataclass(frozen=True)
class Range:
    """Frequencies: `dec` or `oct` with points per decade or octave, `lin` with points in all, or a `list`."""

    variation: str
    points: Value
    start: Value
    stop: Value
    values: tuple[Value, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Command(ABC):
    """One analysis statement."""

    line: int = field(compare=False)

    keyword: ClassVar[str]
    #: Whether the circuit moves, so that what floats or is shorted for direct current has a meaning; and whether it is
    #: run after all others, as it works on what they found.
    moves: ClassVar[bool] = False
    last: ClassVar[bool] = False

    @classmethod
    @abstractmethod
    def read(cls, words: Words) -> Self:
        """The command in a statement's words. Raises NetlistError."""

    @abstractmethod
    def write(self) -> str:
        """The statement that reads back as the same command."""

    @abstractmethod
    def run(self, run: Any) -> Any:
        """What it finds on a circuit (`simulation.Run`), None where there is nothing to tell. Raises VerdadError."""

    @property
    def span(self) -> tuple[Value | None, Value] | None:
        """Step and end of a run in time; None for one of another kind."""
        return None

    @property
    def frequencies(self) -> Range | None:
        """The frequencies that statements after it may rely on."""
        return None


def commands() -> Mapping[str, type[Command]]:
    """All that there are, by their keyword."""
    found: Mapping[str, type[Command]] = import_module(_TABLE).COMMANDS
    return found


def is_command(keyword: str) -> bool:
    """Whether a statement may be an analysis: all that begins with a dot is looked up."""
    return keyword.startswith(".") and keyword in commands()


def read_command(statement: Statement) -> Command:
    """The analysis in a statement. Raises NetlistError."""
    words = Words(statement)
    command = commands()[statement.keyword].read(words)
    words.done()
    return command


_OUTPUT = re.compile(r"([vi])\s*\(\s*([^\s(),]+)\s*(?:,\s*([^\s(),]+)\s*)?\)")


def read_output(words: Words) -> Output:
    """The next words as `v(a)`, `v(a,b)` or `i(source)`."""
    kind = words.take("an output such as v(out)")
    match = _OUTPUT.match(kind.text + words.statement.after(kind))
    if match is None or kind.text != match[1] or (kind.text == "i" and match[3]):
        raise words.error("needs an output such as v(out), v(a,b) or i(v1)", "Name one.", kind)
    words.nodes(2 if match[3] else 1, "a node")
    if kind.text == "v" and match[2] == match[3]:
        raise words.error(f"looks from node {match[2]} to itself", "Name two nodes.", kind)
    if kind.text == "v" and match[2] == "0" and not match[3]:
        raise words.error("looks at ground, which is at 0 V by definition", "Name another node.", kind)
    return (match[2], match[3] or "0") if kind.text == "v" else (f"i({match[2]})", "0")


def read_range(words: Words) -> Range:
    variation = words.take("dec, oct, lin or list")
    if variation.text == "list":
        values = words.numbers()
        if not values:
            raise words.error("LIST names no frequency", "Write list 50 1k 20k.", variation)
        return Range("list", float(len(values)), values[0], values[-1], values)
    if variation.text not in ("dec", "oct", "lin"):
        raise words.error(f"'{variation.text}' is not dec, oct, lin or list", "Write dec 10 1 1meg.", variation)
    return Range(variation.text, words.number("a number of points"), words.number("a start"), words.number("a stop"))


def written(output: Output) -> str:
    """An output as it is written: v(a), v(a,b) or i(v1)."""
    plus, minus = output
    if plus.startswith("i("):
        return plus
    return f"v({plus})" if minus == "0" else f"v({plus},{minus})"


def write_range(r: Range) -> str:
    return f"list {write_list(r.values)}" if r.values else f"{r.variation} {write_list((r.points, r.start, r.stop))}"
