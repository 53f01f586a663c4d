import re

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad.demo.board import model_text
from verdad_core.analyses.operating_point import Path, operating_point
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import ConvergenceError


def test_the_divider_of_common_practice() -> None:
    """5.1 V ± 2 %, 10.2 kΩ over 18.7 kΩ, ± 1 %: 3.3 V, extremes 3.3897 V and 3.2111 V (common practice, no source)."""
    circuit = structure("v1 in 0 5.1\nr1 in out 10.2k\nr2 out 0 18.7k")
    factors = np.array([[1, 1, 1], [1.02, 0.99, 1.01], [0.98, 1.01, 0.99]])
    changes = {
        ("v1", "dc"): 5.1 * factors[:, 0],
        ("r1", "resistance"): 10.2e3 * factors[:, 1],
        ("r2", "resistance"): 18.7e3 * factors[:, 2],
    }
    point = operating_point(circuit, ParameterMatrix.varied(circuit, changes))
    found = point.values[:, circuit.index("out")]
    assert found == pytest.approx([3.3, 3.3897, 3.2111], abs=5e-5)


def test_temperature_coefficients() -> None:
    """12 V, 10 kΩ (+0.010/°C) over 20 kΩ (+0.012/°C): 8.00 V at 27 °C, 7.79 V at 0 °C, 8.21 V at 100 °C
    (common practice, no source).
    """
    circuit = structure("v1 in 0 12\nr1 in out 10k tc1=0.010\nr2 out 0 20k tc1=0.012")
    matrix = ParameterMatrix.varied(circuit, {("", "temperature"): np.array([27.0, 0.0, 100.0])})
    found = operating_point(circuit, matrix).values[:, circuit.index("out")]
    assert found == pytest.approx([8.00, 7.79, 8.21], abs=5e-3)


def test_a_loop_of_gain_1e7_settles() -> None:
    circuit = structure("v1 in 0 1\ne1 out 0 in fb 1e7\nr1 out fb 9k\nr2 fb 0 1k")
    assert operating_point(circuit).value("out") == pytest.approx(10 / (1 + 1e-6), rel=1e-9)


def test_diode_and_transistor_chains_are_solved() -> None:
    """Long chains of exponentials from zero: Kirchhoff's voltage law must hold over the string of equal diodes."""
    diodes = "\n".join(f"d{k} n{k} n{k + 1} m" for k in range(20))
    circuit = structure(f"v1 n0 0 30\n{diodes}\nr1 n20 0 1k\n.model m d(is=1e-15)")
    point = operating_point(circuit)
    drops = -np.diff([point.value(f"n{k}") for k in range(21)])
    # GMIN shunts each junction a little differently: relative 1e-12 S * 0.75 V against 15 mA.
    assert drops == pytest.approx([drops[0]] * 20, rel=1e-8)


def test_an_op_amp_follower_sits_where_it_should() -> None:
    netlist = f"{model_text()}\nvp p 0 5\nvn n 0 -5\nv1 in 0 1.25\nx1 in out p n out ovn4183\nr1 out 0 2k"
    point = operating_point(structure(netlist))
    # Open-loop gain 120 dB and a matched input pair: the error is 1.25 V over 1e6, and less than 2 µV in all.
    assert point.value("out") == pytest.approx(1.25, abs=2e-6)


# Newton's method on v³ - 2v + 2 from 0 goes 0, 1, 0, 1, ... for ever; its one real root:
CYCLE = -1.7692923542386314  # numpy.roots([1, 0, -2, 2])


def test_where_newton_cycles_gmin_stepping_finds_the_root() -> None:
    point = operating_point(structure("i1 a 0 2\ng1 a 0 poly(1) a 0 0 -2 0 1"))
    assert point.path() is Path.GMIN_STEPPING
    assert point.value("a") == pytest.approx(CYCLE, rel=1e-9)


def test_where_shunts_change_nothing_source_stepping_finds_the_root() -> None:
    """The same cubic held by a voltage source, which no shunt at its node can move: v = 3v - v³ - 2u."""
    point = operating_point(structure("v1 u 0 1\ne1 a 0 poly(2) u 0 a 0 0 -2 3 0 0 0 0 0 0 -1\nr1 a 0 1k"))
    assert point.path() is Path.SOURCE_STEPPING
    assert point.value("a") == pytest.approx(CYCLE, rel=1e-9)


MODELS = (
    ".model qn npn(is=1e-15 bf=200 vaf=80 rb=50 re=0.5 rc=1)\n"
    ".model qp pnp(is=1e-15 bf=120 vaf=50 rb=60 re=0.6 rc=1.5)\n.model d d(is=1e-14)\n"
)


