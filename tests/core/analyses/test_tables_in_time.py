"""Tables of frequencies (FREQ) in time, against the filters that they were read from."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from tests.core.analyses.in_time import trace
from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.marcher import Accuracy
from verdad_core.analyses.transient import transient
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError
from verdad_core.simulate import simulate

#: Two poles that ring a little, at 5 kHz.
ABOVE, BELOW = (1.0,), (1 / (2 * np.pi * 5e3) ** 2, 0.6 / (2 * np.pi * 5e3), 1.0)
STEP = "v1 in 0 ac 1 pulse(0 1 100u 1n 1n 1 1)\n"


def table(above: tuple[float, ...] = ABOVE, below: tuple[float, ...] = BELOW) -> str:
    hertz = np.geomspace(10.0, 1e6, 251)
    _, decibels, degrees = signal.bode((above, below), 2 * np.pi * hertz)
    return " ".join(f"({f:.9g},{db:.9g},{d:.9g})" for f, db, d in zip(hertz, decibels, degrees, strict=True))


@pytest.mark.parametrize(
    "card", ["e1 out 0 freq {{v(in)}} = {t}\nr1 out 0 1k", "g1 0 out freq {{v(in)}} = {t}\nr1 out 0 1"]
)
def test_a_step_is_that_of_the_filter_behind_the_table(card: str) -> None:
    """scipy.signal.step. Between its points a table is straight: 251 over five decades follow a pole to 1e-3."""
    found = trace(STEP + card.format(t=table()), 1e-3, ["out"], accuracy=Accuracy(1e-5))
    after = found.time >= 100.5e-6
    t, exact = signal.step((ABOVE, BELOW), T=np.linspace(0.0, 1e-3, 20001))
    assert found.values[0][after] == pytest.approx(np.interp(found.time[after] - 100e-6, t, exact), abs=3e-3)
    assert np.abs(found.values[0][found.time < 100e-6]).max() < 2e-3


def test_a_sine_comes_out_as_the_response_says() -> None:
    text = f"v1 in 0 ac 1 sin(0 1 7k)\ne1 out 0 freq {{v(in)}} = {table()}\nr1 out 0 1k"
    response = ac(structure(text), np.array([7e3]), [("out", "0")]).values[0, 0, 0]
    times = np.linspace(2e-3, 3e-3, 7001)[:-1]
    found = transient(structure(text), 3e-3, [("out", "0")], times=times, accuracy=Accuracy(1e-5)).require().values[0]
    measured = 2 * np.mean(found * np.exp(-2j * np.pi * 7e3 * times)) * 1j
    assert measured == pytest.approx(response, abs=3e-3)


def test_its_current_is_known_by_its_name() -> None:
    found = trace(STEP + f"e1 out 0 freq {{v(in)}} = {table()}\nr1 out 0 1k", 1e-3, ["out", "i(e1)"])
    assert found.values[1] == pytest.approx(-found.values[0] / 1e3, abs=1e-9)


def test_a_table_that_no_response_in_time_has_is_refused_with_how_far_it_is_off() -> None:
    """A lead of 90 degrees with a falling size."""
    with pytest.raises(CircuitError, match=r"e1 follows a table of frequencies .* off"):
        trace(STEP + "e1 out 0 freq {v(in)} = (1k,0,0) (10k,-20,90) (100k,-40,90)\nr1 out 0 1k", 1e-3, ["out"])


def test_a_rough_table_is_followed_and_said_to_be() -> None:
    simulation = simulate(
        f"Rough\n{STEP}e1 out 0 freq {{v(in)}} = (1k,0,0) (10k,-20,-90) (100k,-40,-90)\nr1 out 0 1k\n.tran 1u 1m\n"
    )
    [warning] = [each for each in simulation.warnings if "e1" in each.message]
    assert "of its largest value" in warning.message
    exact = simulate(f"Fine\n{STEP}e1 out 0 freq {{v(in)}} = {table()}\nr1 out 0 1k\n.tran 1u 1m\n")
    assert not [each for each in exact.warnings if "e1" in each.message and "off" in each.message]


def test_the_table_is_that_of_the_rows_not_of_the_netlist() -> None:
    """At rest, a table's value is that at its lowest frequency: 0 dB as written, here a tenth of it."""
    circuit = structure("v1 in 0 2\ne1 out 0 freq {v(in)} = (1k,0,0) (10k,-3,-45)\nr1 out 0 1k")
    nominal = circuit.nominal.copy()
    nominal[[circuit.column("e1", name) for name in ("db1", "db2")]] -= 20.0
    rows = ParameterMatrix(nominal, np.empty(0, np.int32), np.empty((1, 0)))
    found = transient(circuit, 1e-3, [("out", "0")], matrix=rows).require()
    assert found.values[0] == pytest.approx(0.2, rel=0.02)


def test_rows_that_differ_in_a_table_are_refused() -> None:
    circuit = structure(STEP + "e1 out 0 freq {v(in)} = (1k,0,0) (10k,-3,-45)\nr1 out 0 1k")
    rows = ParameterMatrix.varied(circuit, {("e1", "db2"): np.array([-3.0, -4.0])})
    with pytest.raises(CircuitError, match="differs between rows"):
        transient(circuit, 1e-3, [("out", "0")], matrix=rows)
