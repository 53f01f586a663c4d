"""A netlist taken over as a circuit: its elements become parts, its independent sources the fixture of a check.

Resistors, capacitors and inductors become parts with a value; instances and devices whose model is on the shelf
become parts with that model; everything else stays an element statement, so that any netlist that can be simulated
can be a circuit.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Container, Iterable, Mapping
from dataclasses import dataclass

from verdad_core.checks.fresh import fresh_measurements
from verdad_core.checks.kind import CheckKind
from verdad_core.checks.kinds import KINDS
from verdad_core.checks.kinds.operating_point import OperatingPoint
from verdad_core.checks.quantities import TEMPERATURE
from verdad_core.checks.statements import with_nets_of_text
from verdad_core.devices import Element
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Source, Supply, Written
from verdad_core.document.parts import (
    VALUE_PARAMETER,
    Capacitor,
    Generic,
    Inductor,
    Modelled,
    ModelReference,
    Part,
    Resistor,
    Statement,
)
from verdad_core.errors import Finding, NetlistError, Place, Severity
from verdad_core.intake.generic import GENERIC_PARTS
from verdad_core.interchange.sources import taken_source
from verdad_core.netlist.cards import Card, write_card
from verdad_core.netlist.expressions import Expression, Value, write_value
from verdad_core.netlist.flatten import blocks, flatten
from verdad_core.netlist.parameters import Parameters, evaluate
from verdad_core.netlist.scope import Netlist
from verdad_core.netlist.writer import write_definitions, write_subcircuits
from verdad_core.units import plain_value

_DESIGNATOR = re.compile(r"[A-Z]{1,3}[0-9]{1,4}")
_VALUED: dict[str, Callable[..., Part]] = {"resistor": Resistor, "capacitor": Capacitor, "inductor": Inductor}
#: What a package that is no single transistor is called.
_PACKAGE = "U"


@dataclass(frozen=True)
class ShelfModel:
    """A model on the shelf, with the roles of its nodes in their order."""

    reference: ModelReference
    roles: tuple[str, ...]


@dataclass(frozen=True)
class TakenOver:
    """A circuit from a netlist; `names` says what parts are called now that were called otherwise."""

    circuit: Circuit
    names: dict[str, str]
    findings: tuple[Finding, ...]


def from_netlist(
    netlist: Netlist, models: Mapping[str, ShelfModel], taken: Container[str], identifier: str, title: str
) -> TakenOver:
    """The circuit of a netlist's top level, without a drawing.

    `models` by lower-case name are those on the shelf; `taken` are designators that must not be used again. Raises
    NetlistError for a netlist that could not be simulated.
    """
    netlist.require()
    if not netlist.top.cards:
        raise NetlistError(
            "there is no element outside of subcircuits, so there is nothing to draw",
            remedy="Take a file of models in under Models; paste a whole circuit here.",
        )
    return _Taking(netlist, models, taken).circuit(identifier, title)


def placed_models(netlist: Netlist) -> list[str]:
    """Names of the subcircuits and models that elements of the top level use, and that are the netlist's own."""
    own = {*netlist.top.subcircuits, *netlist.top.models}
    used = [card.subcircuit or card.model for card in netlist.top.cards if card.name[0] in "xdqjm"]
    return [name for name in dict.fromkeys(used) if name in own]


