"""A circuit as a netlist that stands alone: parts, the files of their models, and a check's fixture where wanted."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from verdad_core.checks.elaborate import PORT_VOLTS, Models
from verdad_core.checks.experiment import prepare
from verdad_core.checks.kind import kind_of
from verdad_core.checks.quantities import TEMPERATURE, engine_key
from verdad_core.devices import Element
from verdad_core.devices.base import NOMINAL_CELSIUS
from verdad_core.devices.trade import TRADE
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Load, Port, Source, Supply, Written
from verdad_core.document.parts import WARMTH, Generic, Modelled, Part, Statement, Valued, unit_names, unit_pins
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Place
from verdad_core.intake.generic import GENERIC_PARTS, generic_elements
from verdad_core.intake.model import Model
from verdad_core.interchange.sources import noise_form, written_form
from verdad_core.netlist.reader import read
from verdad_core.netlist.scope import Netlist
from verdad_core.netlist.writer import write
from verdad_core.units import parse_value


def to_netlist(circuit: Circuit, models: Models, check: Check | None = None) -> str:
    """The netlist; without a check it is the board only, and nothing of any fixture is in it.

    Raises BoardError for a part whose model is not on the shelf, and where two models that are not the same share a
    name.
    """
    lines = [f"* {circuit.title}"]
    for part in circuit.parts:
        lines += _part(part, models)
    if check is not None:
        lines += [f"* fixture of {check.title}", *(line for fixture in check.fixtures for line in _fixture(fixture))]
        if parse_value(check.temperature) != NOMINAL_CELSIUS:
            lines.append(f".temp {parse_value(check.temperature)!r}")
        lines.append(kind_of(check).written(prepare(circuit, check, models), _Names(circuit, check)))
    if circuit.definitions:
        lines += ["* definitions", circuit.definitions]
    return "\n".join([*lines, *_model_files(circuit, models), ".end", ""])


def _node(net: str) -> str:
    return GROUND if net == "gnd" else net


def _named(designator: str, letter: str) -> str:
    """A statement's name, which starts with the letter of what it is."""
    return designator if designator[0].lower() == letter else f"{letter.upper()}{designator}"


def _settings(settings: dict[str, str]) -> str:
    return "".join(f" {name}={parse_value(text)!r}" for name, text in settings.items())


def _part(part: Part, models: Models) -> Iterator[str]:
    match part:
        case Statement():
            yield " ".join([part.designator, *map(_node, part.pins), part.text])
        case Generic():
            if part.rise is not None:
                yield _unsaid(part.designator, part.rise)
            yield from _generic(part)
        case Modelled():
            model = _model(part, models)
            letter, tail = model.letter(), part.model.name + _settings(part.settings)
            if part.rise is not None and letter == "x":
                yield _unsaid(part.designator, part.rise)
            elif part.rise is not None:
                tail += f" dtemp={parse_value(part.rise)!r}"
            if part.errors:
                yield f"* {part.designator}: no statement says {', '.join(sorted(part.errors))} of a model"
            for unit in unit_names(part.units):
                nets = unit_pins(part.pins, unit)
                nodes = [_node(nets[role]) for role in model.roles]
                # A transistor's bulk is its source, and a switch's control counts from ground.
                more = nodes[2:3] if letter == "m" and len(nodes) == 3 else [GROUND] if letter == "s" else []
                yield " ".join([_named(part.designator + unit, letter), *nodes, *more, tail])
        case _:
            name = _named(part.designator, TRADE[part.kind].letters)
            if not part.value:
                yield f"* {part.designator} has no value yet"
            else:
                warmth = "".join(
                    f" {word}={parse_value(text, WARMTH[own][0])!r}"
                    for own, word in (("tempco", "tc1"), ("tempco2", "tc2"), ("rise", "dtemp"))
                    if (text := getattr(part, own)) is not None
                )
                yield f"{name} {' '.join(map(_node, part.pins))} {parse_value(part.value)!r}{warmth}"


def _unsaid(designator: str, rise: str) -> str:
    return f"* {designator} is {rise} °C warmer than what is around it: no statement says so of a subcircuit"


def _model(part: Modelled, models: Models) -> Model:
    model = models.get(part.model.id)
    if model is None:
        raise BoardError(
            f"{part.designator}: its model {part.model.name} is not on the shelf",
            place=Place(part=part.designator), remedy="Take it in again under Models, or choose another one.",
        )  # fmt: skip
    return model


def _generic(part: Generic) -> Iterator[str]:
    generic = GENERIC_PARTS[part.part]
    nodes = [_node(part.pins[pin]) for pin in generic.pins]
    if not generic.family:
        name = _named(part.designator, "x")
        yield f"{name} {' '.join(nodes)} {part.part.replace('-', '_')}{_settings(part.settings)}"
        return
    numbers = {name: parse_value(text) for name, text in part.settings.items()}
    for element in generic_elements(part.part, part.designator, dict(zip(generic.pins, nodes, strict=True)), numbers):
        yield from _device(element)


