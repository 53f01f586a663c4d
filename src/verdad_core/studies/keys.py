"""Keys of evidence: a set of rows by all that they depend on, a column by what is measured.

Rows of equal keys give equal numbers. How many rows there are, what else is measured, and what stands beside a number
by hand are in no key: more rows extend a column, and another measurement adds one.
"""

from __future__ import annotations

from verdad_core.checks.elaborate import Models
from verdad_core.checks.keys import digest, key_of
from verdad_core.checks.kind import kind_of as kind_of_check
from verdad_core.checks.overlaid import speaks_of
from verdad_core.document.board import Board
from verdad_core.document.measurements import Measurement
from verdad_core.document.studies import Study
from verdad_core.studies.kind import kind_of


def rows_key(board: Board, study: Study, check_id: str, models: Models) -> str:
    """The key of the rows of one check that a study covers. Raises BoardError where they cannot be drawn."""
    circuit, check = board.check(check_id)
    asked: tuple[Measurement, ...] = ()
    if kind_of_check(check).is_open_ended(check):
        # Such a row runs until what is measured has settled.
        asked = tuple(measurement.model_copy(update={"hand": None}) for measurement in check.measurements)
    # What was measured only lies over it: rows depend on what some measurement looks at.
    overlays = tuple(
        overlay for overlay in check.overlays if any(speaks_of(each.of, overlay.name) for each in check.measurements)
    )
    alone = check.model_copy(update={"measurements": asked, "overlays": overlays})
    kind = kind_of(study)
    return digest([key_of(circuit, alone, models), kind.kind, kind.content(board, check_id)])


def column_key(measurement: Measurement) -> str:
    """The key of what a measurement says of a row."""
    return digest([measurement.key, measurement.of, measurement.settings])


def study_key(board: Board, study: Study, models: Models) -> str:
    """The key of a study: of the rows of all checks, all that is measured on them, and how many there are."""
    columns = {
        check: [rows_key(board, study, check, models), [column_key(m) for m in board.check(check)[1].measurements]]
        for check in study.checks
    }
    return digest([columns, kind_of(study).size_on(board)])
