"""Files of measured responses: Touchstone, or a table of frequencies with gain and phase in CSV."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.scattering import renormalise
from verdad_core.arrays import Complexes, Floats
from verdad_core.checks.analyser import ports_of
from verdad_core.checks.kind import kind_of
from verdad_core.document.checks import Check
from verdad_core.document.overlays import MOST_POINTS, Overlay
from verdad_core.errors import BoardError, Finding, Place, Severity
from verdad_core.intake.touchstone import NetworkData, is_touchstone, read_touchstone
from verdad_core.schema import shown_title
from verdad_core.units import has_decimal_comma, parse_value

#: Lines in which it is looked for what a file is.
_LOOKED_AT = 200

#: What a heading says of its column.
_SCALES = (("ghz", 1e9), ("mhz", 1e6), ("khz", 1e3), ("hz", 1.0))
_WORDS = {
    "imaginary": re.compile(r"\bim"), "real": re.compile(r"\bre(al)?\b"), "radians": re.compile(r"\brad"),
    "degrees": re.compile(r"deg|°|phase|angle"), "decibels": re.compile(r"db|decibel"),
    "size": re.compile(r"mag|abs|gain|ratio|lin|amplitude|v/v|\|"),
}  # fmt: skip


#: What no name in an expression has.
_OTHERS = re.compile(r"[^a-z0-9_]+")


@dataclass(frozen=True)
class Measured:
    """A measured response, and what was done to the file."""

    overlay: Overlay
    findings: tuple[Finding, ...]


def read_measured(name: str, data: bytes, check: Check) -> Measured:
    """Read a file to lie over what a check computes: S-parameters at the resistances of its ports, or a table of what
    it is a check of first.

    Raises NetlistError or BoardError, with the line, for a file that holds no response of this check.
    """
    text = data.decode("utf-8-sig", errors="replace")
    shown = shown_title(name) or "measured"
    if is_touchstone(name) or _holds_waves(text):
        network = read_touchstone(shown, text)
        return Measured(overlay_of(shown, network, check), network.findings)
    frequency, values, findings = _table(shown, text)
    main = kind_of(check).main
    # Between two ports one looks first at what goes through.
    main = "s21" if main == "s11" and len(ports_of(check)) > 1 else main
    if not main:
        raise BoardError("over this check nothing measured can lie", remedy="Ask for a response over frequency first.")
    return Measured(_overlay(shown, frequency, {main: values}, check), tuple(findings))


def _holds_waves(text: str) -> bool:
    """Whether a text has the option line of a Touchstone file, or says its version, among its first lines."""
    lines = [line.strip().lower() for line in text.splitlines()[:_LOOKED_AT]]
    return any(
        line.startswith("[version]") or (line.startswith("#") and {"hz", "khz", "mhz", "ghz"} & set(line[1:].split()))
        for line in lines
    )


def overlay_of(name: str, network: NetworkData, check: Check) -> Overlay:
    """S-parameters as an overlay, told at the resistances of the check's ports. Raises BoardError for other ports."""
    own = ports_of(check)
    if len(own) != network.ports:
        raise BoardError(
            f"{name} has {network.ports} port{'s' if network.ports > 1 else ''}, this check {len(own) or 'none'}",
            place=Place(name), remedy="Lay it over S-parameters between as many ports.",
        )  # fmt: skip
    ohms = np.array([complex(parse_value(port.impedance), parse_value(port.reactance)) for port in own])
    s = renormalise(network.s, network.resistances, ohms)
    ports = range(network.ports)
    traces = {f"s{own[j].number}{own[k].number}": s[:, j, k] for j in ports for k in ports}
    return _overlay(name, network.frequency, traces, check)


def _overlay(file: str, frequency: Floats, traces: dict[str, Complexes], check: Check) -> Overlay:
    kept = frequency > 0.0
    frequency, traces = frequency[kept], {name: values[kept] for name, values in traces.items()}
    if len(frequency) < 2:
        raise BoardError(f"{file} holds fewer than two frequencies above zero", remedy="Choose a file with a sweep.")
    if len(frequency) > MOST_POINTS:
        at = np.unique(np.linspace(0, len(frequency) - 1, MOST_POINTS).astype(int))
        frequency, traces = frequency[at], {name: values[at] for name, values in traces.items()}

    def short(values: Floats) -> tuple[float, ...]:
        return tuple(float(f"{value:.9g}") for value in values.tolist())

    return Overlay(
        name=_free(file, {each.name for each in check.overlays}), file=file, frequency=tuple(frequency.tolist()),
        real={name: short(values.real) for name, values in traces.items()},
        imaginary={name: short(values.imag) for name, values in traces.items()},
    )  # fmt: skip


