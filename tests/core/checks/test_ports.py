"""The check between ports: networks of scikit-rf's own elements, and lines by the book."""

import numpy as np
import pytest
import skrf
from skrf.media import DefinedGammaZ0

from tests.core.boards import board, c, pair, port, r, two
from verdad_core.checks.fresh import fresh_check, questions
from verdad_core.checks.run import CheckResult, run_check
from verdad_core.document.board import Board
from verdad_core.errors import BoardError

#: A low-pass of three elements, 50 Ω on one side and 75 Ω on the other.
FILTER = [c("C1", "100p", "a", "gnd"), two("inductor", "L1", "330n", "a", "b"), c("C2", "120p", "b", "gnd")]


def told(drawn: Board) -> CheckResult:
    result = run_check(drawn, "k", {})
    assert result.objection is None
    return result


def filtered(*fixtures: dict[str, object], **measured: str) -> Board:
    asks = [{"id": key.replace("_", "-"), "key": key, "of": of} for key, of in measured.items()]
    return board(FILTER, list(fixtures), "ports", measurements=asks, analysis={"start": "1meg", "stop": "1G"})


def by_library(frequency: np.ndarray, z0: list[complex]) -> skrf.Network:
    media = DefinedGammaZ0(skrf.Frequency.from_f(frequency, unit="Hz"), z0=50.0)
    found = media.shunt_capacitor(100e-12) ** media.inductor(330e-9) ** media.shunt_capacitor(120e-12)
    found.renormalize(z0)
    return found


def test_a_filter_between_unequal_ports_is_that_of_a_library() -> None:
    result = told(filtered(port("a", 1), port("b", 2, impedance="75"), upper_cutoff="s21"))
    assert result.signals is not None
    others = result.signals.others
    expected = by_library(others["s11"].along().values, [50.0, 75.0])
    for j, k in ((1, 1), (1, 2), (2, 1), (2, 2)):
        # The picosiemens at each node, and resistances of windings, are far below this.
        assert others[f"s{j}{k}"].values == pytest.approx(expected.s[:, j - 1, k - 1], abs=1e-9)
        assert others[f"z{j}{k}"].values == pytest.approx(expected.z[:, j - 1, k - 1], rel=1e-6)
    assert others["mu"].values == pytest.approx(np.ones(len(expected.f)), abs=1e-6)  # nothing is lost in it
    assert "dB go from port 1 to port 2, below 39.9 MHz (-3 dB)" in result.sentence
    assert "oscillate" not in result.sentence
    # Far above its pass band all comes back, and rounding says nothing of stability.
    wide = told(board(FILTER, [port("a", 1), port("b", 2)], "ports"))
    assert "oscillate" not in wide.sentence


def test_an_amplifier_that_feeds_back_through_its_gate_could_oscillate() -> None:
    """Fed back by a capacitor, a transconductance sees negative conductance with an inductive load: K below 1."""
    drain = {"kind": "statement", "designator": "G1", "pins": ["b", "gnd", "a", "gnd"], "text": "50m"}
    parts = [
        drain,
        c("C1", "2p", "a", "b"),
        c("C2", "5p", "a", "gnd"),
        r("R1", "10k", "a", "gnd"),
        r("R2", "5k", "b", "gnd"),
    ]
    result = told(board(parts, [port("a", 1), port("b", 2)], "ports", analysis={"start": "10meg", "stop": "1G"}))
    assert result.signals is not None
    assert np.nanmin(result.signals.others["rollett"].values) < 1.0
    assert "could make it oscillate" in result.sentence


def test_complex_impedances_are_those_of_power_waves() -> None:
    result = told(filtered(port("a", 1, reactance="20"), port("b", 2, impedance="75", reactance="-30")))
    assert result.signals is not None
    expected = by_library(result.signals.others["s11"].along().values, [50.0, 75.0])
    expected.renormalize([50.0 + 20j, 75.0 - 30j], s_def="power")
    found = np.array([[result.signals.others[f"s{j}{k}"].values for k in (1, 2)] for j in (1, 2)])
    assert found == pytest.approx(np.moveaxis(expected.s, 0, 2), abs=1e-9)


def test_the_delay_of_a_line_and_what_one_port_sees() -> None:
    """A matched line delays by its length; an open quarter wave is a short (any text on lines)."""
    line = {"kind": "statement", "designator": "T1", "pins": ["a", "gnd", "b", "gnd"], "text": "z0=50 td=1n"}
    parts = [line, r("R1", "1meg", "a", "gnd"), r("R2", "1meg", "b", "gnd")]
    drawn = board(parts, [port("a", 1), port("b", 2)], "ports",
                  analysis={"start": "1meg", "stop": "1G"},
                  measurements=[{"id": "d", "key": "maximum", "of": "delay(s21)"}])  # fmt: skip
    assert told(drawn).measured[0].value == pytest.approx(1e-9, rel=1e-3)
    single = board(parts, [port("a", 1)], "ports",
                   analysis={"start": "250meg", "stop": "250.001meg"})  # fmt: skip
    signals = told(single).signals
    assert signals is not None
    assert abs(signals.others["zin1"].values[0]) < 0.01
    assert "s21" not in signals.others


def test_ports_that_are_missing_or_share_a_number_are_told() -> None:
    circuit, check = pair(board(FILTER, [port("a", 1), {**port("b", 1), "name": "other"}], "operating point"))
    [asked] = [each for each in questions(circuit, check) if each.kind.title == "S-parameters"]
    assert "two ports have the number 1" in asked.missing
    with pytest.raises(BoardError, match="there are no ports"):
        fresh_check(board(FILTER, [], "operating point"), circuit, "ports", None)
