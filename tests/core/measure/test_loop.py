"""Margins of loop gains against python-control's, which has them from the transfer function itself."""

from __future__ import annotations

import control
import numpy as np
import pytest

from tests.core.measure.taking import taken
from verdad_core.errors import MeasurementError
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import HERTZ, NONE

F = np.geomspace(1e-2, 1e6, 4001)


def loop(gain: float, *poles: float, zeros: tuple[float, ...] = ()) -> tuple[Trace, control.TransferFunction]:
    """T(f) with corners in hertz, and the same as python-control has it."""
    s, system = 2j * np.pi * F, control.tf([gain], [1.0])
    values = np.full(len(F), gain, complex)
    for corner in poles:
        values = values / (1 + s / (2 * np.pi * corner))
        system = system * control.tf([1.0], [1 / (2 * np.pi * corner), 1.0])
    for corner in zeros:
        values = values * (1 + s / (2 * np.pi * corner))
        system = system * control.tf([1 / (2 * np.pi * corner), 1.0], [1.0])
    return Trace(values, NONE, Axis("frequency", HERTZ, F, logarithmic=True)), system


@pytest.mark.parametrize(
    ("gain", "poles", "zeros"),
    [(1e3, (1.0, 3e3, 2e4), ()), (200.0, (1.0, 40.0, 5e3, 8e3), (90.0,)), (30.0, (10.0, 10.0, 10.0), ()),
     (5.0, (10.0, 10.0, 10.0), ())],
)  # fmt: skip
def test_margins_are_those_of_the_transfer_function(
    gain: float, poles: tuple[float, ...], zeros: tuple[float, ...]
) -> None:
    trace, system = loop(gain, *poles, zeros=zeros)
    gain_margin, phase_margin, _, crossover = control.margin(system)
    # Straight lines between 500 points a decade; a curve's own bend between two is 1e-5 of its slope.
    assert taken("phase_margin", trace) == pytest.approx(phase_margin, abs=2e-3)
    assert taken("crossover", trace) == pytest.approx(crossover / (2 * np.pi), rel=1e-5)
    assert taken("gain_margin", trace) == pytest.approx(20 * np.log10(gain_margin), abs=2e-3)


def test_an_integrator_leaves_90_degrees_and_falls_by_20_db_a_decade() -> None:
    trace, _ = loop(1e6, 1e-3)
    assert taken("phase_margin", trace) == pytest.approx(90.0, abs=1e-4)
    assert taken("crossover", trace) == pytest.approx(1e3, rel=1e-6)
    assert taken("rate_of_closure", trace) == pytest.approx(20.0, abs=1e-3)
    with pytest.raises(MeasurementError, match="does not reach -180"):
        taken("gain_margin", trace)


def test_a_slope_at_the_end_of_the_range_is_not_made_up() -> None:
    trace, _ = loop(9.9e8, 1e-3)
    assert taken("crossover", trace) == pytest.approx(9.9e5, rel=1e-5)
    with pytest.raises(MeasurementError, match="end of the range"):
        taken("rate_of_closure", trace)


@pytest.mark.parametrize(
    ("gain", "corner", "why"), [(0.5, 1.0, "stays below 1"), (1e9, 1e3, "does not fall to 1"), (1e-9, 1.0, "no loop")]
)
def test_an_answer_that_is_not_there_is_said_to_be_absent(gain: float, corner: float, why: str) -> None:
    trace, _ = loop(gain, corner)
    for key in ("phase_margin", "crossover", "rate_of_closure"):
        with pytest.raises(MeasurementError, match=why):
            taken(key, trace)
