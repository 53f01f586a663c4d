"""Models as parts have them: placed on a board's nets."""

from __future__ import annotations

import pytest

from verdad_core.analyses.operating_point import operating_point
from verdad_core.devices import Element
from verdad_core.devices.trade import TRADE
from verdad_core.document.board import Circuit
from verdad_core.document.parts import ModelReference
from verdad_core.engine.structure import compile_structure
from verdad_core.intake.bundle import bundle
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model
from verdad_core.intake.reading import read_bundle
from verdad_core.interchange.from_netlist import ShelfModel, from_netlist
from verdad_core.interchange.to_netlist import to_netlist
from verdad_core.netlist.reader import read

#: The roles of a device's pins, by the type of its `.model`; switches that follow a current have no pin for it.
ROLES = {
    word.word: KINDS[row.kind].roles for row in TRADE.values() for word in row.words if row.kind and not word.by_current
}


def test_a_switch_of_a_file_turns_with_its_control_and_survives_the_netlist() -> None:
    """On above 2 V on its control, off below 1 V: 1 Ω and 1 MΩ beside 1 kΩ."""
    files, _ = bundle([("m.lib", b".model door vswitch(von=2 voff=1 ron=1 roff=1meg)\n")])
    model = Model(files, "m.lib", "door", ("a", "b", "control"))
    for volts, expected in ((3.0, 1 / 1001), (0.0, 1e6 / (1e6 + 1e3))):
        placed = model.elements("S1", {"a": "out", "b": "0", "control": "g"})
        around = [Element("r", "resistor", ("up", "out"), {"resistance": 1e3}),
                  Element("v", "voltage source", ("up", "0"), {"dc": 1.0}),
                  Element("c", "voltage source", ("g", "0"), {"dc": volts})]  # fmt: skip
        point = operating_point(compile_structure([*placed, *around]))
        assert point.value("out") == pytest.approx(expected, rel=1e-6)
    parts = ({"kind": "modelled", "designator": "S1", "model": {"id": "m", "name": "door"},
              "pins": {"a": "out", "b": "gnd", "control": "g"}},
             {"kind": "resistor", "designator": "R1", "value": "1k", "pins": ["g", "out"]})  # fmt: skip
    circuit = Circuit.model_validate({"id": "c", "title": "c", "parts": parts})
    shelf = {"door": ShelfModel(ModelReference(id="m", name="door"), ("a", "b", "control"))}
    took = from_netlist(read(to_netlist(circuit, {"m": model})), shelf, set(), "c", "c")
    assert [part.model_dump()["pins"] for part in took.circuit.parts if part.kind == "modelled"] == [parts[0]["pins"]]


@pytest.mark.parametrize("kind", sorted(kind for kind, roles in ROLES.items() if roles))
def test_a_model_of_every_type_stands_on_its_nets(kind: str) -> None:
    """With every pin on a resistor to a volt, there is an operating point."""
    files, _ = bundle([("m.lib", f".model m {kind}\n".encode())])
    roles = ROLES[kind]
    model = Model(files, "m.lib", "m", roles)
    placed = model.elements("Q1", {role: f"net{k}" for k, role in enumerate(roles)})
    assert [element.name for element in placed] == ["Q1"]
    around = [Element(f"r{k}", "resistor", (f"net{k}", "up"), {"resistance": 1e3}) for k in range(len(roles))]
    up = Element("v1", "voltage source", ("up", "0"), {"dc": 1.0})
    ground = Element("r", "resistor", ("net1", "0"), {"resistance": 1e3})
    operating_point(compile_structure([*placed, *around, up, ground])).require()


@pytest.mark.parametrize(
    ("text", "name", "inverted"),
    [(".model t npn(bf=100)", "t", False), (".model t pnp(bf=100)", "t", True), (".model t pjf(vto=-2)", "t", True),
     (".subckt t c b e\nq1 c b x q\nre x e 0.1\n.model q pnp(bf=80)\n.ends", "t", True),
     (".subckt t c b e\nq1 c b e n\nq2 e c b p\n.model n npn\n.model p pnp\n.ends", "t", False)],
)  # fmt: skip
def test_the_emitter_of_a_pnp_stands_on_top(text: str, name: str, inverted: bool) -> None:
    """Common practice, no source."""
    files, _ = bundle([("m.lib", text.encode())])
    kind = "jfet" if "pjf" in text else "bipolar"
    symbol = Model(files, "m.lib", name, KINDS[kind].roles).symbol(kind)
    assert symbol.shape == kind + ("-p" if inverted else "")
    [entry] = read_bundle(files).entries
    assert entry.inverted == inverted
