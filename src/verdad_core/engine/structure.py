"""A flat circuit compiled once: unknowns, device tables, sparsity pattern, and where each parameter sits."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from verdad_core.arrays import Addresses, Booleans, Floats, Integers, Packed
from verdad_core.devices import FAMILIES, FAMILY_OF, Element, Parameter
from verdad_core.devices.base import AMBIENT, AMBIENT_KEY, COUNT, HALTED, NOMINAL_CELSIUS, Record, Wiring
from verdad_core.engine.attempt import attempt
from verdad_core.engine.circuit import CIRCUIT, layout_of
from verdad_core.engine.linear import plan
from verdad_core.engine.load import AHEAD, ATTEMPT, KERNELS
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.newton import AMPERES, VOLTS, find_point, newton
from verdad_core.engine.response import solve_new, solve_output, solve_right
from verdad_core.engine.roles import roles_of
from verdad_core.engine.rows import linearise
from verdad_core.engine.sites import ParameterSites, sites
from verdad_core.engine.topology import SHORTED, Topology, check_topology
from verdad_core.errors import CircuitError, Place
from verdad_core.words import Layout

GROUND = "0"

#: The engine's own kernels that are reached by address, in the order of engine/load.py's columns.
ENGINE = (plan, newton, find_point, solve_new, solve_right, solve_output, linearise, attempt)

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
    #: The unknowns that are voltages inside devices.
    inner_nodes: Integers
    heads: Integers
    table: Integers
    slots: Integers
    rows: Integers
    columns: Integers
    nominal: Floats
    derived: int
    states: int
    #: Between which unknowns each noise mechanism lies [mechanisms, 2], in the order of the families and elements.
    noise: Integers
    #: How many waves lines remember.
    waves: int
    #: Nodes that only GMIN holds.
    held: Integers
    elements: tuple[Element, ...]
    #: Voltages that the search for an operating point starts from, by node.
    nodesets: Mapping[str, float]
    #: The head of each element by itself: its kernels then see a family of one.
    head_of: Mapping[str, Integers]
    column_of: Mapping[tuple[str, str], int]
    index_of: Mapping[str, int]
    topology: Topology

    @property
    def size(self) -> int:
        """n, the number of unknowns."""
        return len(self.unknowns)

    @cached_property
    def circuit(self) -> Packed:
        """The words of a Circuit, for kernels; they hold for as long as this structure lives.

        The kernels of its families are compiled, or read from the cache, here.
        """
        return self._packed(self._code)

    @cached_property
    def circuit_in_time(self) -> Packed:
        """The same with the kernels that only a transient calls."""
        return self._packed(self._code_in_time)

    def _packed(self, code: Addresses) -> Packed:
        (nodesets, suggested), (by_row, starts) = self._suggestions, self._row_after_row
        phasors = any(family.phasor and self.heads[k, COUNT] for k, family in enumerate(FAMILIES))
        return CIRCUIT.packed(
            code=code, heads=self.heads, table=self.table, slots=self.slots, rows=self.rows,
            columns=self.columns, by_row=by_row, starts=starts, volts=self._volts, floors=self._floors, held=self.held,
            nodesets=nodesets, suggested=suggested, noise=self.noise, families=len(FAMILIES), n=self.size,
            nodes=self.nodes, nnz=len(self.rows), parameters=len(self.nominal), derived=self.derived,
            states=self.states, holding=len(self.held), suggestions=len(nodesets), waves=self.waves,
            mechanisms=len(self.noise), phasors=int(phasors),
        )  # fmt: skip

    @cached_property
    def _layout(self) -> Layout:
        return layout_of(self.size, len(self.rows), len(self.nominal), self.derived, self.states)

    def room(self) -> Floats:
        """The array that a Work lies in, for kernels."""
        return self._layout.array()

    def halt(self, room: Floats) -> None:
        """End what a kernel solves in this room, from another thread: Newton looks at it before each iteration."""
        room[self._layout.starts["options"] + HALTED] = 1.0

    @cached_property
    def _code(self) -> Addresses:
        return self._addresses(AHEAD, ATTEMPT)

    @cached_property
    def _code_in_time(self) -> Addresses:
        return self._addresses(KERNELS, len(ENGINE))

    def _addresses(self, columns: int, engine: int) -> Addresses:
        """Where the first so many kernels of families that occur lie, and the first so many of the engine's own."""
        code = np.zeros(KERNELS * len(FAMILIES) + len(ENGINE), dtype=np.int64)
        for k in np.flatnonzero(self.heads[:, COUNT]).tolist():
            kernels = FAMILIES[k].kernels[:columns]
            code[KERNELS * k : KERNELS * k + columns] = [kernel.address if kernel else 0 for kernel in kernels]
        own = KERNELS * len(FAMILIES)
        code[own : own + engine] = [kernel.address for kernel in ENGINE[:engine]]
        return code

    @cached_property
    def unvaried(self) -> ParameterMatrix:
        """One row, everything nominal."""
        return ParameterMatrix(self.nominal, np.empty(0, np.int32), np.empty((1, 0)))

    @cached_property
    def _unvaried_roles(self) -> Integers:
        return roles_of(self, self.unvaried)

    def roles(self, matrix: ParameterMatrix) -> Integers:
        """See engine/roles.py."""
        return self._unvaried_roles if matrix is self.unvaried else roles_of(self, matrix)

    @cached_property
    def families(self) -> frozenset[str]:
        """The families that its elements are of."""
        return frozenset(element.family for element in self.elements)

    @cached_property
    def is_voltage(self) -> Booleans:
        """Which unknowns are voltages [n], of nodes and inside of devices; the others are currents."""
        found = np.arange(self.size) < self.nodes
        found[self.inner_nodes] = True
        return found

    @cached_property
    def _volts(self) -> Integers:
        return self.is_voltage.astype(np.int32)

    @cached_property
    def _floors(self) -> Floats:
        return np.where(self.is_voltage, VOLTS, AMPERES)

    @cached_property
    def _row_after_row(self) -> tuple[Integers, Integers]:
        """The Jacobian's positions in the order of their rows [nnz], and where each row begins in them [n + 1]."""
        counts = np.bincount(self.rows, minlength=self.size)
        starts = np.concatenate([[0], np.cumsum(counts)])
        return np.argsort(self.rows, kind="stable").astype(np.int32), starts.astype(np.int32)

    @cached_property
    def _suggestions(self) -> tuple[Integers, Floats]:
        """Nodes with a nodeset, and its volts."""
        nodes = [self.index(node) for node in self.nodesets]
        return np.array(nodes, dtype=np.int32), np.array(list(self.nodesets.values()), dtype=float)

    @cached_property
    def condition_columns(self) -> Integers:
        """Columns of the parameter matrix that hold initial conditions of capacitors and inductors."""
        return np.array([column for (_, name), column in self.column_of.items() if name == "ic"], dtype=np.int32)

    @cached_property
    def curving_columns(self) -> Mapping[str, Integers]:
        """Columns of what makes the charges of a linear family follow a curve, by the families that have such."""
        found: dict[str, list[int]] = {family.name: [] for family in FAMILIES if family.curving}
        for element in self.elements:
            for name in FAMILY_OF[element.family].curving:
                found[element.family].append(self.column_of[element.name, name])
        return {family: np.array(columns, dtype=np.int32) for family, columns in found.items()}

    @cached_property
    def sites(self) -> ParameterSites:
        """Where each parameter acts."""
        return sites(self)

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

    def unit_drive(self, source: str) -> Floats:
        """The small-signal right-hand side [n + 1] of an independent source of 1 V or 1 A. Raises CircuitError."""
        element = next((element for element in self.elements if element.name == source), None)
        if element is None or not FAMILY_OF[element.family].drive:
            raise CircuitError(
                f"'{source}' is not an independent source of the circuit", remedy="Name a voltage or a current source."
            )
        drive = np.zeros(self.size + 1)
        if FAMILY_OF[element.family].has_branch:
            drive[self.index(f"i({source})")] = 1.0
        else:
            plus, minus = element.nodes
            drive[self.index(plus)] -= 1.0
            drive[self.index(minus)] += 1.0
        drive[self.size] = 0.0
        return drive

    def parts_at(self, unknown: str) -> tuple[str, ...]:
        """Names of the elements that a node, an internal node or a branch current belongs to."""
        owner = unknown.removeprefix("i(").removesuffix(")").partition(":")[0]
        return tuple(element.name for element in self.elements if unknown in element.nodes or element.name == owner)

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

    def parameter(self, element: str, parameter: str) -> tuple[Element, Parameter]:
        """An element's parameter as its family declares it. Raises CircuitError."""
        self.column(element, parameter)
        owner = self._element_of[element]
        return owner, next(p for p in FAMILY_OF[owner.family].parameters_for(owner) if p.name == parameter)

    @cached_property
    def _element_of(self) -> Mapping[str, Element]:
        return {element.name: element for element in self.elements}

    def with_nodesets(self, volts: Mapping[str, float]) -> Structure:
        """The same with voltages to start the search for an operating point from; those of no node are left out."""
        return replace(self, nodesets={node: value for node, value in volts.items() if node in self.index_of})

    def with_values(self, values: Mapping[tuple[str, str], float]) -> Structure:
        """The same circuit with other values of parameters, by element and name.

        Raises CircuitError for one that does not exist, that decides on unknowns, or that cannot have its value.
        """
        nominal = self.nominal.copy()
        changed: dict[str, dict[str, float]] = defaultdict(dict)
        for key, value in values.items():
            column = self.column(*key)
            if nominal[column] != value:
                nominal[column] = changed[key[0]][key[1]] = value
        elements = list(self.elements)
        for k, element in enumerate(elements):
            if own := changed.get(element.name):
                elements[k] = replace(element, values={**element.values, **own})
                for parameter in FAMILY_OF[element.family].parameters_for(element):
                    if parameter.name in own:
                        _require_turnable(element, parameter)
                        _checked(elements[k], parameter)
        return replace(self, nominal=nominal, elements=tuple(elements))


