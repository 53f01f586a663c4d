"""The reading of a model file: what it defines, what each pin seems to be, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from verdad_core.errors import Finding, Severity, VerdadError
from verdad_core.intake.pins import PinProposal, propose
from verdad_core.netlist.flatten import flatten_subcircuit
from verdad_core.netlist.reader import Scope, read


@dataclass(frozen=True)
class SubcircuitReading:
    """One subcircuit of a model file. `elements` counts what it expands to; 0 when it cannot be expanded."""

    name: str
    line: int
    pins: tuple[PinProposal, ...]
    elements: int


@dataclass(frozen=True)
class ModelReading:
    """One `.model` at the top of a model file."""

    name: str
    family: str
    line: int


@dataclass(frozen=True)
class Reading:
    """What a model file holds. A file with errors can be shown, but not stored."""

    subcircuits: tuple[SubcircuitReading, ...]
    models: tuple[ModelReading, ...]
    findings: tuple[Finding, ...]


def read_models(text: str) -> Reading:
    """Read a model file. Never raises for what the text says."""
    netlist = read(text)
    findings = list(netlist.findings)
    subcircuits = []
    for scope in _all_subcircuits(netlist.top):
        elements = 0
        try:
            elements = len(flatten_subcircuit(scope).elements)
        except VerdadError as error:
            finding = Finding.of(error)
            if finding not in findings:
                findings.append(finding)
        subcircuits.append(SubcircuitReading(scope.name, scope.line, propose(scope), elements))
    models = tuple(
        ModelReading(m.name, m.family or f"{m.kind or m.base}, not supported", m.statement.line)
        for m in netlist.top.models.values()
    )
    if not subcircuits and not models and not netlist.errors:
        findings.append(
            Finding(
                Severity.ERROR,
                "the text defines no subcircuit and no model",
                remedy="Paste the maker's whole file, from .subckt to .ends.",
            )
        )
    return Reading(tuple(subcircuits), models, tuple(findings))


def _all_subcircuits(scope: Scope) -> Iterator[Scope]:
    for inner in scope.subcircuits.values():
        yield inner
        yield from _all_subcircuits(inner)
