"""What one attaches to a net from outside the board edge, with values to begin with."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from verdad_core.document.waveforms import Noise, PiecewiseLinear, Pulse, Recorded, Sine, Step

#: What a waveform is before anything is changed, where that is not its defaults.
FRESH_WAVEFORMS = (
    Sine(),
    Step(delay="10u", rise="10n"),
    Pulse(rise="10n", fall="10n"),
    PiecewiseLinear(corners=(("0", "0"), ("1m", "0"), ("1m", "1"), ("2m", "1"))),
    Noise(rms="10m"),
    Recorded(file="no file yet", interval="1m", samples=(0.0, 0.0)),
)


@dataclass(frozen=True)
class Attachment:
    """One entry of the menu: what its fixtures are called, where they are drawn, and their fields but name and nets."""

    key: str
    title: str
    side: Literal["left", "right", "top"]
    fields: Mapping[str, Any]


def _source(key: str, title: str, **more: Any) -> Attachment:
    return Attachment(key, title, "left", {"kind": "source", "resistance": "50", **more})


_TITLES = {"sine": "Sine", "step": "Step", "pulse": "Pulse", "piecewise linear": "Piecewise linear", "noise": "Noise",
           "recorded": "Recording (CSV, WAV)"}  # fmt: skip

ATTACHMENTS = (
    Attachment("supply", "Supply, 5 V", "top", {"kind": "supply", "volts": "5"}),
    _source("source", "DC and AC source"),
    *(
        _source(wave.kind.split()[0], _TITLES[wave.kind], waveform=wave.model_dump(mode="json"))
        for wave in FRESH_WAVEFORMS
    ),
    _source("current-source", "Current source", quantity="current", dc="1m", resistance="0"),
    Attachment("port", "Port, 50 Ω", "left", {"kind": "port"}),
    Attachment("load", "Load, 10 kΩ", "right", {"kind": "load", "resistance": "10k"}),
    Attachment("capacitance", "Capacitive load, 100 pF", "right", {"kind": "load", "capacitance": "100p"}),
    Attachment("current", "Current load, 10 mA", "right", {"kind": "load", "current": "10m"}),
)
