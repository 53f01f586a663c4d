"""What is looked at in a circuit where nobody says it."""

from __future__ import annotations

import pytest

from verdad_core.checks.outputs import only_controls
from verdad_core.document.board import Circuit
from verdad_core.document.parts import Generic, Resistor

CIRCUIT = Circuit(
    id="c", title="c",
    parts=(
        Resistor(designator="R1", value="10", pins=("drive", "g")),
        Resistor(designator="R2", value="10k", pins=("g", "gnd")),
        Generic(designator="M1", part="nmos", pins={"drain": "out", "gate": "g", "source": "gnd"}),
        Resistor(designator="R3", value="1k", pins=("in", "out")),
        Generic(designator="M2", part="nmos", pins={"drain": "in", "gate": "out", "source": "gnd"}),
    ),
)  # fmt: skip


@pytest.mark.parametrize(("net", "controls"), [("drive", True), ("g", True), ("in", False), ("out", False)])
def test_what_leads_to_gates_only_controls(net: str, controls: bool) -> None:
    assert only_controls(CIRCUIT, net) == controls
