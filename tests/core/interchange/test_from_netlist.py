"""Netlists taken over as circuits, and circuits written as netlists: both ways nothing may change."""

from __future__ import annotations

import math
from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.boards import board, generic, r, supply
from tests.core.circuits import DEMO_MODELS, EVERYTHING, demo
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point
from verdad_core.checks.elaborate import elaborate
from verdad_core.checks.signals import Names
from verdad_core.checks.statements import nets_of_text, with_nets_of_text
from verdad_core.document.board import Circuit
from verdad_core.document.parts import Generic, Modelled, ModelReference, Resistor, Statement
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.errors import BoardError, NetlistError
from verdad_core.intake.bundle import bundle
from verdad_core.intake.model import Model
from verdad_core.interchange.from_netlist import ShelfModel, TakenOver, from_netlist, placed_models
from verdad_core.interchange.to_netlist import to_netlist
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
from verdad_core.units import parse_value, plain_value


def taken(text: str, models: dict[str, ShelfModel] | None = None, used: frozenset[str] = frozenset()) -> TakenOver:
    return from_netlist(read(text).require(), models or {}, used, "c1", "Pasted")


def whole(circuit: Circuit, models: dict[str, Model] | None = None) -> Structure:
    return compile_structure(elaborate(circuit, circuit.checks[0], models or {}))


def test_a_netlist_of_everything_simulates_as_before() -> None:
    took = taken(EVERYTHING)
    before = compile_structure(flatten(read(EVERYTHING)).elements)
    after = whole(took.circuit)
    assert Counter(e.family for e in after.elements) - Counter({"resistor": 1}) == Counter(
        e.family for e in before.elements
    )
    old, new = operating_point(before).node_voltages(), operating_point(after).node_voltages()
    for net in ("n1", "out", "o2", "o3", "o4", "e"):
        # A source without a resistance stands behind a micro-ohm on a board.
        assert new[net] == pytest.approx(old[net], rel=1e-6, abs=1e-9)
    f = np.array([1e3, 1e5])
    assert ac(after, f, [("o4", "0")]).values == pytest.approx(ac(before, f, [("o4", "0")]).values, rel=1e-5)


def test_a_source_that_only_an_expression_looks_at() -> None:
    """The board has no part at the source's net, but the circuit needs it, however it is written."""
    for text in ("vin IN 0 2\nb1 out 0 v=3*v(in)\nr1 out 0 1k", "vin in 0 2\ne1 out 0 poly(1) IN 0 0 3\nr1 out 0 1k"):
        circuit = taken(text).circuit
        assert operating_point(whole(circuit)).value("out") == pytest.approx(6, rel=1e-6)
        assert Names.of(circuit, circuit.checks[0]).net("in").lower() == "in"


def test_kinds_of_parts_and_names() -> None:
    took = taken(EVERYTHING)
    parts = {part.designator: part for part in took.circuit.parts}
    assert isinstance(parts["R1"], Resistor)
    assert parts["R1"].value == "4.7k"
    assert isinstance(parts["U1"], Generic)
    assert parts["U1"].settings == {"gbw": "8M"}
    assert isinstance(parts["E1"], Statement)
    assert (parts["E1"].pins, parts["E1"].text) == (("o2", "gnd", "n1", "gnd"), "{twice}")
    assert took.names["rload"] == next(p.designator for p in parts.values() if getattr(p, "text", "").endswith("0.001"))
    assert "i(vin)" in parts["B1"].text if isinstance(parts["B1"], Statement) else False
    [check] = took.circuit.checks
    assert (check.analysis.drivers, check.analysis.nets) == (("vin",), ("out",))
    assert [fixture.kind for fixture in check.fixtures] == ["source", "supply", "supply", "source"]


def test_models_on_the_shelf_become_parts_with_roles() -> None:
    text = ".subckt amp p n o\nr1 p n 1meg\ne1 o 0 p n 1e5\n.ends\nx7 in fb fb amp\nrl fb 0 1k\nvin in 0 1\n"
    files, _ = bundle([("pasted.cir", text.encode())])
    assert placed_models(read(text)) == ["amp"]
    shelf = {"amp": ShelfModel(ModelReference(id="amp-1", name="amp"), ("in+", "in-", "out"))}
    took = taken(text, shelf, frozenset({"U7", "R1"}))
    [amplifier, _] = took.circuit.parts
    assert isinstance(amplifier, Modelled)
    assert (amplifier.designator, amplifier.pins) == ("U1", {"in+": "in", "in-": "fb", "out": "fb"})
    models = {"amp-1": Model(files, "pasted.cir", "amp", ("in+", "in-", "out"))}
    assert operating_point(whole(took.circuit, models)).value("fb") == pytest.approx(1, rel=2e-5)
    written = to_netlist(took.circuit, models, took.circuit.checks[0])
    again = compile_structure(flatten(read(written, has_title=True).require()).elements)
    assert operating_point(again).value("fb") == pytest.approx(1, rel=2e-5)


def test_an_instance_without_a_model_on_the_shelf_stays_a_statement_with_its_subcircuit() -> None:
    text = ".subckt half a b k=2\nr1 a b 1k\nr2 b 0 {1k*(k-1)}\n.ends\nx1 in mid half k=4\nvin in 0 4\nrl mid 0 1meg\n"
    circuit = taken(text).circuit
    [instance, _] = circuit.parts
    assert isinstance(instance, Statement)
    assert instance.designator == "X1"
    # 3 kΩ beside 1 MΩ, behind 1 kΩ.
    lower = 1 / (1 / 3e3 + 1 / 1e6)
    assert operating_point(whole(circuit)).value("mid") == pytest.approx(4 * lower / (lower + 1e3), rel=1e-9)


