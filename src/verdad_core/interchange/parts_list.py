"""The parts list of a board's circuits: equal parts in one line. Fixtures are never in it."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator, Sequence

from verdad_core.document.board import Circuit
from verdad_core.document.parts import PART_UNITS, Generic, Modelled, Part, Statement
from verdad_core.intake.generic import GENERIC_PARTS
from verdad_core.spreads.amount import told
from verdad_core.spreads.contributors import CONTRIBUTORS
from verdad_core.spreads.spread import Spread
from verdad_core.units import format_value, parse_value

#: Which contributor a column speaks of.
CONTRIBUTOR_OF = {
    "Tolerance": "purchase", **{each.title.capitalize(): key for key, each in CONTRIBUTORS.items() if key != "purchase"}
}  # fmt: skip

COLUMNS = ("Designators", "Quantity", "Part", "Value", *CONTRIBUTOR_OF, "Distribution", "Group")


def parts_list(circuits: Iterable[Circuit], spreads: Sequence[Spread]) -> str:
    """A table in CSV (RFC 4180) with COLUMNS; the distribution is that of the tolerance that parts are bought with."""
    target = io.StringIO()
    writer = csv.writer(target)
    writer.writerow(COLUMNS)
    writer.writerows(part_lines(circuits, spreads))
    return target.getvalue()


def part_lines(circuits: Iterable[Circuit], spreads: Sequence[Spread]) -> list[tuple[str, ...]]:
    """Its lines, cell by cell."""
    spread_of = {spread.of: spread for spread in spreads}
    lines: dict[tuple[str, ...], list[str]] = {}
    for circuit in circuits:
        for part in circuit.parts:
            line = (*_described(part), *_spread(spread_of.get(part.designator)))
            lines.setdefault(line, []).append(part.designator)
    found = []
    for line, designators in sorted(lines.items(), key=lambda item: _order(min(item[1], key=_order))):
        ordered = sorted(designators, key=_order)
        found.append((" ".join(ordered), str(len(ordered)), *line))
    return found


def _spread(spread: Spread | None) -> Iterator[str]:
    """The cells of what makes a part differ from its value."""
    of = {each.contributor: each for each in spread.contributions} if spread else {}
    yield from (told(of[key].amount) if key in of else "" for key in CONTRIBUTOR_OF.values())
    yield of["purchase"].distribution if "purchase" in of else ""
    yield (spread.group or "") if spread else ""


def _described(part: Part) -> tuple[str, str]:
    match part:
        case Modelled():
            return part.model.name.upper(), _settings(part.settings)
        case Generic():
            return GENERIC_PARTS[part.part].title, _settings(part.settings)
        case Statement():
            return "statement", plain(part.text)
        case _:
            return part.kind, format_value(parse_value(part.value), PART_UNITS[part.kind], 12) if part.value else ""


def _settings(settings: dict[str, str]) -> str:
    return ", ".join(f"{name}: {text}" for name, text in settings.items())


def plain(text: str) -> str:
    """Text that a table calculation will not take for a formula."""
    return f"'{text}" if text[:1] in "=+-@" else text


def _order(designator: str) -> tuple[str, int]:
    letters, number = re.fullmatch(r"([A-Z]+)([0-9]+)", designator).groups()  # type: ignore[union-attr]
    return letters, int(number)
