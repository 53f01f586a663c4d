"""Programs of behavioural sources: what expressions of voltages and currents become, and the kernel that runs them.

A program is a straight line of operations, each of which makes a new value of earlier ones. Going back through them
once gives the derivatives to all controls (reverse accumulation; Linnainmaa, "Taylor expansion of the accumulated
rounding error", BIT 16, 1976). Where a function has no value or slope (a division by zero, the root of a negative
number), the program goes on with the nearest one that exists, so that Newton's method can come back from there.
"""

from __future__ import annotations

import math
import operator
from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass

from verdad_core.arrays import Floats, Integers
from verdad_core.jit import at, kernel


def _power(x: float, y: float) -> float:
    if x < 0 and y != int(y):
        raise ValueError("a negative number to a broken power")
    return float(x**y)


def _divide(x: float, y: float) -> float:
    if y == 0:
        raise ValueError("a division by zero")
    return x / y


@dataclass(frozen=True)
class Function:
    """One operation: its code, how many operands it takes, and what it does to numbers.

    A `callable` one can be called by its name in an expression; the others are operators.
    """

    code: int
    operands: int
    of: Callable[..., float]
    callable: bool = True


# Operations that no function of numbers stands for: one of the first two of the values (yes, no, condition); and at the
# value `first` a table of `third` points x, y, x, y, .. that begin at the constant `second`.
CHOOSE, LOOK_UP = range(2)
_UNARY = 10
_BINARY = 50

#: Arguments of exponentials are held below this; the exponential goes on as a straight line.
MAX_EXPONENT = 300.0

#: Values between the constants and the controls: the temperature and the time.
BESIDE_CONTROLS = 2
CELSIUS, NOW = range(BESIDE_CONTROLS)

#: Smallest size of a divisor.
SMALLEST = 1e-250

_UNARY_OF: dict[str, Callable[..., float]] = {
    "neg": operator.neg, "not": lambda x: float(not x), "abs": abs, "sgn": lambda x: float((x > 0) - (x < 0)),
    "stp": lambda x: float(x > 0), "uramp": lambda x: max(x, 0.0), "sqrt": math.sqrt, "exp": math.exp,
    "ln": math.log, "log10": math.log10, "sin": math.sin, "cos": math.cos, "tan": math.tan, "asin": math.asin,
    "acos": math.acos, "atan": math.atan, "sinh": math.sinh, "cosh": math.cosh, "tanh": math.tanh,
    "asinh": math.asinh, "acosh": math.acosh, "atanh": math.atanh, "floor": lambda x: float(math.floor(x)),
    "ceil": lambda x: float(math.ceil(x)), "int": lambda x: float(math.trunc(x)),
    "round": lambda x: math.copysign(float(math.floor(abs(x) + 0.5)), x),
}  # fmt: skip
_BINARY_OF: dict[str, Callable[..., float]] = {
    "add": operator.add, "sub": operator.sub, "mul": operator.mul, "div": _divide, "pow": _power,
    "lt": lambda x, y: float(x < y), "gt": lambda x, y: float(x > y), "le": lambda x, y: float(x <= y),
    "ge": lambda x, y: float(x >= y), "eq": lambda x, y: float(x == y), "ne": lambda x, y: float(x != y),
    "and": lambda x, y: float(bool(x) and bool(y)), "or": lambda x, y: float(bool(x) or bool(y)),
    "min": min, "max": max, "pwr": lambda x, y: _power(abs(x), y),
    "pwrs": lambda x, y: math.copysign(_power(abs(x), y), x) if x else 0.0, "atan2": math.atan2,
    "hypot": math.hypot,
}  # fmt: skip

FUNCTIONS: dict[str, Function] = {
    **{name: Function(_UNARY + k, 1, of, name not in ("neg", "not")) for k, (name, of) in enumerate(_UNARY_OF.items())},
    **{
        name: Function(_BINARY + k, 2, of, name in ("min", "max", "pow", "pwr", "pwrs", "atan2", "hypot"))
        for k, (name, of) in enumerate(_BINARY_OF.items())
    },
}

(_NEG, _NOT, _ABS, _SGN, _STP, _URAMP, _SQRT, _EXP, _LN, _LOG10, _SIN, _COS, _TAN, _ASIN, _ACOS, _ATAN, _SINH, _COSH,
 _TANH, _ASINH, _ACOSH, _ATANH, _FLOOR, _CEIL, _INT, _ROUND) = range(_UNARY, _UNARY + 26)  # fmt: skip
