"""What a measurement is: an entry of the registry, with settings of its own and what it makes of a trace."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from verdad_core.errors import MeasurementError
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import NONE, Unit
from verdad_core.schema import Document, Hertz, Quantity, setting
from verdad_core.units import parse_value


class Settings(Document):
    """What a measurement needs to know besides its trace."""

    @property
    def words(self) -> str:
        """What its title ends with."""
        return ""


class AtPlace(Settings):
    """A place of the axis."""

    place: Quantity | None = setting(None, label="At", empty="no axis", hint="The place: a time, a frequency, ...")

    @property
    def words(self) -> str:
        return f" at {self.place}" if self.place else ""


class AtLevel(Settings):
    """A level, and which of the times that the trace goes through it."""

    level: Quantity = setting(label="Level", hint="In the unit of what is measured")
    edge: Literal["either", "rising", "falling"] = setting("either", label="Edge")
    which: Annotated[int, Field(ge=1, le=10_000)] = setting(1, label="Which one", hint="1 is the first")

    @property
    def words(self) -> str:
        edge = "" if self.edge == "either" else f", {self.edge}"
        return f" at {self.level}{edge}" + (f", no. {self.which}" if self.which > 1 else "")


class WithinBand(Settings):
    """A band around the last value."""

    band: Quantity = setting("1", label="Band ±", unit="%", hint="Of the step, on both sides of the last value")

    @property
    def words(self) -> str:
        return f" at {self.band}"


class Window(Settings):
    """A stretch of the axis."""

    since: Quantity | None = setting(None, label="From", empty="the start", hint="Where on the axis it begins")
    until: Quantity | None = setting(None, label="Until", empty="the end", hint="Where on the axis it ends")

    @property
    def words(self) -> str:
        return (f" from {self.since}" if self.since else "") + (f" until {self.until}" if self.until else "")

    def cut(self, trace: Trace) -> Trace:
        """The trace within it. Raises MeasurementError where the trace does not hold it."""
        if self.since is None and self.until is None:
            return trace
        x = trace.along().values
        start = float(x[0]) if self.since is None else parse_value(self.since)
        stop = float(x[-1]) if self.until is None else parse_value(self.until)
        return trace.between(start, stop)


class Band(Settings):
    """A band of frequencies."""

    low: Hertz | None = setting(None, label="From", unit="Hz", empty="the lowest")
    high: Hertz | None = setting(None, label="To", unit="Hz", empty="the highest")

    @property
    def words(self) -> str:
        return (f" from {self.low}" if self.low else "") + (f" to {self.high}" if self.high else "")


#: What a measurement can be taken of.
Takes = Literal["number or trace", "trace", "response", "density", "loop"]


@dataclass(frozen=True)
class Entry:
    """One measurement: what it takes, its number, and the number's unit (NONE before anything is known)."""

    key: str
    title: str
    meaning: str
    takes: Takes
    function: Callable[[Trace, Any], float]
    #: The unit of what it measures on a trace.
    unit: Callable[[Trace], Unit]
    settings: type[Settings] = Settings
    #: Where the definition comes from; "" for what needs none.
    source: str = ""
    #: What must be said of how this trace was measured; "" for nothing.
    said: Callable[[Trace, Any], str] = lambda trace, settings: ""


def of_trace(trace: Trace) -> Unit:
    """The unit of the trace itself."""
    return trace.unit


def of_axis(trace: Trace) -> Unit:
    """The unit of what the trace runs along."""
    return trace.along().unit


def always(unit: Unit) -> Callable[[Trace], Unit]:
    """One unit, whatever the trace."""
    return lambda trace: unit


def percent(trace: Trace) -> Unit:
    return Unit(word="%")


def unit_of(entry: Entry, trace: Trace) -> str:
    """The unit of what the entry measures on this trace; a ratio of volts is V/V."""
    unit = entry.unit(trace)
    return "V/V" if entry.takes == "response" and unit == NONE else unit.name


def measured(entry: Entry, trace: Trace, settings: Settings) -> float:
    """The number. Raises MeasurementError where the trace does not hold it."""
    if trace.axis is None and entry.takes != "number or trace":
        raise MeasurementError(f"{entry.title} needs a trace along an axis", remedy="Measure its value.")
    if entry.takes in ("response", "loop") and trace.along().unit.name != "Hz":
        raise MeasurementError(f"{entry.title} is measured over frequency", remedy="Measure something else.")
    if entry.takes != "number or trace" and not np.all(np.isfinite(trace.values)):
        raise MeasurementError(
            "the trace is not a number everywhere",
            remedy="Look for a division by zero in it, or a root or a logarithm of what is below zero.",
        )
    found = entry.function(trace, settings)
    if not math.isfinite(found):
        raise MeasurementError("the trace is not a number there", remedy="Look for a division by zero in it.")
    return found
