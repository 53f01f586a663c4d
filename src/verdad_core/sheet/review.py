"""The electrical review: what looks wrong in a circuit before anything is run, each with its reason and its place."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from verdad_core.checks.compiled import compiled
from verdad_core.checks.elaborate import Models
from verdad_core.checks.feedback import amplifiers, feedback
from verdad_core.checks.kind import kind_of
from verdad_core.checks.statements import nets_of_text
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.drawing import pin_end
from verdad_core.document.fixtures import Load, Source, Supply
from verdad_core.document.parts import Generic, Modelled, Part, Statement, pins_of
from verdad_core.errors import Severity, VerdadError
from verdad_core.units import format_value, parse_value

#: Values that one can buy, in SI units (common practice, no source), by kind of part.
PLAUSIBLE = {"resistor": (1e-3, 100e6, "Ω"), "capacitor": (0.1e-12, 1.0, "F"), "inductor": (1e-10, 100.0, "H")}

#: Names that nets are given, as long as nobody gives them one.
_UNNAMED = re.compile(r"n\d+")


@dataclass(frozen=True)
class Remark:
    """One remark of the review. `rule` says which; `pins` are ends such as "R1.2", `nets` and `parts` where it is."""

    rule: str
    severity: Severity
    message: str
    remedy: str
    parts: tuple[str, ...] = ()
    pins: tuple[str, ...] = ()
    nets: tuple[str, ...] = ()


@dataclass
class _Subject:
    circuit: Circuit
    check: Check | None
    models: Models
    kinds: Mapping[str, str]
    #: Pins on each net as ends, and how many fixtures and statements name it besides.
    pins: dict[str, list[str]] = field(default_factory=dict)
    named: dict[str, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for part in self.circuit.parts:
            for pin, net in pins_of(part).items():
                self.pins.setdefault(net, []).append(pin_end(part.designator, pin))
            if isinstance(part, Statement):
                for net in nets_of_text(part.designator, part.text):
                    self.named[net] = self.named.get(net, 0) + 1
        for fixture in self.check.fixtures if self.check else ():
            for net in (fixture.plus, fixture.minus):
                self.named[net] = self.named.get(net, 0) + 1

    def kind(self, part: Part) -> str:
        """The kind of a part's model, or the key of a generic one."""
        if isinstance(part, Modelled):
            return self.kinds.get(part.model.id, "")
        return part.part if isinstance(part, Generic) else part.kind


def review(circuit: Circuit, check: Check | None, models: Models, kinds: Mapping[str, str]) -> list[Remark]:
    """All remarks on a circuit with one check's fixture around it, the gravest first.

    `kinds` says what the models on the shelf are, by identifier. An empty circuit has no remarks.
    """
    if not circuit.parts:
        return []
    subject = _Subject(circuit, check, models, kinds)
    remarks = [remark for rule in _RULES for remark in rule(subject)]
    return sorted(remarks, key=lambda remark: list(Severity).index(remark.severity))


def _lonely_nets(subject: _Subject) -> Iterator[Remark]:
    opened: dict[str, list[str]] = {}
    for net, pins in subject.pins.items():
        if len(pins) > 1 or subject.named.get(net) or net == "gnd":
            continue
        [pin] = pins
        part = pin.split(".")[0]
        if _UNNAMED.fullmatch(net):
            opened.setdefault(part, []).append(pin)
        else:
            yield Remark(
                "net with one pin", Severity.WARNING, f"net {net} has one pin only, {pin}",
                "Look for a second name that was meant to be the same.", (part,), (pin,), (net,),
            )  # fmt: skip
    for part, pins in opened.items():
        message = f"{pins[0]} is open: no wire leads to it" if len(pins) == 1 else f"{', '.join(pins)} are open"
        yield Remark(
            "pin open", Severity.WARNING, message, "Wire what belongs to a net.", (part,), tuple(pins),
        )  # fmt: skip


def _ground(subject: _Subject) -> Iterator[Remark]:
    if "gnd" not in subject.pins and not subject.named.get("gnd"):
        yield Remark(
            "no ground", Severity.ERROR, "no part is connected to ground, so no voltage is defined",
            "Type gnd and place it on the net that all voltages count from.",
        )  # fmt: skip


