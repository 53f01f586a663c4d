"""A circuit of the board with one check's fixture around it, turned into the engine's elements."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace

from verdad_core.checks.error_sources import with_errors
from verdad_core.checks.statements import nets_of_text, statement_elements
from verdad_core.devices import FAMILY_OF, Element
from verdad_core.devices.waveforms import GAUSSIAN, Waveform
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Load, Port, Source, Supply, Written
from verdad_core.document.parts import (
    VALUE_PARAMETER,
    WARMTH,
    Generic,
    Modelled,
    Part,
    Statement,
    Valued,
    nets_of,
    package_pins,
    pins_of,
    unit_names,
    unit_pins,
)
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Place
from verdad_core.intake.generic import generic_elements
from verdad_core.intake.model import Model
from verdad_core.units import parse_value

#: Models by the identifier that the board's parts use.
Models = Mapping[str, Model]

#: The small-signal magnitude of a port's generator.
PORT_VOLTS = 1.0


def elaborate(circuit: Circuit, check: Check, models: Models, metered: Collection[str] = ()) -> list[Element]:
    """The flat circuit of a check.

    Elements of parts have the part's designator as name, those inside a model `U1.name`; fixtures keep their own.
    `metered` are pins ("R1.2") and fixtures ("battery": its plus terminal) whose currents become unknowns, each by a
    voltage source of 0 V in front of it: see `meter_current`. Raises BoardError for a model that is missing or whose
    pins do not match, and for a fixture on a net that no part touches; NetlistError for a model that is broken.
    """
    nets = dict.fromkeys(net for part in circuit.parts for net in nets_of(part))
    attached = dict.fromkeys(net for fixture in check.fixtures for net in (fixture.plus, fixture.minus) if net != "gnd")
    # What an expression looks at is there too, in any case.
    looked_at = {
        net.lower()
        for part in circuit.parts
        if isinstance(part, Statement)
        for net in nets_of_text(part.designator, part.text)
    }
    wanted = [net for net in (*attached, *check.analysis.nets) if net != "gnd"]
    if missing := [net for net in wanted if net not in nets and net.lower() not in looked_at]:
        raise BoardError(
            f"check '{check.title}' is attached to net {missing[0]}, which no part touches",
            place=Place(nodes=(missing[0],)), remedy="Attach it to a net of the circuit, or name the net so.",
        )  # fmt: skip
    meters: list[Element] = []
    parts = [_metered_part(part, metered, meters) for part in circuit.parts]
    fixtures = [_metered_fixture(fixture, metered, meters) for fixture in check.fixtures]
    elements: list[Element] = []
    for part in parts:
        elements += _part(part, models)
    for fixture in fixtures:
        elements += fixture_elements(fixture, driven=fixture.name in check.analysis.drivers)
    elements += meters
    inner = [meter.nodes[1] for meter in meters]
    return elements + statement_elements(
        circuit.definitions,
        (part for part in parts if isinstance(part, Statement)),
        (fixture for fixture in fixtures if isinstance(fixture, Written)),
        dict.fromkeys((*nets, *attached, *inner)),
        [element.name for element in elements],
    )


def meter_current(pin: str) -> str:
    """The unknown that is the current into a metered pin or fixture, in A."""
    return f"i({_METER}{pin})"


def meter_element(pin: str) -> str:
    """The source of 0 V in front of a metered pin or fixture."""
    return f"{_METER}{pin}"


_METER = "meter:"


def _metered_part(part: Part, metered: Collection[str], meters: list[Element]) -> Part:
    own = {pin: net for pin, net in pins_of(part).items() if f"{part.designator}.{pin}" in metered}
    if not own:
        return part
    inner = {pin: _meter(f"{part.designator}.{pin}", net, meters) for pin, net in own.items()}
    if isinstance(part, Modelled | Generic):
        return part.model_copy(update={"pins": {**part.pins, **inner}})
    return part.model_copy(update={"pins": tuple(inner.get(pin, net) for pin, net in pins_of(part).items())})


def _metered_fixture(fixture: Fixture, metered: Collection[str], meters: list[Element]) -> Fixture:
    if fixture.name not in metered:
        return fixture
    return fixture.model_copy(update={"plus": _meter(fixture.name, fixture.plus, meters)})


def _meter(pin: str, net: str, meters: list[Element]) -> str:
    """A meter between a net and a pin; the node between the two."""
    inner = f"{_METER}{pin}"
    meters.append(Element(inner, "voltage source", (_node(net), inner), {"dc": 0.0}))
    return inner


def drive_node(source: str) -> str:
    """The node inside a source, in front of its own resistance: the reference of the response."""
    return f"{source}:drive"


def _node(net: str) -> str:
    return GROUND if net == "gnd" else net


def value_key(part: Valued) -> tuple[str, str]:
    """The element and parameter that hold a part's value."""
    return part.designator, VALUE_PARAMETER[part.kind]


