"""Expressions to what the engine runs: programs of behavioural sources."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum

from verdad_core.devices.base import Control
from verdad_core.devices.program import BESIDE_CONTROLS, CELSIUS, CHOOSE, FUNCTIONS, LOOK_UP, NOW, Program
from verdad_core.netlist.expressions import Apply, Call, Choice, Expression, Name, Node, Number, Probe
from verdad_core.netlist.parameters import TEMPERATURE, TIME

#: A source may have programs of this length, with so many controls.
MAX_OPERATIONS = 20_000
MAX_CONTROLS = 64

#: Realises a call of ddt, sdt or delay: where its value can be looked at.
Realise = Callable[[Call], Control]


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
            case Call():
                return self.control(self.realise(node))
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