def _cannot_be_built(subject: _Subject) -> Iterator[Remark]:
    """What the engine says of the circuit as a whole: nets without a direct-current path, loops of sources, models."""
    if not ("gnd" in subject.pins or subject.named.get("gnd")) or any(
        (*_values_missing(subject), *_models_missing(subject))
    ):
        return  # These are remarks of their own.
    check = subject.check or Check.model_validate(
        {"id": "none", "title": "none", "fixtures": [], "analysis": {"kind": "operating point"}}
    )
    try:
        # What is let pass is said beside the check's numbers.
        compiled(subject.circuit, check, subject.models)
    except VerdadError as error:
        nets = tuple("gnd" if node == "0" else node for node in error.place.nodes)
        path = "no direct-current path" in error.message
        lonely = path and all(len(subject.pins.get(net, ())) == 1 and not subject.named.get(net) for net in nets)
        if lonely:
            return  # Open pins, which are remarks of their own.
        where = f"{', '.join(nets)}: " if path else ""
        part = (error.place.part or "").split(".")[0]
        yield Remark(
            "no direct-current path" if path else "cannot be solved",
            # Without a fixture, supplies and sources are still to come.
            Severity.ERROR if subject.check else Severity.NOTE,
            where + error.message, error.remedy, (part,) if part in _designators(subject) else (), (), nets,
        )  # fmt: skip


def _designators(subject: _Subject) -> set[str]:
    return {part.designator for part in subject.circuit.parts}


def _outputs_together(subject: _Subject) -> Iterator[Remark]:
    drivers: dict[str, list[str]] = {}
    for part in subject.circuit.parts:
        for name, nets in amplifiers(part).items():
            unit = f"{part.designator}.{name[len(part.designator) :]}.out" if name != part.designator else f"{name}.out"
            drivers.setdefault(nets["out"], []).append(unit)
    for fixture in subject.check.fixtures if subject.check else ():
        stiff = isinstance(fixture, Supply) or (isinstance(fixture, Source) and not parse_value(fixture.resistance))
        if stiff and fixture.plus in drivers:
            drivers[fixture.plus].append(fixture.name)
    for net, outputs in drivers.items():
        if len(outputs) > 1:
            pins = tuple(output for output in outputs if "." in output)
            yield Remark(
                "output against output", Severity.ERROR, f"{' and '.join(outputs)} both drive net {net}",
                "Part them, or put a resistor between them.", tuple(p.split(".")[0] for p in pins), pins, (net,),
            )  # fmt: skip


def _supplies(subject: _Subject) -> Iterator[Remark]:
    """Supply pins whose nets have the wrong order, or no supply at all."""
    fixtures = subject.check.fixtures if subject.check else ()
    volts = {"gnd": 0.0} | {
        f.plus: parse_value(f.volts) for f in fixtures if isinstance(f, Supply) and f.minus == "gnd"
    }
    driven = {net for part in subject.circuit.parts for nets in amplifiers(part).values() for net in (nets["out"],)}
    driven |= {fixture.plus for fixture in fixtures if not isinstance(fixture, Load)}
    for part in subject.circuit.parts:
        pins = pins_of(part)
        if "v+" not in pins or "v-" not in pins:
            continue
        upper, lower = pins["v+"], pins["v-"]
        ends = (pin_end(part.designator, "v+"), pin_end(part.designator, "v-"))
        high, low = volts.get(upper, _said(upper)), volts.get(lower, _said(lower))
        if high is not None and low is not None and high <= low:
            yield Remark(
                "supply pin on the wrong side", Severity.ERROR,
                f"{part.designator} has its v+ pin on {upper} and its v- pin on {lower}, which is not below it",
                "Exchange the two supply pins.", (part.designator,), ends, (upper, lower),
            )  # fmt: skip
        elif subject.check:
            for end, net in zip(ends, (upper, lower), strict=True):
                if (
                    net not in volts
                    and net not in driven
                    and len(subject.pins[net]) > 1
                    and _only_supply_pins(subject, net)
                ):
                    yield Remark(
                        "no supply", Severity.WARNING, f"net {net} at {end} has no supply in this check",
                        f"Add one to the fixture: type supply {net} and its volts.", (part.designator,), (end,), (net,),
                    )  # fmt: skip


