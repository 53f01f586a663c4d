from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.document.fixtures import Load, Port, Source, Supply
from verdad_core.errors import ValueTextError
from verdad_core.intake.symbols import default_symbol
from verdad_core.placing.typed import Choice, ShelfEntry, read_typed

ROLES = ("in+", "in-", "v+", "v-", "out")
SHELF = [
    ShelfEntry("ovn1-x", "ovn1", "op-amp", ROLES, default_symbol("op-amp", ROLES, ROLES), "an amplifier"),
    ShelfEntry("ovn12-x", "ovn12", "diode", ("anode", "cathode"), default_symbol("diode", ("anode", "cathode"))),
]


def first(text: str) -> Choice:
    return read_typed(text, SHELF)[0]


@pytest.mark.parametrize(
    ("text", "kind", "letter", "value", "tolerance"),
    [
        ("r 4k7 1%", "resistor", "R", "4k7", 1.0), ("R 4k7", "resistor", "R", "4k7", None),
        ("c 100n x7r", "capacitor", "C", "100n", 10.0), ("c 100n 5% x7r", "capacitor", "C", "100n", 5.0),
        ("l 10u", "inductor", "L", "10u", None), ("r", "resistor", "R", "", None),
        ("r ±0.1% 10k", "resistor", "R", "10k", 0.1),
    ],
)  # fmt: skip
def test_parts_with_values(text: str, kind: str, letter: str, value: str, tolerance: float | None) -> None:
    choice = first(text)
    assert (choice.what, choice.kind, choice.letter) == ("part", kind, letter)
    assert (choice.value, choice.tolerance) == (value, tolerance)


@pytest.mark.parametrize(
    ("text", "what", "net", "more"),
    [
        ("gnd", "ground", "gnd", ""), ("gnd C1.2", "ground", "gnd", "C1.2"), ("label vref", "label", "vref", ""),
        ("label out U1.out", "label", "out", "U1.out"), ("rail +5V", "rail", "+5V", ""), ("+12V", "rail", "+12V", ""),
        ("note mind the gap", "note", "", "mind the gap"), ("wire R1.2 U1.in+", "wire", "", "R1.2 U1.in+"),
    ],
)  # fmt: skip
def test_marks_fixtures_and_wires(text: str, what: str, net: str, more: str) -> None:
    choice = first(text)
    assert (choice.what, choice.net, choice.text) == (what, net, more)


@pytest.mark.parametrize(
    ("text", "fixture"),
    [
        ("source in 50", Source(name="source", plus="in", resistance="50")),
        ("supply -5V -5", Supply(name="supply", plus="-5V", volts="-5")),
        ("load out 10k", Load(name="load", plus="out", resistance="10k")),
        ("port out 75", Port(name="port", plus="out", impedance="75")),
        ("port in", Port(name="port", plus="in")),
        ("source in", Source(name="source", plus="in", resistance="0")),
    ],
)  # fmt: skip
def test_what_stands_outside_the_board_is_a_fixture(text: str, fixture: Source | Supply | Load) -> None:
    assert (first(text).what, first(text).net, first(text).fixture) == ("fixture", fixture.plus, fixture)


@pytest.mark.parametrize(
    ("text", "nets"),
    [
        ("r 1k in out", {"1": "in", "2": "out"}), ("c 100n x7r out GND", {"1": "out", "2": "gnd"}),
        ("r 1% 1k +5V n_1", {"1": "+5V", "2": "n_1"}), ("l 10u a 0", {"1": "a", "2": "gnd"}),
        ("q +5V b e", {"collector": "+5V", "base": "b", "emitter": "e"}), ("d a k", {"anode": "a", "cathode": "k"}),
        ("opamp p n +5V -5V out", dict(zip(ROLES, ("p", "n", "+5V", "-5V", "out"), strict=True))),
        ("ideal-opamp p n out", {"in+": "p", "in-": "n", "out": "out"}),
        ("ovn1 p n +5V -5V out", dict(zip(ROLES, ("p", "n", "+5V", "-5V", "out"), strict=True))), ("r 1k", {}),
    ],
)  # fmt: skip
def test_the_nets_of_a_parts_pins_may_follow(text: str, nets: dict[str, str]) -> None:
    assert first(text).nets == nets


def test_models_generic_parts_and_stages_by_the_beginning_of_their_names() -> None:
    assert [choice.model.name for choice in read_typed("ovn1", SHELF) if choice.model] == ["ovn1", "ovn12"]
    assert first("ovn12").letter == "D"
    assert first("ovn1 x2").units == 2
    assert (first("q").key, first("q").letter) == ("npn", "Q")
    assert first("pnp").key == "pnp"
    assert read_typed("d", [*SHELF, replace(SHELF[1], name="dd")])[0].key == "diode"
    assert first("u").key == "opamp"
    assert {choice.key for choice in read_typed("low-pass", SHELF)} == {"low-pass-follower", "low-pass-feedback"}
    assert read_typed("  ", SHELF) == []


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("r 10kk", "two prefixes"), ("r 1n F", "neither"), ("c 100n y5x", "neither a tolerance nor a grade"),
        ("r -5", "above zero"),
        ("r 4k7 200%", "is not one"), ("label", "a net's name is missing"), ("label a b", "is no pin"),
        ("wire R1.1", "two ends"),
        ("supply +5V", "has no V"), ("zzz", "nothing is called 'zzz'"), ("note", "the note is empty"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_says_why(text: str, message: str) -> None:
    with pytest.raises(ValueTextError, match=message) as caught:
        read_typed(text, SHELF)
    assert caught.value.remedy or "neither" in message or "two prefixes" in message or "above" in message


@given(st.text(max_size=60))
def test_any_text_is_read_or_refused_with_words(text: str) -> None:
    try:
        choices = read_typed(text, SHELF)
    except ValueTextError as error:
        assert error.message
    else:
        assert all(choice.title for choice in choices)
