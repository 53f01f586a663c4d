"""`verdad check` and `verdad diff`: the verdict on a board in a file, without a service or a database."""

from __future__ import annotations

import json
import math
import sys
import time
from collections.abc import Collection, Iterator
from datetime import UTC, datetime
from pathlib import Path
from xml.etree import ElementTree

from verdad.report.matrix import Verdict, cell_words
from verdad_core.checks.burden import burdens
from verdad_core.checks.elaborate import Models
from verdad_core.checks.keys import check_key
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.document.studies import Study
from verdad_core.errors import BoardError, Place, VerdadError
from verdad_core.interchange.board_file import BoardFile, read_board_file
from verdad_core.interchange.differences import differences
from verdad_core.studies.evidence import AsDrawn, evidence, judged
from verdad_core.studies.folder import FolderStore
from verdad_core.studies.running import run_study
from verdad_core.studies.stress import stress
from verdad_core.studies.verdict import State

HOLDS, BREAKS, BAD_INPUT, UNPROVEN = 0, 1, 2, 3

#: Seconds after which it is said again how far a study is.
_SAID_EVERY = 2.0


#: What the states come to.
_STATUS = {State.BREAKS: BREAKS, State.UNPROVEN: UNPROVEN, State.THIN: HOLDS, State.HOLDS: HOLDS}


def check_file(
    file: Path, *, only: Collection[str], evidence_folder: Path | None, print_json: bool, junit: Path | None, run: bool,
    report: Path | None = None,
) -> int:  # fmt: skip
    """The exit status: 0 all hold, 1 a limit breaks, 3 something is unproven, 2 bad input."""
    try:
        board = _read(file)
        store = FolderStore(evidence_folder or file.resolve().parent / ".verdad-evidence")
        verdict = _verdict(board.board, board.shelf, store, only, run)
        if junit is not None:
            junit.write_bytes(_junit(verdict))
        if report is not None:
            report.write_text(_report(verdict, board))
    except VerdadError as error:
        print(f"verdad: {error}", file=sys.stderr)
        return BAD_INPUT
    except OSError as error:
        print(f"verdad: {error.filename}: {error.strerror}", file=sys.stderr)
        return BAD_INPUT
    print(json.dumps(_as_json(verdict), indent=1) if print_json else "\n".join(_as_text(verdict)))
    return _STATUS[verdict.state]


def _report(verdict: Verdict, file: BoardFile) -> str:
    """The report on the whole board, its checks run as drawn."""
    # Loaded where it is asked for.
    from verdad.report.page import Provenance, page

    board, models = verdict.board, file.shelf
    bundles = {each.id: each for each in file.bundles}
    known = [
        Provenance(each.name.upper(), each.kind, each.file, bundles[each.bundle].source,
                   bundles[each.bundle].obtained_on.isoformat())
        for each in file.models
    ]  # fmt: skip
    borne = stress(board, {each.id: each.kind for each in file.models}, lambda check: burdens(board, check, models))
    return page(verdict, lambda check: run_check(board, check, models), borne, known, datetime.now(UTC).date())


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


def _as_text(verdict: Verdict) -> Iterator[str]:
    words = {HOLDS: "holds", BREAKS: "breaks", UNPROVEN: "is not proven"}
    yield f"{verdict.board.title} {words[_STATUS[verdict.state]]}."
    if not verdict.rows:
        yield "It has no limits, so that there is nothing to hold."
    circuit = ""
    for row in verdict.rows:
        named = verdict.named(row.limit)
        if named.circuit != circuit:
            circuit = named.circuit
            yield f"\n{circuit}"
        yield f"  {named.check}, {named.measurement}: {named.bounds}"
        for column, cell in verdict.cells(row):
            yield f"    {cell.state:<9}{column:<24}{cell_words(cell, named.unit)}".rstrip()


def _as_json(verdict: Verdict) -> dict[str, object]:
    rows = []
    for row in verdict.rows:
        named = verdict.named(row.limit)
        cells = [
            {"column": column, "state": str(cell.state), "worst": _number(cell.worst), "margin": _number(cell.margin),
             "margin_percent": _number(cell.margin_percent), "why": cell.why}
            for column, cell in verdict.cells(row)
        ]  # fmt: skip
        lower, upper = row.limit.bounds
        told = {"limit": row.limit.id, "circuit": named.circuit, "check": named.check, "unit": named.unit,
                "measurement": named.measurement, "reason": row.limit.reason}  # fmt: skip
        rows.append({**told, "lower": lower, "upper": upper, "cells": cells})
    return {"board": verdict.board.title, "status": _STATUS[verdict.state], "rows": rows}


def _number(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None


def _junit(verdict: Verdict) -> bytes:
    """A suite for each circuit, a case for each limit and column; what breaks has failed, unproven is an error."""
    suites = ElementTree.Element("testsuites", name=verdict.board.title)
    suite_of: dict[str, ElementTree.Element] = {}
    for row in verdict.rows:
        named = verdict.named(row.limit)
        circuit = named.circuit
        if circuit not in suite_of:
            suite_of[circuit] = ElementTree.SubElement(suites, "testsuite", name=circuit)
        for column, cell in verdict.cells(row):
            case = ElementTree.SubElement(
                suite_of[circuit],
                "testcase",
                classname=f"{circuit}.{named.check}",
                name=f"{named.measurement}, {column}",
            )
            words = cell_words(cell, named.unit)
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
