"""A flat circuit compiled once: unknowns, device tables, sparsity pattern, and where each parameter sits."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.devices import FAMILIES, FAMILY_OF, Element, Parameter
from verdad_core.devices.base import AMBIENT, NOMINAL_CELSIUS, Record, Wiring
from verdad_core.engine.topology import check_topology
from verdad_core.errors import CircuitError, Place

GROUND = "0"

#: More unknowns than this are refused before any memory is taken.
MAX_UNKNOWNS = 200_000


@dataclass(frozen=True)
class Structure:
    """All that does not vary between the rows of a parameter matrix.

    Unknowns 0..n-1 are node voltages (V), then internal nodes and branch currents (A) as devices need them; index n
    is ground. `rows`/`columns` [nnz] are the Jacobian's positions; the first `nodes` of them are the node diagonals.
    """

    unknowns: tuple[str, ...]
    nodes: int
    heads: Integers
    table: Integers
    slots: Integers
    rows: Integers
    columns: Integers
    nominal: Floats
    derived: int
    states: int
    elements: tuple[Element, ...]
    column_of: Mapping[tuple[str, str], int]
    index_of: Mapping[str, int]

    @property
    def size(self) -> int:
        """n, the number of unknowns."""
        return len(self.unknowns)

    def index(self, unknown: str) -> int:
        """The index of a node ("out"; ground is n) or of a branch current ("i(v1)"). Raises CircuitError."""
        if unknown == GROUND:
            return self.size
        try:
            return self.index_of[unknown]
        except KeyError:
            raise CircuitError(
                f"there is no node or branch '{unknown}' in the circuit",
                remedy="Nodes and branches: " + ", ".join(sorted(self.index_of)[:20]),
            ) from None

    def column(self, element: str, parameter: str) -> int:
        """The column of an element's parameter in the parameter matrix. Raises CircuitError."""
        try:
            return self.column_of[element, parameter]
        except KeyError:
            known = sorted(p for e, p in self.column_of if e == element)
            raise CircuitError(
                f"'{element}' has no parameter '{parameter}'",
                remedy="It has " + ", ".join(known) if known else f"There is no part '{element}'.",
            ) from None


class _Builder:
    def __init__(self, elements: Sequence[Element]) -> None:
        self.index: dict[str, int] = {}
        names = dict.fromkeys(node for element in elements for node in _touched(element))
        for node in names:
            if node != GROUND:
                self.index[node] = len(self.index)
        self.nodes = len(self.index)
        self.branches = {element.name for element in elements if FAMILY_OF[element.family].has_branch}
        # Ground's index is only known at the end, so -1 stands for it until then.
        self.ground = -1

    def allocate(self, name: str) -> int:
        return self.index.setdefault(name, len(self.index))

    def node(self, name: str) -> int:
        return self.ground if name == GROUND else self.index[name]

    def branch_of(self, element: Element, source: str) -> int:
        if source not in self.branches:
            raise CircuitError(
                f"{element.name} is controlled by the current through '{source}', which is not a voltage source",
                place=Place(line=element.line, part=element.name),
                remedy="Put a voltage source of 0 V in that path and name it.",
            )
        return self.allocate(f"i({source})")

    def connect(self, element: Element) -> Record:
        wiring = Wiring(
            node=self.node,
            internal=lambda name: self.allocate(f"{element.name}:{name}"),
            branch=lambda: self.allocate(f"i({element.name})"),
            branch_of=lambda source: self.branch_of(element, source),
            ground=self.ground,
        )
        return FAMILY_OF[element.family].connect(element, wiring)


def _touched(element: Element) -> Iterable[str]:
    yield from element.nodes
    for control in element.controls:
        if not control.source:
            yield control.plus
            yield control.minus


def compile_structure(elements: Iterable[Element]) -> Structure:
    """Compile a flat circuit.

    Raises CircuitError when there is no ground, a name is used twice, a value is outside its parameter's range,
    a node has no direct-current path to ground, voltage sources form a loop, or a controlling source is missing.
    """
    flat = tuple(elements)
    _check_names(flat)
    check_topology(flat)
    builder = _Builder(flat)
    by_family = defaultdict(list)
    for element in flat:
        by_family[element.family].append(element)

    heads: list[list[int]] = []
    table: list[int] = []
    positions: list[tuple[int, int]] = []
    nominal, column_of = [NOMINAL_CELSIUS], {("", "temperature"): AMBIENT}
    derived = states = 0
    for family in FAMILIES:
        members = by_family[family.name]
        heads.append([len(members), len(table), len(positions), len(nominal), derived, states])
        for element in members:
            record = builder.connect(element)
            table += record.table
            positions += record.entries
            parameters = family.parameters_for(element)
            for parameter in parameters:
                column_of[element.name, parameter.name] = len(nominal)
                nominal.append(_checked(element, parameter))
            derived += len(parameters) if family.parameters_of else family.derived
            states += family.state

    n = len(builder.index)
    if n > MAX_UNKNOWNS:
        raise CircuitError(f"the circuit has {n:,} unknowns; at most {MAX_UNKNOWNS:,} are solved")
    slot_of: dict[tuple[int, int], int] = {(k, k): k for k in range(builder.nodes)}
    slots = [-1 if -1 in position else slot_of.setdefault(position, len(slot_of)) for position in positions]
    nnz = len(slot_of)
    pattern = np.array(list(slot_of), dtype=np.int32).reshape(nnz, 2)
    return Structure(
        unknowns=tuple(builder.index),
        nodes=builder.nodes,
        heads=np.array(heads, dtype=np.int32),
        table=_with_ground(table, n),
        slots=_with_ground(slots, nnz),
        rows=np.ascontiguousarray(pattern[:, 0]),
        columns=np.ascontiguousarray(pattern[:, 1]),
        nominal=np.array(nominal),
        derived=derived,
        states=states,
        elements=flat,
        column_of=column_of,
        index_of=builder.index,
    )


def _with_ground(indices: Sequence[int], ground: int) -> Integers:
    array = np.array(indices, dtype=np.int32)
    array[array < 0] = ground
    return array


def _check_names(elements: Sequence[Element]) -> None:
    seen: dict[str, Element] = {}
    for element in elements:
        if element.name in seen:
            raise CircuitError(
                f"the name {element.name} is used twice",
                place=Place(line=element.line, part=element.name),
                remedy="Rename one of the two.",
            )
        seen[element.name] = element


def _checked(element: Element, parameter: Parameter) -> float:
    value = element.values.get(parameter.name, parameter.default)
    given = parameter.name in element.values
    if given and (refusal := parameter.refusal(value)):
        raise CircuitError(
            f"{element.name}: {refusal} ({parameter.meaning})",
            place=Place(line=element.line, part=element.name),
            remedy="Correct the value.",
        )
    return value
