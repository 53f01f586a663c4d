"""Errors of real parts around a model: what they do to a stage by the textbook's sums, and how they vary."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.core.boards import board, r, run_rows, supply
from verdad_core.arrays import Floats
from verdad_core.checks.error_sources import ERROR_SOURCES, amount_of, errors_of
from verdad_core.checks.keys import said
from verdad_core.checks.quantities import engine_key, quantity, with_quantity
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.document.parts import Modelled
from verdad_core.errors import BoardError
from verdad_core.intake.bundle import bundle
from verdad_core.intake.model import Model
from verdad_core.interchange.to_netlist import to_netlist
from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.spreads.amount import parse_amount
from verdad_core.studies.kind import kind_of
from verdad_core.studies.rows import Rows
from verdad_core.studies.table import NOTHING
from verdad_core.studies.variations import usual_amount

_TEXT = b".subckt amp p m o\ne1 o 0 p m 1e9\n.ends\n.subckt reg i o g\ne1 o g i g 0.5\n.ends\n"
_FILES, _ = bundle([("m.lib", _TEXT)])
MODELS = {
    "amp": Model(_FILES, "m.lib", "amp", ("in+", "in-", "out")),
    "reg": Model(_FILES, "m.lib", "reg", ("in", "out", "ground")),
}
NAMES = ("U1.offset-voltage", "U1.bias-current", "U1.offset-current")


def modelled(model: str, pins: dict[str, str], **more: Any) -> dict[str, Any]:
    return {"kind": "modelled", "designator": "U1", "model": {"id": model, "name": model}, "pins": pins, **more}


def stage(parts: list[dict[str, Any]]) -> Board:
    asked = [{"id": "v", "key": "value", "of": "v(out)"}]
    return board(parts, [supply("far", "4")], "operating point", measurements=asked)


#: A gain of 11, its input at ground behind 2 kΩ.
AMPLIFIER = stage(
    [modelled("amp", {"in+": "p", "in-": "m", "out": "out"}), r("R1", "2k", "p", "gnd"),
     r("R2", "10k", "m", "out"), r("R3", "1k", "m", "gnd"), r("R4", "1k", "far", "gnd")]
)  # fmt: skip
REGULATOR = stage([modelled("reg", {"in": "far", "out": "out", "ground": "gnd"}), r("R1", "1k", "out", "gnd")])


def expected(offset: float | Floats, bias: float | Floats, difference: float | Floats) -> float | Floats:
    """(1 + R2/R3) (Vos - (Ib + Ios/2) R1) + (Ib - Ios/2) R2 (any textbook on operational amplifiers, from memory)."""
    return 11 * (offset - (bias + difference / 2) * 2e3) + (bias - difference / 2) * 10e3


def volts(drawn: Board) -> float:
    return run_check(drawn, "k", MODELS).measured[0].value


@pytest.mark.parametrize("given", [(2e-3, 0, 0), (0, 100e-9, 0), (0, 0, 40e-9), (-1e-3, 50e-9, -10e-9)])
def test_offset_and_input_currents_do_what_the_textbook_says(given: tuple[float, float, float]) -> None:
    drawn = AMPLIFIER
    for name, value in zip(NAMES, given, strict=True):
        drawn = with_quantity(drawn, "k", name, repr(value))
    # A gain of 1e9 leaves 1e-8 of it.
    assert volts(drawn) == pytest.approx(expected(*given), rel=1e-7, abs=1e-12)


def test_the_error_of_an_output_adds_to_it() -> None:
    assert volts(REGULATOR) == pytest.approx(2.0)
    assert volts(with_quantity(REGULATOR, "k", "U1.output-error", "-25m")) == pytest.approx(1.975)


def test_they_vary_in_a_study_though_the_drawing_has_none() -> None:
    spreads = [{"of": name, "contributions": [{"amount": amount}]}
               for name, amount in zip(NAMES, ("±2mV", "±100nA", "±40nA"), strict=True)]  # fmt: skip
    study = {"kind": "monte carlo", "id": "s", "title": "s", "checks": ["k"], "rows": 20}
    drawn = Board.model_validate({**AMPLIFIER.model_dump(mode="json"), "spreads": spreads, "studies": [study]})
    values = kind_of(drawn.studies[0]).values(drawn, "k", MODELS, 0, 20, NOTHING)
    table = run_rows(drawn, drawn.studies[0], MODELS, 0, 20)
    assert table.values[:, 0] == pytest.approx(np.asarray(expected(*(values[name] for name in NAMES))), rel=1e-6)
    assert np.ptp(table.values) > 0.02
    assert volts(drawn) == pytest.approx(0.0, abs=1e-12)
    # They are numbers of the engine: no row is compiled by itself.
    rows = Rows(drawn, drawn.studies[0], "k", MODELS)
    assert all(engine_key(rows.circuit, rows.check, name)[1] == "dc" for name in NAMES)


def test_a_part_has_those_that_its_pins_allow() -> None:
    [amplifier, *_] = AMPLIFIER.circuits[0].parts
    [regulator, *_] = REGULATOR.circuits[0].parts
    assert isinstance(amplifier, Modelled)
    assert isinstance(regulator, Modelled)
    assert list(errors_of(amplifier)) == ["offset-voltage", "bias-current", "offset-current"]
    assert list(errors_of(regulator)) == ["output-error"]
    # A part that has none says no more than it ever did: its evidence stays.
    assert "errors" not in str(said(amplifier))
    pins = {f"{unit}.{role}": f"{unit}{role}" for unit in "AB" for role in ("in+", "in-", "out")}
    dual = amplifier.model_copy(update={"pins": pins, "units": 2})
    assert list(errors_of(dual))[:2] == ["A.offset-voltage", "A.bias-current"]
    assert quantity(*AMPLIFIER.check("k"), NAMES[0]).unit == "V"
    wrong = regulator.model_copy(update={"errors": {"bias-current": "1n"}})
    circuit = REGULATOR.circuits[0].model_copy(update={"parts": (wrong, *REGULATOR.circuits[0].parts[1:])})
    with pytest.raises(BoardError, match="has no bias-current"):
        volts(REGULATOR.model_copy(update={"circuits": (circuit,)}))
    assert "no statement says offset-voltage" in to_netlist(
        with_quantity(AMPLIFIER, "k", NAMES[0], "1m").circuits[0], MODELS
    )  # fmt: skip


def test_a_data_sheet_says_how_far_they_lie() -> None:
    lines = [DataSheetLine(figure="offset_voltage", typical=0.5e-3, most=2e-3),
             DataSheetLine(figure="output_voltage", least=2.45, typical=2.5, most=2.55)]  # fmt: skip
    offset, bias, _, output = ERROR_SOURCES.values()
    found = parse_amount(amount_of(offset, lines), "V")
    assert (found.low, found.high, found.absolute) == (-2e-3, 2e-3, True)
    around = parse_amount(amount_of(output, lines), "V")
    assert around.absolute
    assert (around.low, around.high) == pytest.approx((-0.05, 0.05))
    assert amount_of(bias, lines) == ""
    circuit, check = AMPLIFIER.check("k")
    usual = [usual_amount(circuit, quantity(circuit, check, name), {"amp": lines}) for name in (*NAMES[:2], "R1")]
    assert usual == ["±2 mV", "±1nA", "5"]
