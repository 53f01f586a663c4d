"""Kernels compiled with few passes do what Numba makes of the same functions with all of its own."""

from __future__ import annotations

from collections.abc import Callable
from itertools import product
from resource import RUSAGE_SELF, getrusage
from typing import Any

import numba
import numpy as np
import pytest

from verdad_core.jit import INTEGERS, at, caller, entry, kernel, pointer, reached


def _operators(x: float, y: float) -> tuple[object, ...]:
    return x + y, x - y, x * y, x / y, x < y, x <= y, x > y, x >= y, x == y, x != y


def _in_place(x: float, y: float) -> tuple[object, ...]:
    total, rest, product, share = x, x, x, 1.0
    total += y
    rest -= y
    product *= y
    share /= y
    return total, rest, product, share


KINDS = (np.int32, np.int64, np.float64)


@pytest.mark.parametrize("function", [_operators, _in_place])
def test_operators_on_numbers_are_those_of_numba(function: Callable[..., Any]) -> None:
    """The largest short integers tell whether a sum is taken as long ones."""
    # In place, a variable has the type of its first value and of what is added: the same only for equal types.
    pairs = product(KINDS, KINDS) if function is _operators else zip(KINDS, KINDS, strict=True)
    own, whole = entry(function), numba.njit(error_model="numpy")(function)
    for one, other in pairs:
        x, y = one(2**31 - 1), other(3)
        found, expected = own(x, y), whole(x, y)
        assert found == expected
        assert [type(value) for value in found] == [type(value) for value in expected]


@kernel
def _sum_of(values: Any, count: int) -> int:
    total = 0
    for k in range(count):
        total += values[k] * values[k]
    return total


@entry
def _sums(values: Any) -> tuple[int, int]:
    return _sum_of(pointer(values), len(values)), _sum_of(at(pointer(values), 1), 1)


def test_a_short_integer_read_through_a_pointer_is_a_long_one() -> None:
    largest = 2**31 - 1
    assert _sums(np.array([largest, -largest], np.int32)) == (2 * largest**2, largest**2)


def test_a_part_is_compiled_once_for_literal_and_other_numbers() -> None:
    part: Any = _sum_of
    for count in (numba.types.literal(1), numba.types.int64, numba.types.literal(2)):
        part.get_call_template((INTEGERS, count), {})
    assert len(part.signatures) == 1


_SIGNATURE = numba.types.int64(INTEGERS, numba.types.int64)
_call = caller(_SIGNATURE)


@reached(_SIGNATURE)
def _largest(values: Any, count: int) -> int:
    best = values[0]
    for k in range(1, count):
        best = max(best, values[k])
    return best


@entry
def _by_address(address: int, values: Any) -> int:
    return _call(address, pointer(values), len(values))


def test_a_kernel_is_reached_by_its_address() -> None:
    assert _by_address(_largest.address, np.array([3, 7, -2], np.int32)) == 7


def _branches(x: float) -> float:
    value = x if x > 1.0 else -x
    for k in range(10):
        if k == 7:
            break
        if k % 2:
            continue
        value = value**2 if value < 1.0 else min(value / 2.0, max(value - 1.0, 0.5))
    return value


@pytest.mark.parametrize("x", [0.3, 1.0, 17.0, -4.0])
def test_branches_and_loops_compile_to_what_python_does(x: float) -> None:
    assert entry(_branches)(x) == pytest.approx(_branches(x), rel=1e-15)


@kernel
def _counted(count: int) -> Any:
    made = np.empty(count)
    for k in range(count):
        made[k] = k
    return made


@entry
def _last_of_many(times: int, count: int) -> float:
    made, total = _counted(3), 0.0
    for k in range(times):
        if k % 2 == 1:
            made = _counted(count)
        other = made
        total += other[len(other) - 1]
    return total


def test_arrays_that_kernels_make_are_let_go() -> None:
    """Two hundred of a megabyte each do not take two hundred megabytes."""
    _last_of_many(2, 3)
    before, count = getrusage(RUSAGE_SELF).ru_maxrss, 2**17
    assert _last_of_many(400, count) == 2 + 399 * (count - 1)
    assert getrusage(RUSAGE_SELF).ru_maxrss - before < 20_000
