"""Keys of studies: a hash of all that their rows depend on."""

from __future__ import annotations

import json

from verdad_core.checks.elaborate import Models
from verdad_core.checks.keys import digest, key_of
from verdad_core.document.board import Board, MonteCarlo


def study_key(board: Board, study: MonteCarlo, models: Models) -> str:
    """The key of a study: the check's, the spreads of its circuit's parts, seed and number of rows."""
    circuit, check = board.check(study.check)
    # What stands beside a number by hand changes no row.
    asked = tuple(measurement.model_copy(update={"hand": None}) for measurement in check.measurements)
    designators = {part.designator for part in circuit.parts}
    content = {
        "check": key_of(circuit, check.model_copy(update={"measurements": asked}), models),
        "spreads": sorted(
            json.dumps(spread.model_dump(mode="json"), sort_keys=True)
            for spread in board.spreads
            if spread.part in designators
        ),
        "seed": study.seed,
        "rows": study.rows,
    }
    return digest(content)
