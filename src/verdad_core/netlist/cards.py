"""Element statements, one reader per first letter, as published in the SPICE 2G6/3F5 user's manuals."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from verdad_core.devices.base import Control
from verdad_core.devices.controlled import MAX_CONTROLS
from verdad_core.errors import NetlistError
from verdad_core.netlist.expressions import Value, read_value
from verdad_core.netlist.lines import Statement, Token


@dataclass(frozen=True)
class Card:
    """An element statement: names as written in its own scope, before subcircuits are expanded."""

    name: str
    nodes: tuple[str, ...]
    statement: Statement
    family: str = ""
    values: Mapping[str, Value] = field(default_factory=dict)
    controls: tuple[Control, ...] = ()
    #: The `.model` it uses, where it has one.
    model: str = ""
    #: The subcircuit it is an instance of; its `values` are then the instance's parameters.
    subcircuit: str = ""


def number(statement: Statement, token: Token, *, bare: bool = False) -> Value:
    """The number or expression a token stands for; NetlistError at the token when it is neither."""
    try:
        return read_value(token, bare=bare)
    except NetlistError as error:
        raise statement.error(f"{statement.keyword}: {error.message}", error.remedy, token) from None


def assignments(statement: Statement, tokens: tuple[Token, ...]) -> dict[str, Token]:
    """`name = value` pairs; NetlistError for anything else."""
    pairs = {}
    rest = list(tokens)
    while rest:
        if len(rest) < 3 or rest[1].text != "=":
            raise statement.error(
                f"{statement.keyword}: '{rest[0].text}' is not understood here", "Write name=value.", rest[0]
            )
        pairs[rest[0].text] = rest[2]
        rest = rest[3:]
    return pairs


def read_card(statement: Statement) -> Card:
    """The element in a statement. Raises NetlistError with the token that is wrong."""
    reader = _READERS.get(statement.keyword[0])
    if reader is None:
        raise statement.error(
            f"'{statement.keyword}' starts no element that Verdad reads",
            f"Elements start with one of {' '.join(sorted(_READERS)).upper()}.",
        )
    return reader(statement)


def _take(statement: Statement, count: int, what: str) -> tuple[Token, ...]:
    if len(statement.tokens) < count:
        raise statement.error(f"{statement.keyword} is incomplete: expected {what}", "Complete the statement.")
    return statement.tokens[1:count]


def _names(tokens: tuple[Token, ...]) -> tuple[str, ...]:
    return tuple(token.text for token in tokens)


def _passive(family: str, parameter: str, extra: tuple[str, ...]) -> Callable[[Statement], Card]:
    def read(statement: Statement) -> Card:
        nodes = _take(statement, 4, "two nodes and a value")[:2]
        rest = statement.tokens[3:]
        values: dict[str, Value] = {}
        if len(rest) < 2 or rest[1].text != "=":
            values[parameter] = number(statement, rest[0])
            rest = rest[1:]
        for name, token in assignments(statement, rest).items():
            if name == "tc" and "tc1" in extra:
                name = "tc1"
            if name == statement.keyword[0]:
                name = parameter
            if name != parameter and name not in extra:
                raise statement.error(
                    f"{statement.keyword}: parameter '{name}' is not read yet",
                    "Remove it, or write its effect out.",
                    token,
                )
            values[name] = number(statement, token)
        return Card(statement.keyword, _names(nodes), statement, family, values)

    return read


def _source(family: str) -> Callable[[Statement], Card]:
    def read(statement: Statement) -> Card:
        nodes = _take(statement, 3, "two nodes")[:2]
        values: dict[str, Value] = {}
        rest = list(statement.tokens[3:])
        if rest and rest[0].text not in ("dc", "ac"):
            values["dc"] = _leading_number(statement, rest.pop(0))
        while rest:
            word = rest.pop(0)
            if word.text == "dc" and rest:
                values["dc"] = number(statement, rest.pop(0))
            elif word.text == "ac":
                values["ac"] = number(statement, rest.pop(0)) if rest else 1.0
                if rest and rest[0].text[0] in "+-.0123456789":
                    values["phase"] = number(statement, rest.pop(0))
            else:
                raise _waveform_error(statement, word)
        return Card(statement.keyword, _names(nodes), statement, family, values)

    return read


def _leading_number(statement: Statement, token: Token) -> Value:
    if token.text[0].isalpha():
        raise _waveform_error(statement, token)
    return number(statement, token)


def _waveform_error(statement: Statement, token: Token) -> Exception:
    return statement.error(
        f"{statement.keyword}: '{token.text}' is not read yet; a source has a DC value and an AC magnitude and phase",
        "Remove the time waveform.",
        token,
    )


def _controlled(family: str, by_current: bool) -> Callable[[Statement], Card]:
    def read(statement: Statement) -> Card:
        nodes = _take(statement, 4, "two output nodes and what controls the source")[:2]
        rest = list(statement.tokens[3:])
        width = 1 if by_current else 2
        if rest[0].text == "poly":
            if len(rest) < 2:
                raise statement.error(f"{statement.keyword}: POLY without its dimension", "Write POLY(1).", rest[0])
            dimension = number(statement, rest[1])
            if not isinstance(dimension, float) or dimension != int(dimension) or not 1 <= dimension <= MAX_CONTROLS:
                raise statement.error(
                    f"{statement.keyword}: POLY({rest[1].text}) has an impossible dimension",
                    f"The dimension is a whole number from 1 to {MAX_CONTROLS}.",
                    rest[1],
                )
            count, rest, polynomial = int(dimension), rest[2:], True
        elif rest[0].text in ("value", "table", "laplace", "freq", "vol", "cur"):
            raise statement.error(
                f"{statement.keyword}: the form {rest[0].text.upper()} is not read yet",
                "Use a linear or a POLY source.",
                rest[0],
            )
        else:
            count, polynomial = 1, False
        words, coefficients = rest[: count * width], rest[count * width :]
        if len(words) < count * width or not coefficients:
            raise statement.error(
                f"{statement.keyword} is incomplete: {count} controls and at least one coefficient are needed",
                "Check the number of controls against POLY's dimension.",
            )
        if by_current:
            controls = tuple(Control(source=word.text) for word in words)
        else:
            controls = tuple(Control(a.text, b.text) for a, b in zip(words[::2], words[1::2], strict=True))
        numbers = [number(statement, token) for token in coefficients]
        if not polynomial and len(numbers) > 1:
            raise statement.error(
                f"{statement.keyword}: '{coefficients[1].text}' follows the gain of a linear source",
                "Write POLY(1) for a polynomial.",
                coefficients[1],
            )
        # SPICE 2G6 manual: a single coefficient of a one-dimensional polynomial is the linear one.
        if count == 1 and len(numbers) == 1:
            numbers = [0.0, *numbers]
        values = {f"p{k}": value for k, value in enumerate(numbers)}
        return Card(statement.keyword, _names(nodes), statement, family, values, controls)

    return read


def _diode(statement: Statement) -> Card:
    tokens = _take(statement, 4, "anode, cathode and model")
    return _modelled(statement, _names(tokens[:2]), tokens[2], statement.tokens[4:])


def _bipolar(statement: Statement) -> Card:
    """Three or four nodes, the model, and perhaps an area: the model is the last word that is no number or option."""
    tokens = _take(statement, 5, "collector, base, emitter and model")
    fourth = statement.tokens[4]
    if len(statement.tokens) > 5 and _is_name(statement.tokens[5]):
        return _modelled(statement, _names((*tokens[:3], fourth)), statement.tokens[5], statement.tokens[6:])
    return _modelled(statement, _names(tokens[:3]), fourth, statement.tokens[5:])


def _is_name(token: Token) -> bool:
    return token.text[0].isalpha() and token.text not in ("off", "ic", "area", "temp")


def _modelled(statement: Statement, nodes: tuple[str, ...], model: Token, rest: tuple[Token, ...]) -> Card:
    values: dict[str, Value] = {}
    words = [token for token in rest if token.text != "off"]
    if words and words[0].text[0] not in "ai":
        values["area"] = number(statement, words.pop(0))
    for name, token in assignments(statement, tuple(words)).items():
        if name not in ("area", "ic"):
            raise statement.error(f"{statement.keyword}: parameter '{name}' is not read yet", "Remove it.", token)
        if name == "area":
            values["area"] = number(statement, token)
    return Card(statement.keyword, nodes, statement, values=values, model=model.text)


def _instance(statement: Statement) -> Card:
    _take(statement, 3, "at least one node and the subcircuit's name")
    words, values = split_parameters(statement, statement.tokens[1:])
    if len(words) < 2:
        raise statement.error(f"{statement.keyword} is incomplete: expected nodes and a subcircuit", "Complete it.")
    *nodes, name = words
    return Card(statement.keyword, _names(tuple(nodes)), statement, values=values, subcircuit=name.text)


def split_parameters(statement: Statement, tokens: tuple[Token, ...]) -> tuple[tuple[Token, ...], dict[str, Value]]:
    """What stands before the `name=value` pairs of a subcircuit or an instance (and `params:`), and the pairs."""
    end = len(tokens)
    for k, token in enumerate(tokens):
        if token.text == "params:":
            end = k
            break
        if token.text == "=":
            end = k - 1
            break
    rest = tokens[end + 1 :] if end < len(tokens) and tokens[end].text == "params:" else tokens[end:]
    pairs = assignments(statement, rest)
    return tokens[:end], {name: number(statement, token) for name, token in pairs.items()}


_READERS: dict[str, Callable[[Statement], Card]] = {
    "r": _passive("resistor", "resistance", ("tc1", "tc2")),
    "c": _passive("capacitor", "capacitance", ()),
    "l": _passive("inductor", "inductance", ()),
    "v": _source("voltage source"),
    "i": _source("current source"),
    "e": _controlled("controlled voltage", by_current=False),
    "f": _controlled("controlled current", by_current=True),
    "g": _controlled("controlled current", by_current=False),
    "h": _controlled("controlled voltage", by_current=True),
    "d": _diode,
    "q": _bipolar,
    "x": _instance,
}
