"""What a run of a check brings along its axis, voltages of nets and currents into pins, as expressions see them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from difflib import get_close_matches

import numpy as np

from verdad_core.arrays import Values
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.parts import nets_of, pins_of
from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import Expression, Probe, read_expression
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, VOLTS, WATTS, Unit

#: Functions that ask how phasors change with the frequency.
STEEP = frozenset({"delay"})


@dataclass(frozen=True)
class Names:
    """What can be looked at in a check: nets, pins and fixtures, found without regard to case."""

    nets: tuple[str, ...]
    #: The pins of each part, in order; a fixture has none of its own.
    parts: Mapping[str, tuple[str, ...]]
    fixtures: tuple[str, ...]

    @classmethod
    def of(cls, circuit: Circuit, check: Check) -> Names:
        nets = dict.fromkeys(net for part in circuit.parts for net in nets_of(part))
        # A source's net may be one that no part touches, where an expression looks at it.
        nets |= dict.fromkeys(net for fixture in check.fixtures for net in (fixture.plus, fixture.minus))
        parts = {part.designator: tuple(pins_of(part)) for part in circuit.parts}
        return cls(tuple(nets | {"gnd": None}), parts, tuple(fixture.name for fixture in check.fixtures))

    def net(self, name: str) -> str:
        """The net as the board writes it. Raises MeasurementError."""
        return "gnd" if name == "0" else _found(name, self.nets, "net")

    def pin(self, name: str) -> str:
        """The pin "R1.1" or fixture that the current is asked for of. Raises MeasurementError."""
        part, _, pin = name.partition(".")
        if not pin and any(name.lower() == fixture.lower() for fixture in self.fixtures):
            return _found(name, self.fixtures, "fixture")
        designator = _found(part, (*self.parts, *self.fixtures), "part or fixture")
        pins = self.parts.get(designator, ())
        if not pin and pins:
            return f"{designator}.{pins[0]}"
        return f"{designator}.{_found(pin, pins, f'pin of {designator}')}"

    def part(self, name: str) -> str:
        return _found(name, tuple(self.parts), "part")


def _found(name: str, known: tuple[str, ...], what: str) -> str:
    if name in known:
        return name
    same = [each for each in known if each.lower() == name.lower()]
    if same:
        return same[0]
    near = get_close_matches(name, known, 3, 0.4)
    listed = f"There are {', '.join(known[:12])}." if known else "There is none."
    raise MeasurementError(
        f"there is no {what} {name}", remedy=f"Did you mean {' or '.join(near)}?" if near else listed
    )


@dataclass(frozen=True)
class Needed:
    """What expressions look at: nets, and pins and fixtures by the currents into them."""

    nets: frozenset[str]
    pins: frozenset[str]

    @classmethod
    def by(cls, expressions: Iterable[str], circuit: Circuit, names: Names) -> Needed:
        """What cannot be read, or is not there, is found out when it is evaluated."""
        nets, pins = set[str](), set[str]()
        for text in expressions:
            with suppress(MeasurementError):
                for probe in read_expression(text).probes:
                    with suppress(MeasurementError):
                        _note(probe, circuit, names, nets, pins)
        return cls(frozenset(nets), frozenset(pins))


def _note(probe: Probe, circuit: Circuit, names: Names, nets: set[str], pins: set[str]) -> None:
    if probe.kind == "v":
        nets.update(names.net(net) for net in (probe.name, probe.second) if net)
    elif probe.kind == "i":
        pins.add(names.pin(probe.name))
    elif probe.kind == "p":
        part = names.part(probe.name)
        nets.update(nets_of(circuit.part(part)))
        pins.update(f"{part}.{pin}" for pin in names.parts[part])


@dataclass(frozen=True)
class Mechanism:
    """What makes noise in a part, and how much of the part's power it is."""

    name: str
    part: float


@dataclass(frozen=True)
class Share:
    """What a part or fixture adds to an output: by itself, in the output's unit, and as a part of the whole power.

    `mechanisms` are what makes it, the largest first; `trace` is its density's name.
    """

    name: str
    value: float
    part: float
    mechanisms: tuple[Mechanism, ...] = ()
    trace: str = ""


