import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from verdad_core.document.board import Circuit
from verdad_core.document.connectivity import drawn_groups
from verdad_core.document.drawing import Drawing

PARTS = [
    {"kind": "resistor", "designator": "R1", "value": "1k", "pins": ["in", "out"]},
    {"kind": "capacitor", "designator": "C1", "value": "1n", "pins": ["out", "gnd"]},
]
DRAWING: dict[str, Any] = {
    "symbols": {"R1": {"x": 0, "y": 0}, "C1": {"x": 60, "y": 30, "turn": 1}},
    "marks": [{"id": "m1", "kind": "ground", "net": "gnd", "x": 60, "y": 60}],
    "joints": [{"id": "j1", "x": 40, "y": 0}],
    "wires": [
        {"ends": ["R1.2", "j1"], "points": [[30, 0], [40, 0]]},
        {"ends": ["j1", "C1.1"], "points": [[40, 0], [60, 0]]},
        {"ends": ["C1.2", "m1"], "points": [[60, 60]]},
    ],
    "notes": [],
}


def circuit(**changes: object) -> Circuit:
    drawing = json.loads(json.dumps(DRAWING)) | changes
    return Circuit.model_validate({"id": "c", "title": "c", "parts": PARTS, "drawing": drawing})


def test_a_drawing_that_shows_the_parts_nets_is_taken() -> None:
    drawn = circuit()
    assert drawn.drawing is not None
    assert Circuit.model_validate_json(drawn.model_dump_json()) == drawn


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"wires": DRAWING["wires"][:1] + DRAWING["wires"][2:]}, "net out is in two pieces"),
        (
            {"wires": [*DRAWING["wires"], {"ends": ["R1.1", "m1"], "points": [[0, 0]]}]},
            "connects C1.2 on net gnd with R1.1 on net in",
        ),
        ({"wires": [{"ends": ["R9.1", "R1.1"], "points": [[0, 0]]}]}, "a wire ends at R9.1, which is not on the sheet"),
        ({"symbols": {"R1": {"x": 0, "y": 0}}}, "C1 is not on the drawing"),
        ({"symbols": DRAWING["symbols"] | {"L1": {"x": 0, "y": 0}}}, "L1 is drawn, but is no part"),
        ({"marks": [DRAWING["marks"][0] | {"net": "vref"}]}, "with m1 on net vref"),
        ({"joints": [*DRAWING["joints"], {"id": "m1", "x": 0, "y": 0}]}, "gives two things one name"),
        ({"symbols": {"R1": {"x": 10**9, "y": 0}}}, "less than or equal"),
    ],
)
def test_a_drawing_that_shows_anything_else_is_refused(changes: dict[str, object], message: str) -> None:
    with pytest.raises(ValidationError, match=message):
        circuit(**changes)


def test_a_package_has_a_symbol_for_each_unit() -> None:
    pins = {"A.in+": "a", "A.out": "b", "B.in+": "c", "B.out": "d", "v+": "e"}
    part = {"kind": "modelled", "designator": "U1", "model": {"id": "m", "name": "m"}, "units": 2, "pins": pins}
    placed = {"x": 0, "y": 0}
    drawing = {"symbols": {"U1.A": placed, "U1.B": placed}}
    Circuit.model_validate({"id": "c", "title": "c", "parts": [part], "drawing": drawing})
    with pytest.raises(ValidationError, match=r"U1.B is not on the drawing"):
        Circuit.model_validate({"id": "c", "title": "c", "parts": [part], "drawing": {"symbols": {"U1.A": placed}}})


ENDS = [f"R{k}.{pin}" for k in range(1, 6) for pin in (1, 2)]


@given(st.lists(st.tuples(st.sampled_from(ENDS), st.sampled_from(ENDS)), max_size=12))
def test_groups_are_the_connected_components(wires: list[tuple[str, str]]) -> None:
    """Against a plain search from each pin."""
    drawing = Drawing.model_validate(
        {"symbols": {}, "wires": [{"ends": wire, "points": [[0, 0]]} for wire in wires]}
    )  # fmt: skip
    groups = drawn_groups(drawing, ENDS)
    assert sorted(end for group in groups for end in group) == sorted(ENDS)
    for group in groups:
        reached, pending = set[str](), [min(group)]
        while pending:
            end = pending.pop()
            reached.add(end)
            pending += [b for pair in wires for a, b in (pair, pair[::-1]) if a == end and b not in reached]
        assert reached == group
