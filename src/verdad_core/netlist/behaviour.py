"""Expressions to what the engine runs: programs of behavioural sources, and transfer functions as polynomials in s."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum

import numpy as np

from verdad_core.devices.base import Control
from verdad_core.devices.program import BESIDE_CONTROLS, CELSIUS, CHOOSE, FUNCTIONS, LOOK_UP, NOW, Program
from verdad_core.netlist.expressions import Apply, Call, Choice, Expression, Name, Node, Number, Probe
from verdad_core.netlist.parameters import TEMPERATURE, TIME

#: A source may have programs of this length, with so many controls.
MAX_OPERATIONS = 20_000
MAX_CONTROLS = 64

#: Largest power of s in a transfer function.
MAX_ORDER = 30

#: Realises ddt or sdt (the name) of a tree: where its value can be looked at.
Realise = Callable[[str, Node], Control]


class _Kind(Enum):
    """Where a value of a program stands, before it is known how many there are of each."""

    CONSTANT, BESIDE, CONTROL, OPERATION = range(4)


#: A value: where it stands, and its number there.
_Value = tuple[_Kind, int]


class _Compiler:
    """What is the same is computed once (value numbering; Cocke and Schwartz 1970).

    Functions that name an argument several times make trees whose parts repeat, and those of nested ones multiply.
    """

    def __init__(self, expression: Expression, realise: Realise) -> None:
        self.expression = expression
        self.realise = realise
        self.constants: list[float] = []
        self.controls: dict[Control, int] = {}
        self.operations: list[tuple[int, tuple[_Value, ...], int]] = []
        #: The values of nodes, which live as long as their tree, and those of constants and operations.
        self.of_node: dict[int, _Value] = {}
        self.known: dict[object, _Value] = {}

    def value(self, node: Node) -> _Value:
        """The value of a part, computed where it is not known."""
        if id(node) not in self.of_node:
            self.of_node[id(node)] = self.work_out(node)
        return self.of_node[id(node)]

    def work_out(self, node: Node) -> _Value:
        match node:
            case Number(value):
                # By its digits, so that zero and minus zero are two.
                return self.once(float(value).hex(), lambda: self.constant(value))
            case Name():
                return _Kind.BESIDE, {TIME: NOW, TEMPERATURE: CELSIUS}[node]
            case Probe(kind, plus, minus):
                return self.control(Control(source=plus) if kind == "i" else Control(plus, minus))
            case Apply(function, operands):
                return self.operation(FUNCTIONS[function].code, *map(self.value, operands))
            case Choice(condition, yes, no):
                decides = self.value(condition)
                return self.operation(CHOOSE, self.value(yes), self.value(no), decides)
            case Call("table", (x, *points)):
                values = tuple(point.value for point in points if isinstance(point, Number))
                first = self.once(values, lambda: self.constant(*values))
                return self.operation(LOOK_UP, self.value(x), first, count=len(points) // 2)
            case Call(name, (argument,)):
                return self.control(self.realise(name, argument))
        raise AssertionError(node)

    def once(self, key: object, make: Callable[[], _Value]) -> _Value:
        if key not in self.known:
            self.known[key] = make()
        return self.known[key]

    def constant(self, *values: float) -> _Value:
        """Constants that follow each other: the first one."""
        self.constants += values
        return _Kind.CONSTANT, len(self.constants) - len(values)

    def control(self, control: Control) -> _Value:
        index = self.controls.setdefault(control, len(self.controls))
        if index >= MAX_CONTROLS:
            raise self.expression.error(f"looks at more than {MAX_CONTROLS} voltages and currents")
        return _Kind.CONTROL, index

    def operation(self, code: int, *operands: _Value, count: int = 0) -> _Value:
        return self.once((code, operands, count), lambda: self.emit(code, operands, count))

    def emit(self, code: int, operands: tuple[_Value, ...], count: int) -> _Value:
        if len(self.operations) >= MAX_OPERATIONS:
            raise self.expression.error(f"comes to more than {MAX_OPERATIONS:,} operations")
        self.operations.append((code, operands, count))
        return _Kind.OPERATION, len(self.operations) - 1

    def program(self, result: _Value) -> Program:
        """What has been compiled."""
        beside = len(self.constants)
        control = beside + BESIDE_CONTROLS
        begins = {
            _Kind.CONSTANT: 0, _Kind.BESIDE: beside, _Kind.CONTROL: control,
            _Kind.OPERATION: control + len(self.controls),
        }  # fmt: skip

        def number(value: _Value) -> int:
            return begins[value[0]] + value[1]

        operations = []
        for code, operands, count in self.operations:
            first, second, third, *_ = *map(number, operands), count, 0, 0
            operations.append((code, first, second, third))
        return Program(tuple(operations), tuple(self.constants), len(self.controls), number(result))


def compile_program(expression: Expression, root: Node, realise: Realise) -> tuple[Program, tuple[Control, ...]]:
    """The program of an expression's reduced tree, and what it looks at.

    Raises NetlistError, at the expression's place, when it is too large.
    """
    try:
        compiler = _Compiler(expression, realise)
        result = compiler.value(root)
    except RecursionError:
        raise expression.error("is nested too deeply") from None
    return compiler.program(result), tuple(compiler.controls)


Ratio = tuple[np.ndarray, np.ndarray]


def rational(expression: Expression, root: Node) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Numerator and denominator of a function of s, coefficients in rising powers; the reduced tree names s `s`.

    Raises NetlistError for what is not a ratio of polynomials.
    """
    numerator, denominator = _ratio(expression, root)
    numerator, denominator = np.trim_zeros(numerator, "b"), np.trim_zeros(denominator, "b")
    if not len(denominator):
        raise expression.error("has a denominator of zero")
    if max(len(numerator), len(denominator)) > MAX_ORDER + 1:
        raise expression.error(f"has powers of s above {MAX_ORDER}")
    if not (np.all(np.isfinite(numerator)) and np.all(np.isfinite(denominator))):
        raise expression.error("has coefficients that are too large; write it in factors of moderate size")
    return tuple(numerator.tolist()) or (0.0,), tuple(denominator.tolist())


