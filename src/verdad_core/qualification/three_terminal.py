"""The bench of references and regulators: output, what input and load do to it, dropout, supply current, noise."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import ac_at, logarithmic
from verdad_core.analyses.noise import noise
from verdad_core.analyses.operating_point import operating_point
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.intake.model import node_of
from verdad_core.qualification.experiment import ROOM, Experiment, Subject, at, rows, solved
from verdad_core.qualification.figures import Axis, Card, FigureType, Outcome, curve

IN, OUT, GROUND = (node_of(role) for role in ("in", "out", "ground"))

#: Relative changes below this are none, and noise below this (V/√Hz) too.
NONE, NO_NOISE = 1e-9, 1e-10


def _fixture(subject: Subject) -> tuple[str, ...]:
    return (
        f"vin {IN} 0 {subject['input']:g} ac 0", f"vground {GROUND} 0 0", f"iload {OUT} 0 {subject['current']:g}",
        f"rload {OUT} 0 1e9",
    )  # fmt: skip


def regulation(subject: Subject, outcome: Outcome) -> None:
    """Output over input, load and temperature."""
    structure = subject.structure(*_fixture(subject))
    nominal, change, load = subject["input"], subject["swing"], subject["current"]
    point = solved(structure, {("vin", "dc"): [nominal, nominal + change, nominal],
                               ("iload", "dc"): [load, load, 0.1 * load]})  # fmt: skip
    volts = at(point, OUT)
    outcome.measured("output_voltage", float(volts[0]))
    for key, row, per, what in (
        ("line_regulation", 1, change, "the input"),
        ("load_regulation", 2, 0.9 * load, "the load"),
    ):
        moved = abs(float(volts[row] - volts[0]))
        if moved < NONE * abs(volts[0]):
            outcome.absent(key, f"{what} has no effect on the output")
        else:
            outcome.measured(key, moved / per)
    ground = float(at(point, "i(vground)")[0])
    if abs(ground) < 1e-12:
        outcome.absent("ground_current", "no current leaves through the ground pin")
    else:
        outcome.measured("ground_current", ground)
    temperatures = np.unique(np.append(np.linspace(subject["cold"], subject["hot"], 12), ROOM))
    over = at(solved(structure, {AMBIENT_KEY: temperatures}), OUT)
    slope = np.polyfit(temperatures, over, 1)[0] / volts[0] * 1e6 if np.all(np.isfinite(over)) else math.nan
    outcome.measured("temperature_coefficient", float(slope))
    source = np.linspace(0.0, nominal + change, 121)
    rising = at(solved(structure, {("vin", "dc"): source}), OUT)
    regulated = np.flatnonzero(rising < 0.98 * volts[0])
    last = int(regulated[-1]) + 1 if len(regulated) else 0
    if 0 < last < len(source):
        outcome.measured("dropout_voltage", max(float(source[last] - rising[last]), 0.0))
    else:
        outcome.absent("dropout_voltage", "the output does not need the input: dropout is not modelled")
    currents = np.linspace(0.0, 2 * load, 41)
    loaded = at(solved(structure, {("iload", "dc"): currents}), OUT)
    outcome.cards += [
        Card("output-input", "Output over input", Axis("input", "V"), Axis("output", "V"),
             curves=(curve("output", source, rising),)),
        Card("output-load", "Output over load", Axis("load current", "A"), Axis("output", "V"),
             curves=(curve("output", currents, loaded),)),
        Card("output-temperature", "Output over temperature", Axis("temperature", "°C"), Axis("output", "V"),
             curves=(curve("output", temperatures, over),)),
    ]  # fmt: skip


def small_signals(subject: Subject, outcome: Outcome) -> None:
    """Rejection of the input, output impedance and noise over frequency."""
    structure = subject.structure(*_fixture(subject))
    point = operating_point(
        structure, rows(structure, {("vin", "ac"): [1.0, 0.0], ("iload", "ac"): [0.0, 1.0]})
    )  # fmt: skip
    point.require()
    f = logarithmic(1.0, 1e8, 20)
    ripple, impedance = np.abs(ac_at(point, f, [(OUT, "0")]).values[:, 0])
    if ripple[0] < NONE:
        outcome.absent("ripple_rejection", "the input has no effect on the output")
    else:
        outcome.measured("ripple_rejection", float(-20 * np.log10(np.interp(100.0, f, ripple))))
    density = np.sqrt(noise(structure, f, [(OUT, "0")], by=None).total[0, 0])
    k = int(np.argmin(np.abs(np.log(f / 1e3))))
    if density[k] < NO_NOISE:
        outcome.absent("noise_density", "noise is not modelled")
    else:
        outcome.measured("noise_density", float(density[k]))
    frequency = Axis("frequency", "Hz", True)
    outcome.cards += [
        Card("ripple", "Rejection of the input", frequency, Axis("rejection", "dB"),
             curves=(curve("rejection", f, -20 * np.log10(np.maximum(ripple, 1e-15))),)),
        Card("output-impedance", "Output impedance", frequency, Axis("impedance", "Ω", True),
             curves=(curve("output impedance", f, np.maximum(impedance, 1e-12)),)),
    ]  # fmt: skip


_F = FigureType
EXPERIMENTS = (
    Experiment("regulation", (
        _F("output_voltage", "Output voltage", "V", "at the input and the load current", ("vout", "vo", "vref"), 0.02),
        _F("line_regulation", "Line regulation", "V/V", "output over input", ("line reg",), 1.0),
        _F("load_regulation", "Load regulation", "V/A", "output over load current", ("load reg",), 1.0),
        _F("ground_current", "Ground current", "A", "out of the ground pin", ("iq", "quiescent current"), 0.3,
           size=True),
        _F("temperature_coefficient", "Temperature coefficient", "ppm/°C", "mean slope of the output", ("tc", "tempco"),
           1.0, size=True),
        _F("dropout_voltage", "Dropout voltage", "V", "input less output where the output is 2 % low",
           ("vdo", "dropout"), 0.4),
    ), regulation),
    Experiment("small signals", (
        _F("ripple_rejection", "Ripple rejection", "dB", "at 100 Hz", ("psrr", "rr")),
        _F("noise_density", "Output noise density", "V/√Hz", "at 1 kHz", ("en",), 0.5),
    ), small_signals),
)  # fmt: skip