(_ADD, _SUB, _MUL, _DIV, _POW, _LT, _GT, _LE, _GE, _EQ, _NE, _AND, _OR, _MIN, _MAX, _PWR, _PWRS, _ATAN2,
 _HYPOT) = range(_BINARY, _BINARY + 19)  # fmt: skip


#: Steps go from whole number to whole number.
_STEPS = frozenset({_FLOOR, _CEIL, _INT, _ROUND})
_DECIDING = frozenset({_STP, _SGN, _LT, _GT, _LE, _GE}) | _STEPS

#: What is kept of a decision: its side, or the whole number that a step stands at; the number that decides; and what it
#: is: a side, a step, or one of what has no step at zero.
DECISION = 3
_SIDE, _STEP, _SYMMETRIC = 0.0, 1.0, 2.0
_CORNERED = frozenset({_ABS, _URAMP, _MIN, _MAX, LOOK_UP})


@dataclass(frozen=True)
class Program:
    """Values are numbered: the constants, the temperature, the time, the controls, and then what each operation makes.

    Operations are (code, first, second, third), the last three being numbers of values, as many as the code takes, or
    what LOOK_UP says. `result` is the number of the program's value.
    """

    operations: tuple[tuple[int, int, int, int], ...]
    constants: tuple[float, ...]
    controls: int
    result: int

    @property
    def decisions(self) -> int:
        """How many comparisons and steps the program makes: its value may jump where one of them changes."""
        return sum(code in _DECIDING for code, *_ in self.operations)

    @property
    def instants(self) -> list[float]:
        """The times that it names, in s: points of tables of the time, and what the time is compared with."""
        now, found = len(self.constants) + NOW, list[float]()
        for code, first, second, third in self.operations:
            if code == LOOK_UP and first == now:
                found += self.constants[second : second + 2 * third : 2]
            elif code in (_LT, _GT, _LE, _GE) and now in (first, second):
                other = second if first == now else first
                found += self.constants[other : other + 1]
        return found

    @property
    def has_corners(self) -> bool:
        """Whether its slope may jump where its value does not."""
        return any(code in _CORNERED for code, *_ in self.operations)

    @property
    def first_control(self) -> int:
        """The number of the first control's value."""
        return len(self.constants) + BESIDE_CONTROLS

    @property
    def room(self) -> int:
        """How many numbers `run` works on: the values, how the result follows those that vary, and two slopes each."""
        varying = BESIDE_CONTROLS + self.controls + len(self.operations)
        return len(self.constants) + 2 * varying + 2 * len(self.operations)


def look_up(x: float, points: list[tuple[float, float]]) -> float:
    """Straight lines between points, constant beyond the first and the last."""
    k = bisect_right([p[0] for p in points], x)
    if k in (0, len(points)):
        return points[min(k, len(points) - 1)][1]
    (x0, y0), (x1, y1) = points[k - 1], points[k]
    return y0 + (y1 - y0) * (x - x0) / (x1 - x0)


@kernel
def _unary(code: int, v: float) -> tuple[float, float]:
    """(value, derivative) of a function of one operand."""
    if code == _NEG:
        return -v, -1.0
    if code == _NOT:
        return (1.0 if v == 0.0 else 0.0), 0.0
    if code == _ABS:
        return abs(v), 1.0 if v >= 0.0 else -1.0
    if code == _URAMP:
        return max(v, 0.0), 1.0 if v > 0.0 else 0.0
    if code == _SQRT:
        root = math.sqrt(max(v, 0.0))
        return root, 0.5 / max(root, 1e-12)
    if code == _EXP:
        e = math.exp(min(v, MAX_EXPONENT))
        return (e * (1.0 + v - MAX_EXPONENT) if v > MAX_EXPONENT else e), e
    if code in (_LN, _LOG10):
        scale = 1.0 if code == _LN else 1.0 / math.log(10.0)
        above = max(v, SMALLEST)
        return scale * math.log(above), scale / above if v > 0.0 else 0.0
    if code == _SIN:
        return math.sin(v), math.cos(v)
    if code == _COS:
        return math.cos(v), -math.sin(v)
    if code == _TAN:
        t = math.tan(v)
        return t, 1.0 + t * t
    if code == _ASIN:
        inside = min(max(v, -1.0), 1.0)
        return math.asin(inside), 1.0 / math.sqrt(max(1.0 - inside * inside, 1e-24))
    if code == _ACOS:
        inside = min(max(v, -1.0), 1.0)
        return math.acos(inside), -1.0 / math.sqrt(max(1.0 - inside * inside, 1e-24))
    if code == _ATAN:
        return math.atan(v), 1.0 / (1.0 + v * v)
    if code in (_SINH, _COSH):
        e = 0.5 * math.exp(min(abs(v), MAX_EXPONENT))
        if abs(v) > MAX_EXPONENT:
            size = e * (1.0 + abs(v) - MAX_EXPONENT)
            sign = 1.0 if v > 0.0 else -1.0
            return (sign * size, e) if code == _SINH else (size, sign * e)
        return (math.sinh(v), math.cosh(v)) if code == _SINH else (math.cosh(v), math.sinh(v))
    if code == _TANH:
        t = math.tanh(v)
        return t, 1.0 - t * t
    if code == _ASINH:
        return math.asinh(v), 1.0 / math.sqrt(v * v + 1.0)
    if code == _ACOSH:
        inside = max(v, 1.0)
        return math.acosh(inside), 1.0 / math.sqrt(max(inside * inside - 1.0, 1e-24))
    inside = min(max(v, -1.0 + 1e-15), 1.0 - 1e-15)
    return math.atanh(inside), 1.0 / (1.0 - inside * inside)