class _Taking:
    def __init__(self, netlist: Netlist, models: Mapping[str, ShelfModel], taken: Container[str]) -> None:
        self.netlist = netlist
        self.models = models
        self.elements = {element.name: element for element in flatten(netlist).elements}
        self.parameters = Parameters(netlist.top.parameters, netlist.top.functions)
        self.nets = _net_names(node for card in netlist.top.cards for node in _nodes(card))
        sources = [card for card in netlist.top.cards if card.name[0] in "vi"]
        self.names = _fixture_names(sources) | self._designators(taken)
        #: Those that are not called as before; case does not count in the language.
        self.renamed = {old: new for old, new in self.names.items() if old != new.lower()}
        self.used_definitions = False
        self.fixtures: tuple[Fixture, ...] = ()
        #: What was chosen where the netlist does not say it.
        self.guessed: list[Finding] = []
        #: Parts that stay statements.
        self.stated: set[str] = set()

    def circuit(self, identifier: str, title: str) -> TakenOver:
        cards = self.netlist.top.cards
        self.fixtures = tuple(self._fixture(card) for card in cards if card.name[0] in "vi")
        parts = tuple(self._part(card) for card in cards if card.name[0] not in "vi")
        checks, findings = self._checks(identifier)
        definitions = "\n".join(self._definitions())
        circuit = Circuit(
            id=identifier, title=title, parts=parts, checks=checks if self.fixtures else (), definitions=definitions
        )
        return TakenOver(circuit, self.renamed, (*findings, *self._left_out()))

    def _definitions(self) -> Iterable[str]:
        """What statements need: parameters, functions, models, and subcircuits where one is an instance."""
        if self.used_definitions:
            yield from write_definitions(self.netlist.top)
        if any(card.subcircuit for card in self.netlist.top.cards if self.names[card.name] in self.stated):
            yield from write_subcircuits(self.netlist.top)

    def _designators(self, taken: Container[str]) -> dict[str, str]:
        used: set[str] = set()
        found: dict[str, str] = {}
        cards = [card for card in self.netlist.top.cards if card.name[0] not in "vi"]
        for card in cards:
            name = card.name.upper()
            letter = self._letter(card)
            wished = name[1:] if letter == _PACKAGE and name[1:].startswith(_PACKAGE) else letter + name[1:]
            if _DESIGNATOR.fullmatch(wished) and wished not in taken and wished not in used:
                found[card.name] = wished
                used.add(wished)
        numbers: dict[str, int] = {}
        for card in cards:
            if card.name in found:
                continue
            letter = self._letter(card)
            numbers.setdefault(letter, 1)
            while (wished := f"{letter}{numbers[letter]}") in used or wished in taken:
                numbers[letter] += 1
            found[card.name] = wished
            used.add(wished)
        return found

    def _letter(self, card: Card) -> str:
        """What a part's designator begins with: a statement's is also the statement's name."""
        placed = card.subcircuit in self.models or card.subcircuit in blocks().subcircuits
        return _PACKAGE if card.subcircuit and placed else card.name[0].upper()

    def _part(self, card: Card) -> Part:
        designator = self.names[card.name]
        nets = tuple(self.nets[node] for node in card.nodes)
        element = self.elements.get(card.name)
        if element is not None and (value := _plain_value(card, element)) is not None:
            return _VALUED[element.family](designator=designator, pins=nets, value=value)
        if shelf := self.models.get(card.subcircuit or card.model):
            if card.name[0] == "s" and card.controls and self.nets.get(card.controls[0].minus) == "gnd":
                nets = (*nets, self.nets[card.controls[0].plus])
            if card.name[0] == "m" and len(nets) == len(shelf.roles) + 1 and nets[2] == nets[3]:
                nets = nets[:3]
            if len(nets) == len(shelf.roles) and not (card.subcircuit and "m" in card.values):
                return Modelled(
                    designator=designator, model=shelf.reference, pins=dict(zip(shelf.roles, nets, strict=True)),
                    settings=self._settings(card),
                )  # fmt: skip
        is_block = card.subcircuit in blocks().subcircuits and "m" not in card.values
        if is_block and card.subcircuit not in self.netlist.top.subcircuits:
            key = card.subcircuit.replace("_", "-")
            pins = dict(zip(GENERIC_PARTS[key].pins, nets, strict=True))
            return Generic(designator=designator, part=key, pins=pins, settings=self._settings(card))
        return self._statement(card, designator)

    def _settings(self, card: Card) -> dict[str, str]:
        """What a card sets. Parallel junctions count as area: a model's own m may be a grading coefficient."""
        values = {name: self.number(value) for name, value in card.values.items()}
        if card.name[0] in "dqj" and "m" in values:
            values["area"] = values.get("area", 1.0) * values.pop("m")
        return {name: plain_value(value) for name, value in values.items()}

    def number(self, value: Value) -> float:
        return evaluate(value, self.parameters) if isinstance(value, Expression) else value

    def _statement(self, card: Card, designator: str) -> Statement:
        self.used_definitions = True
        self.stated.add(designator)
        pins = tuple(self.nets[node] for node in _nodes(card))
        return Statement(designator=designator, pins=pins, text=self._rewritten(card.name, _rest(card)))

    def _rewritten(self, name: str, text: str) -> str:
        """A statement's text with elements and nets called as they are now."""
        text = with_nets_of_text(name, text, lambda net: self.nets.get(net, net))
        text = re.sub(r"\bi\(([^()]*)\)", lambda found: f"i({self.renamed.get(found[1], found[1])})", text)
        for old, new in self.renamed.items():
            text = re.sub(rf"(?<![\w.(=]){re.escape(old)}(?![\w.(=])", new, text)
        return text

    def _fixture(self, card: Card) -> Fixture:
        name = self.names[card.name]
        plus, minus = (self.nets[node] for node in card.nodes)
        values = {key: self.number(value) for key, value in card.values.items()}
        quantity = "voltage" if card.name[0] == "v" else "current"
        if quantity == "voltage" and card.form is None and set(values) <= {"dc"}:
            return Supply(name=name, plus=plus, minus=minus, volts=plain_value(values.get("dc", 0.0)))
        element = self.elements.get(card.name)
        if element is not None and (source := taken_source(element)) is not None:
            # A current flows from the first node of a statement through the source to the second.
            ends = {"plus": plus, "minus": minus} if quantity == "voltage" else {"plus": minus, "minus": plus}
            return Source.model_validate({"name": name, **ends, "quantity": quantity, **source})
        self.used_definitions = True
        text = self._rewritten(card.name, _rest(card))
        return Written.model_validate({"name": name, "plus": plus, "minus": minus, "quantity": quantity, "text": text})

    def _checks(self, identifier: str) -> tuple[tuple[Check, ...], list[Finding]]:
        """A check for each analysis that the netlist asks for and that a check can be; at rest where there is none."""
        checks, findings = list[Check](), list[Finding]()
        for command in self.netlist.commands:
            settings = next((found for kind in KINDS if (found := kind.taken(command, self)) is not None), None)
            if settings is None:
                findings.append(
                    Finding(
                        Severity.NOTE, "this analysis is not taken over", Place(line=command.line),
                        "Choose one of the check's own.",
                    )
                )  # fmt: skip
                continue
            checks.append(self._check(identifier, settings, checks))
        if not checks:
            checks.append(self._check(identifier, OperatingPoint(), checks))
        return tuple(checks), [*self.guessed, *findings]

    def _check(self, identifier: str, kind: CheckKind, before: list[Check]) -> Check:
        again = sum(check.analysis.kind == kind.kind for check in before)
        suffix = kind.kind.replace(" ", "-") + (f"-{again + 1}" if again else "")
        celsius = 27.0 if self.netlist.celsius is None else self.number(self.netlist.celsius)
        return Check(
            id=f"{identifier[: 63 - len(suffix)]}-{suffix}", title=kind.title + (f" {again + 1}" if again else ""),
            fixtures=self.fixtures, analysis=kind, temperature=plain_value(celsius),
            measurements=fresh_measurements(kind)[:1],
        )  # fmt: skip

    def quantity(self, name: str) -> str | None:
        return TEMPERATURE if name == "temp" else self.names.get(name)

    def net(self, node: str) -> str | None:
        return self.nets.get(node)

    def driver(self, name: str) -> str | None:
        found = next((fixture for fixture in self.fixtures if fixture.name == self.names.get(name)), None)
        return found.name if isinstance(found, Source) else None

    def likely_output(self, driver: Fixture) -> str:
        nets = [self.nets[node] for card in self.netlist.top.cards for node in card.nodes]
        wanted = [net for net in dict.fromkeys(nets) if net not in ("gnd", driver.plus)] or [driver.plus]
        output = next((net for net in wanted if "out" in net.lower()), wanted[-1])
        self.guessed.append(
            Finding(
                Severity.NOTE, f"the frequency response is v({output}) / v({driver.name})", Place(nodes=(output,)),
                "Choose another output where it is not the one you mean.",
            )
        )  # fmt: skip
        return output

    def _left_out(self) -> Iterable[Finding]:
        yield from (finding for finding in self.netlist.findings if finding.severity is not Severity.ERROR)
        if self.netlist.top.nodesets or self.netlist.top.initial:
            yield Finding(Severity.NOTE, "voltages to search or start from (.nodeset, .ic) are not taken over")


