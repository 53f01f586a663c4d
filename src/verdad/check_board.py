"""`verdad check` and `verdad diff`: the verdict on a board in a file, without a service or a database."""

from __future__ import annotations

import json
import math
import sys
import time
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree

from verdad_core.checks.elaborate import Models
from verdad_core.checks.keys import check_key
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Limit
from verdad_core.document.studies import Study
from verdad_core.errors import BoardError, Place, VerdadError
from verdad_core.interchange.board_file import BoardFile, read_board_file
from verdad_core.interchange.differences import differences
from verdad_core.studies.evidence import AsDrawn, MatrixRow, evidence, judged
from verdad_core.studies.folder import FolderStore
from verdad_core.studies.running import run_study
from verdad_core.studies.verdict import Cell, State
from verdad_core.units import format_value

HOLDS, BREAKS, BAD_INPUT, UNPROVEN = 0, 1, 2, 3

#: Seconds after which it is said again how far a study is.
_SAID_EVERY = 2.0


@dataclass(frozen=True)
class Verdict:
    """The matrix of a board: limits down, `columns` across, the first of them as drawn."""

    board: Board
    columns: tuple[str, ...]
    rows: tuple[MatrixRow, ...]

    def cells(self, row: MatrixRow) -> Iterator[tuple[str, Cell]]:
        for column, cell in zip(self.columns, (row.nominal, *row.cells), strict=True):
            if cell is not None:
                yield column, cell

    @property
    def status(self) -> int:
        states = {cell.state for row in self.rows for _, cell in self.cells(row)}
        if State.BREAKS in states:
            return BREAKS
        return UNPROVEN if State.UNPROVEN in states or not self.rows else HOLDS


def check_file(
    file: Path, *, only: Collection[str], evidence_folder: Path | None, print_json: bool, junit: Path | None, run: bool
) -> int:
    """The exit status: 0 all hold, 1 a limit breaks, 3 something is unproven, 2 bad input."""
    try:
        board = _read(file)
        store = FolderStore(evidence_folder or file.resolve().parent / ".verdad-evidence")
        verdict = _verdict(board.board, board.shelf, store, only, run)
        if junit is not None:
            junit.write_bytes(_junit(verdict))
    except VerdadError as error:
        print(f"verdad: {error}", file=sys.stderr)
        return BAD_INPUT
    except OSError as error:
        print(f"verdad: {error.filename}: {error.strerror}", file=sys.stderr)
        return BAD_INPUT
    print(json.dumps(_as_json(verdict), indent=1) if print_json else "\n".join(_as_text(verdict)))
    return verdict.status


def diff_files(old: Path, new: Path) -> int:
    """What changed, a line each; the exit status: 0 for nothing, 1 for something, 2 for bad input."""
    try:
        found = differences(_read(old).board, _read(new).board)
    except VerdadError as error:
        print(f"verdad: {error}", file=sys.stderr)
        return BAD_INPUT
    print("\n".join(found) if found else "They say the same.")
    return 1 if found else 0


def _read(file: Path) -> BoardFile:
    try:
        return read_board_file(file.name, file.read_bytes())
    except OSError as error:
        raise BoardError(
            f"{file.name} cannot be read: {error.strerror}", place=Place(file.name),
            remedy="Name a file that exists and may be read.",
        ) from None  # fmt: skip


def _verdict(board: Board, models: Models, store: FolderStore, only: Collection[str], run: bool) -> Verdict:
    board = _only(board, only)
    limited = {limit.check for limit in board.limits}
    studies = judged(board)
    for study in studies if run else ():
        if limited & set(study.checks):
            _run(board, study, models, store)

    def drawn(check: str) -> AsDrawn:
        key = check_key(board, check, models)
        found = store.drawn(key)
        if found is None:
            found = AsDrawn.of(run_check(board, check, models))
            store.keep_drawn(key, found)
        return found

    titles = ("Nominal", *(study.title for study in studies))
    return Verdict(board, titles, evidence(board, models, store, drawn))


def _only(board: Board, only: Collection[str]) -> Board:
    """The board with those limits only whose circuit, check or id was named. Raises BoardError for what is none."""
    if not only:
        return board
    wanted = {name.lower() for name in only}
    kept, known = [], set[str]()
    for limit in board.limits:
        circuit, check = board.check(limit.check)
        names = {each.lower() for each in (circuit.id, circuit.title, check.id, check.title, limit.id)}
        known |= names & wanted
        kept += [limit] if names & wanted else []
    if missing := wanted - known:
        raise BoardError(
            f"nothing that is limited is called '{min(missing)}'",
            remedy="Name a circuit, a check or a limit, by its title or its identifier.",
        )
    return board.model_copy(update={"limits": tuple(kept)})