@kernel
def _binary(code: int, a: float, b: float) -> tuple[float, float, float]:
    """(value, derivative to a, derivative to b) of a function of two operands that `run` does not know itself."""
    if code == _DIV:
        divisor = b if abs(b) > SMALLEST else math.copysign(SMALLEST, b)
        return a / divisor, 1.0 / divisor, -a / divisor / divisor
    if code in (_POW, _PWR, _PWRS):
        size = abs(a)
        sign = 1.0
        if a < 0.0 and (code == _PWRS or (code == _POW and math.fabs(b % 2.0) == 1.0)):
            sign = -1.0
        if size == 0.0:
            return (1.0 if b == 0.0 else 0.0), (1.0 if b == 1.0 else 0.0), 0.0
        exponent = b * math.log(size)
        value = math.exp(min(exponent, MAX_EXPONENT))
        return sign * value, b * value / size * (1.0 if a > 0.0 else -sign), sign * value * math.log(size)
    if code == _EQ:
        return (1.0 if a == b else 0.0), 0.0, 0.0
    if code == _NE:
        return (1.0 if a != b else 0.0), 0.0, 0.0
    if code == _AND:
        return (1.0 if a != 0.0 and b != 0.0 else 0.0), 0.0, 0.0
    if code == _OR:
        return (1.0 if a != 0.0 or b != 0.0 else 0.0), 0.0, 0.0
    if code == _MIN:
        return (a, 1.0, 0.0) if a <= b else (b, 0.0, 1.0)
    if code == _MAX:
        return (a, 1.0, 0.0) if a >= b else (b, 0.0, 1.0)
    if code == _ATAN2:
        square = max(a * a + b * b, SMALLEST)
        return math.atan2(a, b), b / square, -a / square
    root = math.hypot(a, b)
    return root, a / max(root, SMALLEST), b / max(root, SMALLEST)


@kernel
def _between(points: Floats, count: int, x: float) -> tuple[float, float]:
    """(value, slope) of a table: straight lines between its points, constant outside."""
    last = 2 * count - 2
    if x <= points[0]:
        return points[1], 0.0
    if x >= points[last]:
        return points[last + 1], 0.0
    low, high = 0, count - 1
    while high - low > 1:
        middle = (low + high) // 2
        if points[2 * middle] <= x:
            low = middle
        else:
            high = middle
    x0, y0, x1, y1 = points[2 * low], points[1 + 2 * low], points[2 * high], points[1 + 2 * high]
    slope = (y1 - y0) / (x1 - x0)
    return y0 + slope * (x - x0), slope


@kernel
def _side(code: int, margin: float) -> float:
    """On which side a decision is: 1 or -1, and for SGN 0 in between."""
    if code == _SGN and margin == 0.0:
        return 0.0
    return 1.0 if margin > 0.0 or (margin == 0.0 and code in (_LE, _GE)) else -1.0


