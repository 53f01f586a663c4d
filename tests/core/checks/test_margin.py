"""What a loop bears, on a loop whose poles are written out."""

from __future__ import annotations

import re
from typing import Any

import control
import numpy as np
import pytest
from scipy.optimize import brentq

from tests.core.boards import asked, board, c, r, source
from verdad_core.checks.cause import Cause
from verdad_core.checks.experiment import prepare
from verdad_core.checks.kinds.margin import MARGIN, MarginCheck
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.engine.matrix import ParameterMatrix


def buffer(gain: float = 1e5, **settings: Any) -> Board:
    """A follower with poles at 10 Hz and 5 MHz behind 100 Ω."""

    def controlled(designator: str, text: str, *pins: str) -> dict[str, Any]:
        return {"kind": "statement", "designator": designator, "pins": list(pins), "text": text}

    parts = [
        controlled("E1", f"{gain:g}", "a", "gnd", "in", "out"),
        r("R1", "1k", "a", "b"), c("C1", "15.915494u", "b", "gnd"),
        controlled("E2", "1", "d", "gnd", "b", "gnd"), r("R2", "1k", "d", "e"), c("C2", "31.830989p", "e", "gnd"),
        controlled("E3", "1", "f", "gnd", "e", "gnd"), r("R3", "100", "f", "out"), c("C3", "1p", "out", "gnd"),
    ]  # fmt: skip
    asks = [{"id": "enough", "key": "crossing", "of": MARGIN, "settings": {"level": "45", "edge": "falling"}},
            {"id": "least", "key": "minimum", "of": MARGIN}]  # fmt: skip
    analysis = {"around": "R3.1", "net": "out", "steps": 20, **settings}
    return board(parts, [source("in")], "margin", analysis=analysis, measurements=asks)


def phase_margin(load: float, gain: float = 1e5, ohms: float = 100.0) -> float:
    """python-control's margin of the same loop."""

    def pole(hertz: float) -> Any:
        return control.tf([1.0], [1 / (2 * np.pi * hertz), 1.0])

    loop = control.tf([gain], [1.0]) * pole(10.0) * pole(5e6) * control.tf([1.0], [ohms * (load + 1e-12), 1.0])
    return float(control.margin(loop)[1])


def test_the_margin_against_a_load_is_that_of_the_loop_written_out() -> None:
    result = run_check(buffer(), "k", {})
    assert result.signals is not None
    trace = result.signals.others[MARGIN]
    for k in (0, 40, len(trace.values) - 1):
        load = float(trace.along().values[k])
        assert trace.values[k] == pytest.approx(phase_margin(load), abs=0.05), load
    found = {each.id: each.value for each in result.measured}
    wanted = brentq(lambda load: phase_margin(load) - 45.0, 1e-11, 1e-6)
    # A straight line between twenty steps a decade.
    assert found["enough"] == pytest.approx(wanted, rel=5e-3)
    assert [each.unit for each in result.measured] == ["F", "°"]
    assert "45° are left with" in result.sentence
    assert result.sentence.endswith("at least 2° up to 1 µF at out.")


def test_it_says_from_which_load_on_a_loop_oscillates() -> None:
    """Ten times as much gain: the third pole takes what the second leaves; python-control has the place."""
    result = run_check(buffer(1e6), "k", {})
    breaks = brentq(lambda load: phase_margin(load, 1e6), 1e-12, 1e-7)
    assert result.signals is not None
    trace = result.signals.others[MARGIN]
    assert np.all((trace.real() < 0.0) == (trace.along().values > breaks))
    assert "from there on it oscillates" in result.sentence


def test_a_load_that_becomes_the_slowest_pole_steadies_the_loop_again() -> None:
    """Up to 1 F: python-control has both places where the margin goes through zero."""
    sentence = run_check(buffer(1e6, most="1"), "k", {}).sentence
    found = re.search(r"none with (\d+) pF at out: from there until (\d+) µF at out it oscillates", sentence)
    assert found is not None, sentence
    breaks = brentq(lambda load: phase_margin(load, 1e6), 1e-12, 1e-7)
    again = brentq(lambda load: phase_margin(load, 1e6), 1e-4, 1e-3)
    # Straight lines between twenty steps a decade, told with three digits.
    assert float(found[1]) * 1e-12 == pytest.approx(breaks, rel=1e-2)
    assert float(found[2]) * 1e-6 == pytest.approx(again, rel=5e-2)


def test_any_value_is_turned_and_rows_of_a_study_keep_their_own() -> None:
    """The output's resistance in the place of a load, with 1 nF there."""
    drawn = buffer(over="R3", least="10", most="1k")
    experiment = prepare(*drawn.check("k"), {})
    matrix = ParameterMatrix.varied(experiment.structure, {("C3", "capacitance"): np.array([1e-9, 2e-9])})
    for result, load in zip(experiment.rows(matrix), (1e-9, 2e-9), strict=True):
        assert result.signals is not None
        trace = result.signals.others[MARGIN]
        assert trace.along().unit.name == "Ω"
        last = float(trace.along().values[-1])
        assert trace.values[-1] == pytest.approx(phase_margin(load - 1e-12, ohms=last), abs=0.05)
    assert run_check(drawn, "k", {}).sentence.endswith("of R3.")


def test_it_is_asked_of_the_output_that_an_amplifier_drives() -> None:
    drawn = asked(MarginCheck)
    _, check = drawn.check("k")
    assert isinstance(check.analysis, MarginCheck)
    assert (check.analysis.around, check.analysis.net) == ("U1.out", "out")
    assert MarginCheck.asked(check.analysis) == "How much load at out does the loop around U1 bear?"


def test_a_loop_that_oscillates_already_and_one_that_is_none() -> None:
    assert run_check(buffer(1e8), "k", {}).objection is not None
    [result] = prepare(*buffer(0.5).check("k"), {}).rows()
    assert (result.signals, result.cause) == (None, Cause.NOT_MEASURED)
    assert "does not cross 1" in result.findings[0].message


@pytest.mark.parametrize(
    ("settings", "words"),
    [({"least": "1n", "most": "10p"}, "does not rise"), ({"steps": 50, "least": "1f", "most": "1"}, "500")],
)
def test_a_range_that_is_none_is_refused(settings: dict[str, Any], words: str) -> None:
    with pytest.raises(ValueError, match=words):
        buffer(**settings)
