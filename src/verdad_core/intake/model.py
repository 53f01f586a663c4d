"""One model out of a bundle, ready to be connected: by the roles of its pins, on the bench or on a board."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from verdad_core.devices import Element
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.errors import NetlistError
from verdad_core.intake.bundle import Bundle
from verdad_core.intake.kinds import KINDS, OF_FAMILY
from verdad_core.netlist.flatten import flatten, flatten_subcircuit
from verdad_core.netlist.reader import Netlist, read

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
        """The file with all that it includes."""
        return read(self.bundle.file(self.file).text, texts=self.bundle.texts)

    def nodes(self) -> tuple[str, ...]:
        """The nodes that need a role. Raises NetlistError when there is no such model in the file."""
        netlist = self.netlist()
        scope = netlist.top.subcircuits.get(self.name.lower())
        if scope is not None:
            return scope.pins
        _instance(netlist, self.name, (), UNDER_TEST)
        kind, _ = OF_FAMILY[netlist.top.models[self.name.lower()].family]
        return tuple(str(k) for k, _ in enumerate(KINDS[kind].roles, 1))

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

    def mounted(self, statements: Sequence[str]) -> str:
        """A bench as netlist text: the model's file, one instance of it on nodes named as its roles, statements."""
        nodes = [node_of(role) for role in self.roles]
        instance = _instance(self.netlist(), self.name, nodes, UNDER_TEST)
        return "\n".join([f'.include "{self.file}"', instance, *statements, ""])

    def structure(self, statements: Sequence[str]) -> Structure:
        """`mounted`, compiled. Raises NetlistError or CircuitError for a model that cannot be used."""
        flat = flatten(read(self.mounted(statements), texts=self.bundle.texts))
        return compile_structure(flat.elements, flat.nodesets)

    def elements(
        self, designator: str, nets: Mapping[str, str], values: Mapping[str, float] | None = None
    ) -> list[Element]:
        """The elements of a part, those inside it named `U1.name`; `nets` by role. Raises NetlistError.

        `values` are those of its parameters that the part sets: a subcircuit's, or a device's own, such as its area.
        """
        netlist = self.netlist()
        nodes = [nets[role] for role in self.roles]
        scope = netlist.top.subcircuits.get(self.name.lower())
        if scope is not None:
            pins = dict(zip(scope.pins, nodes, strict=True))
            return flatten_subcircuit(scope, f"{designator}.", pins, values).elements
        places = [f"n{k}" for k in range(len(nodes))]
        line = _instance(netlist, self.name, places, UNDER_TEST)
        given = "".join(f" {name}={value!r}" for name, value in (values or {}).items())
        flat = flatten(read(f'.include "{self.file}"\n{line}{given}\n', texts=self.bundle.texts))
        element = next((element for element in flat.elements if element.name == line.split()[0]), None)
        if element is None:
            raise NetlistError(f"{designator}: its parameters are not those of {self.name}", remedy="Remove them.")
        to = dict(zip(places, nodes, strict=True))
        return [replace(element, name=designator, nodes=tuple(to.get(node, node) for node in element.nodes))]


def node_of(role: str) -> str:
    """The bench's node for a role: words only, so that "in+" and "v-" can stand in an expression."""
    return "p_" + "".join({"+": "plus", "-": "minus"}.get(c, c if c.isalnum() else "_") for c in role.lower())


def _instance(netlist: Netlist, name: str, nodes: Sequence[str], designator: str) -> str:
    """The statement that places a model. A discrete transistor's bulk, where it has no pin, is its source."""
    if name.lower() in netlist.top.subcircuits:
        return " ".join(["x" + designator, *nodes, name])
    model = netlist.top.models.get(name.lower())
    if model is None or model.family not in OF_FAMILY:
        raise NetlistError(
            f"there is no model {name} here that can be placed", remedy="Choose another one of the file."
        )
    _, letter = OF_FAMILY[model.family]
    bulk = nodes[2:3] if letter == "m" and len(nodes) == 3 else ()
    return " ".join([letter + designator, *nodes, *bulk, name])
