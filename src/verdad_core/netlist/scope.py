"""What a netlist says, once it has been read: scopes with what is defined in them, and the whole."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import dataclass, field

from verdad_core.errors import Finding, NetlistError, Severity
from verdad_core.netlist.cards import Card
from verdad_core.netlist.command import Command
from verdad_core.netlist.expressions import UserFunction, Value
from verdad_core.netlist.lines import Comment
from verdad_core.netlist.models import ModelCard


@dataclass
class Scope:
    """What is defined between `.subckt` and `.ends`, or at the top of a text. Equal when it says the same."""

    name: str = ""
    pins: tuple[str, ...] = ()
    line: int = field(default=1, compare=False)
    parent: Scope | None = field(default=None, compare=False, repr=False)
    cards: list[Card] = field(default_factory=list)
    models: dict[str, ModelCard] = field(default_factory=dict)
    subcircuits: dict[str, Scope] = field(default_factory=dict)
    comments: list[Comment] = field(default_factory=list, compare=False)
    parameters: dict[str, Value] = field(default_factory=dict)
    functions: dict[str, UserFunction] = field(default_factory=dict)
    nodesets: dict[str, Value] = field(default_factory=dict)
    initial: dict[str, Value] = field(default_factory=dict)
    file: str | None = field(default=None, compare=False)
    #: The line of its `.ends`.
    last: int = field(default=sys.maxsize, compare=False)

    def outwards(self) -> Iterator[Scope]:
        """This scope, then those around it."""
        scope: Scope | None = self
        while scope is not None:
            yield scope
            scope = scope.parent

    def outermost(self) -> Scope:
        return list(self.outwards())[-1]

    def subcircuit(self, name: str) -> Scope | None:
        return next((scope.subcircuits[name] for scope in self.outwards() if name in scope.subcircuits), None)


@dataclass
class Netlist:
    """A text that has been read. Errors are findings, so that everything else in the text can be used."""

    title: str = ""
    top: Scope = field(default_factory=Scope)
    findings: list[Finding] = field(default_factory=list, compare=False)
    commands: list[Command] = field(default_factory=list)
    #: Nodes that are the same in every subcircuit.
    everywhere: list[str] = field(default_factory=list)
    #: Ambient temperature, and that at which models hold, in °C.
    celsius: Value | None = None
    nominal: Value | None = None
    #: Options of the transient: reltol, vntol (V), abstol (A), and `method`, whose word is trap or gear.
    tolerances: dict[str, Value] = field(default_factory=dict)
    method: str = ""

    @property
    def errors(self) -> list[Finding]:
        return [finding for finding in self.findings if finding.severity is Severity.ERROR]

    def require(self) -> Netlist:
        """This netlist. Raises NetlistError with the first error, where there is one."""
        for finding in self.errors:
            raise NetlistError(finding.message, place=finding.place, remedy=finding.remedy)
        return self
