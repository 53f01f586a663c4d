"""One model out of a bundle, ready to be connected: by the roles of its pins, on the bench or on a board."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from verdad_core.devices import FAMILY_OF, Element
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.errors import NetlistError
from verdad_core.intake.bundle import Bundle
from verdad_core.intake.kinds import KINDS, is_inverted, placed_as
from verdad_core.intake.symbols import Symbol, default_symbol
from verdad_core.netlist.flatten import flatten, flatten_subcircuit
from verdad_core.netlist.reader import read
from verdad_core.netlist.scope import Netlist

#: What the instance of a model is called on a bench; the netlist's letter for a subcircuit goes before it.
UNDER_TEST = "dut"


@dataclass(frozen=True)
class Model:
    """A subcircuit or a `.model` of one of a bundle's files, with the role of each of its nodes in their order."""

    bundle: Bundle
    file: str
    name: str
    roles: tuple[str, ...]

    def netlist(self) -> Netlist:
        """The file with all that it includes; read once, so it must not be changed."""
        return _read(self.bundle, self.file)

    def nodes(self) -> tuple[str, ...]:
        """The nodes that need a role. Raises NetlistError when there is no such model in the file."""
        netlist = self.netlist()
        scope = netlist.top.subcircuits.get(self.name.lower())
        if scope is not None:
            return scope.pins
        _instance(netlist, self.name, (), UNDER_TEST)
        placed = placed_as(netlist.top.models[self.name.lower()])
        return tuple(str(k) for k, _ in enumerate(KINDS[placed[0]].roles if placed else (), 1))

    def letter(self) -> str:
        """The first letter of the statement that places it. Raises NetlistError when it cannot be placed."""
        return _instance(self.netlist(), self.name, (), "")[0]

    def check(self) -> list[Element]:
        """The model's own elements. Raises NetlistError for one that cannot be used, with the line that is wrong."""
        netlist = self.netlist()
        scope = netlist.top.subcircuits.get(self.name.lower())
        if scope is None:
            return self.elements(UNDER_TEST, {role: f"n{k}" for k, role in enumerate(self.roles)})
        for finding in netlist.errors:
            line = finding.place.line or 0
            if finding.place.file == scope.file and scope.line <= line <= scope.last:
                raise NetlistError(finding.message, place=finding.place, remedy=finding.remedy)
        return flatten_subcircuit(scope).elements

    def symbol(self, kind: str) -> Symbol:
        """How it is drawn as one of a kind."""
        try:
            turned = is_inverted(self.check())
        except NetlistError:
            turned = False
        return default_symbol(kind, self.roles, KINDS[kind].roles, inverted=turned)

    def mounted(self, statements: Sequence[str]) -> str:
        """A bench as netlist text: the model's file, one instance of it on nodes named as its roles, statements."""
        nodes = [node_of(role) for role in self.roles]
        instance = _instance(self.netlist(), self.name, nodes, UNDER_TEST)
        return "\n".join([f'.include "{self.file}"', instance, *statements, ""])

    def structure(self, statements: Sequence[str]) -> Structure:
        """`mounted`, compiled. Raises NetlistError or CircuitError for a model that cannot be used."""
        flat = flatten(read(self.mounted(statements), texts=self.bundle.texts))
        return compile_structure(flat.elements, flat.nodesets)

    def settings(self) -> dict[str, float]:
        """The parameters that a part can set, with the model's values: a subcircuit's, or those that its card gives.

        What picks between equations, such as a polarity, is no parameter to turn. Raises NetlistError for a model that
        cannot be used.
        """
        scope = self.netlist().top.subcircuits.get(self.name.lower())
        if scope is not None:
            return {name: value for name, value in scope.parameters.items() if isinstance(value, float)}
        [element] = self.elements(UNDER_TEST, {role: f"n{k}" for k, role in enumerate(self.roles)})
        choices = {parameter.name for parameter in FAMILY_OF[element.family].parameters if parameter.choice}
        return {name: value for name, value in element.values.items() if name not in choices}

    def elements(
        self, designator: str, nets: Mapping[str, str], values: Mapping[str, float] | None = None
    ) -> list[Element]:
        """The elements of a part, those inside it named `U1.name`; `nets` by role. Raises NetlistError.

        `values` are those of its parameters that the part sets: a subcircuit's; or a device's own, such as its area,
        and those of its model.
        """
        netlist = self.netlist()
        nodes = [nets[role] for role in self.roles]
        scope = netlist.top.subcircuits.get(self.name.lower())
        if scope is not None:
            pins = dict(zip(scope.pins, nodes, strict=True))
            return flatten_subcircuit(scope, f"{designator}.", pins, values).elements
        own = _of_device(netlist, self.name, values or {})
        element = _device(self, tuple((name, value) for name, value in (values or {}).items() if name not in own))
        if element is None:
            raise NetlistError(f"{designator}: its parameters are not those of {self.name}", remedy="Remove them.")
        to = {f"n{k}": node for k, node in enumerate(nodes)}
        nodes = [to.get(node, node) for node in element.nodes]
        controls = [replace(c, plus=to.get(c.plus, c.plus), minus=to.get(c.minus, c.minus)) for c in element.controls]
        whole = {**element.values, **own}
        return [replace(element, name=designator, nodes=tuple(nodes), controls=tuple(controls), values=whole)]


# A circuit is compiled again with every value that is turned; what its models say stays the same.


@lru_cache(maxsize=32)
def _read(bundle: Bundle, file: str) -> Netlist:
    return read(bundle.file(file).text, texts=bundle.texts)


@lru_cache(maxsize=512)
def _device(model: Model, values: tuple[tuple[str, float], ...]) -> Element | None:
    """A `.model`'s device on nodes n0, n1, ..., with parameters of its statement; None where these are not its own."""
    line = _instance(model.netlist(), model.name, [f"n{k}" for k in range(len(model.roles))], UNDER_TEST)
    given = "".join(f" {name}={value!r}" for name, value in values)
    flat = flatten(read(f'.include "{model.file}"\n{line}{given}\n', texts=model.bundle.texts))
    return next((element for element in flat.elements if element.name == line.split()[0]), None)


def _of_device(netlist: Netlist, name: str, values: Mapping[str, float]) -> dict[str, float]:
    """Those of the values that are parameters of the model's device, by the names its family has for them."""
    model = netlist.top.models.get(name.lower())
    if model is None:
        return {}
    known = {parameter.name for parameter in FAMILY_OF[model.family].parameters}
    return {key: value for key, value in values.items() if key in known}


def node_of(role: str) -> str:
    """The bench's node for a role: words only, so that "in+" and "v-" can stand in an expression."""
    return "p_" + "".join({"+": "plus", "-": "minus"}.get(c, c if c.isalnum() else "_") for c in role.lower())


def _instance(netlist: Netlist, name: str, nodes: Sequence[str], designator: str) -> str:
    """The statement that places a model."""
    if name.lower() in netlist.top.subcircuits:
        return " ".join(["x" + designator, *nodes, name])
    model = netlist.top.models.get(name.lower())
    placed = placed_as(model) if model is not None else None
    if placed is None:
        raise NetlistError(
            f"there is no model {name} here that can be placed", remedy="Choose another one of the file."
        )
    _, letter = placed
    # A switch's control counts from ground, as that of a generic one does.
    control = ["0"] if letter == "s" and nodes else []
    return " ".join([letter + designator, *nodes, *control, name])
