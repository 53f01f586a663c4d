import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.operating_point import operating_point
from verdad_core.devices import Element
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import compile_structure
from verdad_core.errors import CircuitError


@pytest.mark.parametrize(
    ("text", "message", "names"),
    [
        ("r1 a b 1k\nr2 b a 1k", "nothing is connected to ground", ()),
        ("r1 a 0 1k\nc1 a b 1n\nc2 b 0 1n", "no direct-current path", ("b",)),
        ("i1 0 a 1\nc1 a 0 1n", "no direct-current path", ("a",)),
        ("v1 a 0 1\nv2 a 0 2", "closes a loop", ("a", "0")),
        ("v1 a 0 1\nl1 a 0 1m", "closes a loop", ("a", "0")),
        ("r1 a 0 1k\nr1 a 0 2k", "used twice", ()),
        ("r1 a 0 1k\nc1 a 0 -1n", "must not be negative", ()),
        ("r1 a 0 1k\nf1 a 0 v9 2", "is no element of the circuit", ()),
    ],
)
def test_what_cannot_be_solved_is_refused_by_name(text: str, message: str, names: tuple[str, ...]) -> None:
    with pytest.raises(CircuitError, match=message) as caught:
        structure(text)
    assert caught.value.place.nodes == names
    assert caught.value.remedy


def test_a_source_that_its_own_voltage_controls_leads_direct_current() -> None:
    """Also where a meter stands between it and the node, and where one such source shows another."""
    point = operating_point(structure("i1 0 a 1m\nvm a m 0\ng1 m 0 value={v(a)*1m}\nc1 a 0 1n"))
    assert point.value("a") == pytest.approx(1.0, rel=1e-9)
    point = operating_point(structure("i1 0 a 1m\ng1 b 0 a 0 1m\ng2 a b a b 1m"))
    assert (point.value("a"), point.value("b")) == pytest.approx((1.0, 0.0), abs=1e-9)
    with pytest.raises(CircuitError, match="no direct-current path"):
        structure("i1 0 a 1m\ng1 a 0 b 0 1m\nr1 b 0 1k")


def test_nodes_inside_of_parts_are_not_named_where_others_are() -> None:
    parts = [
        Element("meter:c1.1", "voltage source", ("a", "meter:c1.1"), {"dc": 0.0}),
        Element("c1", "capacitor", ("meter:c1.1", "0"), {"capacitance": 1e-9}),
    ]
    with pytest.raises(CircuitError) as caught:
        compile_structure(parts)
    assert caught.value.place.nodes == ("a",)


def test_an_empty_circuit_is_refused() -> None:
    with pytest.raises(CircuitError, match="empty"):
        structure("* nothing\n")


def test_parameters_and_unknowns_are_found_by_name() -> None:
    circuit = structure("v1 a 0 5\nr1 a b 1k\nr2 b 0 3k")
    assert circuit.unknowns == ("a", "b", "i(v1)")
    assert circuit.nominal[circuit.column("r2", "resistance")] == 3e3
    matrix = ParameterMatrix.varied(circuit, {("r1", "resistance"): np.array([1e3, 2e3])})
    assert matrix.rows == 2
    with pytest.raises(CircuitError, match="no parameter 'resitance'"):
        circuit.column("r1", "resitance")
    with pytest.raises(CircuitError, match="no node or branch 'x'"):
        circuit.index("x")


def test_other_values_and_what_cannot_have_them() -> None:
    circuit = structure("v1 a 0 5\nd1 a b m\nr2 b 0 3k\n.model m d(rs=1)")
    other = circuit.with_values({("r2", "resistance"): 1e3, ("v1", "dc"): 5.0})
    assert other.nominal[other.column("r2", "resistance")] == 1e3
    assert {e.name: e.values for e in other.elements}["r2"]["resistance"] == 1e3
    assert circuit.nominal[circuit.column("r2", "resistance")] == 3e3
    with pytest.raises(CircuitError, match="decides on the circuit's equations"):
        circuit.with_values({("d1", "rs"): 0.0})
    with pytest.raises(CircuitError, match="must be above zero"):
        circuit.with_values({("d1", "is"): -1e-14})
    assert circuit.with_nodesets({"b": 1.0, "nowhere": 2.0}).nodesets == {"b": 1.0}
