"""Ready stages: what their closed forms promise is what the engine measures, with ideal amplifiers."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.periodic import steady_state
from verdad_core.checks.elaborate import elaborate
from verdad_core.devices import Element
from verdad_core.devices.base import Control
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.engine.structure import compile_structure
from verdad_core.errors import BoardError
from verdad_core.handcalc.series import SERIES
from verdad_core.interchange.to_netlist import to_netlist
from verdad_core.stages import STAGES, compute
from verdad_core.stages.stage import Computed, Stage


def elements(computed: Computed) -> list[Element]:
    """The stage's parts, op-amps replaced by nullors: output takes what holds the inputs together."""
    circuit = Circuit(id="c", title="c", parts=computed.parts)
    check = Check.model_validate({"id": "k", "title": "k", "fixtures": [], "analysis": {"kind": "operating point"}})
    found = [e for e in elaborate(circuit, check, {}) if not e.name.startswith("U")]
    for part in computed.parts:
        if part.kind == "generic" and part.part == "opamp":
            a, b, out = ("0" if net == "gnd" else net for net in (part.pins[pin] for pin in ("in+", "in-", "out")))
            found.append(Element(part.designator, "nullor", (out, "0"), controls=(Control(a, b),)))
    return found


def response(stage: Stage, computed: Computed, frequency: np.ndarray, grounded: tuple[str, ...] = ()) -> np.ndarray:
    drive = Element("drive", "voltage source", (stage.input, "0"), {"ac": 1.0})
    grounds = [Element(f"g{net}", "voltage source", (net, "0")) for net in grounded]
    result = ac(compile_structure([*elements(computed), drive, *grounds]), frequency, [(stage.output, "0")])
    return np.asarray(result.values[0, 0])


def reached(computed: Computed, symbol: str) -> float:
    return next(line.reached for line in computed.reached if line.symbol == symbol)


@pytest.mark.parametrize("stage", STAGES.values(), ids=STAGES)
def test_every_stage_computes_preferred_values_near_its_goals(stage: Stage) -> None:
    computed = compute(stage, {})
    for line in computed.chosen:
        decade = 10 ** math.floor(math.log10(line.value) + 1e-12)
        assert any(math.isclose(line.value / decade, value, rel_tol=1e-9) for value in SERIES[line.series])
        assert abs(line.deviation) < 25
    for result in computed.reached:
        assert abs(result.error) < 12, result
    nets = {
        net for part in computed.parts for net in (part.pins if isinstance(part.pins, tuple) else part.pins.values())
    }
    assert {stage.input, stage.output} <= nets


@pytest.mark.parametrize(
    ("key", "grounded", "sign"),
    [("non-inverting", (), 1), ("inverting", (), -1), ("summing", ("in2", "in3"), -1), ("difference", ("inn",), 1),
     ("instrumentation", ("inn",), 1), ("follower", (), 1)],
)  # fmt: skip
def test_gains(key: str, grounded: tuple[str, ...], sign: int) -> None:
    computed = compute(STAGES[key], {})
    gain = reached(computed, "A") if key != "follower" else 1.0
    [measured] = response(STAGES[key], computed, np.array([1.0]), grounded)
    assert measured == pytest.approx(sign * gain, rel=1e-9)


@pytest.mark.parametrize("quality", ["0.6", "0.7071", "3"])
@pytest.mark.parametrize("key", ["low-pass-follower", "low-pass-feedback", "high-pass-follower", "high-pass-feedback"])
def test_filters_have_the_quality_and_frequency_of_their_values(key: str, quality: str) -> None:
    """At its natural frequency a second-order section has Q times the gain of its pass band, a quarter turn on."""
    computed = compute(STAGES[key], {"Q": quality})
    f = reached(computed, "f")
    at, far = response(STAGES[key], computed, np.array([f, f * 1e-5 if key.startswith("low") else f * 1e5]))
    assert abs(at / far) == pytest.approx(reached(computed, "Q"), rel=1e-4)
    assert (at / far).real == pytest.approx(0, abs=1e-3)


@pytest.mark.parametrize("key", ["band-pass-feedback", "band-pass-follower"])
def test_band_passes_are_f_over_q_wide(key: str) -> None:
    """Half power lies at f (√(1 + 1/4Q²) ± 1/2Q)."""
    computed = compute(STAGES[key], {})
    f, q = reached(computed, "f"), reached(computed, "Q")
    edges = [f * (math.sqrt(1 + 1 / (4 * q * q)) + side / (2 * q)) for side in (-1, 1)]
    middle, low, high = np.abs(response(STAGES[key], computed, np.array([f, *edges])))
    assert [low / middle, high / middle] == pytest.approx([math.sqrt(0.5)] * 2, rel=1e-6)
    if key == "band-pass-feedback":
        assert middle == pytest.approx(reached(computed, "A"), rel=1e-6)


def test_corner_frequencies() -> None:
    for key in ("rc", "integrator"):
        computed = compute(STAGES[key], {})
        [measured] = np.abs(response(STAGES[key], computed, np.array([reached(computed, "f")])))
        # The integrator's resistor for direct current lowers its gain by 1/2A² = 5e-5.
        assert measured == pytest.approx(math.sqrt(0.5) if key == "rc" else 1.0, rel=1e-4)


