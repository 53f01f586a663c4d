"""Names and functions of nested scopes, and expressions reduced by what they say.

An expression reduces to a number where everything in it is constant. A behavioural one (with voltages, currents, the
time or the temperature) reduces to a smaller tree: parameters and functions are written out, constant parts computed.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import reduce as reduce_left
from itertools import pairwise

from verdad_core.devices.base import NOMINAL_CELSIUS
from verdad_core.devices.program import FUNCTIONS, look_up
from verdad_core.netlist.expressions import (
    DELAY,
    DERIVATIVE,
    INTEGRAL,
    MAX_DEPTH,
    SYNONYMS,
    TABLE,
    Apply,
    Call,
    Choice,
    Expression,
    Name,
    Node,
    Number,
    Probe,
    UserFunction,
    Value,
    known_function,
)

#: A whole circuit may call its own functions this often: a few lines of them could otherwise ask for years.
MAX_CALLS = 100_000

TIME, TEMPERATURE = Name("time"), Name("temp")
_TEMPERATURES = ("temp", "temper")

#: What a probe becomes in the flat circuit.
Look = Callable[[Probe], Node]


class _NoValueError(Exception):
    """Why an expression has no value."""


@dataclass
class Parameters:
    """Names and functions of one scope, reduced when they are asked for; what is not here is looked for outside."""

    values: Mapping[str, Value]
    functions: Mapping[str, UserFunction] = field(default_factory=dict)
    outer: Parameters | None = None
    #: What TEMP stands for in values, which stay as they are when a study changes the temperature.
    celsius: float = NOMINAL_CELSIUS
    depth: int = 0
    #: A call's arguments, reduced where the call stands.
    arguments: Mapping[str, Node] = field(default_factory=dict)
    _known: dict[tuple[str, bool], Node] = field(default_factory=dict)
    _asked: set[str] = field(default_factory=set)
    _calls: int = 0

    def outermost(self) -> Parameters:
        scope = self
        while scope.outer is not None:
            scope = scope.outer
        return scope

    def named(self, name: str, live: bool) -> Node:
        """What a name stands for: a number, or with `live` a tree of the time and the temperature."""
        if name in self.arguments:
            return self.arguments[name]
        if (name, live) in self._known:
            return self._known[name, live]
        if name not in self.values:
            return self.outer.named(name, live) if self.outer else self._reserved(name, live)
        if name in self._asked:
            raise _NoValueError(f"parameter '{name}' depends on itself")
        if len(self._asked) > MAX_DEPTH:
            raise _NoValueError(f"parameters depend on each other more than {MAX_DEPTH} deep")
        self._asked.add(name)
        try:
            given = self.values[name]
            look = _no_probes if live else None
            self._known[name, live] = node = (
                reduce(given, self, look) if isinstance(given, Expression) else Number(given)
            )
        finally:
            self._asked.discard(name)
        return node

    def _reserved(self, name: str, live: bool) -> Node:
        if name in _TEMPERATURES:
            return TEMPERATURE if live else Number(self.celsius)
        if name == "time":
            if live:
                return TIME
            raise _NoValueError("the time has no value here")
        if name == "pi":
            return Number(math.pi)
        raise _NoValueError(f"'{name}' is not a parameter")

    def owner_of(self, function: str) -> Parameters | None:
        """The scope that defines a user's function."""
        scope: Parameters | None = self
        while scope is not None and function not in scope.functions:
            scope = scope.outer
        return scope


def evaluate(expression: Expression, scope: Parameters) -> float:
    """Its number. Raises NetlistError, at its place, for an unknown name, a cycle, or what has no value."""
    node = reduce(expression, scope, None)
    if not isinstance(node, Number):
        raise expression.error("is not a constant")
    if not math.isfinite(node.value):
        raise expression.error("is not finite")
    return node.value


def reduce(expression: Expression, scope: Parameters, look: Look | None) -> Node:
    """The tree in terms of `look`'s answers, the time and the temperature; without `look` only a number will do.

    Raises NetlistError, at the expression's place, for an unknown name, a cycle, or what has no value.
    """
    try:
        return _reduced(expression.root, scope, look)
    except _NoValueError as error:
        raise expression.error(str(error)) from None
    except (ValueError, OverflowError) as error:
        raise expression.error(f"has no value: {error}") from None
    except RecursionError:
        raise expression.error("depends on too many others") from None


