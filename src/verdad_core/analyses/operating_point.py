"""The operating point: where every node sits and every branch current flows, for each row of a parameter matrix."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import OPTIONS
from verdad_core.engine.load import update
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.newton import FAILED, GMIN_STEPPING, NEWTON, SINGULAR, SOURCE_STEPPING, copy, solve_point
from verdad_core.engine.rows import fill_row, first_plan, in_chunks
from verdad_core.engine.structure import Structure
from verdad_core.errors import ConvergenceError, Place
from verdad_core.jit import entry
from verdad_core.units import format_value


class Path(IntEnum):
    """How an operating point was found; negative values: it was not."""

    NEWTON = NEWTON
    GMIN_STEPPING = GMIN_STEPPING
    SOURCE_STEPPING = SOURCE_STEPPING
    FAILED = FAILED
    SINGULAR = SINGULAR

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
    values: Floats
    paths: Integers
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


def failure(structure: Structure, path: Path, values: Floats, changes: Floats) -> ConvergenceError:
    """The error for a row that was not solved: what moved most in the last step, with its last values."""
    order = np.argsort(-np.nan_to_num(np.abs(changes), nan=np.inf))[:5]
    worst = [int(k) for k in order if not abs(changes[k]) <= 1e-6]
    names = tuple(structure.unknowns[k] for k in worst)
    if path is Path.SINGULAR:
        return ConvergenceError(
            "the circuit's equations have no single solution",
            place=Place(nodes=names),
            remedy="Look for nodes without a path to ground, shorted outputs and loops of sources at these nodes.",
        )
    last = ", ".join(
        f"{structure.unknowns[k]} {format_value(float(values[k]), 'V' if k < structure.nodes else 'A')}" for k in worst
    )
    return ConvergenceError(
        f"no operating point was found; Newton, gmin stepping and source stepping were tried. Last values: {last}",
        place=Place(nodes=names),
        remedy="Check the pins and supplies of the parts at these nodes, and the values around them.",
    )


@entry
def _solve_rows(
    heads: Integers, table: Integers, slots: Integers, pattern_rows: Integers, pattern_columns: Integers, nodes: int,
    sizes: Integers, nominal: Floats, columns: Integers, values: Floats, start: int, stop: int,
    x: Floats, paths: Integers, changes: Floats,
) -> None:  # fmt: skip
    """Rows start..stop-1. `sizes` is [derived, states]; x [S, n + 1], paths [S] and changes [S, n] are written."""
    n = x.shape[1] - 1
    parameters, derived = np.empty(len(nominal)), np.empty(sizes[0])
    options, state, nominal_state = np.empty(OPTIONS), np.zeros(sizes[1]), np.zeros(sizes[1])
    nominal_x = np.zeros(n + 1)
    # Every row starts from the nominal solution, so that it does not depend on the rows before it.
    copy(nominal, parameters)
    update(heads, table, parameters, derived)
    steps = first_plan(
        heads, table, slots, pattern_rows, pattern_columns, nodes, derived, options, nominal_state, nominal_x
    )
    path, warm = FAILED, False
    if steps[0] >= 0:
        path, steps = solve_point(heads, table, slots, pattern_rows, pattern_columns, nodes, derived, options,
                                    nominal_state, steps, nominal_x, changes[start], False)  # fmt: skip
        warm = path >= 0
    for row in range(start, stop):
        if steps[0] < 0:
            paths[row] = SINGULAR
            for k in range(len(steps)):
                changes[row, -1 - steps[k]] = np.inf
            continue
        fill_row(nominal, columns, values, row, parameters)
        update(heads, table, parameters, derived)
        copy(nominal_x, x[row])
        copy(nominal_state, state)
        status, _ = solve_point(heads, table, slots, pattern_rows, pattern_columns, nodes,
                                    derived, options, state, steps, x[row], changes[row], warm)  # fmt: skip
        # What Newton finds from the nominal solution was found the way the nominal solution was.
        paths[row] = path if warm and status == NEWTON else status


def operating_point(
    structure: Structure, matrix: ParameterMatrix | None = None, threads: int | None = None
) -> OperatingPoint:
    """Solve every row of `matrix` (default: the nominal one).

    A row that was not solved does not raise: see `OperatingPoint.paths` and `OperatingPoint.require`.
    """
    matrix = matrix or ParameterMatrix.single(structure)
    n, rows = structure.size, matrix.rows
    x, changes = np.zeros((rows, n + 1)), np.zeros((rows, n))
    paths = np.full(rows, FAILED, dtype=np.int32)
    sizes = np.array([structure.derived, structure.states], dtype=np.int32)

    def work(start: int, stop: int) -> None:
        _solve_rows(structure.heads, structure.table, structure.slots, structure.rows, structure.columns,
                    structure.nodes, sizes, matrix.nominal, matrix.columns, matrix.values, start, stop,
                    x, paths, changes)  # fmt: skip

    in_chunks(rows, work, threads)
    return OperatingPoint(structure, x, paths, changes)
