"""Scales that a check leaves open."""

import numpy as np
import pytest

from tests.core.boards import board, c, pair, r, source
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import Poles
from verdad_core.checks.compiled import compiled
from verdad_core.checks.experiment import prepare
from verdad_core.checks.kinds.dc_sweep import DcSweep
from verdad_core.checks.kinds.noise import NoiseCheck
from verdad_core.checks.kinds.transient import Transient

POLES = Poles(np.array([-60 * np.pi, -4e5 * np.pi], complex))
RESTING = operating_point(
    compiled(*pair(board([r("R1", "1k", "in", "gnd")], [source("in")], "noise", output="in")), {}, ())
)


def test_a_sweep_goes_beyond_the_poles_in_whole_decades() -> None:
    found = NoiseCheck(output="out").range_for(RESTING, POLES)
    assert (found.start, found.stop) == pytest.approx((0.1, 1e8))
    assert "30 Hz to 200 kHz" in found.words
    assert NoiseCheck(output="out", start="5", stop="50").range_for(RESTING, POLES).words == ""
    assert NoiseCheck(output="out", start="1G").range_for(RESTING, POLES).stop == pytest.approx(1e12)
    assert "no poles" in NoiseCheck(output="out").range_for(RESTING, Poles(np.empty(0, complex))).words


@pytest.mark.parametrize(
    # A corner at 159 Hz, then one at 15.9 kHz that only the amplifier's own noise passes; behind a coupling capacitor.
    ("parts", "start", "stop", "words"),
    [
        ([r("R1", "1k", "in", "out"), c("C1", "1u", "out", "gnd")], 0.1, 1e4, "159 Hz"),
        ([c("C1", "1u", "in", "out"), r("R1", "1k", "out", "gnd")], 10.0, None, "159 Hz"),
        ([r("R1", "1k", "in", "out"), r("R2", "1k", "out", "gnd")], 0.1, 1e6, "all that is passed on"),
    ],
)
def test_noise_is_looked_at_around_the_pass_band(
    parts: list[dict[str, object]], start: float, stop: float | None, words: str
) -> None:
    drawn = board(parts, [source("in")], "noise", output="out", source="vin")
    scale = prepare(*pair(drawn), {}).scale
    assert scale.start == pytest.approx(start)
    assert stop is None or scale.stop == pytest.approx(stop)
    assert words in scale.words


@pytest.mark.parametrize(
    ("waveform", "stop", "words"),
    [(None, 0.1, "time constant"), ({"kind": "sine", "frequency": "50"}, 0.1, "five periods of vin"),
     ({"kind": "step", "delay": "10m"}, 0.1, "after what happens until 10 ms")],
)  # fmt: skip
def test_a_transient_shows_periods_or_time_constants(waveform: object, stop: float, words: str) -> None:
    circuit, check = pair(board([r("R1", "1k", "in", "gnd")], [source("in", waveform=waveform)], "transient"))
    found = Transient().scale(circuit, check, RESTING, POLES)
    assert found.stop == pytest.approx(stop)
    assert words in found.words


def test_what_a_sweep_turns_by_itself() -> None:
    circuit, check = pair(board([r("R1", "1k", "in", "gnd")], [source("in")], "dc sweep"))
    over, scale = DcSweep().swept(circuit, check)
    assert (over, scale.start, scale.stop) == ("vin", -1.0, 1.0)
    over, scale = DcSweep(over="R1").swept(circuit, check)
    assert (scale.start, scale.stop) == pytest.approx((100, 10_000))
    assert DcSweep(over="temperature").swept(circuit, check)[1].stop == 85.0
