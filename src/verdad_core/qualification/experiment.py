"""What experiments on a model share: the fixture around it, rows of it, and what comes back."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.arrays import Floats
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure
from verdad_core.intake.model import Model, node_of
from verdad_core.qualification.figures import FigureType, Outcome

#: Ambient temperature at which figures hold, in °C.
ROOM = 27.0


@dataclass(frozen=True)
class Subject:
    """A model of a kind under conditions. Long experiments call `look` (with what is done), which may end them."""

    model: Model
    kind: str
    conditions: Mapping[str, float]
    look: Callable[[float], None] = lambda _: None

    def __getitem__(self, condition: str) -> float:
        return self.conditions[condition]

    def structure(self, *statements: str) -> Structure:
        """The model with a fixture around it, compiled."""
        return self.model.structure([*self._others(), *statements])

    def has(self, role: str) -> bool:
        return role in self.model.roles

    def _others(self) -> list[str]:
        """What holds the pins that the kind need not have: an enable is on, a ground is ground, others hang weakly."""
        held = []
        for k, role in enumerate(self.model.roles):
            node = node_of(role)
            if role == "enable":
                held.append(f"r_other{k} {node} {node_of('v+' if self.has('v+') else 'in')} 1k")
            elif role == "ground" and self.has("v+"):
                held.append(f"r_other{k} {node} 0 1m")
            elif role == "substrate":
                held.append(f"r_other{k} {node} {node_of('emitter')} 1m")
            elif role == "bulk":
                held.append(f"r_other{k} {node} {node_of('source')} 1m")
            else:
                held.append(f"r_other{k} {node} 0 1e12")
        return held


#: Values that parameters take, row by row.
Changes = Mapping[tuple[str, str], Floats | Sequence[float]]

Run = Callable[[Subject, Outcome], None]


@dataclass(frozen=True)
class Experiment:
    """One step of a bench: the figures it brings and how. It may raise a VerdadError; what it had found is kept."""

    title: str
    figures: tuple[FigureType, ...]
    run: Run


def rows(structure: Structure, changes: Changes) -> ParameterMatrix:
    """Rows in which parameters take the values of equally long lists."""
    return ParameterMatrix.varied(structure, {key: np.asarray(values, float) for key, values in changes.items()})


def solved(structure: Structure, changes: Changes) -> OperatingPoint:
    """Operating points of rows; NaN where one was not found. Raises ConvergenceError where none was."""
    point = operating_point(structure, rows(structure, changes))
    if not np.any(point.paths >= 0):
        point.require()
    point.values[point.paths < 0] = np.nan
    return point


def at(point: OperatingPoint, unknown: str) -> Floats:
    """An unknown of every row."""
    return np.asarray(point.values[:, point.structure.index(unknown)])


def where(x: Floats, y: Floats, level: float, *, last: bool = False) -> float:
    """The x where y first (or last) crosses a level, between two points by a straight line; NaN where it does not."""
    above = y > level
    changes = np.flatnonzero((above[1:] != above[:-1]) & np.isfinite(y[1:]) & np.isfinite(y[:-1]))
    if len(changes) == 0:
        return float("nan")
    k = int(changes[-1 if last else 0])
    return float(x[k] + (x[k + 1] - x[k]) * (level - y[k]) / (y[k + 1] - y[k]))
