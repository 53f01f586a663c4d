"""Which node is which pin, found out electrically: every assignment of roles is a row of one circuit.

Each node of the model is tied to a source of its own through a resistor, strong or weak. What an assignment claims is
then put to the test: supplies are applied, inputs are moved apart, and the output must follow the claim. Only what all
assignments that pass have in common is said; where a supposed output does not move, or a row was not solved, nothing
is. Inputs are driven and never fed back, since a circuit with swapped inputs still has an operating point that looks
right, although it would not stay there.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import permutations

import numpy as np

from verdad_core.analyses.operating_point import operating_point
from verdad_core.arrays import Floats
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure
from verdad_core.errors import ConvergenceError, VerdadError
from verdad_core.intake.bundle import Bundle
from verdad_core.intake.model import Model, node_of
from verdad_core.intake.pins import Witness
from verdad_core.intake.sureness import Sureness

#: Ohms that tie a node to its source: a supply or an input, a load, a node that is nobody's.
STRONG, LOAD, WEAK = 1e-3, 1e4, 1e6

#: Supplies in V, how far they are raised, how far the inputs are moved apart, and volts that count as moved.
SUPPLY, RAISED, APART, MOVED = 6.0, 1.0, 0.1, 0.5

#: Amperes into in+ and in- of an amplifier; in- of one with current feedback is the output of a buffer.
INTO = np.array([1e-4, 5e-3])

#: What is left of a collector's current that has vanished.
VANISHED = 0.01

#: So much of what a load takes comes in at the input of a regulator.
COVERED = 0.9

#: Seconds that a model may take, and rows between two looks at the clock (a multiple of the states of an assignment).
PATIENCE, AT_ONCE = 6.0, 16

#: More nodes than this have too many assignments.
MOST_NODES = 6


@dataclass(frozen=True)
class _Bench:
    """The model with a source (V) and a resistor (Ω) at each of its nodes; a state is one row of both [2, nodes]."""

    structure: Structure
    nodes: tuple[str, ...]
    #: The clock (time.monotonic) at which nobody waits any more.
    until: float

    def measure(self, volts: Floats, ohms: Floats, chain: int = 1) -> tuple[Floats, Floats]:
        """Volts at the nodes and amperes into them, both [rows, nodes]; NaN in rows that were not solved.

        Each row of a chain is sought from the solution of the one before it. Raises ConvergenceError when time is up.
        """
        count = len(self.nodes)
        keys = [(f"vt{k}", "dc") for k in range(count)] + [(f"rt{k}", "resistance") for k in range(count)]
        columns = np.concatenate([volts, ohms], axis=1)
        rows = ParameterMatrix.varied(self.structure, dict(zip(keys, columns.T, strict=True)))
        at = [self.structure.index(node) for node in self.nodes]
        found = np.full(volts.shape, np.nan)
        for first in range(0, len(volts), AT_ONCE):
            if time.monotonic() > self.until:
                raise ConvergenceError("the bench had no more time")
            part = slice(first, first + AT_ONCE)
            point = operating_point(self.structure, replace(rows, values=rows.values[part]), chain=chain)
            found[part] = np.where(point.paths[:, None] < 0, np.nan, point.values[:, at])
        return found, (volts - found) / ohms


def show(bundle: Bundle, file: str, name: str, nodes: Sequence[str], kind: str) -> Witness | None:
    """What the bench finds of a subcircuit's nodes for a kind of component, or None where it cannot be asked."""
    method = _METHODS.get(kind)
    if method is None or len(nodes) > MOST_NODES:
        return None
    model = Model(bundle, file, name, tuple(f"t{k}" for k in range(len(nodes))))
    lines = []
    for k in range(len(nodes)):
        lines += [f"vt{k} s{k} 0 0", f"rt{k} s{k} {node_of(f't{k}')} 1e6"]
    try:
        roles = method(
            _Bench(
                model.structure(lines), tuple(node_of(f"t{k}") for k in range(len(nodes))), time.monotonic() + PATIENCE
            )
        )
    except VerdadError:
        return None
    signs = _SIGNS | (_STEADY if kind in ("reference", "regulator") else {})
    return Witness(Sureness.SHOWN, roles, tuple(signs[role] if role else "the bench does not tell" for role in roles))


#: What gives each role away; in references and regulators it is something else.
_SIGNS = {
    "in+": "the output rises with it", "in-": "the output falls as it rises",
    "v+": "current flows in, and the output keeps below it", "v-": "current flows out, and the output keeps above it",
    "out": "it swings when the inputs are driven apart",
    "anode": "at 1.5 V current enters here and not at the other end", "cathode": "at 1.5 V current leaves here only",
    "collector": "it takes many times the base's current", "base": "its current decides over the collector's",
    "emitter": "both other currents leave here", "drain": "the body diode blocks towards it",
    "gate": "it takes no current and turns the channel on", "source": "the body diode leads from it",
}  # fmt: skip
_STEADY = {
    "in": "the supply current enters here", "out": "its voltage stays when the input and the load change",
    "ground": "the output is steady against it",
}  # fmt: skip

