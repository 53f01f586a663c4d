"""What can be seen wrong in a circuit before anything is solved: no ground, floating nodes, loops of voltage sources.

Found here, these faults name the nodes and parts; found by the equation solver they would be a singular matrix.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from verdad_core.devices import FAMILY_OF, Element
from verdad_core.errors import CircuitError, Finding, Place, Severity

GROUND = "0"

#: What rounding may make of the least eigenvalue of coupling factors.
ROUNDED = 1e-9

#: The series resistance of a winding that closes a loop of voltage sources, in ohms.
SHORTED = 1e-6


class _Groups:
    """Disjoint sets of node names (Tarjan 1975)."""

    def __init__(self) -> None:
        self._parent: dict[str, str] = {}
        self._size: dict[str, int] = {}

    def find(self, node: str) -> str:
        root = node
        while (parent := self._parent.setdefault(root, root)) != root:
            root = parent
        while node != root:
            node, self._parent[node] = self._parent[node], root
        return root

    def join(self, a: str, b: str) -> bool:
        """Join two sets; False when they were one already."""
        a, b = self.find(a), self.find(b)
        if a == b:
            return False
        # The smaller set joins the larger one, so that paths stay short.
        one, other = self._size.get(a, 1), self._size.get(b, 1)
        if one > other:
            a, b = b, a
        self._parent[a], self._size[b] = b, one + other
        return True


@dataclass(frozen=True)
class Topology:
    """What a circuit needs besides its elements, so that its equations have one solution."""

    #: Nodes that only a small leakage can hold: gates that nothing else is connected to for direct current, ..
    gates: tuple[str, ...]
    #: .. and, where that is let pass, the groups of nodes without a path to ground: each is held by its first one.
    islands: tuple[tuple[str, ...], ...] = ()
    #: Windings that close a loop with voltage sources, where that is let pass.
    shorted: tuple[str, ...] = ()

    @property
    def held(self) -> tuple[str, ...]:
        """The nodes that get a conductance of 1 pS to ground."""
        return (*self.gates, *(island[0] for island in self.islands))

    def findings(self) -> list[Finding]:
        """What must be said of what was let pass."""
        found = []
        if floating := _told(node for island in self.islands for node in island):
            found.append(
                Finding(
                    Severity.WARNING,
                    f"no direct-current path leads to ground from {first_of(floating)}; 1 pS holds it there",
                    Place(nodes=floating[:8]),
                    "Give it a path, such as a large resistor, unless only what moves is of interest.",
                )
            )
        if self.shorted:
            found.append(
                Finding(
                    Severity.WARNING,
                    f"{first_of(self.shorted)} closes a loop of voltage sources; it was given {SHORTED:g} Ω",
                    Place(part=self.shorted[0]), "Put the resistance of the source or the winding in series.",
                )
            )  # fmt: skip
        return found


def _told(nodes: Iterable[str]) -> tuple[str, ...]:
    """Those that stand outside of parts, where there are any: a colon is inside of one."""
    every = tuple(nodes)
    return tuple(node for node in every if ":" not in node) or every


def first_of(names: tuple[str, ...]) -> str:
    """The first few names of many."""
    return ", ".join(names[:5]) + (f" and {len(names) - 5} more" if len(names) > 5 else "")


def check_topology(elements: Sequence[Element], lenient: bool = False) -> Topology:
    """What holds the circuit together. Raises CircuitError for one that no element values can make solvable.

    With `lenient`, nodes without a direct-current path to ground and windings across voltage sources are let pass:
    in time and over frequency they have a meaning.
    """
    if not elements:
        raise CircuitError("the circuit is empty", remedy="Add parts, and connect one node to ground.")
    if not any(GROUND in element.nodes for element in elements):
        raise CircuitError("nothing is connected to ground", remedy="Connect one net to ground (node 0).")
    shorted = _check_voltage_loops(elements, lenient)
    _check_couplings(elements)
    return replace(_held(elements, lenient), shorted=shorted)


def _check_couplings(elements: Sequence[Element]) -> None:
    """Windings' coupling factors must be possible together: their matrix has no negative eigenvalue.

    Otherwise there are currents that hold a negative energy, and a transient grows without bound.
    """
    factors: dict[tuple[str, str], tuple[float, Element]] = {}
    for element in (each for each in elements if each.family == "coupling"):
        for pair in combinations(sorted(control.source for control in element.controls), 2):
            if pair in factors:
                raise CircuitError(
                    f"{element.name} couples {pair[0]} and {pair[1]}, and so does {factors[pair][1].name}",
                    place=Place(line=element.line, part=element.name), remedy="Remove one of them.",
                )  # fmt: skip
            factors[pair] = element.values.get("coupling", 1.0), element
    windings = list(dict.fromkeys(winding for pair in factors for winding in pair))
    matrix = np.eye(len(windings))
    for (one, other), (factor, _) in factors.items():
        a, b = windings.index(one), windings.index(other)
        matrix[a, b] = matrix[b, a] = factor
    if windings and np.linalg.eigvalsh(matrix)[0] < -ROUNDED:
        (one, other), (factor, element) = min(factors.items(), key=lambda item: 1.0 - abs(item[1][0]))
        raise CircuitError(
            f"the coupling factors of {', '.join(windings)} contradict each other, or one is beyond 1: no windings have"
            " them all",
            place=Place(line=element.line, part=element.name),
            remedy=f"Two windings that are both coupled well to a third are coupled well to each other; {one} and "
            f"{other} have {factor:g}.",
        )


def _check_voltage_loops(elements: Iterable[Element], lenient: bool) -> tuple[str, ...]:
    groups, shorted = _Groups(), []
    fixing = [element for element in elements if FAMILY_OF[element.family].fixes_voltage]
    for element in sorted(fixing, key=lambda each: lenient and each.family == "inductor"):
        if groups.join(*element.nodes[:2]):
            continue
        if lenient and element.family == "inductor":
            shorted.append(element.name)
        else:
            raise CircuitError(
                f"{element.name} closes a loop of voltage sources and inductors",
                place=Place(line=element.line, part=element.name, nodes=element.nodes[:2]),
                remedy="Put a small resistor in series with one of them.",
            )
    return tuple(shorted)


def _held(elements: Sequence[Element], lenient: bool) -> Topology:
    groups = _Groups()
    gates: dict[str, str] = {}
    for element in elements:
        family = FAMILY_OF[element.family]
        for one, other in family.paths:
            groups.join(element.nodes[one], element.nodes[other])
        if element.family == "bipolar":
            # What lies around a transistor may reach for its intrinsic base (netlist/around.py).
            groups.join(f"{element.name}:base", element.nodes[1])
        for gate in family.gates:
            gates[element.nodes[gate]] = element.name
    _join_conductances(elements, groups)
    nodes = dict.fromkeys(node for element in elements for node in element.nodes)
    held = []
    for node in gates:
        if groups.find(node) != groups.find(GROUND):
            groups.join(node, GROUND)
            held.append(node)
    ground = groups.find(GROUND)
    floating = tuple(node for node in nodes if groups.find(node) != ground)
    if floating and lenient:
        islands: dict[str, list[str]] = {}
        for node in floating:
            islands.setdefault(groups.find(node), []).append(node)
        return Topology(tuple(held), tuple(map(tuple, islands.values())))
    if floating:
        raise CircuitError(
            "no direct-current path to ground",
            place=Place(nodes=_told(floating)[:8]),
            remedy="Give each of these nodes a path to ground for direct current, such as a large resistor.",
        )
    return Topology(tuple(held))


def _join_conductances(elements: Iterable[Element], groups: _Groups) -> None:
    """A current source whose control is its own voltage is a conductance: it joins what is at its two ends.

    Each that is found may show another one.
    """
    pairs = [
        (element.nodes, (control.plus, control.minus))
        for element in elements
        for control in element.controls
        if not control.source and len(element.nodes) == 2
    ]
    found = True
    while found:
        found = False
        for own, seen in pairs:
            if set(map(groups.find, own)) == set(map(groups.find, seen)):
                found = groups.join(*own) or found
