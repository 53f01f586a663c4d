"""What a source does in time. Waveforms that start somewhere start at the source's direct value."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from verdad_core.devices.waveforms import GAUSSIAN, PULSE, PWL, SIN
from verdad_core.devices.waveforms import Waveform as Form
from verdad_core.errors import BoardError
from verdad_core.schema import Document, Hertz, Quantity, Seconds, SecondsOrNone, Title, setting
from verdad_core.units import parse_value

#: The unit of what a source gives: volts or amperes, as it says itself.
ITS_OWN = "V or A"

#: Corners of a piecewise linear waveform, and samples of a recording.
MAX_CORNERS, MAX_SAMPLES = 1_000, 10_000

#: Corners at one instant are drawn apart by this fraction of the whole waveform.
APART = 1e-9


class _Waveform(Document):
    def form(self, dc: float) -> Form:
        """The engine's waveform, for a source whose direct value is `dc`."""
        raise NotImplementedError

    @property
    def period(self) -> float | None:
        """After how long, in s, it repeats itself; None where it does not."""
        return self.form(0.0).period


class Sine(_Waveform):
    """A sine around the direct value."""

    kind: Literal["sine"] = "sine"
    amplitude: Quantity = setting("1", label="Amplitude", unit=ITS_OWN, hint="Peak value, around the direct value")
    frequency: Hertz = setting("1k", label="Frequency", unit="Hz")
    phase: Quantity = setting("0", label="Phase", unit="°")
    delay: SecondsOrNone = setting("0", label="Delay", unit="s")

    title: ClassVar[str] = "sine"

    def form(self, dc: float) -> Form:
        amplitude, frequency, phase, delay = map(parse_value, (self.amplitude, self.frequency, self.phase, self.delay))
        return Form.of(SIN, dc, amplitude, frequency, delay, 0.0, phase)

    @property
    def settled(self) -> float:
        """The last instant at which something happens that does not come again."""
        return parse_value(self.delay)


class Step(_Waveform):
    """From the direct value to another one, once."""

    kind: Literal["step"] = "step"
    level: Quantity = setting("1", label="To level", unit=ITS_OWN, hint="From the direct value to this level")
    delay: SecondsOrNone = setting("0", label="At", unit="s")
    rise: SecondsOrNone = setting("0", label="Rise time", unit="s")

    title: ClassVar[str] = "step"

    def form(self, dc: float) -> Form:
        level, delay, rise = map(parse_value, (self.level, self.delay, self.rise))
        return Form.of(PULSE, dc, level, delay, rise, rise)

    @property
    def settled(self) -> float:
        return parse_value(self.delay) + parse_value(self.rise)


class Pulse(_Waveform):
    """From the direct value to another one and back, again with every period, or once."""

    kind: Literal["pulse"] = "pulse"
    level: Quantity = setting("1", label="To level", unit=ITS_OWN, hint="From the direct value to this level and back")
    delay: SecondsOrNone = setting("0", label="Delay", unit="s")
    rise: SecondsOrNone = setting("0", label="Rise time", unit="s")
    width: Seconds = setting("500u", label="Width", unit="s", hint="Time at the level")
    fall: SecondsOrNone = setting("0", label="Fall time", unit="s")
    every: Seconds | None = setting("1m", label="Every", unit="s", empty="once", hint="Its period")

    title: ClassVar[str] = "pulse"

    @model_validator(mode="after")
    def _fits(self) -> Self:
        busy = sum(map(parse_value, (self.rise, self.width, self.fall)))
        if self.every is not None and busy > parse_value(self.every) * (1 + 1e-12):
            raise BoardError(
                "the pulse with its edges is longer than its period", remedy="Shorten it, or lengthen the period."
            )
        return self

    def form(self, dc: float) -> Form:
        numbers = [parse_value(text) for text in (self.level, self.delay, self.rise, self.fall, self.width)]
        return Form.of(PULSE, dc, *numbers, 0.0 if self.every is None else parse_value(self.every))

    @property
    def settled(self) -> float:
        once = sum(map(parse_value, (self.rise, self.width, self.fall)))
        return parse_value(self.delay) + (once if self.every is None else 0.0)


