"""The verdict on a board as it is told: limits down, as drawn and by study across."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.document.board import Board, Limit
from verdad_core.studies.evidence import MatrixRow
from verdad_core.studies.verdict import Cell, State, worst
from verdad_core.units import format_value


@dataclass(frozen=True)
class Named:
    """What a limit is on, in words, and the unit of its bounds."""

    circuit: str
    check: str
    measurement: str
    unit: str
    bounds: str


@dataclass(frozen=True)
class Verdict:
    """The matrix of a board: limits down, `columns` across, the first of them as drawn."""

    board: Board
    columns: tuple[str, ...]
    rows: tuple[MatrixRow, ...]

    def cells(self, row: MatrixRow) -> Iterator[tuple[str, Cell]]:
        """What columns say of a limit; a study that does not cover its check says nothing."""
        for column, cell in zip(self.columns, (row.nominal, *row.cells), strict=True):
            if cell is not None:
                yield column, cell

    def state_of(self, row: MatrixRow) -> State:
        """The worst of a limit's cells."""
        return worst(cell.state for _, cell in self.cells(row))

    @property
    def state(self) -> State:
        """The worst of all; unproven where nothing is limited."""
        return worst(map(self.state_of, self.rows))

    def named(self, limit: Limit) -> Named:
        circuit, check = self.board.check(limit.check)
        measurement = check.measurement(limit.measurement)
        unit = unit_of_measurement(circuit, check, measurement)
        return Named(circuit.title, check.title, measurement.title, unit, f"{_bounds(limit)} {unit}".strip())


def _bounds(limit: Limit) -> str:
    if limit.lower and limit.upper:
        return f"{limit.lower} to {limit.upper}"
    return f"at least {limit.lower}" if limit.lower else f"at most {limit.upper}"


def cell_words(cell: Cell, unit: str) -> str:
    """The worst value, and how far it lies from the limit; or why there is none."""
    if cell.worst is None or cell.margin_percent is None:
        return cell.why
    room = f", {abs(cell.margin_percent):.3g} % {'from' if cell.margin_percent >= 0 else 'beyond'} the limit"
    return f"{format_value(cell.worst, unit)}{room}{f'; {cell.why}' if cell.why else ''}"
