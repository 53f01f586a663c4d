import pytest

from verdad_core.devices import Control
from verdad_core.errors import NetlistError
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read


def test_subcircuits_expand_with_their_own_names_nodes_and_models() -> None:
    text = """
    .model dx d(is=1f)
    .subckt inner a b
    .model dx d(is=2f)
    d1 a x dx
    r1 x b 1k
    e1 b 0 a x 3
    f1 a b v1 2
    v1 x 0 0
    .ends
    .subckt outer p
    x1 p 0 inner
    d1 p 0 dx
    .ends
    x9 in outer
    """
    elements = {element.name: element for element in flatten(read(text).require()).elements}
    assert set(elements) == {"x9.x1.d1", "x9.x1.r1", "x9.x1.e1", "x9.x1.f1", "x9.x1.v1", "x9.d1"}
    assert elements["x9.x1.d1"].nodes == ("in", "x9.x1.x")
    assert elements["x9.x1.r1"].nodes == ("x9.x1.x", "0")
    assert elements["x9.x1.d1"].values["is"] == 2e-15
    assert elements["x9.d1"].values["is"] == 1e-15
    assert elements["x9.x1.e1"].controls == (Control("in", "x9.x1.x"),)
    assert elements["x9.x1.f1"].controls == (Control(source="x9.x1.v1"),)


@pytest.mark.parametrize(
    ("text", "message", "line"),
    [
        ("d1 1 0 nowhere", "model nowhere is not defined", 1),
        ("x1 1 0 nowhere", "subcircuit nowhere is not defined", 1),
        (".subckt a 1 2 3\nr1 1 2 1\n.ends\nx1 1 0 a", "has 2 nodes, subcircuit a has 3", 4),
        (".subckt a 1\nx1 1 a\n.ends\nx1 1 a", "contains itself", 2),
        (".model m npn\nd1 1 0 m", "is for a bipolar, not for a diode", 2),
        (".model m vnmos\nm1 1 2 0 0 m", "has three nodes: drain, gate, source", 2),
    ],
)
def test_what_does_not_fit_is_an_error_with_its_line(text: str, message: str, line: int) -> None:
    with pytest.raises(NetlistError, match=message) as caught:
        flatten(read(text))
    assert caught.value.place.line == line


def test_subcircuits_that_multiply_end_in_an_error() -> None:
    levels = [".subckt s0 1\nr1 1 0 1k\n.ends"]
    levels += [f".subckt s{k} 1\n" + "\n".join(f"x{j} 1 s{k - 1}" for j in range(10)) + "\n.ends" for k in range(1, 9)]
    with pytest.raises(NetlistError, match="more than 100,000 elements"):
        flatten(read("\n".join([*levels, "x1 a s8"])))