def _free(file: str, taken: Collection[str]) -> str:
    base = _OTHERS.sub("_", file.lower().rpartition(".")[0] or file.lower()).strip("_")[:12]
    base = base if base[:1].isalpha() else f"m_{base}".rstrip("_")
    name, k = base, 1
    while name in taken:
        k += 1
        name = f"{base}{k}"
    return name


def _table(name: str, text: str) -> tuple[Floats, Complexes, list[Finding]]:
    """Rows of a frequency and one or two numbers, after a heading that says which; else decibels and degrees."""
    first = next((line for line in text.splitlines() if line.strip() and not line.startswith(("#", "!"))), "")
    delimiter = next((sign for sign in ("\t", ";", ",") if sign in first), " ")
    reader = csv.reader(io.StringIO(text, newline=None), delimiter=delimiter, skipinitialspace=True)
    heading: list[str] = []
    rows: list[list[float]] = []
    gaps = 0
    try:
        for cells in reader:
            cells = [cell.strip() for cell in cells]
            if not any(cells) or cells[0].startswith(("#", "!")):
                continue
            numbers = [_number(cell) for cell in cells[:3]]
            if numbers and numbers[0] is not None and None not in numbers[: 2 if len(numbers) > 1 else 1]:
                rows.append([number for number in numbers if number is not None])
            elif not rows:
                heading = cells
            elif any(has_decimal_comma(cell) for cell in cells):
                raise BoardError(
                    f"line {reader.line_num} of {name} has a decimal comma", place=Place(name, reader.line_num),
                    remedy="Write numbers with a point.",
                )  # fmt: skip
            else:
                gaps += 1
    except csv.Error as error:
        raise BoardError(f"{name} is no table: {error}", place=Place(name, reader.line_num)) from None
    if any(has_decimal_comma(cell) for cell in heading) and delimiter == ";":
        raise BoardError(f"{name} has decimal commas", place=Place(name, 1), remedy="Write numbers with a point.")
    width = min(map(len, rows), default=0)
    if len(rows) < 2 or width < 2:
        raise BoardError(
            f"{name} holds no table of frequencies with a gain", place=Place(name, 1),
            remedy="Write columns such as frequency / Hz, gain / dB, phase / °.",
        )  # fmt: skip
    table = np.array([row[:width] for row in rows])
    findings = [Finding(Severity.NOTE, f"{gaps} lines without numbers were left out", Place(name))] if gaps else []
    scale = next((s for word, s in _SCALES if heading and word in heading[0].lower()), 1.0)
    order = np.argsort(table[:, 0], kind="stable")
    if np.any(np.diff(table[:, 0]) < 0):
        findings.append(Finding(Severity.NOTE, "its frequencies do not rise; they were sorted", Place(name)))
    table = table[order]
    once = np.concatenate([[True], np.diff(table[:, 0]) > 0.0])
    if not np.all(once):
        words = f"{int(np.sum(~once))} frequencies stand there twice; the first of each is taken"
        findings.append(Finding(Severity.NOTE, words, Place(name)))
    table = table[once]
    values, more = _values(name, heading[1:width], table[:, 1:])
    return table[:, 0] * scale, values, [*findings, *more]


def _number(cell: str) -> float | None:
    try:
        value = float(cell)
    except ValueError:
        return None
    return value if np.isfinite(value) else None


def _values(name: str, heading: list[str], table: Floats) -> tuple[Complexes, list[Finding]]:
    said = [next((what for what, word in _WORDS.items() if word.search(cell.lower())), "") for cell in heading]
    if "real" in said and "imaginary" in said:
        return np.asarray(table[:, said.index("real")] + 1j * table[:, said.index("imaginary")]), []
    findings = []
    column = next((k for k, what in enumerate(said) if what in ("decibels", "size")), 0)
    kind = said[column] if said and said[column] in ("decibels", "size") else ""
    if not kind:
        kind = "decibels" if np.any(table[:, column] < 0.0) else "size"
        words = f"its second column was taken for {'decibels' if kind == 'decibels' else 'a ratio'}"
        findings.append(Finding(Severity.NOTE, words, Place(name), "Head it gain / dB or gain / V/V."))
    size = 10.0 ** (table[:, column] / 20.0) if kind == "decibels" else table[:, column]
    if table.shape[1] < 2:
        findings.append(Finding(Severity.NOTE, "it has no phase: that of its curves means nothing", Place(name)))
        return size.astype(complex), findings
    turns = table[:, 1 - column] if said and "radians" in said else np.radians(table[:, 1 - column])
    return np.asarray(size * np.exp(1j * turns)), findings
