"""What a waveform is made of: Fourier series of a period, total harmonic distortion, spectrum with a window.

Waveforms come with the steps that a transient took. Between them they are read along Akima's piecewise cubics (Akima,
"A new method of interpolation and smooth curve fitting based on local procedures", J. ACM 17, 1970), which follow a
smooth waveform closely and do not overshoot at edges.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Complexes, Floats
from verdad_core.errors import MeasurementError

#: Samples of one period of the highest harmonic, and of a period at least.
_PER_TURN, _LEAST = 32, 1024

#: Windows by the words they are chosen with, as scipy.signal names them (Harris, "On the use of windows for harmonic
#: analysis with the discrete Fourier transform", Proc. IEEE 66, 1978; flat top: ISO 18431-2).
WINDOWS = {"rectangular": "boxcar", "hann": "hann", "blackman-harris": "blackmanharris", "flat top": "flattop"}


@dataclass(frozen=True)
class Fourier:
    """v(t) = mean + sum |c_k| cos(2π k f t + arg c_k): `coefficients` [harmonics] from the fundamental on."""

    fundamental: float
    mean: float
    coefficients: Complexes

    @property
    def magnitudes(self) -> Floats:
        """Peak values [harmonics]."""
        return np.abs(self.coefficients)

    @property
    def degrees(self) -> Floats:
        """Phases of the cosines [harmonics]."""
        return np.degrees(np.angle(self.coefficients))

    @property
    def distortion(self) -> float:
        """Total harmonic distortion: rms value of the other harmonics by that of the fundamental (IEC 61000-4-7)."""
        magnitudes = self.magnitudes
        return float(np.sqrt(np.sum(magnitudes[1:] ** 2)) / magnitudes[0]) if magnitudes[0] > 0 else float("nan")


@dataclass(frozen=True)
class Spectrum:
    """`amplitude` [F]: peak value of a sine at `frequency` [F]; `resolution` in Hz: the window's noise bandwidth."""

    frequency: Floats
    amplitude: Floats
    resolution: float


def fourier(time: Floats, values: Floats, fundamental: float, harmonics: int = 9) -> Fourier:
    """The Fourier series of the last period of a waveform; phases refer to t = 0.

    Raises MeasurementError where the waveform is shorter than a period.
    """
    period = 1.0 / fundamental if fundamental > 0 else np.inf
    if not np.isfinite(period) or harmonics < 1 or len(time) < 2 or time[-1] - time[0] < period * (1 - 1e-9):
        raise MeasurementError(
            f"the waveform holds no whole period of {fundamental:g} Hz",
            remedy="Let the transient run for longer, or give a higher fundamental.",
        )
    count = max(_LEAST, _PER_TURN * harmonics)
    instants = np.maximum(time[-1] - period + period * np.arange(count) / count, time[0])
    sampled = resampled(time, values, instants)
    turns = np.exp(-2j * np.pi * fundamental * np.outer(np.arange(1, harmonics + 1), instants))
    return Fourier(fundamental, float(sampled.mean()), np.asarray(2.0 * (turns @ sampled) / count, complex))


def spectrum(
    time: Floats, values: Floats, start: float, stop: float, points: int = 8192, window: str = "hann"
) -> Spectrum:  # fmt: skip
    """The amplitude spectrum of a stretch of a waveform, sampled at `points` instants, weighted with a window.

    Raises MeasurementError for an unknown window and for a stretch that the waveform does not hold.
    """
    # Loaded when it is needed, and so is the interpolation: whoever asks for no spectrum does not wait for them.
    from scipy.signal import get_window

    if window not in WINDOWS:
        raise MeasurementError(f"there is no window '{window}'", remedy="Windows: " + ", ".join(WINDOWS))
    if points < 8 or not (len(time) > 1 and time[0] - 1e-15 <= start < stop <= time[-1] * (1 + 1e-12)):
        raise MeasurementError(
            f"the waveform does not hold the stretch from {start:g} s to {stop:g} s", remedy="Choose one that it holds."
        )
    step = (stop - start) / points
    sampled = resampled(time, values, np.asarray(start + step * np.arange(points), float))
    weights = get_window(WINDOWS[window], points)
    amplitude = np.abs(np.fft.rfft(weights * sampled)) / weights.sum()
    amplitude[1:] *= 2.0
    if points % 2 == 0:
        amplitude[-1] /= 2.0
    bandwidth = float(np.sum(weights**2) / np.sum(weights) ** 2 / step)
    return Spectrum(np.asarray(np.fft.rfftfreq(points, step), float), np.asarray(amplitude, float), bandwidth)


#: A peak of a spectrum is one where it is this part of the largest.
_PEAK = 1e-3


def with_peaks(frequency: Floats, amplitude: Floats) -> tuple[Floats, Floats]:
    """A Hann window's spectrum [F] with a point more at each sine between two bins.

    With R the ratio of the two largest neighbours the sine lies d = (2R - 1) / (R + 1) bins from the larger one, and
    is as large as that one times πd (1 - d²) / sin πd (Rife and Vincent, "Use of the discrete Fourier transform in the
    measurement of frequencies and levels of tones", Bell System Technical Journal 49, 1970).
    """
    if len(amplitude) < 3:
        return frequency, amplitude
    inner = amplitude[1:-1]
    tops = np.flatnonzero((inner > amplitude[:-2]) & (inner >= amplitude[2:]) & (inner > _PEAK * amplitude.max())) + 1
    side = np.where(amplitude[tops + 1] > amplitude[tops - 1], 1, -1)
    ratio = amplitude[tops + side] / amplitude[tops]
    d = np.clip((2.0 * ratio - 1.0) / (ratio + 1.0), 0.0, 0.5)
    true = frequency[tops] + side * d * (frequency[1] - frequency[0])
    size = amplitude[tops] * (1.0 - d * d) / np.sinc(d)
    between = d > 1e-6
    points = np.concatenate([frequency, true[between]])
    order = np.argsort(points, kind="stable")
    return points[order], np.concatenate([amplitude, size[between]])[order]


def resampled(time: Floats, values: Floats, instants: Floats) -> Floats:
    """A waveform at other instants within it."""
    from scipy.interpolate import Akima1DInterpolator

    unique = np.concatenate([[True], np.diff(time) > 0])
    t, v = time[unique], values[unique]
    if len(t) < 3:
        return np.interp(instants, time, values)
    # Two more points on a level at both ends, or a steep edge at an end would be carried on beyond it.
    before, after = t[0] - (t[1] - t[0]) * np.array([2.0, 1.0]), t[-1] + (t[-1] - t[-2]) * np.array([1.0, 2.0])
    whole = np.concatenate([before, t, after]), np.concatenate([v[[0, 0]], v, v[[-1, -1]]])
    found = Akima1DInterpolator(*whole, method="makima")(np.clip(instants, t[0], t[-1]))
    return np.asarray(found, float)