def _require_turnable(element: Element, parameter: Parameter) -> None:
    if parameter.structural or parameter.choice:
        raise CircuitError(
            f"{element.name}: {parameter.name} decides on the circuit's equations, and is no value to turn",
            place=Place(line=element.line, part=element.name), remedy="Change it in the drawing or the model.",
        )  # fmt: skip


class _Builder:
    def __init__(self, elements: Sequence[Element]) -> None:
        self.index: dict[str, int] = {}
        names = dict.fromkeys(node for element in elements for node in _touched(element))
        for node in names:
            if node != GROUND:
                self.index[node] = len(self.index)
        self.nodes = len(self.index)
        self.inner_nodes: set[int] = set()
        self.names = {element.name for element in elements}
        self.branches = {element.name for element in elements if FAMILY_OF[element.family].has_branch}
        self.derived_of: dict[str, int] = {}
        # Ground's index is only known at the end, so -1 stands for it until then.
        self.ground = -1

    def allocate(self, name: str) -> int:
        return self.index.setdefault(name, len(self.index))

    def inner_node(self, name: str) -> int:
        index = self.allocate(name)
        self.inner_nodes.add(index)
        return index

    def node(self, name: str) -> int:
        return self.ground if name == GROUND else self.index[name]

    def branch_of(self, element: Element, source: str) -> int:
        if source not in self.names:
            raise CircuitError(
                f"{element.name} names '{source}', which is no element of the circuit",
                place=Place(line=element.line, part=element.name),
                remedy="Correct the name, or add the element.",
            )
        if source not in self.branches:
            raise CircuitError(
                f"{element.name} refers to the current through '{source}', which has no branch current",
                place=Place(line=element.line, part=element.name),
                remedy="Put a voltage source of 0 V in that path and name it.",
            )
        return self.allocate(f"i({source})")

    def connect(self, element: Element) -> Record:
        wiring = Wiring(
            node=self.node,
            internal=lambda name: self.inner_node(f"{element.name}:{name}"),
            auxiliary=lambda name: self.allocate(f"{element.name}:{name}"),
            branch=lambda: self.allocate(f"i({element.name})"),
            branch_of=lambda source: self.branch_of(element, source),
            derived_of=lambda name: self.derived_of[name],
            ground=self.ground,
        )
        return FAMILY_OF[element.family].connect(element, wiring)


