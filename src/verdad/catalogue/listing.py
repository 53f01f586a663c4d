"""A listing: a made-up part on a made-up maker's page, with its model files and the lines of its data sheet."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Line:
    """One line of a data sheet: what the part is said to do."""

    figure: str
    unit: str
    typical: float | None = None
    least: float | None = None
    most: float | None = None
    conditions: str = ""


@dataclass(frozen=True)
class Listing:
    """`files` as they are sent: bytes in whatever encoding the maker uses. `model` is the one to take from them."""

    part: str
    maker: str
    kind: str
    summary: str
    files: dict[str, bytes]
    lines: tuple[Line, ...] = field(default=())
    model: str = ""
    released: str = "2026-03-02"

    @property
    def slug(self) -> str:
        return self.part.lower()

    @property
    def data_sheet(self) -> str:
        """The lines as CSV."""
        text = io.StringIO()
        writer = csv.writer(text, lineterminator="\n")
        writer.writerow(["Figure", "Min", "Typ", "Max", "Unit", "Conditions"])
        for line in self.lines:
            numbers = ["" if value is None else f"{value:g}" for value in (line.least, line.typical, line.most)]
            writer.writerow([line.figure, *numbers, line.unit, line.conditions])
        return text.getvalue()