def _only_supply_pins(subject: _Subject, net: str) -> bool:
    """Whether nothing on a net could feed it but a supply: pins called v+ and v-, and capacitors."""
    parts = {part.designator: part for part in subject.circuit.parts}
    ends = [end.split(".", 1) for end in subject.pins[net]]
    return all(pin in ("v+", "v-") or parts[name].kind == "capacitor" for name, pin in ends)


def _said(net: str) -> float | None:
    """The volts that a name such as +5V, -12V or 3V3 promises."""
    match = re.fullmatch(r"([+-]?)(\d+)(?:\.(\d+))?V(\d*)", net, re.IGNORECASE)
    if match is None:
        return None
    sign, whole, decimals, after = match.groups()
    return (-1.0 if sign == "-" else 1.0) * float(f"{whole}.{decimals or after or 0}")


def _silent_source(subject: _Subject) -> Iterator[Remark]:
    check = subject.check
    for fixture in check.fixtures if check else ():
        driven = check is not None and kind_of(check).by_ac and fixture.name in check.analysis.drivers
        if check is not None and driven and isinstance(fixture, Source) and parse_value(fixture.ac) == 0:
            yield Remark(
                "source without AC value", Severity.ERROR,
                f"check '{check.title}' sweeps source {fixture.name}, whose AC magnitude is zero",
                "Give it an AC magnitude, such as 1.", (), (), (fixture.plus,),
            )  # fmt: skip


def _inputs_swapped(subject: _Subject) -> Iterator[Remark]:
    intended = {
        name for part in subject.circuit.parts if subject.kind(part) == "comparator" for name in amplifiers(part)
    }
    owner = {name: part for part in subject.circuit.parts for name in amplifiers(part)}
    for name, (plus, minus) in feedback(subject.circuit, subject.check.fixtures if subject.check else ()).items():
        if name in intended or plus <= minus + 1e-9:
            continue
        part = owner[name]
        unit = f"{name[len(part.designator) :]}." if name != part.designator else ""
        ends = (pin_end(part.designator, f"{unit}in+"), pin_end(part.designator, f"{unit}in-"))
        back = f"{100 * plus:.3g} % of its output comes back to in+ and {100 * minus:.3g} % to in-"
        yield Remark(
            "inputs likely swapped", Severity.ERROR, f"{name}: {back} : it runs to a rail",
            "Exchange the two inputs; for a threshold with hysteresis use a comparator.", (part.designator,), ends,
        )  # fmt: skip


def _values_missing(subject: _Subject) -> Iterator[Remark]:
    for part in subject.circuit.parts:
        if part.kind in PLAUSIBLE and not getattr(part, "value", ""):
            yield Remark(
                "value missing", Severity.ERROR, f"{part.designator} has no value", "Click it and type one.",
                (part.designator,),
            )  # fmt: skip


def _values_implausible(subject: _Subject) -> Iterator[Remark]:
    for part in subject.circuit.parts:
        if part.kind not in PLAUSIBLE or not (text := getattr(part, "value", "")):
            continue
        least, most, unit = PLAUSIBLE[part.kind]
        value = parse_value(text)
        if not least <= value <= most:
            word = "above" if value > most else "below"
            yield Remark(
                "implausible value", Severity.WARNING,
                f"{part.designator} has {format_value(value, unit)}, {word} anything one can buy as a {part.kind}",
                "Look at the prefix: m is milli, M is mega.", (part.designator,),
            )  # fmt: skip


def _models_missing(subject: _Subject) -> Iterator[Remark]:
    for part in subject.circuit.parts:
        if isinstance(part, Modelled) and part.model.id not in subject.models:
            yield Remark(
                "model missing", Severity.ERROR, f"{part.designator}: its model {part.model.name} is not on the shelf",
                "Take it in again under Models, or choose another one.", (part.designator,),
            )  # fmt: skip


_RULES = (
    _ground, _values_missing, _inputs_swapped, _outputs_together, _supplies, _silent_source, _cannot_be_built,
    _lonely_nets, _values_implausible, _models_missing,
)  # fmt: skip
