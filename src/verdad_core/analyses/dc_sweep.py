"""DC sweep: operating points along one or two swept parameters, each starting from the one before it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.small_signal import output_indices
from verdad_core.arrays import Floats, Integers
from verdad_core.engine.matrix import ParameterMatrix, require_values
from verdad_core.engine.opened import opened
from verdad_core.engine.structure import Structure
from verdad_core.errors import CircuitError

#: More points than this in one sweep are refused.
MAX_POINTS = 2_000_000

#: Numbers that are kept while rows are reduced to outputs: about 64 MB.
_KEPT_AT_ONCE = 8_000_000


@dataclass(frozen=True)
class Swept:
    """A parameter (element, parameter), or ("", "temperature") in °C, and the values it takes, in this order."""

    key: tuple[str, str]
    values: Floats


@dataclass(frozen=True)
class DcSweepResult:
    """`values` [S, outputs, *points of each sweep, the outer one first]; NaN and a path below 0 where unsolved.

    `paths` [S, *points] says how each point was found (operating_point.Path).
    """

    sweeps: tuple[Swept, ...]
    values: Floats
    paths: Integers


def up_and_down(values: Floats) -> Floats:
    """`values`, and then back to the first one: what a hysteresis needs."""
    return np.concatenate([values, values[-2::-1]])


def dc_sweep(
    structure: Structure,
    sweeps: Sequence[Swept],
    outputs: Sequence[tuple[str, str]],
    matrix: ParameterMatrix | None = None,
    threads: int | None = None,
    look: Callable[[], None] | None = None,
) -> DcSweepResult:
    """Sweep one or two parameters for every row of `matrix`; with two, the last one runs fastest.

    `look` is called now and then; what it raises ends the sweep.

    Raises CircuitError for a parameter or an output that does not exist, and for too many points.
    """
    if matrix is None:
        structure, taken = opened(structure, {sweep.key: np.asarray(sweep.values, float) for sweep in sweeps})
        sweeps = [Swept(sweep.key, taken[sweep.key]) for sweep in sweeps]
    base = matrix or structure.unvaried
    for sweep in sweeps:
        require_values(structure, sweep.key, sweep.values)
    shape = tuple(len(sweep.values) for sweep in sweeps)
    points = int(np.prod(shape))
    if not 1 <= len(sweeps) <= 2 or points == 0:
        raise CircuitError("a DC sweep has one or two parameters with at least one value each")
    if points * base.rows > MAX_POINTS:
        raise CircuitError(
            f"the sweep has {points * base.rows:,} points; at most {MAX_POINTS:,} are computed",
            remedy="Take a larger step.",
        )
    swept = np.array([structure.column(*sweep.key) for sweep in sweeps], dtype=np.int32)
    grid = np.stack([axis.ravel() for axis in np.meshgrid(*(sweep.values for sweep in sweeps), indexing="ij")], axis=1)
    others = ~np.isin(base.columns, swept)
    columns = np.concatenate([base.columns[others], swept])
    plus, minus = output_indices(structure, outputs)
    values = np.empty((base.rows, len(outputs), points))
    paths = np.empty((base.rows, points), dtype=np.int32)
    at_once = max(1, _KEPT_AT_ONCE // (points * (structure.size + len(columns))))
    for start in range(0, base.rows, at_once):
        rows = base.values[start : start + at_once, others]
        block = np.concatenate([np.repeat(rows, points, axis=0), np.tile(grid, (len(rows), 1))], axis=1)
        point = operating_point(structure, ParameterMatrix(base.nominal, columns, block), threads, shape[-1], look=look)
        found = point.values[:, plus] - point.values[:, minus]
        found[point.paths < 0] = np.nan
        values[start : start + at_once] = found.reshape(len(rows), points, len(outputs)).transpose(0, 2, 1)
        paths[start : start + at_once] = point.paths.reshape(len(rows), points)
    return DcSweepResult(
        tuple(sweeps), values.reshape(base.rows, len(outputs), *shape), paths.reshape(base.rows, *shape)
    )