@dataclass(frozen=True)
class Signals:
    """One row of a run. `voltages` by net and `currents` by pin or fixture: [N] along the axis, [] at rest.

    `others` are traces by a name of their own, such as `response`.
    """

    names: Names
    axis: Axis | None
    voltages: Mapping[str, Values]
    currents: Mapping[str, Values]
    others: Mapping[str, Trace]
    #: The nets that each part's pins are on, in their order.
    nets_of: Mapping[str, tuple[str, ...]]
    #: How phasors change with the frequency, of voltages by net and of currents by pin ..
    slopes: Mapping[str, Values] = field(default_factory=dict)
    #: .. or what finds it out.
    steep: Callable[[], Signals] | None = None
    #: What volts and amperes are here, densities for one, and what adds to the output, where that is known.
    units: tuple[Unit, Unit] = (VOLTS, AMPERES)
    shares: tuple[Share, ...] = ()

    @property
    def largest_volts(self) -> float:
        """The largest voltage of any net, at any place of the axis."""
        return max((float(np.max(np.abs(values), initial=0.0)) for values in self.voltages.values()), default=0.0)

    def evaluate(self, expression: Expression) -> Trace:
        """Raises MeasurementError, with the column, for what is not there or cannot be computed."""
        signals = self.steep() if self.steep and STEEP & expression.functions else self
        return expression.evaluate(signals._looked_up)

    def _looked_up(self, probe: Probe) -> Trace:
        if probe.kind == "v":
            values, slope = self._volts(probe.name), self._slope(self.names.net(probe.name))
            if probe.second:
                if self.units[0] != VOLTS:
                    raise MeasurementError("densities of two nets have no difference", remedy="Look at one net.")
                other = self._slope(self.names.net(probe.second))
                values = values - self._volts(probe.second)
                slope = None if slope is None or other is None else slope - other
            return replace(self._trace(values, self.units[0]), slope=slope)
        if probe.second:
            raise MeasurementError(f"{probe.kind}(...) looks at one thing", remedy="Write it like i(R1.2).")
        if probe.kind == "i":
            pin = self.names.pin(probe.name)
            return replace(self._trace(self._amperes(pin), self.units[1]), slope=self._slope(pin))
        if probe.kind == "p":
            return self._power(self.names.part(probe.name))
        return self._named(probe.name)

    def _named(self, name: str) -> Trace:
        if name.lower() in self.others:
            return self.others[name.lower()]
        if self.axis is not None and name.lower() == self.axis.title:
            return Trace.of_lines(self.axis.values, self.axis.unit, self.axis)
        known = [*self.others, *([self.axis.title] if self.axis else [])]
        near = get_close_matches(name.lower(), known, 3, 0.6)
        listed = "Write v(net), i(pin)" + "".join(f", {k}" for k in known[:6]) + "."
        raise MeasurementError(
            f"'{name}' is not known here", remedy=f"Did you mean {' or '.join(near)}?" if near else listed
        )

    def _volts(self, name: str) -> Values:
        net = self.names.net(name)
        if net == "gnd":
            return np.zeros(() if self.axis is None else len(self.axis.values))
        if net not in self.voltages:
            raise MeasurementError(
                f"the volts of {net} are not computed here",
                remedy=f"Look at {', '.join(self.others) or 'another net'}.",
            )
        return self.voltages[net]

    def _slope(self, name: str) -> Values | None:
        return np.zeros(()) if self.slopes and name == "gnd" else self.slopes.get(name)

    def _amperes(self, pin: str) -> Values:
        if pin not in self.currents:
            raise MeasurementError(f"the current into {pin} was not computed", remedy="Run the check again.")
        return self.currents[pin]

    def _power(self, part: str) -> Trace:
        if self.axis is not None and self.axis.unit.name == "Hz":
            raise MeasurementError(
                "phasors have no power at an instant", remedy="Look at the power in a transient or at rest."
            )
        pins = self.names.parts[part]
        length = 0 if self.axis is None else len(self.axis.values)
        total: Values = np.zeros(() if self.axis is None else length)
        middle: Values = np.zeros(max(length - 1, 0))
        for pin, net in zip(pins, self.nets_of[part], strict=True):
            volts, amperes = self._trace(self._volts(net), VOLTS), self._trace(self._amperes(f"{part}.{pin}"), AMPERES)
            total = total + volts.values * amperes.values
            if volts.middle is not None and amperes.middle is not None:
                middle = middle + volts.middle * amperes.middle
        return Trace(total, WATTS, self.axis, None if self.axis is None else middle)

    def _trace(self, values: Values, unit: Unit) -> Trace:
        return Trace.of_lines(np.asarray(values), unit, self.axis)
