"""The page itself: what is said of a board, from the verdict down to each check, as one HTML file."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from jinja2 import Environment, PackageLoader

from verdad.report.matrix import Verdict, cell_words
from verdad.report.plots import plots_of
from verdad_core.checks.cards import cards_of
from verdad_core.checks.kind import kind_of
from verdad_core.checks.run import CheckResult
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.parts import Valued
from verdad_core.errors import Severity, VerdadError
from verdad_core.interchange.parts_list import COLUMNS, part_lines
from verdad_core.studies.evidence import judged
from verdad_core.studies.kind import kind_of as kind_of_study
from verdad_core.studies.stress import Stress
from verdad_core.studies.verdict import WORST_FIRST, State
from verdad_core.units import format_value

_PAGES = Environment(loader=PackageLoader("verdad.report"), autoescape=True, trim_blocks=True, lstrip_blocks=True)

#: Runs a check as drawn. Raises a VerdadError.
Runs = Callable[[str], CheckResult]


@dataclass(frozen=True)
class Provenance:
    """A model on the board, and where its files came from."""

    name: str
    kind: str
    file: str
    source: str
    obtained: str


@dataclass
class _Told:
    """A check as it is told."""

    title: str
    asks: str
    sentence: str = ""
    evidence: bool = True
    rows: list[dict[str, Any]] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)
    plots: list[str] = field(default_factory=list)


def page(
    verdict: Verdict, runs: Runs, stress: Stress, models: Iterable[Provenance], made: date, revision: str = ""
) -> str:  # fmt: skip
    """The report as HTML that needs nothing besides itself."""
    board = verdict.board
    circuits = [(circuit, [_told(circuit, check, runs) for check in circuit.checks]) for circuit in board.circuits]
    return _PAGES.get_template("report.html").render(
        board=board, made=made.isoformat(), revision=revision, state=verdict.state, sentence=_sentence(verdict),
        columns=verdict.columns, matrix=_matrix(verdict), studies=_methods(board), circuits=circuits,
        lines={c.id: part_lines([c], board.spreads) for c in board.circuits}, headings=COLUMNS,
        stress=stress, models=list(models), points=_open_points(verdict, stress, circuits), value=format_value,
    )  # fmt: skip


def _sentence(verdict: Verdict) -> str:
    count = len(verdict.rows)
    if not count:
        return "Nothing is promised of this board yet: it has no limit, so that nothing can be shown to hold."
    states = [verdict.state_of(row) for row in verdict.rows]
    words = {State.BREAKS: ("breaks", "break"), State.UNPROVEN: ("is not proven", "are not proven"),
             State.THIN: ("holds with little margin", "hold with little margin"),
             State.HOLDS: ("holds in all that was studied", "hold in all that was studied")}  # fmt: skip
    if count == 1:
        return f"Its one limit {words[states[0]][0]}."
    if verdict.state is State.HOLDS:
        return f"All {count} limits {words[State.HOLDS][1]}."
    told = [f"{n} {words[state][n > 1]}" for state in WORST_FIRST if (n := states.count(state))]
    return f"Of {count} limits {', '.join(told)}."


def _matrix(verdict: Verdict) -> list[dict[str, Any]]:
    rows = []
    for row in verdict.rows:
        named = verdict.named(row.limit)
        cells = {column: (cell.state, cell_words(cell, named.unit)) for column, cell in verdict.cells(row)}
        rows.append({"named": named, "reason": row.limit.reason, "cells": [cells.get(c) for c in verdict.columns]})
    return rows


def _methods(board: Board) -> list[dict[str, str]]:
    """How each study was made, in words."""
    found = []
    for study in judged(board):
        kind = kind_of_study(study)
        usual = type(kind).model_fields
        aside = ("id", "title", "kind", "checks", "judged")
        settings = ", ".join(
            f"{(usual[name].title or name).lower()} {value}"
            for name, value in study
            if name not in aside and value is not None and value != "" and not isinstance(value, bool)
        )
        checks = ", ".join(board.check(check)[1].title for check in study.checks)
        found.append({"title": study.title, "name": kind.name, "meaning": kind.meaning, "settings": settings,
                      "checks": checks, "rows": str(kind.size_on(board))})  # fmt: skip
    return found


def _told(circuit: Circuit, check: Check, runs: Runs) -> _Told:
    told = _Told(check.title, kind_of(check).meaning)
    try:
        result = runs(check.id)
    except VerdadError as error:
        told.evidence = False
        told.remarks.append(str(error))
        return told
    told.sentence, told.evidence = result.sentence, result.objection is None
    told.remarks += [str(finding.message) for finding in result.findings if finding.severity is not Severity.NOTE]
    for each in result.measured:
        hand = each.hand
        told.rows.append({
            "title": each.title, "value": format_value(each.value, each.unit),
            "hand": format_value(hand.value, each.unit) if hand else "",
            "deviation": f"{hand.deviation + 0.0:+.2f} %".replace("-0.00", "0.00") if hand else "",
            "formula": hand.rendered if hand else "", "source": hand.source if hand else "",
        })  # fmt: skip
    if result.signals is not None:
        told.plots = [svg for card in cards_of(circuit, check) for svg in plots_of(card, result.signals)]
    return told


def _open_points(
    verdict: Verdict, stress: Stress, circuits: Iterable[tuple[Circuit, list[_Told]]]
) -> list[str]:  # fmt: skip
    """What a reviewer would ask for: what is unproven, doubtful, overstressed, not spread, not rated."""
    points = []
    for row in verdict.rows:
        named = verdict.named(row.limit)
        for column, cell in verdict.cells(row):
            if cell.state in (State.BREAKS, State.UNPROVEN):
                what = "breaks" if cell.state is State.BREAKS else "is unproven"
                points.append(
                    f"{named.circuit}, {named.measurement}, {column}: {what}: {cell_words(cell, named.unit)}."
                )
    points += [f"{use.part} bears {use.part_used:.0%} of the {use.what} that is allowed, in {use.check}."
               for use in stress.uses if use.state is State.BREAKS]  # fmt: skip
    points += [f"{circuit.title}, {told.title}: its numbers are no evidence." for circuit, all_told in circuits
               for told in all_told if not told.evidence]  # fmt: skip
    spread = {each.of for each in verdict.board.spreads}
    for circuit, _ in circuits:
        exact = [p.designator for p in circuit.parts if isinstance(p, Valued) and p.designator not in spread]
        if exact:
            points.append(f"{circuit.title}: taken as exact in all studies: {', '.join(exact)}.")
        unrated = stress.unrated.get(circuit.title, ())
        if unrated:
            points.append(f"{circuit.title}: without a rating: {', '.join(unrated)}.")
    return points
