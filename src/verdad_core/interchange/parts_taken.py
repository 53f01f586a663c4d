"""A parts list in CSV taken onto a board: values, and how far they may lie from them, line by line."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from difflib import get_close_matches

from pydantic import ValidationError

from verdad_core.document.board import Board
from verdad_core.document.parts import PART_UNITS, Valued
from verdad_core.errors import BoardError, Finding, Place, Severity, ValueTextError, VerdadError
from verdad_core.interchange.parts_list import COLUMNS, CONTRIBUTOR_OF
from verdad_core.spreads.spread import Contribution, Spread
from verdad_core.units import has_decimal_comma, parse_value

#: What the columns are called, too.
_CALLED = {
    "designator": "designators", "reference": "designators", "references": "designators", "ref": "designators",
    "refs": "designators", "refdes": "designators", "tol": "tolerance", "values": "value",
}  # fmt: skip
_KNOWN = frozenset(name.lower() for name in COLUMNS)

_BETWEEN = re.compile(r"[\s,;]+")

#: Lines that are read, and faults that are told, at most.
_MOST_LINES, _MOST_TOLD = 20_000, 40


@dataclass(frozen=True)
class PartsTaken:
    """New values by designator and new spreads, of what differs from the board; `known` parts of it are in the list.

    A line that could not be read, or speaks of no part of the board, is a finding with its line.
    """

    values: Mapping[str, str]
    spreads: tuple[Spread, ...]
    known: int
    findings: tuple[Finding, ...]


def take_parts(board: Board, name: str, data: bytes) -> PartsTaken:
    """Read a list with a column of designators, and any of the others that `parts_list` writes.

    Values are text such as 4k7 or 100 nF, tolerances as under Spreads. Empty cells leave things as they are. Raises
    BoardError for a file without such columns.
    """
    text = data.decode("utf-8-sig", errors="replace")
    delimiter = next((sign for sign in ("\t", ";", ",") if sign in text[:2000].partition("\n")[0]), ",")
    reader = csv.reader(io.StringIO(text, newline=None), delimiter=delimiter)
    try:
        lines = [(reader.line_num, [cell.strip() for cell in row]) for row in reader]
    except csv.Error as error:
        raise BoardError(
            f"{name} is no table: {error}", place=Place(file=name, line=reader.line_num), remedy="Save it as CSV."
        ) from None
    lines = [(number, cells) for number, cells in lines if any(cells)][: _MOST_LINES + 1]
    columns = _columns(name, lines[0][1] if lines else [])
    taking = _Taking(board, name)
    for number, cells in lines[1:]:
        taking.line(number, {column: cells[k] for k, column in columns.items() if k < len(cells) and cells[k]})
    return taking.taken()


def _columns(name: str, header: list[str]) -> dict[int, str]:
    found = {k: _CALLED.get(cell.lower(), cell.lower()) for k, cell in enumerate(header)}
    known = {k: column for k, column in found.items() if column in _KNOWN}
    if "designators" not in known.values() or len(known) < 2:
        raise BoardError(
            f"{name} has no column of designators beside one of values or tolerances",
            place=Place(file=name, line=1), remedy=f"Head the columns {', '.join(COLUMNS)}, or some of them.",
        )  # fmt: skip
    return known


class _Taking:
    """What lines come to, one after the other."""

    def __init__(self, board: Board, name: str) -> None:
        self.board, self.name = board, name
        self.parts = {part.designator: part for circuit in board.circuits for part in circuit.parts}
        self.old = {spread.of: spread for spread in board.spreads}
        self.values: dict[str, str] = {}
        self.spreads: dict[str, Spread] = {}
        self.seen: set[str] = set()
        self.findings: list[Finding] = []

    def line(self, number: int, cells: Mapping[str, str]) -> None:
        for designator in _BETWEEN.split(cells.get("designators", "").upper()):
            if designator and designator not in self.parts:
                near = get_close_matches(designator, self.parts, 2, 0.5)
                remedy = f"Did you mean {' or '.join(near)}?" if near else "Place it on the sheet first."
                self._told(number, f"the board has no part {designator}", remedy)
            elif designator:
                self.seen.add(designator)
                try:
                    self._part(designator, cells)
                except (VerdadError, ValidationError) as error:
                    cause = error if isinstance(error, VerdadError) else error.errors()[0].get("ctx", {}).get("error")
                    message = cause.message if isinstance(cause, VerdadError) else "the line cannot be read"
                    remedy = cause.remedy if isinstance(cause, VerdadError) else "Write values such as 4k7 and 1 %."
                    self._told(number, f"{designator}: {message}", remedy)

    def _told(self, number: int, message: str, remedy: str) -> None:
        place = Place(file=self.name, line=number)
        self.findings.append(Finding(Severity.WARNING, message, place=place, remedy=remedy))

    def _part(self, designator: str, cells: Mapping[str, str]) -> None:
        part = self.parts[designator]
        if isinstance(part, Valued):
            self._value(part, cells.get("value", ""))
            old = self.old.get(designator)
            before = {each.contributor: each for each in old.contributions} if old else {}
            given = {each.contributor: each for each in self._contributions(cells, before)}
            if given:
                own = Spread(
                    of=designator, contributions=tuple((before | given).values()),
                    group=cells.get("group") or (old.group if old else None),
                )  # fmt: skip
                # Of another unit, it is refused here and not when a study runs.
                own.amounts(PART_UNITS[part.kind])
                if own != old:
                    self.spreads[designator] = own

    def _value(self, part: Valued, text: str) -> None:
        if text:
            _without_decimal_comma(text)
            if not part.value or parse_value(text, PART_UNITS[part.kind]) != parse_value(part.value):
                self.values[part.designator] = text

    def _contributions(self, cells: Mapping[str, str], before: Mapping[str, Contribution]) -> Iterator[Contribution]:
        """What cells say, each distributed as it was before where they do not say how."""
        for column, contributor in CONTRIBUTOR_OF.items():
            if text := cells.get(column.lower()):
                _without_decimal_comma(text)
                amount = _as_typed(text)
                said = cells.get("distribution", "").lower() if contributor == "purchase" else ""
                if contributor in before and said in ("", before[contributor].distribution):
                    yield Contribution(**before[contributor].model_dump() | {"amount": amount})
                else:
                    yield Contribution(contributor=contributor, amount=amount, distribution=said or "uniform")

    def taken(self) -> PartsTaken:
        left = len(self.findings) - _MOST_TOLD
        told = self.findings[:_MOST_TOLD]
        if left > 0:
            told.append(Finding(Severity.WARNING, f"{left} lines more could not be taken"))
        return PartsTaken(self.values, tuple(self.spreads.values()), len(self.seen), tuple(told))


def _as_typed(amount: str) -> str:
    """An amount as one types it: 5 for ±5 %."""
    plain = amount.removesuffix("%").strip().removeprefix("±").strip()
    return plain if amount.endswith("%") and plain.replace(".", "", 1).isdigit() else amount


def _without_decimal_comma(text: str) -> None:
    if has_decimal_comma(text):
        raise ValueTextError(f"'{text}' has a decimal comma", remedy=f"Write {text.replace(',', '.')}.")
