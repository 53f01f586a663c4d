"""`verdad simulate`: a netlist file in, JSON, CSV files or a summary out."""

from __future__ import annotations

import csv
import json
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from verdad_core.errors import NetlistError, VerdadError
from verdad_core.intake.decode import decode
from verdad_core.simulate import simulate
from verdad_core.simulation import Limits, Simulation
from verdad_core.units import format_value

BAD_INPUT, STOPPED = 2, 3


def simulate_file(file: Path, *, print_json: bool, csv: Path | None, seconds: float) -> int:
    """The exit status: 0, 2 for bad input, 3 for a run that reached a limit (its results so far are printed)."""
    try:
        text = decode(_bytes(file)).text
        simulation = simulate(text, _beside(file), Limits(seconds=seconds))
        if csv is not None:
            _write_csv(simulation, csv)
    except VerdadError as error:
        return _refuse(str(error), error.place.line, BAD_INPUT)
    if print_json:
        print(json.dumps(simulation.json(), allow_nan=False))
    else:
        print("\n".join(_summary(simulation)))
    if simulation.stopped is not None:
        return _refuse(str(simulation.stopped), simulation.stopped.place.line, STOPPED)
    return 0


def _refuse(message: str, line: int | None, status: int) -> int:
    print(json.dumps({"error": message, "line": line}), file=sys.stderr)
    return status


def _bytes(file: Path) -> bytes:
    try:
        return file.read_bytes()
    except OSError as error:
        raise NetlistError(
            f"{file.name} cannot be read: {error.strerror}", remedy="Name a file that exists and may be read."
        ) from None


def _beside(file: Path) -> Callable[[str], str | None]:
    """Included files, from the netlist's own folder and those below it only."""
    folder = file.resolve().parent

    def text_of(name: str) -> str | None:
        try:
            path = (folder / name.replace("\\", "/")).resolve()
            if not path.is_file():
                return None
        except (OSError, ValueError):
            return None
        if not path.is_relative_to(folder):
            raise NetlistError(
                f"the file {name} lies outside the netlist's folder",
                remedy="Put it beside the netlist, or below it.",
            )
        return decode(_bytes(path)).text

    return text_of


def _summary(simulation: Simulation) -> Iterator[str]:
    """A few lines to read; numbers are for --json and --csv."""
    yield simulation.circuit or "(no title)"
    for warning in simulation.warnings:
        yield f"  line {warning.place.line}: {warning.message}" if warning.place.line else f"  {warning.message}"
    for analysis in simulation.analyses:
        yield f"{analysis.kind}:"
        for name, column in _columns(analysis):
            if name.startswith("by_parameter") and not column.any():
                continue
            if len(column) == 1:
                yield f"  {name} = {format_value(float(column[0]), '', 6)}"
            else:
                yield f"  {name}: {len(column)} values from {column.min():.6g} to {column.max():.6g}"


def _columns(analysis: Any) -> Iterator[tuple[str, np.ndarray]]:
    """An analysis as columns of real numbers."""

    def split(name: str, value: Any) -> Iterator[tuple[str, np.ndarray]]:
        if isinstance(value, dict):
            for key, item in value.items():
                yield from split(key if name in ("values", "vectors", "by_element") else f"{name} {key}", item)
        elif isinstance(value, list):
            for part in ("real", "imag"):
                if value:
                    yield f"{name} {part}", np.array([getattr(item, part) for item in value])
        elif hasattr(value, "name"):
            yield value.name, value.values
        elif isinstance(value, str) or value is None:
            return
        else:
            column = np.atleast_1d(value)
            if np.iscomplexobj(column):
                yield f"{name} real", column.real
                yield f"{name} imag", column.imag
            else:
                yield name, column

    fields = vars(analysis)
    for name in sorted(fields, key=lambda name: name not in ("time", "frequency", "sweep", "outer")):
        yield from split(name, fields[name])


def _write_csv(simulation: Simulation, folder: Path) -> None:
    """One file per analysis: its number, its kind, a column per quantity."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for number, analysis in enumerate(simulation.analyses, 1):
            columns = list(_columns(analysis))
            length = max((len(column) for _, column in columns), default=0)
            with (folder / f"{number}-{analysis.kind}.csv").open("w", newline="") as file:
                writer = csv.writer(file)
                writer.writerow([name for name, _ in columns])
                for k in range(length):
                    writer.writerow([repr(float(c[k])) if k < len(c) else "" for _, c in columns])
    except OSError as error:
        raise NetlistError(
            f"{folder} cannot be written: {error.strerror}", remedy="Name a folder that may be written."
        ) from None
