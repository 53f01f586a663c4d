from __future__ import annotations

from collections.abc import Mapping

import pytest

from tests.core.circuits import DEMO_MODELS, demo
from verdad_core.checks.feedback import feedback
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.sheet.review import review

SUPPLIES = [
    {"kind": "supply", "name": "p", "plus": "+5V", "volts": "5"},
    {"kind": "supply", "name": "n", "plus": "-5V", "volts": "-5"},
]
SOURCE = {"kind": "source", "name": "s", "plus": "in", "resistance": "50"}


def amplifier(name: str, plus: str, minus: str, out: str, key: str = "opamp", **pins: str) -> Mapping[str, object]:
    nets = {"in+": plus, "in-": minus, "out": out}
    supplies = {"v+": "+5V", "v-": "-5V"} if key == "opamp" else {}
    return {"kind": "generic", "designator": name, "part": key, "pins": nets | supplies | pins}


def resistor(name: str, a: str, b: str, value: str = "10k") -> Mapping[str, object]:
    return {"kind": "resistor", "designator": name, "value": value, "pins": [a, b]}


def circuit(*parts: Mapping[str, object]) -> Circuit:
    return Circuit.model_validate({"id": "c", "title": "c", "parts": list(parts)})


def check(*fixtures: Mapping[str, object], **more: object) -> Check:
    analysis = {"kind": "operating point"}
    return Check.model_validate({"id": "k", "title": "k", "fixtures": list(fixtures), "analysis": analysis} | more)


def rules(of: Circuit, around: Check | None = None) -> dict[str, str]:
    return {remark.rule: remark.message for remark in review(of, around, {}, {})}


STAGE = (amplifier("U1", "in", "fb", "out"), resistor("R1", "fb", "gnd", "1k"), resistor("R2", "out", "fb"))


def test_a_sound_stage_and_the_demo_have_no_remarks() -> None:
    assert rules(circuit(*STAGE), check(*SUPPLIES, SOURCE)) == {}
    [demo_circuit] = demo().circuits
    assert review(demo_circuit, demo_circuit.checks[0], DEMO_MODELS, {"amp": "op-amp"}) == []
    assert rules(circuit()) == {}


@pytest.mark.parametrize(
    ("parts", "rule", "message"),
    [
        ((resistor("R1", "in", "n7"), resistor("R2", "in", "gnd")), "pin open", "R1.2 is open"),
        ((resistor("R1", "in", "vref"), resistor("R2", "in", "gnd")), "net with one pin", "net vref has one pin only"),
        (
            (
                resistor("R1", "in", "gnd"),
                *(
                    {"kind": "capacitor", "designator": f"C{k}", "value": "1n", "pins": [a, "x"]}
                    for k, a in ((1, "in"), (2, "gnd"))
                ),
            ),
            "no direct-current path",
            "x: no direct-current path to ground",
        ),
        (
            (amplifier("U1", "gnd", "a", "o"), amplifier("U2", "gnd", "b", "o"), resistor("R1", "o", "a"),
             resistor("R2", "o", "b"), resistor("R3", "in", "gnd")),
            "output against output",
            "U1.out and U2.out both drive net o",
        ),
        (
            (amplifier("U1", "in", "out", "out", **{"v+": "-5V", "v-": "+5V"}), resistor("R1", "out", "gnd")),
            "supply pin on the wrong side",
            "v+ pin on -5V",
        ),
        ((amplifier("U1", "fb", "in", "out"), *STAGE[1:]), "inputs likely swapped", "9.09 % of its output comes back"),
        ((resistor("R1", "in", "gnd", ""),), "value missing", "R1 has no value"),
        ((resistor("R1", "in", "gnd", "10m"), resistor("R2", "in", "gnd", "5G")), "implausible value", "R2 has 5 GΩ"),
        (
            ({"kind": "modelled", "designator": "U1", "model": {"id": "x", "name": "gone"}, "pins": {"a": "in"}},
             resistor("R1", "in", "gnd")),
            "model missing",
            "its model gone is not on the shelf",
        ),
    ],
)  # fmt: skip
def test_each_rule_finds_its_fault(parts: tuple[Mapping[str, object], ...], rule: str, message: str) -> None:
    supplies = SUPPLIES if any(part["kind"] == "generic" for part in parts) else []
    assert message in rules(circuit(*parts), check(*supplies, SOURCE))[rule]