#: The role of each node, None where the bench does not tell.
Found = tuple[str | None, ...]
#: An assignment: the node of each role, in the order of the roles.
Assignment = tuple[int, ...]


def _common(passing: Iterable[Assignment], roles: Sequence[str], count: int) -> Found:
    """The role of each node that all passing assignments agree on."""
    every = list(passing)
    if not every:
        return (None,) * count
    agreed: list[str | None] = [None] * count
    for k, role in enumerate(roles):
        if len({assignment[k] for assignment in every}) == 1:
            agreed[every[0][k]] = role
    return tuple(agreed)


def _amplifier(bench: _Bench) -> Found:
    """Supplies, inputs and output of an op-amp or comparator.

    With the supplies applied and the inputs driven apart, the output has to swing with the polarity that is claimed,
    whatever the inputs' common voltage; its high level has to follow the positive supply, or its low level the
    negative one, and current has to flow from the one supply to the other.
    """
    count = len(bench.nodes)
    if count < 5:
        return (None,) * count
    supplies = _possible_supplies(bench)
    candidates = [
        (plus, minus, high, low, out)
        for high, low in supplies
        for plus, minus, out in permutations([k for k in range(count) if k not in (high, low)], 3)
    ]
    if not candidates:
        return (None,) * count
    # Inputs apart, their common voltage, and how far each supply is raised; the first two already rule most out.
    states = [(apart, 0.0, 0.0, 0.0) for apart in (APART, -APART)]
    output, inputs = _driven(bench, candidates, states)
    candidates = [c for k, c in enumerate(candidates) if _behaves(output[k], inputs[k])]
    states += [(apart, common, 0.0, 0.0) for common in (-1.0, 1.0) for apart in (APART, -APART)]
    states += [(APART, 0.0, RAISED, 0.0), (-APART, 0.0, 0.0, -RAISED)]
    if not candidates:
        return (None,) * count
    output, inputs = _driven(bench, candidates, states)
    passing = [k for k in range(len(candidates)) if _behaves(output[k], inputs[k])]
    if not any(np.all(np.isfinite(output[k])) for k in passing):
        return (None,) * count
    return _common([candidates[k] for k in passing], ("in+", "in-", "v+", "v-", "out"), count)


def _driven(
    bench: _Bench, candidates: Sequence[Assignment], states: Sequence[tuple[float, ...]]
) -> tuple[Floats, Floats]:  # fmt: skip
    """Volts of the supposed output [candidates, states], amperes into the inputs [candidates, states, 2]."""
    shape = (len(candidates), len(states), len(bench.nodes))
    volts, ohms = np.zeros(shape), np.full(shape, WEAK)
    for c, (plus, minus, high, low, out) in enumerate(candidates):
        ohms[c][:, [plus, minus, high, low]] = STRONG
        ohms[c][:, out] = LOAD
        for s, (apart, common, up, down) in enumerate(states):
            volts[c, s, [plus, minus, high, low]] = (common + apart / 2, common - apart / 2, SUPPLY + up, down - SUPPLY)
    found = bench.measure(volts.reshape(-1, shape[2]), ohms.reshape(-1, shape[2]), shape[1])
    at, into = (values.reshape(shape) for values in found)
    return (
        np.stack([at[c][:, candidate[4]] for c, candidate in enumerate(candidates)]),
        np.stack([into[c][:, list(candidate[:2])] for c, candidate in enumerate(candidates)]),
    )


def _behaves(output: Floats, inputs: Floats) -> bool:
    """Whether nothing contradicts an amplifier: volts of its output [states] and amperes into its inputs [states, 2].

    The states are pairs of inputs driven apart one way and the other, then, where there are eight, raised supplies.

    States that were not solved contradict nothing, so they can make the bench unsure, but never wrong.
    """
    swings = output[0:6:2] - output[1:6:2]
    contradicted = (
        np.any(swings <= 2 * MOVED)
        or np.any(np.abs(inputs) >= INTO)
        or np.any(np.abs(output) > SUPPLY + RAISED + MOVED)
        or (len(output) == 8 and output[6] - output[0] <= 0.5 * RAISED and output[1] - output[7] <= 0.5 * RAISED)
    )
    return not contradicted


def _possible_supplies(bench: _Bench) -> list[tuple[int, int]]:
    """Ordered pairs (positive, negative) between which current flows that way when all else hangs on weakly."""
    count = len(bench.nodes)
    pairs = list(permutations(range(count), 2))
    volts, ohms = np.zeros((len(pairs), count)), np.full((len(pairs), count), WEAK)
    for row, (high, low) in enumerate(pairs):
        volts[row, [high, low]] = SUPPLY, -SUPPLY
        ohms[row, [high, low]] = STRONG
    _, into = bench.measure(volts, ohms)
    possible = []
    for (high, low), amperes in zip(pairs, into, strict=True):
        flows = amperes[high] > -1e-7 and amperes[low] < 1e-7 and max(abs(amperes[high]), abs(amperes[low])) < 1.0
        if flows or not np.all(np.isfinite(amperes)):
            possible.append((high, low))
    return possible


