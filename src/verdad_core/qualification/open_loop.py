"""The open loop of an op-amp: gain, rejections, output impedance, poles and zeros.

A huge inductor closes the loop for the bias and opens it for signals, while a huge capacitor ties the inverting input
to a source (common practice, no source), so the bias is that of the closed loop.
"""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import ac_at, logarithmic
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import poles, zeros
from verdad_core.arrays import Complexes, Floats
from verdad_core.engine.structure import Structure
from verdad_core.qualification.amplifier import FREQUENCY, MINUS, OUT, PLUS, supplies
from verdad_core.qualification.experiment import Changes, Subject, rows, where
from verdad_core.qualification.figures import Axis, Card, Outcome, curve
from verdad_core.units import format_value

#: The coil (H) and the capacitor (F) of the open loop: they part signals from bias below a microhertz.
SERVO = 1e6
#: Poles and zeros (Hz) slower than this belong to them, faster ones matter to nobody.
SLOWEST, FASTEST = 1e-3, 1e10

#: A rejection above this (V/V, 150 dB) is one without limit: what is left is rounding.
NO_ERROR = 3e7


def open_loop(subject: Subject, outcome: Outcome) -> None:
    """Gain, rejections and output resistance over frequency, and poles and zeros."""
    structure = subject.structure(
        *supplies(subject), f"vp {PLUS} mid 0 ac 0", f"lservo {OUT} {MINUS} {SERVO:g}",
        f"cservo {MINUS} vn {SERVO:g}", "vn vn mid 0 ac 0", f"iout mid {OUT} 0 ac 0",
    )  # fmt: skip
    drives: Changes = {
        ("vp", "ac"): [0.5, 1, 0, 0, 0], ("vn", "ac"): [-0.5, 1, 0, 0, 0], ("vhigh", "ac"): [0, 0, 1, 0, 0],
        ("vlow", "ac"): [0, 0, 0, 1, 0], ("iout", "ac"): [0, 0, 0, 0, 1],
    }  # fmt: skip
    point = operating_point(structure, rows(structure, drives))
    point.require()
    f = logarithmic(0.01, 1e9, 20)
    found = ac_at(point, f, [(OUT, "0")]).values[:, 0]
    gain, common, high, low, out = found
    _gain(outcome, f, gain)
    _natural(outcome, structure)
    _rejection(outcome, f, gain, common, "common_mode_rejection", "common-mode signals")
    _rejection(outcome, f, gain, high, "positive_supply_rejection", "the positive supply")
    _rejection(outcome, f, gain, low, "negative_supply_rejection", "the negative supply")
    # The load lies across the output: what remains is the op-amp's own.
    own = 1 / (1 / out - 1 / subject["load"])
    outcome.measured("output_resistance", float(np.real(own[np.argmin(np.abs(f - 1e3))])))
    outcome.cards += [
        Card("open-loop-gain", "Open-loop gain", FREQUENCY, Axis("gain", "dB"), Axis("phase", "°"),
             (curve("gain", f, _db(gain)), curve("phase", f, _phase(gain), second=True))),
        Card("rejection", "Rejection of common-mode signals and supplies", FREQUENCY, Axis("rejection", "dB"),
             curves=tuple(curve(title, f, _db(gain) - _db(other)) for title, other in
                          (("common mode", common), ("positive supply", high), ("negative supply", low)))),
        Card("output-impedance", "Output impedance, open loop", FREQUENCY,
             Axis("impedance", "Ω", logarithmic=True), curves=(curve("output impedance", f, np.abs(own)),)),
    ]  # fmt: skip


def _gain(outcome: Outcome, f: Floats, gain: Complexes) -> None:
    level, phase = _db(gain), _phase(gain)
    outcome.measured("open_loop_gain", level[0])
    crossing = where(np.log10(f), level, 0.0)
    outcome.measured(
        "unity_gain_frequency", 10**crossing, "" if math.isfinite(crossing) else "the gain never falls to 1"
    )
    decade = 40.0 if level[0] > 60 else max(level[0] - 20.0, 0.0)
    at_level = where(np.log10(f), level, decade)
    if math.isfinite(at_level):
        outcome.measured("gain_bandwidth", 10 ** (at_level + decade / 20))
    else:
        outcome.absent("gain_bandwidth", "the gain does not fall with frequency")
    second = where(np.log10(f), phase, -135.0)
    if math.isfinite(second) and math.isfinite(crossing) and second < crossing + 2:
        outcome.measured("second_pole", 10**second)
    else:
        outcome.absent("second_pole", "the phase does not fall below -135° where it matters")


def _natural(outcome: Outcome, structure: Structure) -> None:
    point = operating_point(structure)
    own_poles, own_zeros = poles(point)[0], zeros(point, "vp", (OUT, "0"))[0]
    table = []
    counts = {}
    for word, values in (("pole", own_poles.values), ("zero", own_zeros.values)):
        values = values[(np.abs(values) > 2 * np.pi * SLOWEST) & (np.abs(values) < 2 * np.pi * FASTEST)]
        counts[word] = int(np.sum(values.real > 1e-7 * np.abs(values)))
        for value in values[values.imag >= 0][:24]:
            side = "right" if value.real > 1e-7 * abs(value) else "left"
            quality = abs(value) / (2 * abs(value.real)) if value.imag and value.real else 0.5
            table.append((word, format_value(abs(value) / (2 * np.pi), "Hz"), side, f"{quality:.2f}"))
    outcome.measured("right_half_plane_poles", counts["pole"])
    outcome.measured("right_half_plane_zeros", counts["zero"])
    outcome.cards.append(
        Card("poles-zeros", "Poles and zeros, open loop", heading=("what", "frequency", "half-plane", "quality"),
             table=tuple(table))
    )  # fmt: skip


def _rejection(outcome: Outcome, f: Floats, gain: Complexes, other: Complexes, key: str, what: str) -> None:
    ratio = np.abs(gain[0]) / max(abs(other[0]), 1e-300)
    if ratio > NO_ERROR:
        outcome.absent(key, f"no effect of {what} on the output")
    else:
        outcome.measured(key, 20 * math.log10(ratio))


def _db(values: Complexes) -> Floats:
    return np.asarray(20 * np.log10(np.maximum(np.abs(values), 1e-15)))


def _phase(values: Complexes) -> Floats:
    """Degrees, going on from a first one within ±90°, so that an inverting model shows -180° and not its sum."""
    return np.degrees(np.unwrap(np.angle(values)))
