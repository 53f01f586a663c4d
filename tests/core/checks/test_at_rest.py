"""A circuit at rest: Kirchhoff, watts, and the words for what stands out."""

import pytest

from tests.core.boards import RAILS, amplifier, board, generic, pair, r, source, supply
from tests.core.circuits import DEMO_MODELS, demo
from verdad_core.checks.at_rest import AtRest, at_rest
from verdad_core.checks.known import known_volts
from verdad_core.document.board import Board


def rest(of: Board) -> AtRest:
    circuit, check = pair(of)
    return at_rest(circuit, check, {}, {})


def words(of: Board) -> list[str]:
    return [f"{standing.part}: {standing.words}" for standing in rest(of).standings]


def test_currents_into_each_net_sum_to_zero() -> None:
    """Kirchhoff at every net of the demo; the amplifier's model has a ground of its own, so ground is left out."""
    circuit, check = demo().check("preamp-response")
    found = at_rest(circuit, check, DEMO_MODELS, {})
    for net in ("geo", "filt", "fb", "out", "+5V", "-5V"):
        pins = [
            f"{p.designator}.{k}"
            for p in circuit.parts
            if p.kind != "modelled"
            for k, n in enumerate(p.pins, 1)
            if n == net
        ]
        pins += [f"U1.{pin}" for p in circuit.parts if p.kind == "modelled" for pin, n in p.pins.items() if n == net]
        pins += [fixture.name for fixture in check.fixtures if fixture.plus == net]
        assert sum(found.currents[pin] for pin in pins) == pytest.approx(0, abs=1e-12)
    assert found.powers["U1"] == pytest.approx(10 * 4.1e-3, rel=0.01)
    assert found.standings == ()


def test_power_against_its_rating() -> None:
    """12 V over 100 Ω: 1.44 W and 120 mA."""
    part = r("R1", "100", "top", "gnd") | {"rating": {"power": "0.25", "voltage": "50", "current": "100m"}}
    found = rest(board([part], [supply("top", "12")], "operating point"))
    assert found.powers["R1"] == pytest.approx(1.44)
    assert [(s.words, s.grave) for s in found.standings] == [
        ("over its power rating", True),
        ("over its current rating", True),
    ]
    assert "1.44 W where 250 mW is allowed" in found.standings[0].why


@pytest.mark.parametrize(("base", "said"), [("0", ["Q1: cut off"]), ("0.7", []), ("5", ["Q1: saturated"])])
def test_regions_of_a_transistor(base: str, said: list[str]) -> None:
    parts = [generic("Q1", "npn", {"collector": "c", "base": "b", "emitter": "gnd"}), r("R1", "1k", "top", "c"),
             r("R2", "10k", "in", "b")]  # fmt: skip
    assert words(board(parts, [supply("top", "12"), source("in", dc=base)], "operating point")) == said


def test_a_pnp_is_looked_at_upside_down() -> None:
    parts = [generic("Q1", "pnp", {"collector": "c", "base": "b", "emitter": "top"}), r("R1", "1k", "c", "gnd"),
             r("R2", "10k", "b", "gnd")]  # fmt: skip
    assert words(board(parts, [supply("top", "5")], "operating point")) == ["Q1: saturated"]


@pytest.mark.parametrize(("gate", "said"), [("1", ["M1: cut off"]), ("3.3", []), ("10", ["M1: in its linear region"])])
def test_regions_of_a_power_mosfet(gate: str, said: list[str]) -> None:
    parts = [generic("M1", "power-nmos", {"drain": "d", "gate": "g", "source": "gnd"}), r("R1", "1", "top", "d"),
             r("R2", "1meg", "g", "gnd")]  # fmt: skip
    drive = supply("g", gate) | {"name": "drive"}
    assert words(board(parts, [supply("top", "12"), drive], "operating point")) == said


def test_an_output_at_its_limit() -> None:
    """A gain of ten with 2 V at its input would need 20 V."""
    parts = [amplifier("U1", "in", "fb", "out"), r("R1", "9k", "out", "fb"), r("R2", "1k", "fb", "gnd")]
    high = words(board(parts, [source("in", dc="2"), *RAILS], "operating point"))
    low = words(board(parts, [source("in", dc="-2"), *RAILS], "operating point"))
    assert (high, low) == (["U1: U1: output at its upper limit"], ["U1: U1: output at its lower limit"])
    assert words(board(parts, [source("in", dc="0.2"), *RAILS], "operating point")) == []


def test_a_circuit_with_two_states_is_shown_in_the_one_its_results_rest_on() -> None:
    """Two transistors that hold each other off: the search goes where it starts."""
    parts = [generic("Q1", "npn", {"collector": "a", "base": "x", "emitter": "gnd"}), r("R1", "1k", "top", "a"),
             generic("Q2", "npn", {"collector": "b", "base": "y", "emitter": "gnd"}), r("R2", "1k", "top", "b"),
             r("R3", "10k", "b", "x"), r("R4", "10k", "a", "y")]  # fmt: skip
    circuit, check = pair(board(parts, [supply("top", "5")], "operating point"))
    for low, high in (("a", "b"), ("b", "a")):
        found = at_rest(circuit, check, {}, {}, {low: 0.05, high: 5.0})
        assert found.voltages[low] < 0.2
        assert found.voltages[high] > 4.0


@pytest.mark.parametrize(("base", "said"), [("100m", "cut off"), ("10k", "saturated"), ("10meg", None)])
def test_regions_at_125_degrees(base: str, said: str | None) -> None:
    """Hot junctions conduct at 0.4 V: it is their current that counts."""
    level = "0.05" if said == "cut off" else "5"
    ohms = "10k" if base == "100m" else base
    parts = [r("R1", ohms, "drive", "b"), r("R2", "1k", "+5V", "c"),
             generic("Q1", "npn", {"collector": "c", "base": "b", "emitter": "gnd"})]  # fmt: skip
    hot = board(parts, [supply("drive", level), supply("+5V", "5")], "operating point", temperature="125")
    found = at_rest(*pair(hot), {}, {})
    assert [standing.words for standing in found.standings if standing.part == "Q1"] == ([said] if said else [])


def test_an_amplifier_in_current_limit_is_not_at_a_rail() -> None:
    """20 mA into 50 Ω: 1 V of the 3 V that are asked for."""
    parts = [amplifier("U1", "in", "out", "out"), r("R1", "50", "out", "gnd")]
    found = at_rest(*pair(board(parts, [supply("in", "3"), *RAILS], "operating point")), {}, {})
    [standing] = found.standings
    assert standing.words == "U1: its output cannot follow"
    assert "gives 19.2 mA" in standing.why


@pytest.mark.parametrize(
    ("value", "shown"), [(218e-15, 0.0), (-2.5e-29, 0.0), (20e-12, 20e-12), (-12.0, -12.0), (0.0, 0.0)]
)
def test_less_than_a_solution_knows_is_nothing(value: float, shown: float) -> None:
    assert known_volts(value, 12.0) == shown
