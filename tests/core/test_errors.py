"""What an error says of its place."""

from verdad_core.errors import Place, VerdadError


def test_an_error_names_its_part_and_its_nodes_once() -> None:
    place = Place(line=3, part="R1", nodes=("out", "n1"))
    assert str(VerdadError("R1 has no value", place=place, remedy="Give it one.")) == (
        "line 3, nodes out, n1: R1 has no value. Give it one."
    )
    assert str(VerdadError("nothing holds out and n1", place=place)) == "line 3, part R1: nothing holds out and n1"
    assert str(VerdadError("R12 has no value", place=Place(part="R1"))) == "part R1: R12 has no value"
