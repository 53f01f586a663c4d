"""Functions of s: as polynomials where they are ratios of such, without their delays, and others by their values."""

from __future__ import annotations

import cmath
import math
from collections.abc import Callable

import numpy as np

from verdad_core.errors import NetlistError
from verdad_core.netlist.expressions import Apply, Expression, Name, Node, Number

#: Largest power of s in a transfer function.
MAX_ORDER = 30

#: Where a function that is no ratio of polynomials is sampled: from the first to the last decade, in Hz.
DECADES, A_DECADE = (-3, 12), 60

#: What such functions are made of, for complex numbers.
_COMPLEX: dict[str, Callable[..., complex]] = {
    "sqrt": cmath.sqrt, "exp": cmath.exp, "ln": cmath.log, "sinh": cmath.sinh, "cosh": cmath.cosh, "tanh": cmath.tanh,
    "neg": lambda x: -x, "add": lambda x, y: x + y, "sub": lambda x, y: x - y, "mul": lambda x, y: x * y,
    "div": lambda x, y: x / y, "pow": lambda x, y: x**y, "pwr": lambda x, y: abs(x) ** y, "abs": abs,
}  # fmt: skip

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


def is_rational(expression: Expression, root: Node) -> bool:
    """Whether a function of s is a ratio of polynomials, as far as its operations tell."""
    try:
        _ratio(expression, root)
    except NetlistError:
        return False
    return True


def without_delay(expression: Expression, root: Node) -> tuple[float, Node]:
    """The seconds that factors such as exp(-s 1u) delay by, and what is left without them."""
    match root:
        case Apply("exp", (exponent,)) if is_rational(expression, exponent):
            numerator, denominator = (np.trim_zeros(part, "b") for part in _ratio(expression, exponent))
            if len(denominator) == 1 and len(numerator) == 2 and numerator[0] == 0.0 > numerator[1] / denominator[0]:
                return float(-numerator[1] / denominator[0]), Number(1.0)
        case Apply("mul", (left, right)):
            (one, left), (other, right) = without_delay(expression, left), without_delay(expression, right)
            return one + other, Apply("mul", (left, right))
        case Apply("div", (left, right)):
            seconds, left = without_delay(expression, left)
            return seconds, Apply("div", (left, right))
        case Apply("neg", (operand,)):
            seconds, operand = without_delay(expression, operand)
            return seconds, Apply("neg", (operand,))
    return 0.0, root


def sampled(expression: Expression, root: Node) -> tuple[float, ...]:
    """Hertz, decibels and degrees of a function of s at many frequencies, as a FREQ table has them.

    Raises NetlistError for what has no finite value there.
    """
    frequency = np.logspace(*DECADES, A_DECADE * (DECADES[1] - DECADES[0]) + 1)
    values = []
    for f in frequency:
        try:
            value = _value(expression, root, complex(0.0, 2.0 * math.pi * f))
        except (ZeroDivisionError, OverflowError, ValueError):
            value = complex("nan")
        if not cmath.isfinite(value) or value == 0.0:
            raise expression.error(f"has no value at {f:.3g} Hz, and is no ratio of polynomials in s")
        values.append(value)
    response = np.array(values)
    degrees = np.degrees(np.unwrap(np.angle(response)))
    return tuple(np.column_stack([frequency, 20.0 * np.log10(np.abs(response)), degrees]).ravel().tolist())


def _value(expression: Expression, node: Node, s: complex) -> complex:
    match node:
        case Number(value):
            return complex(value)
        case Name("s"):
            return s
        case Apply(function, operands) if function in _COMPLEX:
            return complex(_COMPLEX[function](*(_value(expression, operand, s) for operand in operands)))
    raise expression.error("is not a function of s that LAPLACE takes")