def _run(board: Board, study: Study, models: Models, store: FolderStore) -> None:
    """Compute what the study lacks, and say now and then that it goes on."""
    said = time.monotonic()

    def look(_: float) -> None:
        nonlocal said
        if time.monotonic() - said > _SAID_EVERY:
            said = time.monotonic()
            print(f"{study.title} is computed ...", file=sys.stderr, flush=True)

    run_study(board, study, models, store, look)


def _named(board: Board, limit: Limit) -> tuple[str, str, str, str]:
    """Circuit, check, measurement and unit of a limit."""
    circuit, check = board.check(limit.check)
    measurement = check.measurement(limit.measurement)
    return circuit.title, check.title, measurement.title, unit_of_measurement(circuit, check, measurement)


def _as_text(verdict: Verdict) -> Iterator[str]:
    words = {HOLDS: "holds", BREAKS: "breaks", UNPROVEN: "is not proven"}
    yield f"{verdict.board.title} {words[verdict.status]}."
    if not verdict.rows:
        yield "It has no limits, so that there is nothing to hold."
    circuit = ""
    for row in verdict.rows:
        own, check, measurement, unit = _named(verdict.board, row.limit)
        if own != circuit:
            circuit = own
            yield f"\n{circuit}"
        yield f"  {check}, {measurement}: {row.limit.lower or ''} .. {row.limit.upper or ''} {unit}".rstrip()
        for column, cell in verdict.cells(row):
            yield f"    {cell.state:<9}{column:<24}{_cell_words(cell, unit)}".rstrip()


def _cell_words(cell: Cell, unit: str) -> str:
    if cell.worst is None or cell.margin_percent is None:
        return cell.why
    room = f", {abs(cell.margin_percent):.3g} % {'from' if cell.margin_percent >= 0 else 'beyond'} the limit"
    return f"{format_value(cell.worst, unit)}{room}{f'; {cell.why}' if cell.why else ''}"


def _as_json(verdict: Verdict) -> dict[str, object]:
    rows = []
    for row in verdict.rows:
        circuit, check, measurement, unit = _named(verdict.board, row.limit)
        cells = [
            {"column": column, "state": str(cell.state), "worst": _number(cell.worst), "margin": _number(cell.margin),
             "margin_percent": _number(cell.margin_percent), "why": cell.why}
            for column, cell in verdict.cells(row)
        ]  # fmt: skip
        lower, upper = row.limit.bounds
        named: dict[str, object] = {
            "limit": row.limit.id,
            "circuit": circuit,
            "check": check,
            "measurement": measurement,
            "unit": unit,
        }
        rows.append(named | {"lower": lower, "upper": upper, "reason": row.limit.reason, "cells": cells})
    return {"board": verdict.board.title, "status": verdict.status, "rows": rows}


def _number(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None


def _junit(verdict: Verdict) -> bytes:
    """A suite for each circuit, a case for each limit and column; what breaks has failed, unproven is an error."""
    suites = ElementTree.Element("testsuites", name=verdict.board.title)
    suite_of: dict[str, ElementTree.Element] = {}
    for row in verdict.rows:
        circuit, check, measurement, unit = _named(verdict.board, row.limit)
        if circuit not in suite_of:
            suite_of[circuit] = ElementTree.SubElement(suites, "testsuite", name=circuit)
        for column, cell in verdict.cells(row):
            case = ElementTree.SubElement(
                suite_of[circuit], "testcase", classname=f"{circuit}.{check}", name=f"{measurement}, {column}"
            )
            words = _cell_words(cell, unit)
            if cell.state is State.BREAKS:
                ElementTree.SubElement(case, "failure", message=words)
            elif cell.state is State.UNPROVEN:
                ElementTree.SubElement(case, "error", message=words)
    for suite in suite_of.values():
        cases = suite.findall("testcase")
        suite.set("tests", str(len(cases)))
        suite.set("failures", str(sum(case.find("failure") is not None for case in cases)))
        suite.set("errors", str(sum(case.find("error") is not None for case in cases)))
    written: bytes = ElementTree.tostring(suites, encoding="utf-8", xml_declaration=True)
    return written
