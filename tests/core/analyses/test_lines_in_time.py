"""Lines and transfer functions in time: reflections, and agreement with their frequency response."""

import numpy as np
import pytest

from tests.core.analyses.in_time import trace
from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.transient import transient
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError
from verdad_core.measure.spectrum import fourier


@pytest.mark.parametrize(("load", "edge"), [(25.0, 0.0), (200.0, 0.0), (200.0, 2e-9), (50.0, 0.0)])
def test_a_step_goes_to_and_fro(load: float, edge: float) -> None:
    """The lattice diagram (Bewley 1933): from 25 Ω into 50 Ω, each end adds its reflection after each delay."""
    td, source, z0 = 10e-9, 25.0, 50.0
    text = f"v1 in 0 pulse(0 1 5n {edge} {edge} 1)\nr1 in a {source}\nt1 a 0 b 0 z0={z0} td={td}\nr2 b 0 {load}"
    found = trace(text, 150e-9, ["a", "b"])
    near, far = (source - z0) / (source + z0), (load - z0) / (load + z0)
    first = z0 / (z0 + source)

    def at_the_far_end(t: float) -> float:
        value, wave, arrives = 0.0, first, 5e-9 + td + edge
        while arrives < t:
            value += wave * (1 + far)
            wave *= far * near
            arrives += 2 * td
        return value

    for t in np.arange(10e-9, 150e-9, 10e-9):
        assert np.interp(t, found.time, found.values[1]) == pytest.approx(at_the_far_end(t), abs=1e-3)


def test_a_delay_much_shorter_than_the_steps_does_not_make_them_short() -> None:
    text = "v1 in 0 sin(0 1 1k)\nr1 in a 50\nt1 a 0 b 0 z0=50 td=20n\nr2 b 0 50"
    found = trace(text, 10e-3, ["b"])
    assert len(found.time) < 1000
    assert found.values[0] == pytest.approx(0.5 * np.sin(2 * np.pi * 1e3 * (found.time - 20e-9)), abs=2e-3)


LOSSY = "rs in a 50\no1 a 0 b 0 m\nrl b 0 75\n.model m ltra(r=8 l=250n c=100p len=2)"
DISTRIBUTED = "rs in a 50\nu1 a b 0 m l=1\nrl b 0 1meg\n.model m urc(rperl=10k cperl=100p)"
CASES = {
    "lossless": ("rs in a 75\nt1 a 0 b 0 z0=50 td=7n\nrl b 0 200\ncl b 0 10p", 1e7, 1e-3),
    "lossy": (LOSSY, 2e7, 1e-3),
    "lossy at its low end": (LOSSY, 1e5, 1e-3),
    "resistance and capacitance": (DISTRIBUTED, 3e5, 2e-3),
    "transfer function": ("e1 b 0 laplace {v(in)} = {(1-1u*s)/(1+1u*s+1p*s*s)}\nrb b 0 1k", 1e5, 1e-3),
    "integrator in a loop": ("e1 b 0 laplace {v(in,b)} = {1meg/s}\nrb b 0 1k", 1e5, 1e-3),
}


@pytest.mark.parametrize("name", CASES)
def test_time_agrees_with_frequency(name: str) -> None:
    cards, frequency, within = CASES[name]
    text = f"v1 in 0 dc 0 ac 1 sin(0 1 {frequency!r})\n{cards}"
    response = ac(structure(text), np.array([frequency]), [("b", "0")]).values[0, 0, 0]
    found = trace(text, 25 / frequency, ["b"], 1e-4, longest=1 / frequency / 60)
    # The source is a sine, the series one of cosines.
    measured = 1j * fourier(found.time, found.values[0], frequency, 1).coefficients[0]
    assert measured == pytest.approx(response, abs=within * max(abs(response), 0.1))


def test_rows_of_circuits_with_lossy_lines() -> None:
    circuit = structure("v1 in 0 1\nrs in a 50\no1 a 0 b 0 m\nrl b 0 50\n.model m ltra(r=8 l=250n c=100p len=2)")
    loads = ParameterMatrix.varied(circuit, {("rl", "resistance"): np.array([50.0, 100.0])})
    found = transient(circuit, 1e-6, [("b", "0")], matrix=loads)
    for row, load in enumerate((50, 100)):
        assert found.require(row).values[0] == pytest.approx(load / (load + 50 + 16), rel=1e-6)


def test_rows_differ_in_a_lossy_lines_own_figures() -> None:
    """At rest only the resistance counts; the wave arrives after length times the root of L C per length."""
    text = (
        "v1 in 0 pulse(0 2 0 10p 10p 1)\nrs in a 50\no1 a 0 b 0 m\nrl b 0 50\n.model m ltra(r={} l=250n c=100p len={})"
    )
    circuit = structure(text.format(8, 2))
    rows = {("o1", "r"): np.array([8.0, 4.0, 8.0]), ("o1", "len"): np.array([2.0, 2.0, 4.0])}
    found = transient(circuit, 60e-9, [("b", "0")], matrix=ParameterMatrix.varied(circuit, rows))
    for row, (r, length) in enumerate(((8, 2), (4, 2), (8, 4))):
        alone = transient(structure(text.format(r, length)), 60e-9, [("b", "0")]).require()
        trace_ = found.require(row)
        assert trace_.values[0, -1] == pytest.approx(100 / (100 + r * length), rel=2e-2)
        assert np.interp(trace_.time, alone.time, alone.values[0]) == pytest.approx(trace_.values[0], abs=5e-3)
        arrival = trace_.time[np.argmax(trace_.values[0] > 0.4)]
        assert arrival == pytest.approx(length * np.sqrt(250e-9 * 100e-12), rel=5e-2)


def test_rows_of_a_line_that_is_another_circuit_in_some_of_them_are_refused() -> None:
    circuit = structure("v1 in 0 1\nrs in a 50\no1 a 0 b 0 m\nrl b 0 50\n.model m ltra(r=8 l=250n c=100p len=2)")
    varied = ParameterMatrix.varied(circuit, {("o1", "l"): np.array([250e-9, 0.0])})
    with pytest.raises(CircuitError, match="o1 has an inductance"):
        transient(circuit, 1e-6, [("b", "0")], matrix=varied)
