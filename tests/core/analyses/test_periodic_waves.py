"""Delay lines along a period: as a network analyser sees them, at any delay up to the period."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.periodic import steady_state
from verdad_core.analyses.periodic_response import periodic_loop_gain, periodic_response
from verdad_core.analyses.transient import Start
from verdad_core.errors import CircuitError

#: A control voltage against a ramp of 2 V in 9.8 µs that falls within 0.1 µs.
MODULATOR = "vt t 0 pulse(0 2 0 9.8u 0.1u 0.1u 10u)\nvc c 0 0.7\nrl out 0 10k\n"


def test_a_line_in_a_linear_circuit_has_its_frequency_response() -> None:
    """Reflections at both ends, a delay that is no multiple of a step, and no sidebands. Waves go along parabolas."""
    circuit = structure("v1 in 0 ac 1 sin(0 1 1meg)\nr1 in a 75\nt1 a 0 b 0 z0=50 td=130n\nr2 b 0 20\nc2 b 0 1n")
    frequency = np.array([10.0, 3e5, 1.7e6, 4e6])
    [state] = steady_state(circuit, 1e-6, longest=1e-9)
    found = periodic_response(state, "v1", [("a", "0"), ("b", "0")], frequency, (0, 1))
    exact = ac(circuit, frequency, [("a", "0"), ("b", "0")]).values[0]
    assert found.values[:, 0] == pytest.approx(exact, abs=2e-5)
    assert np.max(np.abs(found.values[:, 1])) < 1e-6
    assert found.stable


@pytest.mark.parametrize("delay", [1e-10, 5e-9, 2e-7, 1.3e-6, 4e-6])
def test_a_comparators_delay_turns_the_phase_of_a_modulator_and_nothing_else(delay: float) -> None:
    """Naturally sampled: the mean follows the control by high / slope / period (common practice, no source).

    The ramp's fall adds its share; the delay is a factor exp(-jωtd), the rise time a pole, the load a divider. What is
    measured follows the steps around each edge to about a percent.
    """
    text = MODULATOR + f"x1 c t out comparator high=5 low=0 hysteresis=0 delay={delay} tr=50n"
    [state] = steady_state(structure(text), 10e-6, start=Start.COLD, longest=0.1e-6)
    frequency = np.array([100.0, 1e3, 1e4, 4e4])
    s = 2j * np.pi * frequency
    exact = 5 * 9.9 / 20 * 10e3 / 10.05e3 * np.exp(-s * delay) / (1 + s * 50e-9 / 2.2)
    found = periodic_response(state, "vc", [("out", "0")], frequency).values[0, 0]
    assert found == pytest.approx(exact, rel=0.01)
    assert np.angle(found / exact) == pytest.approx(0.0, abs=1e-4)


def test_a_converter_with_a_comparator_and_a_gate_driver_loses_the_phase_of_both_delays() -> None:
    """Erickson and Maksimovic, ch. 7 and 8, with exp(-jωtd) of both; from cold without a step too many."""
    text = (
        "vin in 0 12\nvref ref 0 0.5\nvinj fb ea 0\nvt t 0 pulse(0 1 0 9.8u 0.1u 0.1u 10u)\nvdd vdd 0 5\n"
        "xc ctl t g0 comparator high=5 low=0 hysteresis=0 delay=200n tr=5n\n"
        "xd g0 0 vdd g gate_driver delay=400n\ncg g 0 100p\n"
        "s1 in x g 0 s\ns2 x 0 g 0 o\nl1 x lx 22u\nrl lx out 50m\nc1 out esr 100u\n"
        "resr esr 0 20m\nrload out 0 2\nr1 out fb0 7k\nr2 fb0 0 1k\neb fb 0 fb0 0 1\n"
        "eerr ctl 0 value={0.4+2*(v(ref)-v(ea))}\n.model s sw(vt=2.5 vh=0 ron=20m roff=1meg)\n"
        ".model o sw(vt=2.5 vh=0 ron=1meg roff=20m)"
    )
    [state] = steady_state(structure(text), 10e-6, start=Start.COLD, settle=60, longest=0.1e-6)
    frequency = np.array([100.0, 1e3, 3e3, 1e4])
    found, response = periodic_loop_gain(state, "vinj", frequency)
    s = 2j * np.pi * frequency
    capacitor = 20e-3 + 1 / (s * 100e-6)
    load = 2 * capacitor / (2 + capacitor)
    averaged = 12 * 0.98 * load / (load + 70e-3 + s * 22e-6) * 2 / 8 * np.exp(-s * 600e-9)
    # The averaged model's own error, dead losses, and edges of finite steepness.
    assert found == pytest.approx(averaged, rel=0.02)
    assert np.angle(found / averaged) == pytest.approx(0.0, abs=3e-3)
    assert response.stable


def test_a_line_longer_than_the_period_is_refused() -> None:
    [state] = steady_state(structure(MODULATOR + "t1 c 0 out 0 z0=50 td=30u"), 10e-6, settle=8)
    with pytest.raises(CircuitError, match="t1 delays by 3e-05 s, longer than the period of 1e-05 s"):
        periodic_response(state, "vc", [("out", "0")], np.array([1e3]))
