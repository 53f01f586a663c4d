"""A whole text: its subcircuits, models, elements and comments, and findings for all that could not be read."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import TypeVar

from verdad_core.errors import Finding, NetlistError, Place, Severity
from verdad_core.netlist.cards import Card, assignments, number, read_card, split_parameters
from verdad_core.netlist.expressions import UserFunction, Value, read_expression
from verdad_core.netlist.lines import Comment, Statement, split
from verdad_core.netlist.models import ModelCard, read_model

Item = TypeVar("Item")

#: Subcircuits may be defined inside each other to this depth.
MAX_DEPTH = 20

#: Findings beyond this number are counted, not listed.
MAX_FINDINGS = 200


@dataclass
class Scope:
    """What is defined between `.subckt` and `.ends`, or at the top of a text."""

    name: str = ""
    pins: tuple[str, ...] = ()
    line: int = 1
    parent: Scope | None = None
    cards: list[Card] = field(default_factory=list)
    models: dict[str, ModelCard] = field(default_factory=dict)
    subcircuits: dict[str, Scope] = field(default_factory=dict)
    comments: list[Comment] = field(default_factory=list)
    parameters: dict[str, Value] = field(default_factory=dict)
    functions: dict[str, UserFunction] = field(default_factory=dict)

    def outwards(self) -> Iterator[Scope]:
        """This scope, then those around it."""
        scope: Scope | None = self
        while scope is not None:
            yield scope
            scope = scope.parent

    def subcircuit(self, name: str) -> Scope | None:
        return next((scope.subcircuits[name] for scope in self.outwards() if name in scope.subcircuits), None)


@dataclass
class Netlist:
    """A text that has been read. Errors are findings, so that everything else in the text can be used."""

    title: str
    top: Scope
    findings: list[Finding]

    @property
    def errors(self) -> list[Finding]:
        return [finding for finding in self.findings if finding.severity is Severity.ERROR]

    def require(self) -> Netlist:
        """This netlist. Raises NetlistError with the first error, where there is one."""
        for finding in self.errors:
            raise NetlistError(finding.message, place=finding.place, remedy=finding.remedy)
        return self


#: Directives that belong to a circuit's run, not to a model: noted and passed over.
_PASSED_OVER = {".end", ".op", ".ac", ".dc", ".tran", ".print", ".plot", ".probe", ".width", ".title", ".options",
                ".option"}  # fmt: skip


def read(text: str, *, has_title: bool = False) -> Netlist:
    """Read a netlist (`has_title`: its first line is the title) or a model file.

    Never raises for what the text says: what is wrong is in the findings, with its line.
    """
    title = ""
    if has_title:
        title, _, body = text.partition("\n")
        text = "\n" + body
    reader = _Reader()
    try:
        for item in split(text):
            reader.take(item)
    except NetlistError as error:
        reader.findings.append(Finding.of(error))
    reader.close()
    if len(reader.findings) > MAX_FINDINGS:
        more = len(reader.findings) - MAX_FINDINGS
        del reader.findings[MAX_FINDINGS:]
        reader.findings.append(
            Finding(Severity.ERROR, f"and {more} more findings", remedy="Mend the first ones first.")
        )
    return Netlist(title.strip(), reader.top, reader.findings)


class _Reader:
    def __init__(self) -> None:
        self.top = Scope()
        self.scope = self.top
        self.depth = 0
        self.ended = False
        self.findings: list[Finding] = []

    def take(self, item: Statement | Comment) -> None:
        if isinstance(item, Comment):
            self.scope.comments.append(item)
            return
        if self.ended:
            return
        try:
            self._statement(item)
        except NetlistError as error:
            self.findings.append(Finding.of(error))

    def _statement(self, statement: Statement) -> None:
        keyword = statement.keyword
        if keyword == ".subckt":
            self._open(statement)
        elif keyword == ".ends":
            self._close(statement)
        elif keyword == ".model":
            model = read_model(statement, self.findings)
            self._define(statement, "model", model.name, self.scope.models, model)
        elif keyword == ".param":
            for name, token in assignments(statement, statement.tokens[1:]).items():
                value = number(statement, token, bare=True)
                self._define(statement, "parameter", name, self.scope.parameters, value)
        elif keyword == ".func":
            self._function(statement)
        elif keyword in _PASSED_OVER:
            self.ended = keyword == ".end"
            if keyword not in (".end", ".title"):
                self.findings.append(
                    Finding(Severity.NOTE, f"{keyword} is passed over", Place(line=statement.line), "")
                )
        elif keyword.startswith("."):
            raise statement.error(f"the statement {keyword} is not read yet", "Remove it, or write out what it does.")
        else:
            self.scope.cards.append(read_card(statement))

    def _open(self, statement: Statement) -> None:
        tokens, parameters = split_parameters(statement, statement.tokens[1:])
        words = [token.text for token in tokens]
        if len(words) < 2:
            raise statement.error(".subckt is incomplete: expected a name and its nodes", "Write .subckt NAME 1 2 3.")
        if self.depth >= MAX_DEPTH:
            raise statement.error(f"subcircuits are nested deeper than {MAX_DEPTH}", "Flatten the innermost ones.")
        name, pins = words[0], tuple(words[1:])
        twice = next((pin for pin in pins if pins.count(pin) > 1), None)
        inner = Scope(name, pins, statement.line, self.scope, parameters=parameters)
        if twice is not None:
            self.findings.append(
                Finding.of(statement.error(f".subckt {name} names node {twice} twice", "Give each pin its own node."))
            )
        self._define(statement, "subcircuit", name, self.scope.subcircuits, inner)
        self.scope = inner
        self.depth += 1

    def _function(self, statement: Statement) -> None:
        tokens = [token for token in statement.tokens[1:] if token.text != "="]
        if len(tokens) < 2:
            raise statement.error(".func is incomplete: expected a name and an expression", "Write .func f(x) {2*x}.")
        body = read_expression(tokens[-1])
        name, *arguments = (token.text for token in tokens[:-1])
        self._define(statement, "function", name, self.scope.functions, UserFunction(tuple(arguments), body))

    def _define(self, statement: Statement, what: str, name: str, among: dict[str, Item], item: Item) -> None:
        if name in among:
            self.findings.append(
                Finding.of(statement.error(f"{what} {name} is defined twice", "Remove one; the first is used."))
            )
        among.setdefault(name, item)

    def _close(self, statement: Statement) -> None:
        if self.scope.parent is None:
            raise statement.error(".ends without .subckt", "Remove it, or put the missing .subckt above it.")
        named = statement.words[1] if len(statement.words) > 1 else self.scope.name
        if named != self.scope.name:
            self.findings.append(
                Finding(
                    Severity.WARNING,
                    f".ends {named} closes subcircuit {self.scope.name}",
                    Place(line=statement.line),
                    "Check that no .ends is missing above.",
                )
            )
        self.scope = self.scope.parent
        self.depth -= 1

    def close(self) -> None:
        while self.scope.parent is not None:
            self.findings.append(
                Finding(
                    Severity.ERROR,
                    f"subcircuit {self.scope.name} has no .ends",
                    Place(line=self.scope.line),
                    "Add .ends after its last statement.",
                )
            )
            self.scope = self.scope.parent
