"""A circuit at rest, as a designer looks at it first: volts of nets, amperes into pins, watts, and what is not right.

What transistors are said to do is their families' affair (devices/trade). An amplifier whose inputs are apart has lost
control of its output, be it that this is at a rail or gives all the current that it can.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from verdad_core.analyses.operating_point import operating_point
from verdad_core.checks.compiled import Compiler, compiled
from verdad_core.checks.elaborate import Models, meter_current
from verdad_core.checks.feedback import amplifiers
from verdad_core.checks.known import known_volts
from verdad_core.devices import FAMILY_OF
from verdad_core.devices.trade import TRADE
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.parts import Generic, Modelled, Part, pins_of
from verdad_core.engine.structure import Structure
from verdad_core.intake.kinds import KINDS
from verdad_core.units import format_value, parse_value

#: Inputs of an amplifier that are further apart than so many volts are not held together by feedback.
APART = 20e-3
#: An output this close to a supply, as a part of the whole span, is at its limit, whatever its inputs do; and within
#: the second part where they are apart.
NEAR_RAIL, NEAR_RAILS = 0.02, 0.25


@dataclass(frozen=True)
class Standing:
    """What is said of a part at rest, in words; `grave` where it bears more than it may."""

    part: str
    words: str
    why: str
    grave: bool = False


@dataclass(frozen=True)
class AtRest:
    """Volts by net, amperes into pins ("R1.1") and fixtures, watts taken by parts, and what stands out."""

    voltages: Mapping[str, float]
    currents: Mapping[str, float]
    powers: Mapping[str, float]
    standings: tuple[Standing, ...]


def at_rest(
    circuit: Circuit, check: Check, models: Models, kinds: Mapping[str, str], near: Mapping[str, float] | None = None,
    compiler: Compiler = compiled,
) -> AtRest:  # fmt: skip
    """Solve a check at rest with a meter in every pin; `near` are volts of nodes to start the search from.

    So a circuit with two states is shown in the one that its results rest on.

    `kinds` says what the models on the shelf are, by identifier. Raises a VerdadError when the circuit cannot be built
    or its operating point is not found.
    """
    pins = [f"{part.designator}.{pin}" for part in circuit.parts for pin in pins_of(part)]
    fixtures = [fixture.name for fixture in check.fixtures]
    structure = compiler(circuit, check, models, [*pins, *fixtures]).with_nodesets(near or {})
    point = operating_point(structure)
    point.require()
    nets = dict.fromkeys(net for part in circuit.parts for net in pins_of(part).values())
    voltages = {net: 0.0 if net == "gnd" else point.value(net) for net in nets}
    largest = max(map(abs, voltages.values()), default=0.0)
    voltages = {net: known_volts(value, largest) for net, value in voltages.items()}
    currents = {pin: point.value(meter_current(pin)) for pin in (*pins, *fixtures)}
    powers = {
        part.designator: sum(voltages[net] * currents[f"{part.designator}.{pin}"] for pin, net in pins_of(part).items())
        for part in circuit.parts
    }
    standings: list[Standing] = []
    for part in circuit.parts:
        volts = {pin: voltages[net] for pin, net in pins_of(part).items()}
        amperes = {pin: currents[f"{part.designator}.{pin}"] for pin in volts}
        standings += _over_rating(part, volts, amperes, powers[part.designator])
        standings += _at_limits(part, voltages, currents, kinds)
        standings += _regions(part, structure, volts, amperes, parse_value(check.temperature), largest)
    return AtRest(voltages, currents, powers, tuple(standings))


def _over_rating(
    part: Part, volts: Mapping[str, float], amperes: Mapping[str, float], power: float
) -> Iterator[Standing]:
    if part.rating is None:
        return
    across = max(volts.values()) - min(volts.values())
    borne = {
        "power": (abs(power), "W"), "voltage": (across, "V"), "current": (max(map(abs, amperes.values())), "A")
    }  # fmt: skip
    for what, (value, unit) in borne.items():
        text = getattr(part.rating, what)
        if text is not None and value > parse_value(text) * (1 + 1e-9):
            why = f"{format_value(value, unit, 3)} where {format_value(parse_value(text), unit, 3)} is allowed"
            yield Standing(part.designator, f"over its {what} rating", why, grave=True)


def _at_limits(
    part: Part, voltages: Mapping[str, float], currents: Mapping[str, float], kinds: Mapping[str, str]
) -> Iterator[Standing]:
    kind = kinds.get(part.model.id, "") if isinstance(part, Modelled) else getattr(part, "part", "")
    if kind == "comparator":
        return
    for name, nets in amplifiers(part).items():
        apart = voltages[nets["in+"]] - voltages[nets["in-"]]
        out = voltages[nets["out"]]
        rails = [voltages[nets[rail]] for rail in ("v+", "v-") if rail in nets]
        span = max(rails) - min(rails) if len(rails) == 2 else 0.0
        at_rail = span > 0 and min(abs(out - rail) for rail in rails) < NEAR_RAIL * span
        if abs(apart) <= APART and not at_rail:
            continue
        near = min(abs(out - rail) for rail in rails) < NEAR_RAILS * span if span > 0 else True
        upper = out > sum(rails) / 2 if len(rails) == 2 else apart > 0
        words = f"{name}: output at its {'upper' if upper else 'lower'} limit"
        why = f"{format_value(out, 'V', 3)}, with its inputs {format_value(abs(apart), 'V', 3)} apart"
        if not near:
            unit = name[len(part.designator) :]
            pin = f"{part.designator}.{unit + '.' if unit else ''}out"
            given = f" and gives {format_value(abs(currents[pin]), 'A', 3)}" if pin in currents else ""
            words = f"{name}: its output cannot follow"
            why = f"it stands at {why}{given}: more current or slope is asked for than it has"
        yield Standing(part.designator, words, why)


def _regions(
    part: Part, structure: Structure, volts: Mapping[str, float], amperes: Mapping[str, float], celsius: float,
    largest: float,
) -> Iterator[Standing]:  # fmt: skip
    """Of a part that is one transistor, whether it is where a transistor amplifies."""
    if not isinstance(part, Modelled | Generic):
        return
    element = next((element for element in structure.elements if element.name == part.designator), None)
    if element is None:
        return
    stands = TRADE[element.family].stands if element.family in TRADE else None
    if stands is None or not set(KINDS[TRADE[element.family].kind].roles) <= volts.keys():
        return
    given = {p.name: p.default for p in FAMILY_OF[element.family].parameters} | dict(element.values)
    region = stands(given, volts, amperes, celsius)
    if region is not None:
        shown = (f"{name} {format_value(known_volts(v, largest), 'V', 3)}" for name, v in region.volts.items())
        yield Standing(part.designator, region.words, ", ".join(shown))
