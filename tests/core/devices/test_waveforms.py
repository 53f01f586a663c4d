"""Waveforms of sources in time against the formulas of the SPICE 2G6/3F5 user's manuals."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.arrays import Floats
from verdad_core.devices.waveforms import (
    DEFAULTS,
    EXP,
    FORMS,
    GAUSSIAN,
    PULSE,
    PWL,
    SFFM,
    SIN,
    UNIFORM,
    longest_step,
    next_corner,
    value_at,
)
from verdad_core.jit import entry, pointer


@entry
def _values(kind: int, values: Floats, times: Floats, out: Floats) -> None:
    for k in range(len(times)):
        out[k] = value_at(kind, pointer(values), 0, len(values), times[k])


def at(kind: int, values: tuple[float, ...], *times: float) -> Floats:
    given, out = np.array([*values, *DEFAULTS.get(kind, ())[len(values) :]]), np.zeros(len(times))
    _values(kind, given, np.array(times), out)
    return out


def test_every_form_has_a_default_for_each_value() -> None:
    assert {kind: len(form) for kind, form in FORMS.items()} == {kind: len(values) for kind, values in DEFAULTS.items()}


def test_pulse() -> None:
    pulse = (1.0, 5.0, 2.0, 1.0, 2.0, 3.0, 10.0)
    times = (0, 2, 2.5, 3, 6, 7, 8, 11, 12, 12.25, 22.5)
    assert at(PULSE, pulse, *times) == pytest.approx([1, 1, 3, 5, 5, 3, 1, 1, 1, 2, 3])
    assert at(PULSE, (0.0, 1.0, 1.0), 0.5, 1.5, 1e9) == pytest.approx([0, 1, 1])


@given(st.floats(0, 20))
def test_a_pulse_comes_again_after_its_period(t: float) -> None:
    pulse = (0.0, 1.0, 0.0, 1.0, 2.0, 3.0, 10.0)
    one, next_ = at(PULSE, pulse, t + 1e-9, t + 10 + 1e-9)
    assert one == pytest.approx(next_, abs=1e-6)


def test_sine_with_delay_damping_and_phase() -> None:
    sine = (1.0, 2.0, 3.0, 0.5, 0.7, 30.0)
    for t in (0.6, 1.0, 4.2):
        since = t - 0.5
        expected = 1 + 2 * math.sin(2 * math.pi * 3 * since + math.radians(30)) * math.exp(-0.7 * since)
        assert at(SIN, sine, t)[0] == pytest.approx(expected, rel=1e-12)
    assert at(SIN, sine, 0.0, 0.5) == pytest.approx([2, 2])


def test_exponential_up_and_down() -> None:
    shape = (1.0, 5.0, 1.0, 2.0, 4.0, 0.5)
    up, down = 4 * (1 - math.exp(-5 / 2)), -4 * (1 - math.exp(-2 / 0.5))
    assert at(EXP, shape, 0.5, 1.0, 3.0, 6.0) == pytest.approx([1, 1, 1 + 4 * (1 - math.exp(-1)), 1 + up + down])


def test_frequency_modulation() -> None:
    t, turn = 0.013, 2 * math.pi * 0.013
    expected = 1 + 2 * math.sin(100 * turn + 3 * math.sin(7 * turn))
    assert at(SFFM, (1.0, 2.0, 100.0, 3.0, 7.0), t)[0] == pytest.approx(expected, rel=1e-12)


@given(st.lists(st.floats(-5, 5), min_size=2, max_size=8), st.floats(-1, 20))
def test_piecewise_linear_is_interpolation(heights: list[float], t: float) -> None:
    corners = np.arange(len(heights), dtype=float)
    values = (math.nan, *np.column_stack([corners, heights]).ravel())
    assert at(PWL, values, t)[0] == pytest.approx(np.interp(t, corners, heights), abs=1e-12)


def test_piecewise_linear_repeats_from_one_of_its_times() -> None:
    values = (1.0, 0.0, 0.0, 1.0, 10.0, 2.0, 20.0, 3.0, 10.0)
    assert at(PWL, values, 0.5, 1.5, 3.5, 4.5, 103.5) == pytest.approx([5, 15, 15, 15, 15])


def test_drawn_noise_has_its_size_and_its_seed() -> None:
    times = np.arange(20_000) * 1e-6
    gaussian = at(GAUSSIAN, (2.0, 1e-6, 1.0), *times)
    # Standard errors: 2 / sqrt(20,000) of the mean, 1 / sqrt(40,000) of the size; four of them.
    assert abs(gaussian.mean()) < 4 * 2 / math.sqrt(20_000)
    assert gaussian.std() == pytest.approx(2, rel=0.02)
    assert abs(np.corrcoef(gaussian[1:], gaussian[:-1])[0, 1]) < 4 / math.sqrt(20_000)
    uniform = at(UNIFORM, (3.0, 1e-6, 1.0), *times)
    assert np.abs(uniform).max() <= 3
    assert uniform.std() == pytest.approx(3 / math.sqrt(3), rel=0.02)
    assert np.array_equal(gaussian, at(GAUSSIAN, (2.0, 1e-6, 1.0), *times))
    assert not np.array_equal(gaussian, at(GAUSSIAN, (2.0, 1e-6, 2.0), *times))
    between = at(GAUSSIAN, (2.0, 1e-6, 1.0), 0.5e-6)[0]
    assert between == pytest.approx(gaussian[:2].mean(), rel=1e-6)


@entry
def _ahead(kind: int, values: Floats, t: float) -> tuple[float, float]:
    return next_corner(kind, pointer(values), 0, len(values), t), longest_step(kind, pointer(values), 0, t)


def corners(kind: int, values: tuple[float, ...], stop: float) -> list[float]:
    """All corners up to a time, each found from the one before it."""
    given, t, found = np.array([*values, *DEFAULTS.get(kind, ())[len(values) :]]), 0.0, []
    while (t := _ahead(kind, given, t)[0]) <= stop:
        found.append(t)
    return found


def test_every_corner_is_announced_once() -> None:
    assert corners(PULSE, (0, 1, 1, 0.5, 0.25, 2, 10), 15) == pytest.approx([1, 1.5, 3.5, 3.75, 11, 11.5, 13.5, 13.75])
    assert corners(PULSE, (0, 1, 1), 100) == [1]
    assert corners(PWL, (math.nan, 0, 0, 1, 1, 3, 0), 100) == [1, 3]
    assert corners(PWL, (1.0, 0, 0, 1, 1, 3, 0), 8) == pytest.approx([1, 3, 5, 7])
    assert corners(SIN, (0, 1, 1e3, 0.5), 10) == [0.5]
    assert corners(EXP, (0, 1, 1, 1, 2, 1), 10) == [1, 2]
    assert corners(GAUSSIAN, (1, 0.25, 1), 1) == pytest.approx([0.25, 0.5, 0.75, 1])
    assert corners(SFFM, (0, 1, 1, 1, 1), 10) == []


@given(
    st.floats(0, 1), st.floats(1e-9, 0.2), st.floats(0, 0.2), st.floats(1e-9, 0.5), st.floats(1, 3), st.floats(0, 50)
)
def test_a_pulse_is_straight_up_to_its_next_corner(
    delay: float, rise: float, fall: float, width: float, period: float, t: float
) -> None:
    pulse = np.array([0.0, 1.0, delay, rise, fall, width, period])
    corner, _ = _ahead(PULSE, pulse, t)
    assert corner > t
    inside = t + (corner - t) * np.array([0.01, 0.25, 0.5, 0.75, 0.99])
    values = at(PULSE, tuple(pulse), *inside)
    assert np.interp(inside, inside[[0, -1]], values[[0, -1]]) == pytest.approx(values, abs=1e-5)


def test_waveforms_without_corners_say_how_long_steps_may_be() -> None:
    assert _ahead(SIN, np.array([0, 1, 1e3, 0.0, 0, 0, 0]), 1.0)[1] == pytest.approx(1e-3 / 24)
    assert _ahead(SFFM, np.array([0.0, 1, 1e4, 5, 1e3]), 1.0)[1] == pytest.approx(1 / (24 * 15e3))
    assert _ahead(EXP, np.array([0, 1, 1.0, 0.1, 5, 1]), 1.5)[1] == pytest.approx(0.025)
    assert _ahead(EXP, np.array([0, 1, 1.0, 0.1, 5, 1]), 3.0)[1] == math.inf
