"""The parameter matrix: S rows of parameter values, kept as one nominal row and the columns that differ."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.engine.circuit import MATRIX

if TYPE_CHECKING:
    from verdad_core.engine.structure import Structure


@dataclass(frozen=True)
class ParameterMatrix:
    """`nominal` [parameters] holds for every row, except that row s has values[s, k] in column columns[k]."""

    nominal: Floats
    columns: Integers
    values: Floats

    @property
    def rows(self) -> int:
        """S, the number of rows."""
        return len(self.values)

    @cached_property
    def words(self) -> Packed:
        """The words of a Matrix, for kernels; they hold for as long as this matrix lives."""
        return MATRIX.packed(
            nominal=self.nominal, columns=self.columns, values=self._values, parameters=len(self.nominal),
            varied=len(self.columns),
        )  # fmt: skip

    @cached_property
    def _values(self) -> Floats:
        return np.ascontiguousarray(self.values)

    @classmethod
    def varied(cls, structure: Structure, changes: Mapping[tuple[str, str], Floats]) -> ParameterMatrix:
        """Rows in which parameters, named by (element, parameter), take the values of equally long arrays.

        Raises CircuitError for an element or a parameter that is not in the circuit.
        """
        columns = np.array([structure.column(*key) for key in changes], dtype=np.int32)
        values = np.ascontiguousarray(np.stack([np.asarray(v, float) for v in changes.values()], axis=1))
        return cls(structure.nominal, columns, values)