class PiecewiseLinear(_Waveform):
    """Straight lines between corners (instant, value); two corners at one instant are an edge."""

    kind: Literal["piecewise linear"] = "piecewise linear"
    corners: Annotated[tuple[tuple[SecondsOrNone, Quantity], ...], Field(min_length=1, max_length=MAX_CORNERS)] = (
        setting(label="Corners", shown="corners")
    )
    repeat: bool = setting(False, label="again and again")

    title: ClassVar[str] = "piecewise linear"

    @model_validator(mode="after")
    def _forward(self) -> Self:
        instants = [parse_value(instant) for instant, _ in self.corners]
        for k, (before, after) in enumerate(pairwise(instants), 2):
            if after < before:
                raise BoardError(
                    f"corner {k} is at {self.corners[k - 1][0]} s, before the one above it", remedy="Sort the instants."
                )
        if self.repeat and instants[-1] <= instants[0]:
            raise BoardError("what repeats needs a length", remedy="Give it at least two instants.")
        return self

    def form(self, dc: float) -> Form:
        corners = [(parse_value(instant), parse_value(value)) for instant, value in self.corners]
        return Form(PWL, (corners[0][0] if self.repeat else math.nan, *_spread(corners)))

    @property
    def settled(self) -> float:
        return 0.0 if self.repeat else parse_value(self.corners[-1][0])


def _spread(corners: list[tuple[float, float]]) -> list[float]:
    """Instants and values in turn, instants that are the same drawn apart so that they rise."""
    least = APART * max(corners[-1][0] - corners[0][0], 1e-12)
    flat: list[float] = []
    for instant, value in corners:
        flat += [max(instant, flat[-2] + least) if flat else instant, value]
    return flat


class Noise(_Waveform):
    """Gaussian noise on top of the direct value, drawn anew with every interval: half its power at 0.32 / interval."""

    kind: Literal["noise"] = "noise"
    rms: Quantity = setting("1m", label="RMS value", unit=ITS_OWN)
    interval: Seconds = setting(
        "10u", label="Interval", unit="s",
        hint="A new value every so often; half its power is left at 0.32 / interval",
    )  # fmt: skip
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = setting(1, label="Seed", hint="The same seed, the same noise")

    title: ClassVar[str] = "noise"

    def form(self, dc: float) -> Form:
        return Form(GAUSSIAN, (parse_value(self.rms), parse_value(self.interval), float(self.seed)))

    @property
    def settled(self) -> float:
        return 1000 * parse_value(self.interval)


class Recorded(_Waveform):
    """What was recorded: a file's samples, at equal intervals, times a factor, on top of the direct value."""

    kind: Literal["recorded"] = "recorded"
    file: Title = setting(label="File", shown="recording")
    interval: Seconds = setting(label="Interval", unit="s", hint="From one sample to the next")
    samples: Annotated[
        tuple[Annotated[float, Field(allow_inf_nan=False)], ...], Field(min_length=2, max_length=MAX_SAMPLES)
    ] = setting(label="Samples", shown="samples")
    scale: Quantity = setting("1", label="Times", unit="×", hint="Samples are multiplied by this")
    repeat: bool = setting(False, label="again and again")

    title: ClassVar[str] = "recording"

    def form(self, dc: float) -> Form:
        interval, scale = parse_value(self.interval), parse_value(self.scale)
        flat = [number for k, sample in enumerate(self.samples) for number in (k * interval, dc + scale * sample)]
        return Form(PWL, (0.0 if self.repeat else math.nan, *flat))

    @property
    def settled(self) -> float:
        return 0.0 if self.repeat else parse_value(self.interval) * (len(self.samples) - 1)


WAVEFORMS: tuple[type[Document], ...] = (Sine, Step, Pulse, PiecewiseLinear, Noise, Recorded)
Waveform = Annotated[Sine | Step | Pulse | PiecewiseLinear | Noise | Recorded, Field(discriminator="kind")]