def test_a_text_names_nets_in_probes_and_lists_of_nodes_only() -> None:
    assert nets_of_text("B1", "v={2*v(2)-V(a, 2)+i(vin)}") == ["2", "a", "2"]
    assert nets_of_text("E1", "poly(2) 2 0 b 0 1 2 3") == ["2", "0", "b", "0"]
    assert nets_of_text("F1", "poly(2) v1 v2 1 2") == []
    renamed = with_nets_of_text("E1", "poly(1) 2 0 0 2", lambda net: "sum" if net == "2" else net)
    assert renamed == "poly(1) sum 0 0 2"
    assert nets_of_text("S1", "power") == []


@pytest.mark.parametrize("text", ["* nothing\n", ".subckt a b c\nr1 b c 1\n.ends\n"])
def test_a_text_without_elements_is_refused(text: str) -> None:
    with pytest.raises(NetlistError, match="nothing to draw"):
        taken(text)


def test_a_statement_that_fails_names_its_part() -> None:
    took = taken("r1 a 0 1k\nb1 a 0 i=v(a)\nv1 a 0 1\n")
    parts = [
        part.model_copy(update={"text": "i={v(a)*}"}) if part.designator == "B1" else part
        for part in took.circuit.parts
    ]
    with pytest.raises(BoardError) as caught:
        whole(took.circuit.model_copy(update={"parts": tuple(parts)}))
    assert caught.value.place.part == "B1"


def test_the_demo_is_written_and_read_back() -> None:
    [circuit] = demo().circuits
    text = to_netlist(circuit, DEMO_MODELS, circuit.checks[0])
    read_back = operating_point(compile_structure(flatten(read(text, has_title=True).require()).elements))
    original = operating_point(whole(circuit, dict(DEMO_MODELS)))
    assert read_back.value("out") == pytest.approx(original.value("out"), rel=1e-9)


def test_what_follows_temperature_is_written_and_read_back() -> None:
    """Coefficients of both orders and a part that sits warmer; what no statement can say is remarked."""
    warm = r("R1", "10k", "in", "out") | {"tempco": "100ppm", "tempco2": "2u", "rise": "60"}
    parts = [warm, generic("U1", "opamp", dict.fromkeys(("in+", "in-", "v+", "v-", "out"), "out")) | {"rise": "20"}]
    drawn = board(parts, [supply("in", "12")], "operating point", temperature="85")
    circuit, check = drawn.check("k")
    text = to_netlist(circuit, {}, check)
    assert "* U1 is 20 °C warmer" in text
    assert ".temp 85.0" in text
    back = {element.name.lower(): element for element in flatten(read(text, has_title=True).require()).elements}
    [own] = [element for element in elaborate(circuit, check, {}) if element.name == "R1"]
    assert dict(back["r1"].values) == dict(own.values)
    assert own.values == {"resistance": 1e4, "tc1": 1e-4, "tc2": 2e-6, "rise": 60.0}


def test_the_board_only_has_nothing_of_the_fixture() -> None:
    [circuit] = demo().circuits
    names = {card.name for card in read(to_netlist(circuit, DEMO_MODELS), has_title=True).top.cards}
    assert names == {"r1", "r2", "c1", "xu1", "r3", "r4", "c2", "c3"}


node = st.sampled_from(["0", "a", "b", "c", "d"])
value = st.floats(1e-12, 1e9)
line = st.tuples(st.sampled_from("rcl"), node, node, value).filter(lambda item: item[1] != item[2])


@given(st.lists(line, min_size=1, max_size=12))
def test_connections_and_values_survive_the_way_there_and_back(lines: list[tuple[str, str, str, float]]) -> None:
    text = "".join(f"{kind}{k} {a} {b} {size!r}\n" for k, (kind, a, b, size) in enumerate(lines, 1))
    circuit = taken(text).circuit
    assert [part.kind for part in circuit.parts if isinstance(part, Statement)] == []
    back = flatten(read(to_netlist(circuit, {}), has_title=True).require()).elements
    for old, new in zip(flatten(read(text)).elements, back, strict=True):
        assert (old.family, old.nodes, dict(old.values)) == (new.family, new.nodes, dict(new.values))


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_plain_values_are_read_back_exactly(number: float) -> None:
    assert parse_value(plain_value(number)) == number


def test_parallel_devices_of_a_model_on_the_shelf_are_not_its_grading_coefficient() -> None:
    """Three diodes side by side: a third of the current in each, so Vt ln 3 less than one of them."""
    text = "v1 a 0 5\nr1 a b 1k\nd1 b 0 dm m={}\n.model dm d(is=1e-14 cjo=1p m=0.4)\n"
    files, _ = bundle([("pasted.cir", text.format(3).encode())])
    shelf = {"dm": ShelfModel(ModelReference(id="dm-1", name="dm"), ("anode", "cathode"))}
    models = {"dm-1": Model(files, "pasted.cir", "dm", ("anode", "cathode"))}
    one, three = (
        operating_point(whole(taken(text.format(m), shelf, frozenset()).circuit, models)).value("b") for m in (1, 3)
    )
    assert one - three == pytest.approx(0.025865 * math.log(3), rel=1e-2)