def _two_terminal(bench: _Bench) -> Found:
    """A diode or clamp conducts from anode to cathode at less than it takes the other way."""
    ohms = np.array([[1e3, STRONG]] * 2)
    volts = np.array([[1.5, 0.0], [-1.5, 0.0]])
    _, into = bench.measure(volts, ohms)
    forth, back = abs(into[0, 0]), abs(into[1, 0])
    if forth > 10 * back:
        return ("anode", "cathode")
    return ("cathode", "anode") if back > 10 * forth else (None, None)


def _bipolar(bench: _Bench) -> Found:
    """The collector current is many times the base's, and more so than with collector and emitter exchanged.

    With the base at the emitter's voltage it vanishes: what flows then goes straight through a junction.
    """
    passing: dict[Assignment, float] = {}
    for assignment in permutations(range(3)):
        for polarity in (1.0, -1.0):
            volts, ohms = np.zeros((2, 3)), np.full((2, 3), STRONG)
            volts[:, list(assignment)] = polarity * np.array([[3.0, 1.0, 0.0], [3.0, 0.0, 0.0]])
            ohms[:, assignment[1]] = 1e4
            _, into = bench.measure(volts, ohms)
            (collector, base, _), (off, _, _) = polarity * into[:, list(assignment)]
            if not np.all(np.isfinite(into)):
                return (None,) * 3
            if base > 1e-7 and collector > 2 * base and abs(off) < VANISHED * collector:
                passing[assignment] = max(passing.get(assignment, 0.0), collector / base)
    ranked = sorted(passing, key=lambda assignment: -passing[assignment])
    if len(ranked) > 1 and passing[ranked[0]] > 4 * passing[ranked[1]]:
        ranked = ranked[:1]
    return _common(ranked, ("collector", "base", "emitter"), 3)


def _field_effect(bench: _Bench) -> Found:
    """The gate takes no current and decides over the channel; the body diode leads from source to drain in an N type.

    Without a body diode (a junction type) the gate's junction is what conducts, alike to both sides.
    """
    passing = []
    for assignment in permutations(range(3)):
        for polarity in (1.0, -1.0):
            # drain, gate, source: channel on, channel off, and the body diode with the channel off.
            states = polarity * np.array([[0.2, 10.0, 0.0], [0.2, 0.0, 0.0], [-1.5, -1.5, 0.0]])
            volts, ohms = np.zeros((3, 3)), np.full((3, 3), 1.0)
            volts[:, list(assignment)] = states
            _, into = bench.measure(volts, ohms)
            if not np.all(np.isfinite(into)):
                return (None,) * 3
            drain, gate, _ = polarity * into[:, list(assignment)].T
            if np.all(np.abs(gate) < 1e-5) and drain[0] > 1e-3 and drain[1] < 0.1 * drain[0] and drain[2] < -1e-2:
                passing.append(assignment)
    return _common(passing, ("drain", "gate", "source"), 3)


def _three_terminal(bench: _Bench) -> Found:
    """The output of a reference or regulator stays where it is when the input and the load change.

    What the load takes comes in at the input: an output that makes its own current only stands at a limit.
    """
    passing = []
    for assignment in permutations(range(3)):
        source, out, _ = assignment
        volts, ohms = np.zeros((3, 3)), np.full((3, 3), STRONG)
        volts[:, source] = 15.0, 17.0, 15.0
        ohms[:, out] = 1e4, 1e4, 5e3
        at, into = bench.measure(volts, ohms)
        if not np.all(np.isfinite(at)):
            return (None,) * 3
        output, given, taken = at[:, out], into[:, source], -into[:, out]
        steady = 0.5 < output[0] < 14.0 and np.ptp(output) < 0.02 * output[0]
        if steady and given[0] > 1e-7 and np.all(given > COVERED * taken):
            passing.append(assignment)
    return _common(passing, ("in", "out", "ground"), 3)


def _only(count: int, method: Callable[[_Bench], Found]) -> Callable[[_Bench], Found]:
    return lambda bench: method(bench) if len(bench.nodes) == count else (None,) * len(bench.nodes)


_METHODS: dict[str, Callable[[_Bench], Found]] = {
    "op-amp": _amplifier, "comparator": _amplifier,
    "diode": _only(2, _two_terminal), "clamp": _only(2, _two_terminal),
    "bipolar": _only(3, _bipolar), "mosfet": _only(3, _field_effect),
    "reference": _only(3, _three_terminal), "regulator": _only(3, _three_terminal),
}  # fmt: skip