def test_what_only_junctions_hold_floats_to_where_no_current_flows() -> None:
    """An open emitter takes the voltage of base and collector, resistors behind one diode that of its other end.

    Rounding of 31 V times the emitter's 1.7 S is 5 fA, which makes 5 mV of the 1e-12 S over its junction.
    """
    emitter = operating_point(structure(f"{MODELS}vcc c 0 31.25\nrl e e2 47k\ncl e2 0 1n\nq0 c c e qp"))
    emitter.require()
    assert emitter.value("e") == pytest.approx(31.25, abs=1e-2)
    text = (
        f"{MODELS}vcc vcc 0 4.128\nr0 n0 n4 539k\nr2 n2 n0 780k\nr3 n3 n6 2.26k\nr4 n4 n0 988\nr5 n5 n3 18.4k\n"
        "r6 n6 n1 14.7k\nq0 n2 n4 n6 qn\nd1 n6 vcc d\nc1 n1 0 1n\nc5 n5 0 1n"
    )
    behind = operating_point(structure(text))
    behind.require()
    # Only conductances of 1e-12 S over junctions are left to make a current.
    assert behind.node_voltages() == pytest.approx(dict.fromkeys(behind.node_voltages(), 4.128), abs=1e-2)


def test_last_values_inside_of_transistors_are_volts() -> None:
    """A relay that opens by its own closing leaves no point at rest, nor to the transistor that looks at it."""
    text = (
        f"{MODELS}vcc vcc 0 12\nr1 vcc a 1k\ns1 a 0 a 0 sw\n.model sw sw(vt=6 vh=0 ron=1 roff=10meg)\n"
        "r2 a b 10k\nq1 c b 0 qn\nr3 vcc c 1k"
    )
    with pytest.raises(ConvergenceError, match="q1:base") as caught:
        operating_point(structure(text)).require()
    assert re.search(r"q1:base -?[\d.]+ (m|µ)?V", str(caught.value))


def test_a_circuit_without_solution_names_its_nodes() -> None:
    """V = 1 + v² has no real solution."""
    point = operating_point(structure("e1 a 0 poly(1) a 0 1 0 1\nr1 a 0 1k"))
    assert not point.path().solved
    with pytest.raises(ConvergenceError, match="no operating point") as caught:
        point.require()
    assert "a" in caught.value.place.nodes
    assert caught.value.remedy


def test_contradicting_sources_are_singular_and_named() -> None:
    point = operating_point(structure("e1 a 0 b 0 1\ne2 a 0 b 0 2\nr1 b 0 1k\nr2 a 0 1k"))
    assert point.path() is Path.SINGULAR
    with pytest.raises(ConvergenceError, match="no single solution") as caught:
        point.require()
    assert caught.value.place.nodes


def test_rows_do_not_depend_on_their_neighbours() -> None:
    circuit = structure("v1 in 0 3\nr1 in a 1k\nd1 a 0 m\nq1 in a e n\nr2 e 0 1k\n.model m d\n.model n npn")
    values = np.random.default_rng(5).uniform(100, 1e5, 300)
    whole = operating_point(circuit, ParameterMatrix.varied(circuit, {("r1", "resistance"): values})).values
    part = operating_point(circuit, ParameterMatrix.varied(circuit, {("r1", "resistance"): values[130:200]})).values
    assert np.array_equal(whole[130:200], part)
    one = operating_point(circuit, ParameterMatrix.varied(circuit, {("r1", "resistance"): values}), threads=1).values
    assert np.array_equal(whole, one)


#: Sources that push each node away from where they would leave it alone: no operating point, and long to find out.
ENDLESS = "v1 n0 0 5\n.model d d(is=1e-14)\n" + "".join(
    f"r{k} n{k} n{k + 1} 1k\nd{k} n{k + 1} 0 d\nb{k} n{k + 1} 0 i=1e-3*if(v(n{k + 1})>0.3,1,-1)\n" for k in range(1500)
)


class EnoughError(Exception):
    pass


@pytest.mark.parametrize("rows", [1, 200])
def test_a_search_that_takes_long_can_be_ended(rows: int) -> None:
    """Between two Newton iterations, in whichever of its rows it is: the whole search would look many times more."""
    circuit, looks = structure(ENDLESS), 0
    matrix = ParameterMatrix.varied(circuit, {("r0", "resistance"): np.full(rows, 1e3)})

    def look() -> None:
        nonlocal looks
        looks += 1
        if looks == 3:
            raise EnoughError

    with pytest.raises(EnoughError):
        operating_point(circuit, matrix, look=look)
    assert looks == 3


def test_a_search_that_is_looked_at_finds_the_same() -> None:
    circuit = structure("v1 a 0 3\nr1 a b 1k\nd1 b 0 d\n.model d d(is=1e-14)")
    assert np.array_equal(operating_point(circuit, look=lambda: None).values, operating_point(circuit).values)
