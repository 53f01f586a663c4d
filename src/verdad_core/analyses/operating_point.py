"""The operating point: where every node sits and every branch current flows, for each row of a parameter matrix."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.devices.base import TIME
from verdad_core.engine import newton
from verdad_core.engine.circuit import bare, copy, matrix_in, workspace
from verdad_core.engine.load import update_devices
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.rows import CHUNK, fill_row, in_chunks
from verdad_core.engine.structure import Structure
from verdad_core.errors import ConvergenceError, Place
from verdad_core.jit import at, entry, pointer
from verdad_core.units import format_value


class Path(IntEnum):
    """How an operating point was found; negative values: it was not."""

    NEWTON = newton.NEWTON
    GMIN_STEPPING = newton.GMIN_STEPPING
    SOURCE_STEPPING = newton.SOURCE_STEPPING
    PSEUDO_TRANSIENT = newton.PSEUDO_TRANSIENT
    FAILED = newton.FAILED
    SINGULAR = newton.SINGULAR

    @property
    def title(self) -> str:
        """The name of the method, in words."""
        return "Newton's method" if self is Path.NEWTON else self.name.lower().replace("_", " ")

    @property
    def solved(self) -> bool:
        return self >= 0


@dataclass(frozen=True)
class OperatingPoint:
    """`values` [S, n + 1]: volts and amperes of every unknown (the last one is ground, 0). `paths` [S]."""

    structure: Structure
    matrix: ParameterMatrix
    values: Floats
    paths: Integers
    #: What devices keep between iterations [S, states]: a switch with hysteresis, for one, remembers where it stands.
    states: Floats
    #: The last Newton step of every unknown [S, n]; infinite where the matrix was singular.
    changes: Floats

    def path(self, row: int = 0) -> Path:
        return Path(int(self.paths[row]))

    def value(self, unknown: str, row: int = 0) -> float:
        """The volts of a node or the amperes of a branch ("i(v1)")."""
        return float(self.values[row, self.structure.index(unknown)])

    def node_voltages(self, row: int = 0) -> dict[str, float]:
        """Volts by node name."""
        names = self.structure.unknowns[: self.structure.nodes]
        return dict(zip(names, self.values[row].tolist(), strict=False))

    def require(self, row: int = 0) -> None:
        """Raise ConvergenceError, naming the nodes that would not settle, if this row was not solved."""
        path = self.path(row)
        if not path.solved:
            raise failure(self.structure, path, self.values[row], self.changes[row])


def one_row(point: OperatingPoint, row: int) -> OperatingPoint:
    """One row of operating points, by itself."""
    if len(point.values) == 1:
        return point
    matrix = ParameterMatrix(point.matrix.nominal, point.matrix.columns, point.matrix.values[row : row + 1])
    here = slice(row, row + 1)
    return OperatingPoint(
        point.structure, matrix, point.values[here], point.paths[here], point.states[here], point.changes[here]
    )


def failure(structure: Structure, path: Path, values: Floats, changes: Floats) -> ConvergenceError:
    """The error for a row that was not solved: what moved most in the last step, with its last values."""
    order = np.argsort(-np.nan_to_num(np.abs(changes), nan=np.inf))[:5]
    worst = [int(k) for k in order if not abs(changes[k]) <= 1e-6]
    names = tuple(structure.unknowns[k] for k in worst)
    parts = ", ".join(dict.fromkeys(name for node in names for name in structure.parts_at(node)[:4]))
    at = f". Parts there: {parts}" if parts else ""
    if path is Path.SINGULAR:
        return ConvergenceError(
            f"the circuit's equations have no single solution{at}",
            place=Place(nodes=names),
            remedy="Look for nodes without a path to ground, shorted outputs and loops of sources at these nodes.",
        )
    last = ", ".join(
        f"{structure.unknowns[k]} {format_value(float(values[k]), 'V' if structure.is_voltage[k] else 'A')}"
        for k in worst
    )
    return ConvergenceError(
        "no operating point was found; Newton, gmin stepping, source stepping and pseudo-transient continuation were "
        f"tried{f'. Last values: {last}' if last else ''}{at}",
        place=Place(nodes=names),
        remedy="Check the pins and supplies of the parts at these nodes and the values around them; a .nodeset at "
        "one of them suggests where to start; a circuit that oscillates may have no operating point.",
    )


@entry
def _solve_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, chain: int, time: float, hold: Floats,
    nominal: Floats, states: Floats, x: Floats, paths: Integers, changes: Floats,
) -> None:  # fmt: skip
    """Rows start..stop-1; x [S, n + 1], states [S, states], paths [S] and changes [S, n] are written.

    Every row starts from the nominal solution, so that it does not depend on the rows before it; but within a chain
    of `chain` rows each starts from the one before it. Where that does not lead to a solution, it is searched alone.
    `nominal` [n + 1 + states] is room for the nominal solution, and `hold` [n + 1] has the volts that nodes are held
    at, NaN for none; it is empty where no node is held.
    """
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    n, kept = circuit.n, work.states
    work.options[TIME] = time
    copy(pointer(hold), work.hold, min(circuit.nodes, len(hold)))
    nominal_x = pointer(nominal)
    nominal_state = at(nominal_x, n + 1)
    copy(matrix.nominal, work.parameters, matrix.parameters)
    update_devices(circuit, work)
    first = at(pointer(changes), start * n)
    path, steps = newton.solve_point(circuit, work, np.empty(0, np.int32), nominal_x, first, False)
    copy(work.state, nominal_state, kept)
    warm, before = path >= 0, steps
    for row in range(start, stop):
        own_x, own_state = at(pointer(x), row * (n + 1)), at(pointer(states), row * kept)
        follows = row % chain > 0 and paths[row - 1] >= 0
        if matrix.varied > 0:
            fill_row(matrix, row, work.parameters)
            update_devices(circuit, work)
        copy(at(own_x, -n - 1) if follows else nominal_x, own_x, n + 1)
        copy(at(own_state, -kept) if follows else nominal_state, work.state, kept)
        change = at(pointer(changes), row * n)
        status, before = newton.solve_point(circuit, work, before if follows else steps, own_x, change, warm or follows)
        copy(work.state, own_state, kept)
        # What Newton finds from another solution was found the way that one was.
        paths[row] = status
        if status == newton.NEWTON:
            paths[row] = paths[row - 1] if follows else (path if warm else status)


def operating_point(
    structure: Structure, matrix: ParameterMatrix | None = None, threads: int | None = None, chain: int = 1,
    time: float = -1.0, hold: Mapping[str, float] | None = None, look: Callable[[], None] | None = None,
) -> OperatingPoint:  # fmt: skip
    """Solve every row of `matrix` (default: the nominal one).

    Rows are independent of each other, unless `chain` says that so many consecutive ones follow each other as in a
    DC sweep. A row that was not solved does not raise: see `OperatingPoint.paths` and `OperatingPoint.require`.
    With a `time` (s) that is not negative, waveforms have their value at that time. `hold` keeps nodes at voltages, by
    a conductance of newton.HOLD. `look` is called now and then; what it raises ends the search. Raises CircuitError
    for a node that does not exist.
    """
    matrix = matrix or structure.unvaried
    n, rows = structure.size, matrix.rows
    x, changes, states = np.zeros((rows, n + 1)), np.zeros((rows, n)), np.zeros((rows, structure.states))
    paths = np.empty(rows, dtype=np.int32)
    paths.fill(newton.FAILED)
    circuit, words = structure.circuit, matrix.words
    held = np.full(n + 1, np.nan) if hold else np.empty(0)
    for node, volts in (hold or {}).items():
        held[structure.index(node)] = volts

    rooms: list[Floats] = []

    def work(start: int, stop: int) -> None:
        memory, nominal = structure.room(), np.zeros(n + 1 + structure.states)
        rooms.append(memory)
        _solve_rows(circuit, words, memory, start, stop, chain, time, held, nominal, states, x, paths, changes)

    def halt_all() -> None:
        for memory in rooms:
            structure.halt(memory)

    in_chunks(rows, work, threads, chain * max(1, CHUNK // chain), look, halt_all)
    return OperatingPoint(structure, matrix, x, paths, states, changes)
