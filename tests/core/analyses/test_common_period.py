"""Common multiples of periods, by arithmetic."""

import pytest

from tests.core.circuits import structure
from verdad_core.analyses.common_period import common_period, periods
from verdad_core.errors import CircuitError


def test_the_shortest_period_that_holds_all() -> None:
    assert common_period({"a": 1e-3}) == 1e-3
    assert common_period({"a": 1e-3, "b": 0.75e-3, "c": 0.5e-3}) == pytest.approx(3e-3)
    assert common_period({"line": 1 / 50, "clock": 1 / 20_000}) == pytest.approx(0.02)


def test_what_has_none_is_named() -> None:
    with pytest.raises(CircuitError, match=r"a \(1 ms\) and b \(1.414 ms\) have no common multiple"):
        common_period({"a": 1e-3, "b": 1.41421356e-3})
    with pytest.raises(CircuitError, match="no source repeats itself"):
        common_period({})


def test_sources_that_repeat_themselves_are_found_wherever_they_stand() -> None:
    text = (
        "v1 a 0 sin(0 1 2k)\nv2 b 0 pulse(0 1 0 1n 1n 1u 5u)\nv3 c 0 pulse(0 1 0 1n 1n 1u)\nv4 d 0 sin(0 1 1k 0 50)\n"
        "v5 e 0 pwl(0 0 1m 1 2m 0) repeat=0\nr1 a b 1k\nr2 c d 1k\nr3 e 0 1k"
    )
    found = periods(structure(text))
    assert found == pytest.approx({"v1": 0.5e-3, "v2": 5e-6, "v5": 2e-3})
