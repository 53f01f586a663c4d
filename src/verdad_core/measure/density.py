"""Measurements on a density over frequency, such as noise in V/√Hz."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
from pydantic import Field

from verdad_core.analyses.noise import integrate
from verdad_core.devices.base import BOLTZMANN, ZERO_CELSIUS
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import Band, Entry, Settings, always
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import DECIBELS, HERTZ, NONE, VOLTS, Unit
from verdad_core.measure.waveform import meaning, value_at
from verdad_core.schema import Celsius, Hertz, Ohms, Volts, setting
from verdad_core.units import format_value, parse_value

#: Peak to peak of an rms value, of what is seen all but a thousandth of the time; common practice, no source.
SIGMAS = 6.6

#: The resistance's temperature of a noise figure, in K; a difference of densities that is none, of their squares.
STANDARD, ROUNDING = 290.0, 1e-6

#: What turns volts by the root of a hertz into volts.
_ROOT = HERTZ**0.5


class Against(Band):
    """A signal that stands against the noise in a band."""

    signal: Volts = setting("1", label="Signal", unit="V", hint="Its rms value")


class Converter(Band):
    """A converter that follows."""

    full_scale: Volts = setting("2.5", label="Full scale", unit="V", hint="Peak to peak")
    bits: Annotated[int, Field(ge=1, le=32)] = setting(16, label="Bits")


class Behind(Settings):
    """A source's resistance as it is in the circuit, at a frequency."""

    place: Hertz = setting("1k", label="At", unit="Hz")
    resistance: Ohms = setting("50", label="Source resistance", unit="Ω", hint="As the circuit has it")
    warm: Celsius = setting("27", label="Source at", unit="°C", hint="The temperature that the check has")

    @property
    def words(self) -> str:
        return f" at {self.place}"


def band_rms(trace: Trace, band: Band) -> float:
    """The rms value of all that lies in a band of frequencies: the root of the integral of the density's square."""
    axis = trace.along()
    if axis.unit != HERTZ or not _is_density(trace.unit):
        raise MeasurementError(
            "it is no density over frequency", remedy="Measure noise or input_noise of a noise check."
        )
    frequency = axis.values
    low = float(frequency[0]) if band.low is None else parse_value(band.low, "Hz")
    high = float(frequency[-1]) if band.high is None else parse_value(band.high, "Hz")
    if not low < high:
        raise MeasurementError("the band ends where it begins, or before", remedy="Give it a higher end.")
    if low < frequency[0] * (1 - 1e-9) or high > frequency[-1] * (1 + 1e-9):
        span = f"{format_value(float(frequency[0]), 'Hz', 3)} to {format_value(float(frequency[-1]), 'Hz', 3)}"
        raise MeasurementError(
            f"the check covers {span}, which does not hold the band", remedy="Widen the check's range."
        )
    return math.sqrt(float(integrate(frequency, trace.real() ** 2, low, high)))


def peak_to_peak(trace: Trace, band: Band) -> float:
    """What is seen of noise in a band but for a thousandth of the time: 6.6 times its rms value."""
    return SIGMAS * band_rms(trace, band)


def signal_to_noise(trace: Trace, against: Against) -> float:
    """A signal's rms value by that of the noise in a band, in decibels."""
    noise = band_rms(trace, against)
    if not np.any(trace.real()):
        raise MeasurementError("there is no noise", remedy="Look at a net that a part with noise drives.")
    return 20.0 * math.log10(parse_value(against.signal) / noise)


def effective_bits(trace: Trace, converter: Converter) -> float:
    """Bits of an ideal converter that makes as much noise as this one behind this noise: (SINAD - 1.76 dB) / 6.02."""
    full = parse_value(converter.full_scale)
    step = full / 2**converter.bits
    noise = math.hypot(band_rms(trace, converter), step / math.sqrt(12.0))
    sine = full / (2.0 * math.sqrt(2.0))
    return (20.0 * math.log10(sine / noise) - 10.0 * math.log10(1.5)) / (20.0 * math.log10(2.0))


def noise_figure(trace: Trace, behind: Behind) -> float:
    """By how much what is added outweighs the noise of the source's resistance at 290 K, in decibels.

    F = 1 + N_a / (4 k 290 K R), with what is added, N_a, the noise referred to the source less the resistance's own.
    """
    density = value_at(trace.along().values, trace.real(), parse_value(behind.place))
    if trace.unit != VOLTS * HERTZ**-0.5:
        raise MeasurementError("it is no density of volts", remedy="Measure input_noise, referred to a voltage source.")
    ohms, kelvin = parse_value(behind.resistance), parse_value(behind.warm) + ZERO_CELSIUS
    added = density**2 - 4.0 * BOLTZMANN * kelvin * ohms
    if added < -ROUNDING * density**2:
        raise MeasurementError(
            "there is less noise than the source's resistance alone makes",
            remedy="Give the source that resistance in the circuit, or say its temperature.",
        )
    return 10.0 * math.log10(1.0 + max(added, 0.0) / (4.0 * BOLTZMANN * STANDARD * ohms))


def _is_density(unit: Unit) -> bool:
    """Whether something by the root of a hertz, s^0.5."""
    return not unit.word and unit.seconds % 1.0 == 0.5


_COMMON = "common practice, no source"

ENTRIES = (
    Entry("noise_peak_to_peak", "Peak to peak of noise in a band", meaning(peak_to_peak), "density", peak_to_peak,
          unit=lambda trace: trace.unit * _ROOT, settings=Band, source=_COMMON),
    Entry("signal_to_noise", "Signal to noise", meaning(signal_to_noise), "density", signal_to_noise,
          always(DECIBELS), Against, _COMMON),
    Entry("effective_bits", "Effective bits behind it", meaning(effective_bits), "density", effective_bits,
          always(NONE), Converter, "IEEE 1241"),
    Entry("noise_figure", "Noise figure", meaning(noise_figure), "density", noise_figure, always(DECIBELS), Behind,
          "Friis, 1944; 290 K after IEEE"),
    Entry(
        "band_rms", "RMS value in a band", "root of the integral of a density's square", "density", band_rms,
        unit=lambda trace: trace.unit * _ROOT, settings=Band, source="Parseval's theorem",
    ),
)  # fmt: skip
