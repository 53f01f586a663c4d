"""E, F, G and H in their linear and POLY forms; E and G also with VALUE, TABLE, LAPLACE, FREQ; B; the nullor.

`E1 out 0 NULLOR in+ in-` is the ideal amplifier: its output takes whatever value holds the inputs at one voltage.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Mapping

from verdad_core.devices.base import Control
from verdad_core.devices.controlled import MAX_CONTROLS
from verdad_core.errors import Place
from verdad_core.netlist.cards.card import Behaviour, Card, Kind, Tabulated, Transfer, Words, write_list
from verdad_core.netlist.expressions import Apply, Call, Expression, Node, Number, Probe, Value, write_value
from verdad_core.netlist.lines import Statement

#: How a response may be written: decibels and degrees, or radians, magnitude and degrees, real and imaginary parts.
_FREQUENCY_FORMS = ("db", "rad", "mag", "r_i")

#: Family of each letter: what comes out is a voltage or a current.
_OUTPUT = {"e": "voltage", "h": "voltage", "f": "current", "g": "current"}


def _read(statement: Statement) -> Card:
    letter = statement.keyword[0]
    words = Words(statement)
    nodes = words.nodes(2, "two output nodes and what controls the source")
    output = _OUTPUT[letter]
    if letter in "eg":
        form = words.peek()
        if form in ("value", "vol", "cur", "table", "laplace", "freq"):
            words.take(form)
            return _with_form(words, nodes, form, output)
        if form == "nullor":
            words.take(form)
            a, b = words.nodes(2, "two input nodes")
            words.done()
            return Card(statement.keyword, nodes, statement, "nullor", controls=(Control(a, b),))
    count, polynomial = 1, words.skip("poly")
    if polynomial:
        token = words.take("POLY's dimension")
        dimension = token.text
        count = int(dimension) if dimension.isdigit() and len(dimension) < 4 else 0
        if not 1 <= count <= MAX_CONTROLS:
            raise words.error(
                f"POLY({dimension}) has an impossible dimension",
                f"The dimension is a whole number from 1 to {MAX_CONTROLS}.",
                token,
            )
    controls = tuple(_control(words, letter in "fh") for _ in range(count))
    numbers = words.numbers()
    if not numbers:
        raise statement.error(
            f"{statement.keyword} is incomplete: {count} controls and at least one coefficient are needed",
            "Check the number of controls against POLY's dimension.",
        )
    if not polynomial and len(numbers) > 1:
        raise words.error("a number follows the gain of a linear source", "Write POLY(1) for a polynomial.")
    # SPICE 2G6 manual: a single coefficient of a one-dimensional polynomial is the linear one.
    if count == 1 and len(numbers) == 1:
        numbers = (0.0, *numbers)
    limits = words.values({"min": "min", "max": "max"}, frozenset({"ic"}))
    if limits:
        return _limited(words, nodes, output, controls, numbers, limits)
    values = {f"p{k}": value for k, value in enumerate(numbers)}
    if numbers[0] == 0.0 and len(numbers) <= 1 + count:
        values = {f"p{k}": values.get(f"p{k}", 0.0) for k in range(1, 1 + count)}
        return Card(statement.keyword, nodes, statement, f"controlled {output}", values, controls)
    return Card(statement.keyword, nodes, statement, f"polynomial {output}", values, controls)


def _limited(
    words: Words, nodes: tuple[str, ...], output: str, controls: tuple[Control, ...], numbers: tuple[Value, ...],
    limits: Mapping[str, Value],
) -> Card:  # fmt: skip
    """A source with a gain that stays between MIN and MAX, as an expression."""
    if len(numbers) > 1 + len(controls):
        raise words.error("MIN and MAX belong to a source with a gain, and this is a polynomial", "Write VALUE={..}.")
    root = _tree(numbers[0])
    for control, number in zip(controls, numbers[1:], strict=False):
        seen = Probe("i", control.source) if control.source else Probe("v", control.plus, control.minus)
        root = Apply("add", (root, Apply("mul", (_tree(number), seen))))
    for name, function in (("max", "min"), ("min", "max")):
        if name in limits:
            root = Apply(function, (root, _tree(limits[name])))
    token = words.statement.tokens[0]
    expression = Expression(words.statement.keyword, Place(line=token.line, column=token.column), root)
    return Card(words.statement.keyword, nodes, words.statement, f"behavioural {output}", form=Behaviour(expression))


def _tree(value: Value) -> Node:
    return value.root if isinstance(value, Expression) else Number(value)


def _control(words: Words, by_current: bool) -> Control:
    if by_current:
        return Control(source=words.take("a controlling source").text)
    plus, minus = words.nodes(2, "two controlling nodes")
    return Control(plus, minus)


def _with_form(words: Words, nodes: tuple[str, ...], form: str, output: str) -> Card:
    statement = words.statement
    if form in ("value", "vol", "cur"):
        what = words.last_expression(f"an expression after {form.upper()}")
        return Card(statement.keyword, nodes, statement, f"behavioural {output}", form=Behaviour(what))
    what = words.expression(f"an expression after {form.upper()}")
    words.skip("=")
    if form == "laplace":
        transfer = words.last_expression("a transfer function in s")
        return Card(statement.keyword, nodes, statement, f"transfer {output}", form=Transfer(what, transfer))
    written = words.take("a form").text if words.peek() in _FREQUENCY_FORMS and form == "freq" else "db"
    words.skip("=")
    points = words.numbers()
    words.done()
    if form == "table":
        if len(points) < 2 or len(points) % 2:
            raise words.error("TABLE takes pairs of numbers", "Write TABLE {v(1)} = (0,0) (1,5).")
        constants = tuple(p.root if isinstance(p, Expression) else Number(p) for p in points)
        looked_up = Expression(what.text, what.place, Call("table", (what.root, *constants)))
        return Card(statement.keyword, nodes, statement, f"behavioural {output}", form=Behaviour(looked_up))
    if len(points) < 3 or len(points) % 3:
        raise words.error(
            "FREQ takes triples of hertz, decibels and degrees", "Write FREQ {v(1)} = (1k,0,0) (10k,-20,-90)."
        )
    points = _in_decibels(words, points, written)
    return Card(statement.keyword, nodes, statement, f"tabulated {output}", form=Tabulated(what, points))


def _in_decibels(words: Words, points: tuple[Value, ...], written: str) -> tuple[Value, ...]:
    """Triples of hertz and a response, whatever the form it is written in, as hertz, decibels and degrees."""
    if written == "db":
        return points
    numbers = [point for point in points if isinstance(point, float)]
    if len(numbers) < len(points):
        raise words.error(f"{written.upper()} takes numbers", "Write them without braces.")
    found: list[Value] = []
    for f, first, second in zip(numbers[::3], numbers[1::3], numbers[2::3], strict=True):
        if written == "rad":
            found += [f, first, math.degrees(second)]
            continue
        response = complex(first, second) if written == "r_i" else cmath.rect(first, math.radians(second))
        if response == 0.0:
            raise words.error(f"the response is zero at {f:g} Hz, which has no decibels", "Write a small number.")
        degrees = math.degrees(cmath.phase(response)) if written == "r_i" else second
        found += [f, 20.0 * math.log10(abs(response)), degrees]
    return tuple(found)


def _write(card: Card) -> str:
    start = f"{card.name} {' '.join(card.nodes)}"
    match card.form:
        case Behaviour(expression):
            return f"{start} value={write_value(expression)}"
        case Transfer(what, transfer):
            return f"{start} laplace {write_value(what)} {write_value(transfer)}"
        case Tabulated(what, points):
            return f"{start} freq {write_value(what)} = {write_list(points)}"
    controls = " ".join(c.source or f"{c.plus} {c.minus}" for c in card.controls)
    if card.family == "nullor":
        return f"{start} nullor {controls}"
    numbers = tuple(card.values.values())
    if card.family.startswith("controlled"):
        numbers = (0.0, *numbers)
    return f"{start} poly({len(card.controls)}) {controls} {write_list(numbers)}"


CONTROLLED = Kind(_read, _write)


def _read_behavioural(statement: Statement) -> Card:
    """`B1 a b V=expression`: the expression, with or without braces, is all that follows."""
    words = Words(statement)
    nodes = words.nodes(2, "two nodes and V= or I=")
    what = words.take("V= or I=")
    if what.text not in ("v", "i") or not words.skip("="):
        raise words.error(f"'{what.text}' is not understood here", "Write V= or I= and an expression.", what)
    value = words.last_expression("an expression")
    output = "voltage" if what.text == "v" else "current"
    return Card(statement.keyword, nodes, statement, f"behavioural {output}", form=Behaviour(value))


def _write_behavioural(card: Card) -> str:
    if not isinstance(card.form, Behaviour):
        raise TypeError(card)
    letter = "v" if card.family.endswith("voltage") else "i"
    return f"{card.name} {' '.join(card.nodes)} {letter}={write_value(card.form.expression)}"


BEHAVIOURAL = Kind(_read_behavioural, _write_behavioural)
