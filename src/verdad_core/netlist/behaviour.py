"""Expressions to what the engine runs: programs of behavioural sources, and transfer functions as polynomials in s."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from verdad_core.devices.base import Control
from verdad_core.devices.program import (
    CELSIUS,
    CHOOSE,
    CONSTANT,
    CONTROL,
    FUNCTIONS,
    KEEP,
    LOOK_UP,
    NOW,
    RECALL,
    Program,
)
from verdad_core.netlist.expressions import Apply, Call, Choice, Expression, Name, Node, Number, Probe
from verdad_core.netlist.parameters import TEMPERATURE, TIME

#: A source may have programs of this length, with so many controls.
MAX_OPERATIONS = 20_000
MAX_CONTROLS = 64

#: A part of this many operations is kept where it is used again: to keep and to recall are two.
WORTH_KEEPING = 3

#: Largest power of s in a transfer function.
MAX_ORDER = 30

#: Realises ddt or sdt (the name) of a tree: where its value can be looked at.
Realise = Callable[[str, Node], Control]


class _Uses:
    """A number for every different part of a tree, how often each is used, and how many operations it comes to.

    Functions that name an argument several times make trees whose parts repeat, and those of nested ones multiply.
    """

    def __init__(self, root: Node) -> None:
        self.numbers: dict[object, int] = {}
        self.number_of: dict[int, int] = {}
        self.count: list[int] = []
        self.size: list[int] = []
        self.number(root)

    def number(self, node: Node) -> int:
        if (known := self.number_of.get(id(node))) is not None:
            return known
        what, operands = _taken_apart(node)
        inner = tuple(self.number(operand) for operand in operands)
        key = (what, inner)
        if key not in self.numbers:
            self.numbers[key] = len(self.count)
            self.count.append(0)
            self.size.append(1 + sum(self.size[k] for k in inner))
            for k in inner:
                self.count[k] += 1
        self.number_of[id(node)] = self.numbers[key]
        return self.numbers[key]


def _taken_apart(node: Node) -> tuple[object, tuple[Node, ...]]:
    """What a node does, and to what; a number by its digits, so that zero and minus zero are two."""
    match node:
        case Apply(function, operands):
            return function, operands
        case Choice(condition, yes, no):
            return Choice, (condition, yes, no)
        case Number(value):
            return float(value).hex(), ()
    return node, ()


class _Compiler:
    def __init__(self, expression: Expression, root: Node, realise: Realise) -> None:
        self.expression = expression
        self.realise = realise
        self.uses = _Uses(root)
        #: Where values are kept that are used again, by their part's number.
        self.kept: dict[int, int] = {}
        self.operations: list[tuple[int, int, int]] = []
        self.constants: list[float] = []
        self.controls: dict[Control, int] = {}
        self.height = self.depth = 0

    def compile(self, node: Node) -> None:
        """The operations of a part; what is worth it is computed once, and kept for where it is used again."""
        part = self.uses.number(node)
        if part in self.kept:
            self.push(RECALL, self.kept[part])
            return
        self.work_out(node)
        if self.uses.count[part] > 1 and self.uses.size[part] >= WORTH_KEEPING:
            self.kept[part] = len(self.kept)
            self.emit(KEEP, self.kept[part], 0, 0)

    def work_out(self, node: Node) -> None:
        match node:
            case Number(value):
                self.push(CONSTANT, len(self.constants))
                self.constants.append(value)
            case Name():
                self.push({TIME: NOW, TEMPERATURE: CELSIUS}[node], 0)
            case Probe(kind, plus, minus):
                self.look(Control(source=plus) if kind == "i" else Control(plus, minus))
            case Apply(function, operands):
                for operand in operands:
                    self.compile(operand)
                self.emit(FUNCTIONS[function].code, 0, 0, 1 - len(operands))
            case Choice(condition, yes, no):
                for operand in (condition, yes, no):
                    self.compile(operand)
                self.emit(CHOOSE, 0, 0, -2)
            case Call("table", (x, *points)):
                self.compile(x)
                self.emit(LOOK_UP, len(self.constants), len(points) // 2, 0)
                self.constants += [point.value for point in points if isinstance(point, Number)]
            case Call(name, (argument,)):
                self.look(self.realise(name, argument))

    def look(self, control: Control) -> None:
        index = self.controls.setdefault(control, len(self.controls))
        if index >= MAX_CONTROLS:
            raise self.expression.error(f"looks at more than {MAX_CONTROLS} voltages and currents")
        self.push(CONTROL, index)

    def push(self, code: int, operand: int) -> None:
        self.emit(code, operand, 0, 1)

    def program(self) -> Program:
        """What has been compiled, the kept values above the stack."""
        places = {KEEP: self.depth, RECALL: self.depth}
        operations = ((code, operand + places.get(code, 0), count) for code, operand, count in self.operations)
        return Program(tuple(operations), tuple(self.constants), self.depth + len(self.kept))

    def emit(self, code: int, operand: int, count: int, change: int) -> None:
        if len(self.operations) >= MAX_OPERATIONS:
            raise self.expression.error(f"comes to more than {MAX_OPERATIONS:,} operations")
        self.operations.append((code, operand, count))
        self.height += change
        self.depth = max(self.depth, self.height)


def compile_program(expression: Expression, root: Node, realise: Realise) -> tuple[Program, tuple[Control, ...]]:
    """The program of an expression's reduced tree, and what it looks at.

    Raises NetlistError, at the expression's place, when it is too large.
    """
    try:
        compiler = _Compiler(expression, root, realise)
        compiler.compile(root)
    except RecursionError:
        raise expression.error("is nested too deeply") from None
    return compiler.program(), tuple(compiler.controls)


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
