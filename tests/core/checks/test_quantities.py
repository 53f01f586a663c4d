"""Quantities by name: looked up, turned, and swept."""

import pytest

from tests.core.boards import board, generic, pair, r, source, supply
from tests.core.circuits import DEMO_MODELS, demo
from verdad_core.checks.quantities import engine_key, quantities, quantity, with_quantity
from verdad_core.errors import BoardError

PARTS = [r("R1", "4k7", "in", "out"), generic("D1", "diode", {"anode": "out", "cathode": "gnd"}, bv="5.1")]
FIXTURES = [source("in", dc="2", waveform={"kind": "sine", "frequency": "50"}), supply("top", "12") | {"plus": "out"}]
BOARD = board(PARTS, FIXTURES, "operating point", temperature="85")


@pytest.mark.parametrize(
    ("name", "value", "unit"),
    [("R1", 4700, "Ω"), ("D1.bv", 5.1, "V"), ("vin", 2, "V"), ("vin.frequency", 50, "Hz"), ("vin.resistance", 0, "Ω"),
     ("stop", 12, "V"), ("temperature", 85, "°C")],
)  # fmt: skip
def test_are_found_and_turned(name: str, value: float, unit: str) -> None:
    found = quantity(*pair(BOARD), name)
    assert (found.value, found.unit) == (value, unit)
    turned = with_quantity(BOARD, "k", name, "3")
    assert quantity(*pair(turned), name).value == 3
    assert quantity(*pair(BOARD), name).value == value


@pytest.mark.parametrize("name", ["R9", "R1.power", "vin.name", "vin.__module__", "vin.nothing", "D1.nothing", ""])
def test_unknown_ones_are_refused_with_what_there_is(name: str) -> None:
    with pytest.raises(BoardError, match="no value called") as caught:
        quantity(*pair(BOARD), name)
    assert "temperature" in caught.value.remedy


def test_a_value_that_cannot_be_is_refused() -> None:
    for name, text, words in (
        ("R1", "-1", "must be above zero"),
        ("vin.frequency", "fast", "does not start"),
        ("temperature", "-300", "absolute zero"),
    ):
        with pytest.raises(BoardError, match=words):
            with_quantity(BOARD, "k", name, text)


def test_what_can_be_swept_at_rest() -> None:
    circuit, check = pair(BOARD)
    keys = {
        name: engine_key(circuit, check, name)
        for name in ("R1", "vin", "stop", "temperature", "D1.bv", "vin.resistance")
    }
    assert keys == {
        "R1": ("R1", "resistance"), "vin": ("vin", "dc"), "stop": ("stop", "dc"), "temperature": ("", "temperature"),
        "D1.bv": ("D1", "bv"), "vin.resistance": ("vin:resistance", "resistance"),
    }  # fmt: skip
    with pytest.raises(BoardError, match="cannot be swept"):
        engine_key(circuit, check, "vin.frequency")


def test_all_of_a_check_are_listed_with_those_of_models() -> None:
    circuit, check = demo().check("preamp-response")
    names = {found.name for found in quantities(circuit, check, DEMO_MODELS)}
    assert {"R1", "C1", "geophone.resistance", "positive-supply", "temperature"} <= names
    assert {found.name for found in quantities(*pair(BOARD), {})} >= {"D1.bv", "D1.is", "vin.amplitude"}


def test_a_models_parameter_is_turned() -> None:
    """A clamp's breakdown volts, which the model gives: the node follows it."""
    from verdad_core.checks.run import run_check
    from verdad_core.intake.bundle import Bundle, ModelText
    from verdad_core.intake.model import Model

    text = ModelText("clamp.lib", ".model clamp d(is=1e-14 bv=5.1 ibv=1m)\n", "ASCII")
    models = {"m": Model(Bundle((text,)), "clamp.lib", "clamp", ("anode", "cathode"))}
    clamp = {
        "kind": "modelled",
        "designator": "D1",
        "model": {"id": "m", "name": "clamp"},
        "pins": {"anode": "gnd", "cathode": "out"},
    }
    of = board([r("R1", "1k", "in", "out"), clamp], [source("in", dc="12")], "operating point",
               measurements=[{"id": "m", "key": "value", "of": "v(out)"}])  # fmt: skip
    assert {q.name for q in quantities(*pair(of), models)} >= {"D1.bv", "D1.is"}
    assert not any(q.name.endswith("polarity") for q in quantities(*pair(of), models))
    before = run_check(of, "k", models).measured[0].value
    after = run_check(with_quantity(of, "k", "D1.bv", "3.3"), "k", models).measured[0].value
    assert before == pytest.approx(5.1, abs=0.1)
    assert after == pytest.approx(3.3, abs=0.1)
