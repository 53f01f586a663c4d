import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.dc_sweep import Swept, dc_sweep, up_and_down
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.transfer_function import transfer_function
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError

DIVIDER = "v1 in 0 1\nr1 in out 1k\nr2 out 0 1k"
OUT = [("out", "0"), ("i(v1)", "0")]


def test_a_source_a_value_and_the_temperature() -> None:
    circuit = structure(DIVIDER.replace("r2 out 0 1k", "r2 out 0 1k tc1=10m"))
    volts = dc_sweep(circuit, [Swept(("v1", "dc"), np.array([-1.0, 0.0, 4.0]))], OUT)
    assert volts.values[0, 0] == pytest.approx([-0.5, 0, 2])
    assert volts.values[0, 1] == pytest.approx([0.5e-3, 0, -2e-3])
    ohms = dc_sweep(circuit, [Swept(("r1", "resistance"), np.array([1e3, 3e3]))], OUT)
    assert ohms.values[0, 0] == pytest.approx([0.5, 0.25])
    celsius = dc_sweep(circuit, [Swept(("", "temperature"), np.array([27.0, 127.0]))], OUT)
    assert celsius.values[0, 0] == pytest.approx([0.5, 2 / 3])


def test_two_sweeps_and_rows() -> None:
    circuit = structure(DIVIDER)
    matrix = ParameterMatrix.varied(circuit, {("r2", "resistance"): np.array([1e3, 3e3])})
    sweeps = [Swept(("r1", "resistance"), np.array([1e3, 2e3])), Swept(("v1", "dc"), np.array([1.0, 2.0, 3.0]))]
    found = dc_sweep(circuit, sweeps, OUT, matrix)
    assert found.values.shape == (2, 2, 2, 3)
    for row, r2 in enumerate((1e3, 3e3)):
        expected = np.array([[v * r2 / (r1 + r2) for v in (1, 2, 3)] for r1 in (1e3, 2e3)])
        assert found.values[row, 0] == pytest.approx(expected)


def test_a_schmitt_trigger_up_and_down() -> None:
    """Thresholds of an op-amp Schmitt trigger: the rail divided (common practice, no source)."""
    text = "vp p 0 5\nvn n 0 -5\nvin in 0 0\nx1 fb in p n out opamp gain=1e5 swing=0\nr1 out fb 10k\nr2 fb 0 1k"
    volts = up_and_down(np.linspace(-1, 1, 201))
    found = dc_sweep(structure(text), [Swept(("vin", "dc"), volts)], [("out", "0")]).values[0, 0]
    up, down = found[:201], found[200:][::-1]
    rises, falls = volts[:201][np.argmax(up < 0)], volts[:201][np.argmax(down < 0)]
    assert rises == pytest.approx(5 / 11, abs=0.02)
    assert falls == pytest.approx(-5 / 11, abs=0.02)


def test_too_many_points_are_refused() -> None:
    with pytest.raises(CircuitError, match="at most"):
        dc_sweep(structure(DIVIDER), [Swept(("v1", "dc"), np.zeros(3_000_000))], OUT)
    with pytest.raises(CircuitError, match="no parameter"):
        dc_sweep(structure(DIVIDER), [Swept(("v1", "tc1"), np.zeros(3))], OUT)


def test_transfer_and_resistances() -> None:
    """Beside the divider's own, an emitter follower: rin = (beta + 1) (re + RE), rout = re (common practice)."""
    result = transfer_function(structure(DIVIDER), ("out", "0"), "v1")
    assert (result.transfer[0], result.input_resistance[0], result.output_resistance[0]) == pytest.approx(
        (0.5, 2e3, 500)
    )
    text = "vcc c 0 10\nvb b 0 5\nq1 c b e m\nre e 0 1k\n.model m npn(bf=100 is=1f)"
    follower = transfer_function(structure(text), ("e", "0"), "vb")
    current = follower.operating_point.value("e") / 1e3 * 100 / 101
    dynamic = 0.0258649 / current * 100 / 101
    assert follower.input_resistance[0] == pytest.approx(101 * (1e3 + dynamic), rel=1e-4)
    assert follower.output_resistance[0] == pytest.approx(1 / (1 / dynamic + 1e-3), rel=1e-3)
    by_current = transfer_function(structure("i1 0 a 1m\nr1 a b 1k\nr2 b 0 2k\nv2 b 0 0"), ("i(v2)", "0"), "i1")
    assert (by_current.transfer[0], by_current.input_resistance[0]) == pytest.approx((1, 1e3))


def test_a_series_resistance_varies_from_zero_on() -> None:
    """A diode's RS adds a node: swept from 0, the circuit is compiled with it (compiled alone with each value)."""
    text = "i1 0 a 1m\nd1 a 0 d1m\n.model d1m d(is=1e-14{})"
    found = dc_sweep(structure(text.format("")), [Swept(("d1", "rs"), np.array([0.0, 10.0, 100.0]))], [("a", "0")])
    for ohms, volts in zip((0.0, 10.0, 100.0), found.values[0, 0], strict=True):
        alone = operating_point(structure(text.format(f" rs={ohms}")))
        assert volts == pytest.approx(alone.value("a"), abs=3e-9)


@pytest.mark.parametrize(
    ("key", "values", "message"),
    [
        (("q1", "bf"), [100.0, -1.0], "bf = -1 .*above zero"),
        (("c1", "capacitance"), [-1e-9], "must not be negative"),
        (("r1", "resistance"), [1e3, -5.0], "other side of zero"),
        (("q1", "polarity"), [1.0, -1.0], "other equations"),
    ],
)
def test_what_a_netlist_refuses_is_refused_in_rows_and_sweeps(
    key: tuple[str, str], values: list[float], message: str
) -> None:
    circuit = structure("v1 c 0 5\nr1 c b 1meg\nq1 c b 0 q\nc1 b 0 1n\n.model q npn(bf=100)")
    with pytest.raises(CircuitError, match=message):
        ParameterMatrix.varied(circuit, {key: np.array(values)})
    with pytest.raises(CircuitError, match=message):
        dc_sweep(circuit, [Swept(key, np.array(values))], [("c", "0")])
