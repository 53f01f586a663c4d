"""Scales that a check leaves open."""

import numpy as np
import pytest

from tests.core.boards import board, pair, r, source
from verdad_core.analyses.poles import Poles
from verdad_core.checks.kinds.dc_sweep import DcSweep
from verdad_core.checks.kinds.noise import NoiseCheck
from verdad_core.checks.kinds.transient import Transient

POLES = Poles(np.array([-60 * np.pi, -4e5 * np.pi], complex))


def test_a_sweep_goes_beyond_the_poles_in_whole_decades() -> None:
    found = NoiseCheck(output="out").range_for(POLES)
    assert (found.start, found.stop) == pytest.approx((0.1, 1e8))
    assert "30 Hz to 200 kHz" in found.words
    assert NoiseCheck(output="out", start="5", stop="50").range_for(POLES).words == ""
    assert NoiseCheck(output="out", start="1G").range_for(POLES).stop == pytest.approx(1e12)
    assert "no poles" in NoiseCheck(output="out").range_for(Poles(np.empty(0, complex))).words


@pytest.mark.parametrize(
    ("waveform", "stop", "words"),
    [(None, 0.1, "time constant"), ({"kind": "sine", "frequency": "50"}, 0.1, "five periods of vin"),
     ({"kind": "step", "delay": "10m"}, 0.1, "after what happens until 10 ms")],
)  # fmt: skip
def test_a_transient_shows_periods_or_time_constants(waveform: object, stop: float, words: str) -> None:
    circuit, check = pair(board([r("R1", "1k", "in", "gnd")], [source("in", waveform=waveform)], "transient"))
    found = Transient().scale(circuit, check, POLES)
    assert found.stop == pytest.approx(stop)
    assert words in found.words


def test_what_a_sweep_turns_by_itself() -> None:
    circuit, check = pair(board([r("R1", "1k", "in", "gnd")], [source("in")], "dc sweep"))
    over, scale = DcSweep().swept(circuit, check)
    assert (over, scale.start, scale.stop) == ("vin", -1.0, 1.0)
    over, scale = DcSweep(over="R1").swept(circuit, check)
    assert (scale.start, scale.stop) == pytest.approx((100, 10_000))
    assert DcSweep(over="temperature").swept(circuit, check)[1].stop == 85.0