def _part(part: Part, models: Models) -> list[Element]:
    if isinstance(part, Statement):
        return []
    if isinstance(part, Modelled):
        return _warmed(part, _modelled(part, models))
    if isinstance(part, Generic):
        nets = {pin: _node(net) for pin, net in part.pins.items()}
        return _warmed(part, generic_elements(part.part, part.designator, nets, _numbers(part.settings)))
    if not part.value:
        raise BoardError(f"{part.designator} has no value", place=Place(part=part.designator), remedy="Give it one.")
    nodes = tuple(_node(net) for net in part.pins)
    values = {VALUE_PARAMETER[part.kind]: parse_value(part.value)}
    given = {name: text for name in WARMTH if (text := getattr(part, name)) is not None}
    warmth = {WARMTH[name][1]: parse_value(text, WARMTH[name][0]) for name, text in given.items()}
    return [Element(part.designator, part.kind, nodes, values | warmth)]


def _warmed(part: Modelled | Generic, elements: list[Element]) -> list[Element]:
    """All that is in a part, warmer by its rise; what does not follow temperature stays."""
    rise = parse_value(part.rise) if part.rise is not None else 0.0
    if not rise:
        return elements
    return [
        replace(each, values={**each.values, "rise": each.values.get("rise", 0.0) + rise})
        if any(parameter.name == "rise" for parameter in FAMILY_OF[each.family].parameters) else each
        for each in elements
    ]  # fmt: skip


def _numbers(settings: Mapping[str, str]) -> dict[str, float]:
    return {name: parse_value(text) for name, text in settings.items()}


def _modelled(part: Modelled, models: Models) -> list[Element]:
    place = Place(part=part.designator)
    model = models.get(part.model.id)
    if model is None:
        raise BoardError(
            f"{part.designator}: its model {part.model.name} is not on the shelf",
            place=place,
            remedy="Take it in again under Models, or choose another one.",
        )
    if sorted(package_pins(model.roles, part.units)) != sorted(part.pins):
        raise BoardError(
            f"{part.designator} has the pins {', '.join(sorted(part.pins))}, "
            f"its model {', '.join(sorted(model.roles))}",
            place=place,
            remedy=f"Correct the pins of {model.name} under Models.",
        )
    nodes = {pin: _node(net) for pin, net in part.pins.items()}
    elements: list[Element] = []
    for unit in unit_names(part.units):
        inner, around = with_errors(part, unit, unit_pins(nodes, unit))
        elements += [*around, *model.elements(part.designator + unit, inner, _numbers(part.settings))]
    return elements


def fixture_elements(fixture: Fixture, *, driven: bool) -> list[Element]:
    """The elements of a fixture; a port's generator only works where it is `driven`."""
    nodes = (_node(fixture.plus), _node(fixture.minus))
    match fixture:
        case Written():
            return []
        case Load():
            return _load(fixture, nodes)
        case Supply():
            return [Element(fixture.name, "voltage source", nodes, {"dc": parse_value(fixture.volts)})]
        case Port():
            volts = {"dc": 0.0, "ac": PORT_VOLTS if driven else 0.0}
            return _behind(fixture.name, nodes, volts, None, fixture.impedance)
        case Source():
            return _source(fixture, nodes)


def _load(load: Load, nodes: tuple[str, str]) -> list[Element]:
    elements = []
    if load.resistance is not None:
        elements.append(Element(load.name, "resistor", nodes, {"resistance": parse_value(load.resistance)}))
    if load.capacitance is not None:
        farads = {"capacitance": parse_value(load.capacitance)}
        elements.append(Element(f"{load.name}:capacitance", "capacitor", nodes, farads))
    if load.current is not None:
        elements.append(Element(f"{load.name}:current", "current source", nodes, {"dc": parse_value(load.current)}))
    return elements


def _source(source: Source, nodes: tuple[str, str]) -> list[Element]:
    dc = parse_value(source.dc)
    values = {"dc": dc, "ac": parse_value(source.ac), "phase": parse_value(source.phase)}
    form = source.waveform.form(dc) if source.waveform else None
    noise = form if form is not None and form.kind == GAUSSIAN else None
    form = None if noise is not None else form
    if source.quantity == "voltage":
        if noise is None:
            return _behind(source.name, nodes, values, form, source.resistance)
        between = f"{source.name}:noise"
        own = Element(between, "voltage source", (between, nodes[1]), {"dc": 0.0}, extra=noise)
        return [*_behind(source.name, (nodes[0], between), values, form, source.resistance), own]
    # Positive out of the plus terminal, so into the net.
    around = nodes[::-1]
    elements = [Element(source.name, "current source", around, values, extra=form)]
    if noise is not None:
        elements.append(Element(f"{source.name}:noise", "current source", around, {"dc": 0.0}, extra=noise))
    if ohms := parse_value(source.resistance):
        elements.append(Element(f"{source.name}:resistance", "resistor", nodes, {"resistance": ohms}))
    return elements


def _behind(
    name: str, nodes: tuple[str, str], values: dict[str, float], form: Waveform | None, resistance: str
) -> list[Element]:
    """A voltage behind a resistance."""
    inner = drive_node(name)
    return [
        Element(name, "voltage source", (inner, nodes[1]), values, extra=form),
        Element(f"{name}:resistance", "resistor", (inner, nodes[0]), {"resistance": parse_value(resistance)}),
    ]