def _touched(element: Element) -> Iterable[str]:
    yield from element.nodes
    for control in element.controls:
        if not control.source:
            yield control.plus
            yield control.minus


def compile_structure(
    elements: Iterable[Element], nodesets: Mapping[str, float] | None = None, lenient: bool = False
) -> Structure:
    """Compile a flat circuit; `nodesets` suggests volts to the search for an operating point, by node.

    With `lenient`, a node without a direct-current path to ground is held by circuit.JUNCTION_GMIN, and a winding
    across a voltage source has SHORTED ohms; `Structure.topology` says which.
    Raises CircuitError when there is no ground, a name is used twice, a value is outside its parameter's range,
    a node has no direct-current path to ground, voltage sources form a loop, or a controlling source is missing.
    """
    flat = tuple(elements)
    _check_names(flat)
    topology = check_topology(flat, lenient)
    held = topology.held
    if topology.shorted:
        flat = tuple(
            replace(e, values={"series": SHORTED, **e.values}) if e.name in topology.shorted else e for e in flat
        )
    builder = _Builder(flat)
    by_family = defaultdict(list)
    for element in flat:
        by_family[element.family].append(element)

    heads: list[list[int]] = []
    table: list[int] = []
    positions: list[tuple[int, int]] = []
    nominal, column_of = [NOMINAL_CELSIUS], {AMBIENT_KEY: AMBIENT}
    noise: list[tuple[int, int]] = []
    head_of = {}
    derived = states = waves = 0
    for family in FAMILIES:
        members = by_family[family.name]
        heads.append([len(members), len(table), len(positions), len(nominal), derived, states, len(noise), waves])
        for element in members:
            head_of[element.name] = np.array(
                [1, len(table), len(positions), len(nominal), derived, states, len(noise), waves], dtype=np.int32
            )
            builder.derived_of[element.name] = derived
            record = builder.connect(element)
            table += record.table
            positions += record.entries
            noise += record.noise[: len(family.mechanisms)]
            parameters = family.parameters_for(element)
            for parameter in parameters:
                column_of[element.name, parameter.name] = len(nominal)
                nominal.append(_checked(element, parameter))
            derived += family.derived_for(element)
            states += family.state_for(element)
            waves += family.waves

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
        inner_nodes=np.array(sorted(builder.inner_nodes), dtype=np.int32),
        heads=np.array(heads, dtype=np.int32),
        table=_with_ground(table, n),
        slots=_with_ground(slots, nnz),
        rows=np.ascontiguousarray(pattern[:, 0]),
        columns=np.ascontiguousarray(pattern[:, 1]),
        nominal=np.array(nominal),
        derived=derived,
        states=states,
        waves=waves,
        noise=_with_ground([k for pair in noise for k in pair], n).reshape(-1, 2),
        nodesets={},
        held=np.array([builder.index[node] for node in held], dtype=np.int32),
        elements=flat,
        head_of=head_of,
        column_of=column_of,
        index_of=builder.index,
        topology=topology,
    ).with_nodesets(nodesets or {})


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
