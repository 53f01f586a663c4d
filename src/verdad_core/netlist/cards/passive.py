"""R, C and L, with a value, a polynomial or a model; K, which couples any number of windings."""

from __future__ import annotations

from verdad_core.devices.base import Control
from verdad_core.netlist.cards.card import Card, Kind, Words, write_values
from verdad_core.netlist.expressions import Value, write_value
from verdad_core.netlist.lines import Statement

#: What each letter's value is called, and the names of its polynomial's further coefficients.
_LETTERS = {
    "r": ("resistor", "resistance", ()),
    "c": ("capacitor", "capacitance", ("vc1", "vc2")),
    "l": ("inductor", "inductance", ("ic1", "ic2")),
}
_SHARED = {
    "tc1": "tc1", "tc2": "tc2", "temp": "temp", "dtemp": "rise", "rise": "rise", "m": "m", "l": "l", "w": "w",
    "tnom": "tnom",
}  # fmt: skip
_OWN = {
    "r": {"tce": "tce", "excess": "excess"},
    "c": {"ic": "ic", "vc1": "vc1", "vc2": "vc2"},
    "l": {"ic": "ic", "ic1": "ic1", "ic2": "ic2", "series": "series"},
}


def _read(statement: Statement) -> Card:
    letter = statement.keyword[0]
    family, value, polynomial = _LETTERS[letter]
    words = Words(statement)
    nodes = words.nodes(2, "two nodes and a value")
    known = {**_SHARED, **_OWN[letter], letter: value, value: value}
    values: dict[str, Value] = {}
    model = ""
    if words.skip("poly"):
        coefficients = words.numbers()
        if not 1 <= len(coefficients) <= 1 + len(polynomial):
            raise words.error(
                f"POLY has {len(coefficients)} coefficients here; 1 to {1 + len(polynomial)} are read",
                "Write the polynomial in a shorter form.",
            )
        values[value] = coefficients[0]
        # The manual's coefficients are absolute, the parameters relative to the first one.
        for name, coefficient in zip(polynomial, coefficients[1:], strict=False):
            first = coefficients[0]
            if not isinstance(first, float) or not isinstance(coefficient, float) or first == 0:
                raise words.error("POLY takes numbers, the first one not zero", "Write its coefficients out.")
            values[name] = coefficient / first
    else:
        if words.is_number():
            values[value] = words.number()
        if words.rest and not (len(words.rest) > 1 and words.rest[1].text == "="):
            model = words.take("a model").text
            if value not in values and words.is_number():
                values[value] = words.number()
    for name, given in words.pairs().items():
        if name == "tc" and "tc1" in known and len(given) <= 2:
            values["tc1"] = given[0]
            if len(given) > 1:
                values["tc2"] = given[1]
        elif name in known and len(given) == 1:
            values[known[name]] = given[0]
        else:
            token = next(token for token in statement.tokens if token.text == name)
            what = f"'{name}' has {len(given)} values" if name in known else f"parameter '{name}' is not known"
            raise words.error(what, f"Known are {', '.join(known)}, each with one value.", token)
    if value not in values and not model:
        raise statement.error(f"{statement.keyword} is incomplete: expected a value", "Complete the statement.")
    return Card(statement.keyword, nodes, statement, family, values, model=model)


def _write(card: Card) -> str:
    model = f" {card.model}" if card.model else ""
    others = dict(card.values)
    own = others.pop(_LETTERS[card.name[0]][1], None)
    value = "" if own is None else f" {write_value(own)}"
    return f"{card.name} {' '.join(card.nodes)}{model}{value}{write_values(others)}"


PASSIVE = Kind(_read, _write)


def _read_coupling(statement: Statement) -> Card:
    words = Words(statement)
    windings = []
    while words.rest and not words.is_number():
        windings.append(Control(source=words.take("a winding").text))
    if len(windings) < 2:
        raise statement.error(f"{statement.keyword} is incomplete: expected two windings", "Write K1 L1 L2 0.99.")
    if twice := next((w.source for w in windings if windings.count(w) > 1), None):
        raise words.error(f"names winding {twice} twice", "Name each winding once.")
    values = {"coupling": words.number("a coupling factor")}
    if words.rest:
        raise words.error(
            f"'{words.rest[0].text}' is not understood here: a core's model is not read, nor windings in turns",
            "Give the windings their inductances, and K the coupling factor alone.", words.rest[0],
        )  # fmt: skip
    return Card(statement.keyword, (), statement, "coupling", values, tuple(windings))


def _write_coupling(card: Card) -> str:
    windings = " ".join(control.source for control in card.controls)
    return f"{card.name} {windings} {write_value(card.values['coupling'])}"


COUPLING = Kind(_read_coupling, _write_coupling)
