"""Other parts in a part's place: what is the fault of the real one."""

import pytest

from tests.core.boards import RAILS, amplifier, board, r, source
from verdad_core.checks.run import run_check
from verdad_core.checks.variants import amplifier_parts, from_figures, idealised, with_model
from verdad_core.document.board import Board
from verdad_core.document.parts import Generic, ModelReference
from verdad_core.errors import BoardError
from verdad_core.intake.bundle import bundle
from verdad_core.intake.model import Model
from verdad_core.qualification.datasheet import DataSheetLine

STAGE_PART = amplifier("U1", "in", "fb", "out")
SLOW = b".subckt slow p n o\ng1 0 x p n 1m\nr1 x 0 100k\nc1 x 0 1u\ne1 o 0 x 0 1\n.ends\n"


def slow_stage() -> tuple[Board, dict[str, Model]]:
    """A gain of 11 with an amplifier of 100 V/V and 159 Hz of gain-bandwidth."""
    files, _ = bundle([("m.lib", SLOW)])
    part = {"kind": "modelled", "designator": "U1", "model": {"id": "m", "name": "slow"},
            "pins": {"in+": "in", "in-": "fb", "out": "out"}}  # fmt: skip
    drawn = board(
        [part, r("R1", "10k", "out", "fb"), r("R2", "1k", "fb", "gnd")], [source("in")], "frequency response",
        output="out", source="vin", analysis={"start": "10m", "stop": "100k"},
        measurements=[{"id": "gain", "key": "passband_gain"}, {"id": "corner", "key": "upper_cutoff"}],
    )  # fmt: skip
    return drawn, {"m": Model(files, "m.lib", "slow", ("in+", "in-", "out"))}


def numbers(drawn: Board, models: dict[str, Model]) -> dict[str, float]:
    return {measured.id: measured.value for measured in run_check(drawn, "k", models).measured}


def test_an_ideal_amplifier_shows_what_is_the_fault_of_the_real_one() -> None:
    """A/(1 + A/11) for A = 100, at 1.59 Hz (1 + A/11); 11 exactly for the ideal one (any text on op-amps)."""
    drawn, models = slow_stage()
    real, ideal = numbers(drawn, models), idealised(drawn, drawn.circuits[0], "U1")
    assert real["gain"] == pytest.approx(100 / (1 + 100 / 11), rel=1e-6)
    assert real["corner"] == pytest.approx((1 + 100 / 11) * 1.5915494, rel=1e-3)
    part = ideal.circuits[0].part("U1")
    assert isinstance(part, Generic)
    assert part.pins == {"in+": "in", "in-": "fb", "out": "out"}
    assert numbers(ideal, {})["gain"] == pytest.approx(11.0, rel=1e-12)


def test_an_ideal_amplifier_takes_supplies_that_fed_nothing_else_along() -> None:
    parts = [STAGE_PART, r("R1", "10k", "out", "fb"), r("R2", "1k", "fb", "gnd"), r("R3", "1k", "-5V", "gnd")]
    fed = board(parts, [*RAILS, source("in")], "frequency response", output="out", source="vin",
                measurements=[{"id": "gain", "key": "passband_gain"}])  # fmt: skip
    ideal = idealised(fed, fed.circuits[0], "U1")
    assert [fixture.plus for fixture in ideal.check("k")[1].fixtures] == ["-5V", "in"]
    assert numbers(ideal, {})["gain"] == pytest.approx(11.0, rel=1e-12)


def test_a_data_sheet_stands_for_an_amplifier() -> None:
    """40 dB and 1 kHz of gain-bandwidth: the same gain, a corner of 1 kHz / 11 and a hundredth more."""
    drawn, _ = slow_stage()
    with_supplies = board(
        [STAGE_PART, r("R1", "10k", "out", "fb"), r("R2", "1k", "fb", "gnd")], [*RAILS, source("in")],
        "frequency response", output="out", source="vin", analysis={"start": "10m", "stop": "100k"},
        measurements=[{"id": "gain", "key": "passband_gain"}, {"id": "corner", "key": "upper_cutoff"}],
    )  # fmt: skip
    lines = [DataSheetLine(figure="open_loop_gain", typical=40.0), DataSheetLine(figure="gain_bandwidth", least=1e3)]
    found = numbers(from_figures(with_supplies, with_supplies.circuits[0], "U1", lines), {})
    assert found["gain"] == pytest.approx(100 / (1 + 100 / 11), rel=1e-3)
    assert found["corner"] == pytest.approx(1e3 / 11 * (1 + 11 / 100), rel=2e-2)
    with pytest.raises(BoardError, match="no gain-bandwidth"):
        from_figures(with_supplies, with_supplies.circuits[0], "U1", lines[:1])
    # Supplies that nothing is on stay alone, and cost an answer, not the application.
    alone = from_figures(drawn, drawn.circuits[0], "U1", lines).circuits[0].part("U1")
    assert isinstance(alone, Generic)
    assert alone.pins["v+"] == "u1-vp"


def test_another_model_takes_the_pins_by_their_roles() -> None:
    drawn, models = slow_stage()
    swapped = b".subckt fast o n p\ne1 o 0 p n 1e6\n.ends\n"
    files, _ = bundle([("f.lib", swapped)])
    roles = ("out", "in-", "in+")
    other = with_model(drawn, drawn.circuits[0], "U1", ModelReference(id="f", name="fast"), roles)
    assert numbers(other, models | {"f": Model(files, "f.lib", "fast", roles)})["gain"] == pytest.approx(11, rel=1e-4)
    with pytest.raises(BoardError, match="no pin out"):
        with_model(drawn, drawn.circuits[0], "U1", ModelReference(id="f", name="fast"), ("in+", "in-"))
    with pytest.raises(BoardError, match="no part that another"):
        idealised(drawn, drawn.circuits[0], "R1")
    assert [part.designator for part in amplifier_parts(drawn.circuits[0])] == ["U1"]
