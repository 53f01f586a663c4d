"""A netlist back to text, so that read(write(netlist)) says the same."""

from __future__ import annotations

from collections.abc import Iterator

from verdad_core.netlist.cards import write_card
from verdad_core.netlist.cards.card import write_values
from verdad_core.netlist.expressions import write_value
from verdad_core.netlist.models import write_model
from verdad_core.netlist.scope import Netlist, Scope


def write(netlist: Netlist) -> str:
    """The text of a netlist, with its title as the first line (read it back with has_title=True).

    Statements that could not be read are left out; so are comments.
    """
    lines = [netlist.title.replace("\n", " ")]
    if netlist.everywhere:
        lines.append(f".global {' '.join(netlist.everywhere)}")
    if netlist.celsius is not None:
        lines.append(f".temp {write_value(netlist.celsius)}")
    if netlist.nominal is not None:
        lines.append(f".options tnom={write_value(netlist.nominal)}")
    options = [f"{name}={write_value(value)}" for name, value in netlist.tolerances.items()]
    options += [f"method={netlist.method}"] if netlist.method else []
    if options:
        lines.append(f".options {' '.join(options)}")
    lines += _scope(netlist.top)
    lines += [command.write() for command in netlist.commands]
    return "\n".join([*lines, ".end", ""])


def write_definitions(scope: Scope) -> Iterator[str]:
    """The parameters, functions and models of a scope, a statement each."""
    for name, value in scope.parameters.items() if scope.parent is None else ():
        yield f".param {name}={write_value(value)}"
    for name, function in scope.functions.items():
        yield f".func {name}({','.join(function.arguments)}) {write_value(function.body)}"
    for model in scope.models.values():
        if model.refusal is None:
            yield write_model(model)


def write_subcircuits(scope: Scope) -> Iterator[str]:
    """The subcircuits that are defined in a scope."""
    for inner in scope.subcircuits.values():
        yield f".subckt {inner.name} {' '.join(inner.pins)}{write_values(inner.parameters)}"
        yield from _scope(inner)
        yield f".ends {inner.name}"


def _scope(scope: Scope) -> Iterator[str]:
    yield from write_definitions(scope)
    yield from write_subcircuits(scope)
    for card in scope.cards:
        if card.refusal is None:
            for condition, wanted in card.when:
                text = write_value(condition)
                yield f".if {text}" if wanted else f".if {{!{text}}}"
            yield write_card(card)
            yield from [".endif"] * len(card.when)
    for keyword, nodes in ((".nodeset", scope.nodesets), (".ic", scope.initial)):
        for node, value in nodes.items():
            yield f"{keyword} v({node})={write_value(value)}"