def _plain_value(card: Card, element: Element) -> str | None:
    """The value of an element that has nothing but a value."""
    name = VALUE_PARAMETER.get(element.family)
    if name is None or card.model or set(card.values) != {name} or set(element.values) != {name}:
        return None
    value = element.values[name]
    return plain_value(value) if value > 0 else None


def _nodes(card: Card) -> tuple[str, ...]:
    """The nodes that a statement's pins are: its own, and the two that control it."""
    if len(card.controls) == 1 and card.controls[0].plus and (_is_linear(card) or card.name[0] == "s"):
        return (*card.nodes, card.controls[0].plus, card.controls[0].minus)
    return card.nodes


def _is_linear(card: Card) -> bool:
    """Whether it is a controlled source with a gain and nothing else, which has a shorter form than POLY."""
    return card.family.startswith("controlled") and len(card.controls) == 1


def _rest(card: Card) -> str:
    """What follows the pins in a card's statement."""
    if _is_linear(card):
        return f"{card.controls[0].source} {write_value(card.values['p1'])}".strip()
    return " ".join(write_card(card).split(" ")[1 + len(_nodes(card)) :])


def _net_names(nodes: Iterable[str]) -> dict[str, str]:
    """What nodes are called as nets of a board."""
    names: dict[str, str] = {}
    for node in dict.fromkeys(nodes):
        if node in ("0", "gnd"):
            names[node] = "gnd"
            continue
        plain = re.sub(r"[^A-Za-z0-9_+/-]", "_", node)[:32] or "net"
        name, count = plain, 2
        while name in names.values() or name == "gnd":
            name, count = f"{plain[:28]}_{count}", count + 1
        names[node] = name
    return names


def _fixture_names(sources: Iterable[Card]) -> dict[str, str]:
    names: dict[str, str] = {}
    for card in sources:
        plain = re.sub(r"[^a-z0-9]", "", card.name)[:28]
        name, count = plain, 2
        while name in names.values():
            name, count = f"{plain}x{count}", count + 1
        names[card.name] = name
    return names
