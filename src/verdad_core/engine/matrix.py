"""The parameter matrix: S rows of parameter values, kept as one nominal row and the columns that differ."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.engine.circuit import MATRIX
from verdad_core.engine.shape import Shape
from verdad_core.errors import CircuitError, Place


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

    def row(self, row: int) -> ParameterMatrix:
        """One row by itself."""
        return ParameterMatrix(self.nominal, self.columns, self.values[row : row + 1])

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
    def varied(cls, structure: Shape, changes: Mapping[tuple[str, str], Floats]) -> ParameterMatrix:
        """Rows in which parameters, named by (element, parameter), take the values of equally long arrays.

        Raises CircuitError for an element or a parameter that is not in the circuit, and for a value that the circuit
        could not have been compiled with, or not as it was (see `opened`).
        """
        for key, rows in changes.items():
            require_values(structure, key, np.asarray(rows, float))
        columns = np.array([structure.column(*key) for key in changes], dtype=np.int32)
        values = np.ascontiguousarray(np.stack([np.asarray(v, float) for v in changes.values()], axis=1))
        return cls(structure.nominal, columns, values)


def require_values(structure: Shape, key: tuple[str, str], rows: Floats) -> None:
    """Raise CircuitError where a parameter cannot take one of these values in the circuit as it was compiled."""
    if key == AMBIENT_KEY or not len(rows):
        return
    element, parameter = structure.parameter(*key)
    nominal = float(structure.nominal[structure.column(*key)])
    for value in (float(np.min(rows)), float(np.max(rows))):
        refusal = parameter.refusal(value) if not (np.isnan(value) and np.isnan(nominal)) else None
        remedy = "Narrow the range of values."
        if refusal is None and parameter.signed and value * nominal < 0.0:
            refusal = f"{parameter.name} = {value:g} {parameter.unit}, on the other side of zero"
        other = parameter.structural and (value == 0.0) != (nominal == 0.0)
        if refusal is None and (other or (parameter.choice and value != nominal)):
            refusal = f"{parameter.name} = {value:g} {parameter.unit} asks for other equations than {nominal:g}"
            remedy = "Give it a value in the model, and vary it above zero."
        if refusal is not None:
            place = Place(line=element.line, part=element.name)
            raise CircuitError(f"{element.name}: {refusal} ({parameter.meaning})", place=place, remedy=remedy)
