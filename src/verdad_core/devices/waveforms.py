"""Waveforms of independent sources in time, as the SPICE 2G6/3F5 user's manuals define them.

PULSE(V1 V2 TD TR TF PW PER), SIN(VO VA FREQ TD THETA PHASE), EXP(V1 V2 TD1 TAU1 TD2 TAU2), SFFM(VO VA FC MDI FS),
PWL(T1 V1 T2 V2 ..), which may repeat from one of its times on, and two kinds of sampled noise, Gaussian and
uniform: NOISE(RMS INTERVAL SEED), UNIFORM(PEAK INTERVAL SEED), constant slopes between values drawn for multiples
of the interval. Makers' files add a number of periods to PULSE and SIN, after which they rest at their first level, and
AM(SA OC FM FC TD) = SA (OC + sin 2π FM (t - TD)) sin 2π FC (t - TD).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from verdad_core.arrays import Floats
from verdad_core.devices.base import Parameter
from verdad_core.jit import kernel

NONE, PULSE, SIN, EXP, SFFM, PWL, GAUSSIAN, UNIFORM, AM = range(9)

#: Names and units ("" stands for the source's own) of each form's values, in the order of its statement.
FORMS: dict[int, tuple[tuple[str, str, str], ...]] = {
    PULSE: (
        ("v1", "", "first level"), ("v2", "", "second level"), ("delay", "s", "delay"), ("rise", "s", "rise time"),
        ("fall", "s", "fall time"), ("width", "s", "time at the second level"), ("period", "s", "period, 0: once"),
        ("cycles", "", "number of periods, 0: for ever"),
    ),
    SIN: (
        ("offset", "", "offset"), ("amplitude", "", "amplitude"), ("frequency", "Hz", "frequency"),
        ("delay", "s", "delay"), ("damping", "1/s", "damping"), ("angle", "°", "phase at the start"),
        ("cycles", "", "number of periods, 0: for ever"),
    ),
    EXP: (
        ("v1", "", "first level"), ("v2", "", "second level"), ("delay1", "s", "start of the rise"),
        ("tau1", "s", "time constant of the rise"), ("delay2", "s", "start of the fall"),
        ("tau2", "s", "time constant of the fall"),
    ),
    SFFM: (
        ("offset", "", "offset"), ("amplitude", "", "amplitude"), ("carrier", "Hz", "carrier frequency"),
        ("index", "", "modulation index"), ("signal", "Hz", "signal frequency"),
    ),
    GAUSSIAN: (("rms", "", "rms value"), ("interval", "s", "sampling interval"), ("seed", "", "seed")),
    UNIFORM: (("peak", "", "peak value"), ("interval", "s", "sampling interval"), ("seed", "", "seed")),
    AM: (
        ("amplitude", "", "amplitude"), ("constant", "", "constant of the modulation"),
        ("signal", "Hz", "modulating frequency"), ("carrier", "Hz", "carrier frequency"), ("delay", "s", "delay"),
    ),
}  # fmt: skip

#: Instants closer than this, relative to their distance from zero, are one.
SAME = 1e-14

#: Points that show one turn of a sine.
POINTS_A_TURN = 24.0

#: How many values a statement has to give, and what the others are when it does not.
LEAST = {PULSE: 2, SIN: 2, EXP: 2, SFFM: 2, GAUSSIAN: 2, UNIFORM: 2, AM: 4}
DEFAULTS: dict[int, tuple[float, ...]] = {
    PULSE: (0.0, 0.0, 0.0, 0.0, 0.0, math.inf, 0.0, 0.0),
    SIN: (0.0,) * 7,
    EXP: (0.0, 0.0, 0.0, 1.0, math.inf, 1.0),
    SFFM: (0.0,) * 5,
    GAUSSIAN: (0.0, 0.0, 1.0),
    UNIFORM: (0.0, 0.0, 1.0),
    AM: (0.0,) * 5,
}

#: What a source in time must have: times above zero, and others not below it.
_POSITIVE = frozenset({"tau1", "tau2", "interval"})
_NOT_NEGATIVE = frozenset({"rise", "fall", "width", "period", "cycles"})


def completed(kind: int, given: tuple[float, ...], step: float | None, stop: float | None) -> tuple[float, ...] | None:
    """All values of a form of which the first are given, the others as the manuals have them.

    They follow from the step and the end (s) of a transient; without one those of the forms that need none, and None
    where a value is missing then.
    """
    plain = DEFAULTS[kind]
    if step is None or stop is None:
        needed = {SIN: 3, EXP: 4, SFFM: 5}.get(kind, 0)
        return given + plain[len(given) :] if len(given) >= needed else None
    rise = given[2] if len(given) > 2 else 0.0
    timed = {
        PULSE: (*plain[:3], step, step, stop, *plain[6:]),
        SIN: (*plain[:2], 1.0 / stop, *plain[3:]),
        EXP: (*plain[:3], step, rise + step, step),
        SFFM: (*plain[:2], 1.0 / stop, 0.0, 1.0 / stop),
    }
    return given + timed.get(kind, plain)[len(given) :]


@dataclass(frozen=True)
class Waveform:
    """A form and its values, in the order of FORMS; for PWL: where it repeats from (NaN: nowhere), then t, v, ..."""

    kind: int
    values: tuple[float, ...]

    def parameters(self, unit: str) -> tuple[Parameter, ...]:
        """The values as parameters of the source, whose own unit is `unit`."""
        if self.kind == PWL:
            pairs = (len(self.values) - 1) // 2
            corners = [
                parameter
                for k in range(pairs)
                for parameter in (
                    Parameter(f"t{k + 1}", self.values[1 + 2 * k], "s", f"time of corner {k + 1}"),
                    Parameter(f"y{k + 1}", self.values[2 + 2 * k], unit, f"value at corner {k + 1}"),
                )
            ]
            return (Parameter("repeat", self.values[0], "s", "time from which it repeats"), *corners)
        return tuple(
            Parameter(name, value, own or unit, meaning, positive=name in _POSITIVE, non_negative=name in _NOT_NEGATIVE)
            for (name, own, meaning), value in zip(FORMS[self.kind], self.values, strict=True)
        )

    @property
    def period(self) -> float | None:
        """After how long, in s, it repeats itself for ever; None where it does not."""
        v = self.values
        if self.kind == PULSE and not v[7]:
            return v[6] or None
        if self.kind == SIN and v[2] and not v[4] and not v[6]:
            return 1.0 / abs(v[2])
        if self.kind == PWL and not math.isnan(v[0]):
            return v[-2] - v[0]
        return None

    @classmethod
    def of(cls, kind: int, *given: float) -> Waveform:
        """The waveform with these first values, the others being left out."""
        return cls(kind, given + DEFAULTS[kind][len(given) :])


@kernel
def value_at(kind: int, v: Floats, at: int, count: int, t: float) -> float:
    """The value at time t (s) of a waveform whose `count` values stand in v[at:]."""
    if kind == PULSE:
        return _pulse(v, at, t)
    if kind == SIN:
        since = max(t - v[at + 3], 0.0)
        if v[at + 6] > 0.0 and since * v[at + 2] >= v[at + 6]:
            return float(v[at])
        phase = 2.0 * math.pi * v[at + 2] * since + v[at + 5] * math.pi / 180.0
        return float(v[at] + v[at + 1] * math.sin(phase) * math.exp(-since * v[at + 4]))
    if kind == EXP:
        value = v[at]
        if t > v[at + 2]:
            value += (v[at + 1] - v[at]) * -math.expm1(-(t - v[at + 2]) / v[at + 3])
        if t > v[at + 4]:
            value -= (v[at + 1] - v[at]) * -math.expm1(-(t - v[at + 4]) / v[at + 5])
        return float(value)
    if kind == SFFM:
        turn = 2.0 * math.pi * t
        return float(v[at] + v[at + 1] * math.sin(turn * v[at + 2] + v[at + 3] * math.sin(turn * v[at + 4])))
    if kind == PWL:
        return _pwl(v, at, count, t)
    if kind == AM:
        turn = 2.0 * math.pi * max(t - v[at + 4], 0.0)
        return float(v[at] * (v[at + 1] + math.sin(turn * v[at + 2])) * math.sin(turn * v[at + 3]))
    step = t / v[at + 1]
    k = math.floor(step)
    return float(v[at] * (draw(kind, v[at + 2], k) * (1.0 - step + k) + draw(kind, v[at + 2], k + 1) * (step - k)))


@kernel
def _pulse(v: Floats, at: int, t: float) -> float:
    rise, fall, width = v[at + 3], v[at + 4], v[at + 5]
    since = t - v[at + 2]
    if v[at + 7] > 0.0 and since >= v[at + 6] * v[at + 7] > 0.0:
        return float(v[at])
    if v[at + 6] > 0.0 and since > 0.0:
        since = since % v[at + 6]
    if since <= 0.0:
        return float(v[at])
    if since < rise:
        return float(v[at] + (v[at + 1] - v[at]) * since / rise)
    if since <= rise + width:
        return float(v[at + 1])
    if since < rise + width + fall:
        return float(v[at + 1] + (v[at] - v[at + 1]) * (since - rise - width) / fall)
    return float(v[at])


@kernel
def _pwl(v: Floats, at: int, count: int, t: float) -> float:
    last = at + count - 2
    if not math.isnan(v[at]) and t > v[last]:
        t = v[at] + (t - v[at]) % (v[last] - v[at])
    low, high = 0, (count - 1) // 2 - 1
    if t <= v[at + 1]:
        return float(v[at + 2])
    if t >= v[last]:
        return float(v[last + 1])
    while high - low > 1:
        middle = (low + high) // 2
        if v[at + 1 + 2 * middle] <= t:
            low = middle
        else:
            high = middle
    a, b = at + 1 + 2 * low, at + 1 + 2 * high
    return float(v[a + 1] + (v[b + 1] - v[a + 1]) * (t - v[a]) / (v[b] - v[a]))


@kernel
def next_corner(kind: int, v: Floats, at: int, count: int, t: float) -> float:
    """The first instant after t at which the waveform or its slope may jump; infinite where there is none."""
    after = t + SAME * abs(t)
    if kind == PULSE:
        return _pulse_corner(v, at, after)
    if kind == PWL:
        return _pwl_corner(v, at, count, after)
    if kind in (SIN, AM):
        start = v[at + 3] if kind == SIN else v[at + 4]
        end = start + v[at + 6] / v[at + 2] if kind == SIN and v[at + 6] > 0.0 and v[at + 2] > 0.0 else start
        return float(start if start > after else end if end > after else math.inf)
    if kind == EXP:
        first, second = min(v[at + 2], v[at + 4]), max(v[at + 2], v[at + 4])
        return float(first if first > after else second if second > after else math.inf)
    if kind in (GAUSSIAN, UNIFORM):
        corner = v[at + 1] * math.floor(after / v[at + 1] + 1.0)
        return float(corner if corner > after else corner + v[at + 1])
    return math.inf


@kernel
def _pulse_corner(v: Floats, at: int, after: float) -> float:
    delay, period = v[at + 2], v[at + 6]
    if after < delay:
        return float(delay)
    first = math.floor((after - delay) / period) if period > 0.0 else 0.0
    for turn in range(2 if period > 0.0 else 1):
        corner = delay + (first + turn) * period
        for k in range(4):
            if k > 0:
                # Rise, width, fall.
                corner += v[at + 3] if k == 1 else (v[at + 5] if k == 2 else v[at + 4])
            if corner > after:
                ended = period > 0.0 and v[at + 7] > 0.0 and corner > delay + period * v[at + 7] * (1.0 + SAME)
                return math.inf if ended else float(corner)
    return math.inf


@kernel
def _pwl_corner(v: Floats, at: int, count: int, after: float) -> float:
    pairs = (count - 1) // 2
    last = v[at + count - 2]
    shift = 0.0
    if not math.isnan(v[at]) and after >= last:
        length = last - v[at]
        shift = math.floor((after - v[at]) / length) * length
    for _ in range(2):
        for k in range(pairs):
            corner = v[at + 1 + 2 * k]
            if (shift == 0.0 or corner > v[at]) and corner + shift > after:
                return float(corner + shift)
        if math.isnan(v[at]):
            break
        shift += last - v[at]
    return math.inf


@kernel
def longest_step(kind: int, v: Floats, at: int, t: float) -> float:
    """The longest step from t on that still shows the waveform's form; infinite where corners are enough."""
    if kind == SIN and v[at + 2] != 0.0 and t >= v[at + 3]:
        ended = v[at + 6] > 0.0 and (t - v[at + 3]) * v[at + 2] >= v[at + 6]
        return math.inf if ended else float(1.0 / (POINTS_A_TURN * abs(v[at + 2])))
    if kind == AM and t >= v[at + 4]:
        return float(1.0 / (POINTS_A_TURN * max(abs(v[at + 2]) + abs(v[at + 3]), 1e-300)))
    if kind == SFFM:
        return float(1.0 / (POINTS_A_TURN * max(abs(v[at + 2]) + abs(v[at + 3] * v[at + 4]), 1e-300)))
    step = math.inf
    if kind == EXP:
        for k in range(2):
            since, tau = t - v[at + 2 + 2 * k], v[at + 3 + 2 * k]
            if 0.0 <= since < 10.0 * tau:
                step = min(step, 0.25 * tau)
    return float(step)


@kernel
def draw(kind: int, seed: float, k: int) -> float:
    """The k-th number of a fixed sequence: uniform in -1..1, or Gaussian with variance 1 (Box and Muller 1958)."""
    one = _hash(seed, 2 * k)
    if kind == UNIFORM:
        return 2.0 * one - 1.0
    return math.sqrt(-2.0 * math.log(1.0 - one)) * math.cos(2.0 * math.pi * _hash(seed, 2 * k + 1))


@kernel
def _hash(seed: float, k: int) -> float:
    """A number in 0..1 from a seed and a counter (mixed as in Steele, Lea, Flood 2014)."""
    z = (k + 1) * 0x1E3779B97F4A7C15 + int(seed) * 0x3F58476D1CE4E5B9
    z ^= (z >> 30) & 0x3FFFFFFFF
    z *= 0x3F58476D1CE4E5B9
    z ^= (z >> 27) & 0x1FFFFFFFFF
    z *= 0x14D049BB133111EB
    z ^= (z >> 31) & 0x1FFFFFFFF
    return float((z >> 11) & 0x1FFFFFFFFFFFFF) / 9007199254740992.0