def _device(element: Element) -> Iterator[str]:
    """One device with a model of its own, or with its value."""
    values = dict(element.values)
    name = element.name.replace(".", "_")
    given = "".join(f" {key}={value!r}" for key, value in values.items() if key != "polarity")
    nodes = " ".join(element.nodes)
    match element.family:
        case "coupling":
            windings = " ".join(f"L{control.source.replace('.', '_')}" for control in element.controls)
            yield f"K{name} {windings} {values.get('coupling', 1.0)!r}"
        case "inductor":
            yield f"L{name} {nodes} {values['inductance']!r}"
        case "line":
            yield f"{_named(name, 't')} {nodes}{given}"
        case family:
            letter = TRADE[family].letters[0]
            controls = "".join(f" {control.plus} {control.minus}" for control in element.controls)
            polarity = values.get("polarity", 1.0)
            word = next(
                word.word for word in TRADE[family].words if word.fixed.get("polarity", 1.0) == polarity
            )  # fmt: skip
            yield f"{_named(name, letter)} {nodes}{controls} generic_{name}"
            yield f".model generic_{name} {word}({given.strip()})"


class _Names:
    """What statements call the pieces of a circuit with a check on it."""

    def __init__(self, circuit: Circuit, check: Check) -> None:
        self.circuit, self.check = circuit, check

    def node(self, net: str) -> str:
        return _node(net)

    def source(self, fixture: str) -> str:
        own = self.check.fixture(fixture)
        return _named(fixture, "i" if isinstance(own, Source) and own.quantity == "current" else "v")

    def quantity(self, name: str) -> str:
        if name == TEMPERATURE:
            return "temp"
        element, parameter = engine_key(self.circuit, self.check, name)
        part = next((part for part in self.circuit.parts if part.designator == element), None)
        if part is not None:
            return _named(element, TRADE[part.kind].letters) if isinstance(part, Valued) else f"{element} {parameter}"
        fixture, _, rest = element.partition(":")
        return {"": self.source(fixture), "current": f"I{fixture}"}.get(rest, f"R{fixture}")


def _fixture(fixture: Fixture) -> Iterator[str]:
    plus, minus = _node(fixture.plus), _node(fixture.minus)
    match fixture:
        case Supply():
            yield f"{_named(fixture.name, 'v')} {plus} {minus} {parse_value(fixture.volts)!r}"
        case Load():
            if fixture.resistance is not None:
                yield f"{_named(fixture.name, 'r')} {plus} {minus} {parse_value(fixture.resistance)!r}"
            if fixture.capacitance is not None:
                yield f"C{fixture.name} {plus} {minus} {parse_value(fixture.capacitance)!r}"
            if fixture.current is not None:
                yield f"I{fixture.name} {plus} {minus} {parse_value(fixture.current)!r}"
        case Written():
            letter = "v" if fixture.quantity == "voltage" else "i"
            yield f"{_named(fixture.name, letter)} {plus} {minus} {' '.join(fixture.text.split())}"
        case Port():
            yield f"{_named(fixture.name, 'v')} {fixture.name}_inner {minus} dc 0 ac {PORT_VOLTS!r}"
            yield f"R{fixture.name} {fixture.name}_inner {plus} {parse_value(fixture.impedance)!r}"
        case Source():
            yield from _source(fixture, plus, minus)


def _source(source: Source, plus: str, minus: str) -> Iterator[str]:
    resistance = parse_value(source.resistance)
    phase = f" {parse_value(source.phase)!r}" if parse_value(source.phase) else ""
    values = f"dc {parse_value(source.dc)!r} ac {parse_value(source.ac)!r}{phase}{written_form(source)}"
    if source.quantity == "current":
        yield f"{_named(source.name, 'i')} {minus} {plus} {values}"
        if noise := noise_form(source):
            yield f"I{source.name}_noise {minus} {plus} dc 0{noise}"
        if resistance:
            yield f"R{source.name} {plus} {minus} {resistance!r}"
        return
    inner = f"{source.name}_inner" if resistance else plus
    if noise := noise_form(source):
        yield f"V{source.name}_noise {source.name}_quiet {minus} dc 0{noise}"
        minus = f"{source.name}_quiet"
    yield f"{_named(source.name, 'v')} {inner} {minus} {values}"
    if resistance:
        yield f"R{source.name} {inner} {plus} {resistance!r}"


def _model_files(circuit: Circuit, models: Models) -> Iterator[str]:
    """Every file of the models in use, once and whole."""
    used = [_model(part, models) for part in circuit.parts if isinstance(part, Modelled)]
    origin: dict[str, str] = {}
    for model in used:
        if origin.setdefault(model.name, model.bundle.digest) != model.bundle.digest:
            raise BoardError(
                f"two models that are not the same are both called {model.name}",
                remedy="Use one version of it on this circuit, then write the netlist again.",
            )
    for bundle in {model.bundle.digest: model.bundle for model in used}.values():
        for file in bundle.files:
            yield f"* model file {file.name}"
            yield from _definitions(file.text, bundle.texts)


def _definitions(text: str, texts: Mapping[str, str]) -> Iterator[str]:
    """A model file's lines; of one that holds a circuit besides, what it defines."""
    netlist = read(text, texts=texts)
    if netlist.top.cards or netlist.commands:
        top = replace(netlist.top, cards=[], nodesets={}, initial={})
        _, *lines, _, _ = write(Netlist(top=top)).split("\n")
        yield from lines
        return
    for line in text.rstrip("\n").split("\n"):
        yield f"* {line}" if _is_outside(line) else line


def _is_outside(line: str) -> bool:
    """What ends a text, or looks for another one that is written out here anyway."""
    word = (line.split() or [""])[0].lower()
    return word in (".end", ".include", ".inc")
