"""Outputs at their limits in a run: which, towards which rail, from when, and what is missing."""

import pytest

from tests.core.boards import RAILS, amplifier, board, r, source
from verdad_core.checks.clipping import clipped
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board


def stage(amplitude: str, **wave: str) -> Board:
    """A gain of 10 on ±5 V that comes as close as 0.1 V to either; 1 kHz."""
    parts = [amplifier("U1", "in", "fb", "out"), r("R1", "9k", "out", "fb"), r("R2", "1k", "fb", "gnd")]
    sine = {"kind": "sine", "amplitude": amplitude, "frequency": "1k", **wave}
    return board(parts, [*RAILS, source("in", waveform=sine)], "transient", output="out", analysis={"stop": "3m"})


def test_a_sine_that_is_too_large_clips_at_both_rails() -> None:
    """Of 0.7 V times 10 there are 7 V wanted, and 4.9 V reached: from asin(0.7) on, and 2.1 V are missing."""
    drawn = stage("0.7")
    result = run_check(drawn, "k", {})
    assert result.signals is not None
    found = clipped(*drawn.check("k"), result.signals)
    assert [(each.amplifier, each.out, each.rail, each.times) for each in found] == [
        ("U1", "out", "-5V", 3), ("U1", "out", "+5V", 3)
    ] or [(each.rail, each.times) for each in found] == [("+5V", 3), ("-5V", 3)]  # fmt: skip
    upper = next(each for each in found if each.rail == "+5V")
    assert upper.volts == pytest.approx(4.88, abs=0.05)
    assert upper.missing == pytest.approx(2.1, abs=0.1)
    assert (upper.until - upper.since) == pytest.approx(0.253e-3, rel=0.15)
    words = [finding.message for finding in result.findings]
    assert any(each.startswith("U1 clips towards +5V: out stops at 4.") for each in words)


@pytest.mark.parametrize("drawn", [stage("0.45"), stage("0.1")])
def test_what_stays_between_the_rails_does_not_clip(drawn: Board) -> None:
    assert not [finding for finding in run_check(drawn, "k", {}).findings if "clips" in finding.message]


def test_slewing_is_no_clipping() -> None:
    """A step that asks for more slope than there is: the inputs are apart while the output moves."""
    parts = [amplifier("U1", "in", "out", "out"), r("R1", "10k", "out", "gnd")]
    step = source("in", waveform={"kind": "pulse", "level": "3", "rise": "10n", "fall": "10n", "width": "20u"})
    drawn = board(parts, [*RAILS, step], "transient", output="out", analysis={"stop": "40u"})
    assert not [finding for finding in run_check(drawn, "k", {}).findings if "clips" in finding.message]