@kernel
def reconsider(decisions: Floats, count: int, turn: bool, out: Floats) -> None:
    """How far each of `count` decisions is from another one, into out [3 count]; see devices/base.py, `watch`."""
    for k in range(0, DECISION * count, DECISION):
        side, margin, kind = decisions[k], decisions[k + 1], decisions[k + 2]
        if kind == _SIDE:
            out[k] = side * margin if side != 0.0 else -abs(margin)
        else:
            out[k] = side + 1.0 - margin
            if kind == _STEP or side > 0.0:
                out[k] = min(out[k], margin - side)
        if turn and out[k] < 0.0:
            decisions[k] = math.floor(margin) if kind != _SIDE else (1.0 if margin > 0.0 else -1.0)


@kernel
def run(
    operations: Integers, count: int, constants: int, controls: Integers, inputs: int, x: Floats, time: float,
    values: Floats, decisions: Floats, decided: bool,
) -> None:  # fmt: skip
    """Run `count` operations on `values` (Program.room), in which the constants and the temperature stand already.

    Control j is x[controls[2j]] - x[controls[2j + 1]]. What operation k makes is left in values, and how that follows
    its operands among the slopes. Each decision leaves its side and the number that decides in `decisions`; with
    `decided` it stays on the side it finds there.
    """
    first = constants + BESIDE_CONTROLS + inputs
    slopes = at(values, 2 * (first + count) - constants)
    values[constants + NOW] = max(time, 0.0)
    for j in range(inputs):
        values[constants + BESIDE_CONTROLS + j] = x[controls[2 * j]] - x[controls[2 * j + 1]]
    decision = 0
    for k in range(count):
        code, a = operations[4 * k], values[operations[4 * k + 1]]
        second = operations[4 * k + 2]
        left = right = value = 0.0
        # What nearly all programs are made of comes first, and without a call.
        if code == _ADD:
            value, left, right = a + values[second], 1.0, 1.0
        elif code == _SUB:
            value, left, right = a - values[second], 1.0, -1.0
        elif code == _MUL:
            value, left, right = a * values[second], values[second], a
        elif code in (_STP, _SGN) or _LT <= code <= _GE:
            other = values[second] if code >= _BINARY else 0.0
            margin = other - a if code in (_LT, _LE) else a - other
            decisions[decision + 1], decisions[decision + 2] = margin, _SIDE
            if not decided:
                decisions[decision] = _side(code, margin)
            side = decisions[decision]
            value = side if code == _SGN else max(side, 0.0)
            decision += DECISION
        elif _FLOOR <= code <= _ROUND:
            margin = a if code == _FLOOR else (-a if code == _CEIL else abs(a) + (0.5 if code == _ROUND else 0.0))
            decisions[decision + 1] = margin
            decisions[decision + 2] = _STEP if code in (_FLOOR, _CEIL) else _SYMMETRIC
            if not decided:
                decisions[decision] = math.floor(margin)
            value = decisions[decision] if code == _FLOOR or (code != _CEIL and a >= 0.0) else -decisions[decision]
            decision += DECISION
        elif code >= _BINARY:
            value, left, right = _binary(code, a, values[second])
        elif code >= _UNARY:
            value, left = _unary(code, a)
        elif code == LOOK_UP:
            value, left = _between(at(values, second), operations[4 * k + 3], a)
        else:
            yes = values[operations[4 * k + 3]] != 0.0
            value = a if yes else values[second]
            left, right = (1.0, 0.0) if yes else (0.0, 1.0)
        values[first + k] = value
        slopes[2 * k], slopes[2 * k + 1] = left, right


@kernel
def go_back(operations: Integers, count: int, result: int, constants: int, inputs: int, values: Floats) -> Floats:
    """Where the derivatives of values[result] to the controls stand, after `run`."""
    first = constants + BESIDE_CONTROLS + inputs
    follows = at(values, first + count)
    slopes = at(follows, first + count - constants)
    for k in range(first + count - constants):
        follows[k] = 0.0
    if result >= constants:
        follows[result - constants] = 1.0
    for k in range(count - 1, -1, -1):
        own = follows[first - constants + k]
        if own != 0.0:
            for j in range(2):
                # What has no slope, or none that counts, passes nothing on, though the rest be infinite.
                operand, slope = operations[4 * k + 1 + j] - constants, slopes[2 * k + j]
                if slope != 0.0 and operand >= 0:
                    follows[operand] += own * slope
    return derivatives(count, constants, inputs, values)


@kernel
def derivatives(count: int, constants: int, inputs: int, values: Floats) -> Floats:
    """Where `go_back` has left them; another run does not touch them."""
    return at(values, constants + 2 * BESIDE_CONTROLS + inputs + count)  # type: ignore[no-any-return]
