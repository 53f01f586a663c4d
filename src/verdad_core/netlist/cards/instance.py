"""X: an instance of a subcircuit, with values for its parameters."""

from __future__ import annotations

from verdad_core.netlist.cards.card import Card, Kind, Words, number, write_values
from verdad_core.netlist.expressions import Value
from verdad_core.netlist.lines import Statement, Token


def _read(statement: Statement) -> Card:
    words, values = split_parameters(statement, statement.tokens[1:])
    names = [token.text for token in words if token.text != "/"]
    if len(names) < 2:
        raise statement.error(
            f"{statement.keyword} is incomplete: expected nodes and a subcircuit", "Complete the statement."
        )
    *nodes, name = names
    return Card(statement.keyword, tuple(nodes), statement, values=values, subcircuit=name)


def _write(card: Card) -> str:
    return f"{card.name} {' '.join(card.nodes)} {card.subcircuit}{write_values(card.values)}"


INSTANCE = Kind(_read, _write)


def split_parameters(statement: Statement, tokens: tuple[Token, ...]) -> tuple[tuple[Token, ...], dict[str, Value]]:
    """What stands before the `name=value` pairs of a subcircuit or an instance (and `params:`), and the pairs."""
    end = len(tokens)
    for k, token in enumerate(tokens):
        if token.text in ("params:", "param:", "="):
            end = k if token.text != "=" else k - 1
            break
    words = Words(statement)
    words.rest = [token for token in tokens[max(end, 0) :] if token.text not in ("params:", "param:")]
    pairs: dict[str, Value] = {}
    while words.rest:
        name = words.take("a parameter")
        if not words.skip("="):
            raise words.error(f"'{name.text}' is not understood here", "Write name=value.", name)
        if name.text in pairs:
            raise words.error(f"'{name.text}' is given twice", "Remove one.", name)
        pairs[name.text] = number(statement, words.take(f"a value of {name.text}"))
    return tokens[: max(end, 0)], pairs