def _ratio(expression: Expression, node: Node) -> Ratio:
    one = np.array([1.0])
    match node:
        case Number(value):
            return np.array([value]), one
        case Name("s"):
            return np.array([0.0, 1.0]), one
        case Apply("neg", (operand,)):
            numerator, denominator = _ratio(expression, operand)
            return -numerator, denominator
        case Apply("add" | "sub" as function, (left, right)):
            (a, b), (c, d) = _ratio(expression, left), _ratio(expression, right)
            sign = 1.0 if function == "add" else -1.0
            if np.array_equal(b, d):
                return _sum(a, sign * c), b
            return _sum(np.convolve(a, d), sign * np.convolve(c, b)), np.convolve(b, d)
        case Apply("mul", (left, right)):
            (a, b), (c, d) = _ratio(expression, left), _ratio(expression, right)
            return np.convolve(a, c), np.convolve(b, d)
        case Apply("div", (left, right)):
            (a, b), (c, d) = _ratio(expression, left), _ratio(expression, right)
            return np.convolve(a, d), np.convolve(b, c)
        case Apply("pow", (base, Number(power))) if power == int(power) and abs(power) <= MAX_ORDER:
            a, b = _ratio(expression, base)
            if power < 0:
                a, b = b, a
            result: Ratio = one, one
            for _ in range(abs(int(power))):
                result = np.convolve(result[0], a), np.convolve(result[1], b)
            return result
    raise expression.error("is not a ratio of polynomials in s, which is what LAPLACE takes")


def _sum(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    longer = np.zeros(max(len(a), len(b)))
    longer[: len(a)] += a
    longer[: len(b)] += b
    return longer
