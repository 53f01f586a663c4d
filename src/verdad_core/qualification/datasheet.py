"""What a data sheet says of a part: lines typed or pasted as CSV, with figures found by the names that makers use."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from verdad_core.errors import Finding, Place, Severity, ValueTextError
from verdad_core.qualification.figures import FigureType
from verdad_core.schema import Document, Remark
from verdad_core.units import PREFIXES, format_value

#: Lines that are read.
MOST_LINES = 200

_Number = Annotated[float, Field(allow_inf_nan=False)]


class DataSheetLine(Document):
    """One line: the figure's key, and its least, typical and largest value in the figure's own unit."""

    figure: Annotated[str, Field(max_length=40)]
    least: _Number | None = None
    typical: _Number | None = None
    most: _Number | None = None
    conditions: Remark = ""


@dataclass(frozen=True)
class DataSheet:
    """Lines that were understood, and a finding for each that was not."""

    lines: tuple[DataSheetLine, ...]
    findings: tuple[Finding, ...]


_COLUMNS = {
    "figure": ("figure", "parameter", "symbol", "name", "characteristic"),
    "least": ("min", "minimum", "least"),
    "typical": ("typ", "typical", "value", "nominal"),
    "most": ("max", "maximum", "most"),
    "unit": ("unit", "units"),
    "conditions": ("conditions", "condition", "test conditions", "at"),
}


def read_csv(text: str, figures: Mapping[str, FigureType]) -> DataSheet:
    """Lines of a table with a heading (Figure, Min, Typ, Max, Unit, Conditions), separated by commas, semicolons or
    tabs. A line that is not understood leaves a finding; the others are read.
    """
    findings: list[Finding] = []
    lines: dict[str, DataSheetLine] = {}
    stripped = text.replace("\r\n", "\n").replace("\r", "\n").strip("\ufeff\n ")
    head = stripped.split("\n", 1)[0]
    separator = max("\t;,", key=head.count)
    try:
        table = list(csv.reader(io.StringIO(stripped), delimiter=separator))[: MOST_LINES + 1]
    except csv.Error as error:
        return DataSheet((), (Finding(Severity.ERROR, f"this is no table: {error}", remedy="Paste it as CSV."),))
    columns = _columns(table[0]) if table else {}
    if "figure" not in columns or not columns.keys() & {"least", "typical", "most"}:
        heading = "the first line has to name the columns: Figure, Min, Typ, Max, Unit, Conditions"
        return DataSheet((), (Finding(Severity.ERROR, heading, Place(line=1), "Paste the table with its heading."),))
    for number, row in enumerate(table[1:], 2):
        cells = {name: row[k].strip() if k < len(row) else "" for name, k in columns.items()}
        if not any(cells.values()):
            continue
        figure = find_figure(cells["figure"], figures)
        if figure is None:
            findings.append(
                Finding(Severity.NOTE, f"'{cells['figure']}' is no figure that this bench measures", Place(line=number))
            )
            continue
        try:
            line = _line(figure, cells)
        except ValueTextError as error:
            findings.append(Finding(Severity.WARNING, error.message, Place(line=number), error.remedy))
            continue
        if figure.key in lines:
            findings.append(
                Finding(Severity.NOTE, f"{figure.title} is given twice; the first one counts", Place(line=number))
            )
        lines.setdefault(figure.key, line)
    return DataSheet(tuple(lines.values()), tuple(findings))


def _columns(heading: Sequence[str]) -> dict[str, int]:
    found: dict[str, int] = {}
    for k, cell in enumerate(heading):
        word = cell.strip().lower().rstrip(".")
        name = next((name for name, words in _COLUMNS.items() if word in words), None)
        if name:
            found.setdefault(name, k)
    return found


def find_figure(name: str, figures: Mapping[str, FigureType]) -> FigureType | None:
    """The figure that a data sheet means by a name: its key, its title, or one of its other names."""
    wanted = _plain(name)
    for figure in figures.values():
        if wanted in {_plain(other) for other in (figure.key, figure.title, *figure.names)}:
            return figure
    return None


def _plain(name: str) -> str:
    return re.sub(r"[\s_-]+", " ", name.replace("−", "-").lower()).strip() + ("-" if name.strip().endswith("-") else "")


def _line(figure: FigureType, cells: Mapping[str, str]) -> DataSheetLine:
    unit = cells.get("unit", "")
    numbers = {}
    for column in ("least", "typical", "most"):
        cell = cells.get(column, "").replace("−", "-").replace("±", "")
        if not cell or cell in "-–—":
            continue
        try:
            value = float(cell.replace(",", ".") if cell.count(",") == 1 and "." not in cell else cell)
        except ValueError:
            raise ValueTextError(
                f"{figure.title}: '{cell}' is not a number", remedy="Write the number alone, and its unit under Unit."
            ) from None
        numbers[column] = in_unit(value, unit, figure)
    if not numbers:
        raise ValueTextError(f"{figure.title}: the line has no number", remedy="Give at least one of Min, Typ and Max.")
    return DataSheetLine(figure=figure.key, conditions=cells.get("conditions", "")[:500], **numbers)


#: Units as they are written, and what they are; a prefix may go before them.
_SAME = {
    "ohm": "Ω", "ohms": "Ω", "Ω": "Ω", "deg": "°", "degrees": "°", "v/rthz": "V/√Hz", "a/rthz": "A/√Hz", "s": "s",
    "v/sqrt(hz)": "V/√Hz", "a/sqrt(hz)": "A/√Hz", "v/degc": "V/°C", "ppm/degc": "ppm/°C", "v/°c": "V/°C",
    "ppm/°c": "ppm/°C", "sec": "s",
}  # fmt: skip
_PREFIX = {prefix: power for power, prefix in PREFIXES.items() if prefix} | {"u": -6, "μ": -6}


def in_unit(value: float, unit: str, figure: FigureType) -> float:
    """A value written in some unit, in the figure's own: 4 V/µs are 4e6 V/s, 200 V/mV are 106 dB.

    Raises ValueTextError for a unit that does not fit.
    """
    number, base = _factor(unit.strip())
    if base == figure.unit or (unit.strip() in ("", "1") and figure.unit == ""):
        return value * number
    if figure.unit == "dB" and base in ("V/V", "") and value * number > 0:
        return 20 * math.log10(value * number)
    if base == "%" and figure.unit == "":
        return value * number / 100
    if base == "S" and figure.unit == "A/V":
        return value * number
    raise ValueTextError(
        f"{figure.title}: the unit '{unit}' does not fit; it is measured in {figure.unit or 'a plain number'}",
        remedy=f"Write {figure.unit or 'no unit'}, with a prefix such as m, µ, k or M where needed.",
    )


def _factor(unit: str) -> tuple[float, str]:
    """What to multiply with, and the unit without prefixes."""
    upper, _, lower = unit.partition("/")
    factor, top = _split(upper)
    if not lower:
        return factor, top
    if _SAME.get(unit.lower(), unit) in ("V/√Hz", "ppm/°C"):
        return 1.0, _SAME.get(unit.lower(), unit)
    below, bottom = (1.0, lower) if lower in ("√Hz", "°C") else _split(lower)
    whole = f"{top}/{bottom}"
    return factor / below, _SAME.get(whole.lower(), whole)


def _split(unit: str) -> tuple[float, str]:
    known = ("Hz", "V", "A", "Ω", "F", "H", "s", "C", "W", "S", "%", "°", "dB", "ppm", "")
    plain = _SAME.get(unit.lower(), unit)
    if plain in known:
        return 1.0, plain
    rest = _SAME.get(unit[1:].lower(), unit[1:])
    if unit[:1] in _PREFIX and rest in known and rest:
        return 10.0 ** _PREFIX[unit[0]], rest
    return 1.0, plain


def written(line: DataSheetLine, figure: FigureType) -> str:
    """A line's numbers in words: "typ 4 MV/s, min 3 MV/s"."""
    parts = [("min", line.least), ("typ", line.typical), ("max", line.most)]
    return ", ".join(f"{word} {format_value(value, figure.unit)}" for word, value in parts if value is not None)
