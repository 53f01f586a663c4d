import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad.demo.board import model_text
from verdad_core.errors import NetlistError, Severity
from verdad_core.intake.decode import decode
from verdad_core.intake.pins import Role, Sureness, role_of
from verdad_core.intake.reading import read_models

BODY = "r1 1 2 1k\n.ends\n"


def roles(text: str) -> list[str | None]:
    return [pin.role for pin in read_models(text).subcircuits[0].pins]


def test_the_demo_model_says_its_pins() -> None:
    reading = read_models(model_text())
    [subcircuit] = reading.subcircuits
    assert not reading.findings
    assert subcircuit.elements == 31
    assert [pin.role for pin in subcircuit.pins] == list(Role)
    assert {pin.sureness for pin in subcircuit.pins} == {Sureness.SAID}


def test_a_ladder_of_comments_in_another_order() -> None:
    text = "* OUT\n* | IN-\n* | | IN+\n* | | | VEE\n* | | | | VCC\n* | | | | |\n.subckt a 6 2 3 4 7\n" + BODY
    assert roles(text) == ["out", "in-", "in+", "v-", "v+"]


def test_a_list_in_a_comment() -> None:
    text = "* Node order: IN+, IN-, VCC, VEE, OUT\n.subckt a 3 2 7 4 6\n" + BODY
    assert roles(text) == ["in+", "in-", "v+", "v-", "out"]


def test_node_names_speak_for_themselves() -> None:
    text = ".subckt a vout inn inp vss vdd\nr1 vout inn 1k\n.ends"
    assert roles(text) == ["out", "in-", "in+", "v-", "v+"]


def test_bare_numbers_get_the_usual_order_as_a_guess() -> None:
    [subcircuit] = read_models(".subckt a 1 2 99 50 30\n" + BODY).subcircuits
    assert [pin.role for pin in subcircuit.pins] == list(Role)
    assert {pin.sureness for pin in subcircuit.pins} == {Sureness.GUESS}


def test_what_nothing_says_stays_unknown() -> None:
    [subcircuit] = read_models(".subckt a 1 2 3\n" + BODY).subcircuits
    assert {pin.role for pin in subcircuit.pins} == {None}


@pytest.mark.parametrize(
    ("label", "role"),
    [
        ("Non-Inverting Input", Role.INPUT_PLUS),
        ("inverting input", Role.INPUT_MINUS),
        ("POSITIVE POWER SUPPLY", Role.SUPPLY_PLUS),
        ("Negative supply", Role.SUPPLY_MINUS),
        ("V+", Role.SUPPLY_PLUS),
        ("VEE", Role.SUPPLY_MINUS),
        ("Output", Role.OUTPUT),
        ("shutdown", None),
    ],
)
def test_labels(label: str, role: Role | None) -> None:
    assert role_of(label) == role


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("just prose about nothing", "starts no element|incomplete"),
        ("", "defines no subcircuit"),
        (".subckt a 1 2\nd1 1 2 nowhere\n.ends", "model nowhere is not defined"),
        (".subckt a 1 2\nx1 1 2 3 b\n.ends\n.subckt b 1 2\nr1 1 2 1\n.ends", "has 3 nodes"),
    ],
)
def test_unusable_files_get_an_error(text: str, message: str) -> None:
    errors = [finding for finding in read_models(text).findings if finding.severity is Severity.ERROR]
    assert any(any(part in error.message for part in message.split("|")) for error in errors)


@given(st.binary(max_size=200))
def test_any_bytes_are_decoded_or_refused(data: bytes) -> None:
    try:
        assert "\0" not in decode(data)
    except NetlistError as error:
        assert error.remedy


def test_windows_text_and_line_ends() -> None:
    assert decode("* 5 µs, ±1 Ω\r\n.ends\r\n".encode("cp1252", errors="replace")) == "* 5 µs, ±1 ?\n.ends\n"


def test_twenty_megabytes_are_refused() -> None:
    with pytest.raises(NetlistError, match="larger than 4 MB"):
        decode(b"* \n" * 7_000_000)