def test_the_multiplied_capacitance_moves_the_corner_a_thousandfold() -> None:
    """Common practice, no source: 100 pF times 1 MΩ/1 kΩ behind 1 MΩ, 1591.5 Hz becomes 1.6 Hz."""
    computed = compute(STAGES["capacitance-multiplier"], {"Ce": "100n", "C": "100p", "R": "1M"})
    source = [
        Element("drive", "voltage source", ("s", "0"), {"ac": 1.0}),
        Element("rs", "resistor", ("s", "in"), {"resistance": 1e6}),
    ]
    structure = compile_structure([*elements(computed), *source])
    [low, at] = np.abs(ac(structure, np.array([1e-3, 1.5915]), [("in", "0")]).values[0, 0])
    assert at / low == pytest.approx(math.sqrt(0.5), rel=5e-3)


def test_snubber_and_current_source_by_hand() -> None:
    """Common practice, no source: 1 mH at 1.2 A holds 0.72 mJ; a rise of 24 V takes 2.5 µF and 20 Ω."""
    chosen = {line.part: line.exact for line in compute(STAGES["snubber"], {}).chosen}
    assert chosen["C1"] == pytest.approx(2.5e-6)
    assert chosen["R1"] == pytest.approx(20)
    assert 0.5 * chosen["L1"] * 1.2**2 == pytest.approx(0.72e-3)


def test_the_current_source_draws_its_current() -> None:
    computed = compute(STAGES["current-source"], {"I": "1m", "V": "1"})
    around = [
        Element("drive", "voltage source", ("in", "0"), {"dc": 1.0}),
        Element("load", "resistor", ("vp", "out"), {"resistance": 1e3}),
        Element("supply", "voltage source", ("vp", "0"), {"dc": 5.0}),
    ]
    point = operating_point(compile_structure([*elements(computed), *around]))
    # Of the emitter's current 1/(1 + beta) comes from the base; the generic transistor has a gain of 100.
    assert (5.0 - point.value("out")) / 1e3 == pytest.approx(1e-3 * 100 / 101, rel=1e-3)


def test_the_step_down_converter_ripples_as_computed() -> None:
    """The engine's periodic steady state with nearly ideal switches, in place of the formulas."""
    computed = compute(STAGES["step-down-synchronous"], {})
    parts = tuple(
        p.model_copy(update={"settings": {"ron": "1m"}}) if p.kind == "generic" and "switch" in p.part else p
        for p in computed.parts
    )
    period, duty = 1 / 300e3, 3.3 / 12
    board = to_netlist(Circuit(id="c", title="c", parts=parts), {}).replace(".end", "")
    gates = (
        f"vu upper 0 pulse(0 1 0 0 0 {duty * period} {period})",
        f"vl lower 0 pulse(1 0 0 0 0 {duty * period} {period})",
    )
    [found] = steady_state(structure("\n".join([board, "vin in 0 12", *gates, "rl out 0 3.3"])), period)
    assert found.mean("out") == pytest.approx(3.3, rel=5e-3)
    # A millihm and the output's own ripple count for less than these tolerances.
    assert np.ptp(found.value("i(l1)")) == pytest.approx(reached(computed, "r") * 1.0, rel=1e-2)
    assert np.ptp(found.value("out")) == pytest.approx(reached(computed, "U"), rel=2e-2)


def test_the_converter_driver_settles_to_half_an_lsb() -> None:
    computed = compute(STAGES["converter-driver"], {"N": "16", "t": "500n"})
    tau = math.prod(line.value for line in computed.chosen)
    assert math.exp(-reached(computed, "t") / tau) == pytest.approx(2**-17)


@pytest.mark.parametrize(
    ("goals", "message"),
    [
        ({"A": "0"}, "it must be above zero"),
        ({"A": "10kk"}, "Gain: .*two prefixes"),
        ({"A": "0.5"}, "R2 = \\(A − 1\\) R1 has no value above zero"),
        ({"B": "1"}, "has no goal 'B'"),
    ],
)
def test_goals_that_cannot_be(goals: dict[str, str], message: str) -> None:
    with pytest.raises(BoardError, match=message):
        compute(STAGES["non-inverting"], goals)


@pytest.mark.parametrize(
    ("key", "goals"),
    [("band-pass-follower", {"Q": "100"}), ("integrator", {"A": "1"}), ("band-pass-feedback", {"A": "99"})],
)
def test_values_that_make_no_such_stage_are_refused(key: str, goals: dict[str, str]) -> None:
    """A quality factor below zero is an oscillator, and a gain of one at direct current falls below one at once."""
    with pytest.raises(BoardError):
        compute(STAGES[key], goals)


@pytest.mark.parametrize("key", ["non-inverting", "instrumentation"])
def test_a_gain_of_one_needs_no_resistor(key: str) -> None:
    """By exact nodal analysis with an ideal amplifier the output repeats the input."""
    computed = compute(STAGES[key], {"A": "1"})
    assert [(each.symbol, each.reached) for each in computed.reached] == [("A", 1.0)]
    [measured] = response(STAGES[key], computed, np.array([1.0]), ("inn",) if key == "instrumentation" else ())
    assert measured == pytest.approx(1.0, rel=1e-9)


@pytest.mark.parametrize("at_rest", ["3", "30", "300"])
def test_an_integrator_reaches_gain_one_where_its_form_says(at_rest: str) -> None:
    """|H| = (R2 / R1) / √(1 + (2π f R2 C1)²) is one at f, R2 included."""
    computed = compute(STAGES["integrator"], {"A": at_rest, "f": "1k"})
    value = {each.part: each.value for each in computed.chosen}
    reached = next(each.reached for each in computed.reached if each.symbol == "f")
    size = (value["R2"] / value["R1"]) / math.hypot(1.0, 2 * math.pi * reached * value["R2"] * value["C1"])
    assert size == pytest.approx(1.0, rel=1e-12)