def test_a_source_that_is_swept_without_an_ac_value() -> None:
    silent = check(
        *SUPPLIES, {**SOURCE, "ac": "0"}, analysis={"start": "1", "stop": "1k", "source": "s", "output": "out"},
    )  # fmt: skip
    assert "whose AC magnitude is zero" in rules(circuit(*STAGE), silent)["source without AC value"]
    noise = {"kind": "noise", "source": "s", "output": "out"}
    quiet = check(*SUPPLIES, {**SOURCE, "ac": "0"}, analysis=noise)
    assert "source without AC value" not in rules(circuit(*STAGE), quiet)


def test_a_forgotten_supply() -> None:
    messages = [remark.message for remark in review(circuit(*STAGE), check(SOURCE), {}, {})]
    assert any("net +5V at U1.v+ has no supply" in message for message in messages) is False
    two = circuit(*STAGE, amplifier("U2", "in", "o2", "o2"))
    messages = [remark.message for remark in review(two, check(SOURCE), {}, {})]
    assert any("net +5V at U1.v+ has no supply" in message for message in messages)


def test_a_comparator_may_have_positive_feedback() -> None:
    parts = (amplifier("U1", "p", "in", "out", "comparator"), resistor("R1", "p", "gnd"), resistor("R2", "out", "p"))
    assert "inputs likely swapped" not in rules(circuit(*parts), check(SOURCE))


def test_parts_that_hang_on_nothing_are_reviewed_too() -> None:
    parts = (
        amplifier("U1", "n1", "n2", "n3", **{"v+": "n4", "v-": "n5"}),
        {"kind": "inductor", "designator": "L1", "value": "1m", "pins": ["n6", "n7"]},
        resistor("R1", "n8", "n9", "1m"),
    )
    found = rules(circuit(*parts))
    assert found["no ground"]
    assert "inputs likely swapped" not in found
    assert found["pin open"] == "R1.1, R1.2 are open"


def test_feedback_shares_are_those_of_the_divider() -> None:
    """By hand: 1 kΩ / (1 kΩ + 9 kΩ); through an inductor all of it; behind another output none."""
    parts = (
        amplifier("U1", "in", "fb", "out"), resistor("R1", "fb", "gnd", "1k"), resistor("R2", "out", "fb", "9k"),
        amplifier("U2", "gnd", "m", "o2"), resistor("R3", "out", "m"),
        {"kind": "inductor", "designator": "L1", "value": "1m", "pins": ["o2", "m"]},
    )  # fmt: skip
    found = feedback(circuit(*parts), check(SOURCE).fixtures)
    assert found["U1"] == pytest.approx((0.0, 0.1), abs=1e-6)
    assert found["U2"] == pytest.approx((0.0, 1.0), abs=1e-6)


def capacitor(name: str, a: str, b: str) -> Mapping[str, object]:
    return {"kind": "capacitor", "designator": name, "value": "10n", "pins": [a, b]}


def test_ground_is_a_parts_or_the_fixtures() -> None:
    parts = (resistor("R1", "in", "a"), resistor("R2", "in", "a"))
    assert rules(circuit(*parts))["no ground"] == "no part is connected to ground, so no voltage is defined"
    assert "no ground" not in rules(circuit(*parts), check(SOURCE))
    follower = (amplifier("U1", "in", "out", "out"),)
    assert rules(circuit(*follower), check(*SUPPLIES, SOURCE)) == {}


def test_an_integrator_and_loops_through_followers_with_exchanged_inputs() -> None:
    """Their only way back is a capacitor, or another amplifier."""
    loops = {
        "a capacitor": (resistor("R1", "in", "x"), capacitor("C1", "x", "out")),
        "a buffer": (resistor("R1", "in", "x"), amplifier("U2", "out", "b", "b"), resistor("R2", "b", "x")),
    }
    for what, rest in loops.items():
        divider = (resistor("R8", "y", "gnd"), resistor("R9", "y", "gnd"))
        sound, swapped = (
            rules(circuit(amplifier("U1", *inputs, "out"), *divider, *rest), check(*SUPPLIES, SOURCE))
            for inputs in (("y", "x"), ("x", "y"))
        )
        assert "inputs likely swapped" not in sound, what
        assert "inputs likely swapped" in swapped, what


def test_an_emitter_follows_its_base() -> None:
    follower = {
        "kind": "modelled", "designator": "Q1", "model": {"id": "m", "name": "npn"},
        "pins": {"collector": "+5V", "base": "drive", "emitter": "out"},
    }  # fmt: skip
    parts = (amplifier("U1", "in", "x", "drive"), follower, resistor("R1", "out", "x"), resistor("R2", "out", "gnd"))
    assert feedback(circuit(*parts), check(*SUPPLIES, SOURCE).fixtures)["U1"] == pytest.approx((0.0, 1.0), abs=1e-3)