def _no_probes(probe: Probe) -> Node:
    raise _NoValueError("voltages and currents cannot be used in a parameter")


def _reduced(node: Node, scope: Parameters, look: Look | None) -> Node:
    match node:
        case Number():
            return node
        case Name(name):
            return scope.named(name, look is not None)
        case Probe():
            if look is None:
                raise _NoValueError("voltages and currents have no value here")
            return look(node)
        case Apply(function, operands):
            return apply(function, *(_reduced(operand, scope, look) for operand in operands))
        case Choice(condition, yes, no):
            known = _reduced(condition, scope, look)
            if isinstance(known, Number):
                return _reduced(yes if known.value else no, scope, look)
            return Choice(known, _reduced(yes, scope, look), _reduced(no, scope, look))
        case Call(name, arguments):
            given = tuple(_reduced(argument, scope, look) for argument in arguments)
            owner = scope.owner_of(name)
            return _called(name, owner, given, scope.depth, look) if owner else _built_in(name, given)


def apply(function: str, *operands: Node) -> Node:
    """A function of the engine, computed where its operands are numbers."""
    numbers = [operand.value for operand in operands if isinstance(operand, Number)]
    if len(numbers) == len(operands):
        return Number(float(FUNCTIONS[function].of(*numbers)))
    return Apply(function, operands)


def _called(name: str, owner: Parameters, given: tuple[Node, ...], depth: int, look: Look | None) -> Node:
    function = owner.functions[name]
    if len(given) != len(function.arguments):
        raise _NoValueError(f"{name} takes {len(function.arguments)} arguments, not {len(given)}")
    if depth >= MAX_DEPTH:
        raise _NoValueError(f"functions call each other more than {MAX_DEPTH} deep")
    outermost = owner.outermost()
    outermost._calls += 1
    if outermost._calls > MAX_CALLS:
        raise _NoValueError(f"the circuit's functions are called more than {MAX_CALLS:,} times")
    arguments = dict(zip(function.arguments, given, strict=True))
    inner = Parameters({}, outer=owner, depth=depth + 1, arguments=arguments)
    return _reduced(function.body.root, inner, look)


def _built_in(name: str, given: tuple[Node, ...]) -> Node:
    name = SYNONYMS.get(name, name)
    if name == "limit":
        _check(name, given, 3)
        x, one, other = given
        return apply("min", apply("max", x, apply("min", one, other)), apply("max", one, other))
    if name == TABLE:
        return _table(given)
    if name in ("min", "max") and len(given) > 2:
        return reduce_left(lambda one, other: apply(name, one, other), given)
    if name == "mod":
        _check(name, given, 2)
        return apply("sub", given[0], apply("mul", given[1], apply("int", apply("div", *given))))
    if name == "sign" and len(given) == 2:
        return apply("mul", apply("abs", given[0]), apply("sgn", given[1]))
    if name == DELAY:
        _check(name, given, 2)
        if not isinstance(given[1], Number) or not given[1].value >= 0.0:
            raise _NoValueError("delay takes what is delayed, and a constant number of seconds")
        return given[0] if given[1].value == 0.0 or isinstance(given[0], Number) else Call(name, given)
    if name == INTEGRAL and len(given) == 2:
        if not isinstance(given[1], Number):
            raise _NoValueError("sdt starts at a constant")
        return Call(name, given)
    if name in (DERIVATIVE, INTEGRAL):
        _check(name, given, 1)
        return Number(0.0) if name == DERIVATIVE and isinstance(given[0], Number) else Call(name, given)
    known = known_function(name)
    if known is None:
        raise _NoValueError(f"there is no function '{name}'")
    _check(name, given, FUNCTIONS[known].operands)
    return apply(known, *given)


def _check(name: str, given: tuple[Node, ...], count: int) -> None:
    if len(given) != count:
        raise _NoValueError(f"{name} takes {count} arguments, not {len(given)}")


def _table(given: tuple[Node, ...]) -> Node:
    x, *rest = given
    points = [node.value for node in rest if isinstance(node, Number)]
    if len(points) != len(rest) or len(points) < 2 or len(points) % 2:
        raise _NoValueError("table takes what it looks at, and then pairs of constants")
    if any(b <= a for a, b in pairwise(points[::2])):
        raise _NoValueError("the points of a table must stand in rising order")
    if isinstance(x, Number):
        return Number(look_up(x.value, list(zip(points[::2], points[1::2], strict=True))))
    return Call(TABLE, given)
