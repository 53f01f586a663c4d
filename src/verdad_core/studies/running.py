"""Running a study where there is no service: phase by phase, block by block, into a store that keeps them."""

from __future__ import annotations

from typing import Protocol

from verdad_core.checks.elaborate import Models
from verdad_core.checks.prepared import Look
from verdad_core.document.board import Board
from verdad_core.document.studies import Study
from verdad_core.studies.evidence import Block, Store, found_so_far, gaps
from verdad_core.studies.keys import rows_key
from verdad_core.studies.kind import kind_of
from verdad_core.studies.rows import Rows
from verdad_core.studies.table import NOTHING, Found

#: Rows that are kept together.
_BLOCK = 250


class Keeping(Store, Protocol):
    """A store that can be written to."""

    def keep(self, rows: str, block: Block) -> None:
        """Keep a block of a set of rows, by its key."""


def run_study(board: Board, study: Study, models: Models, store: Keeping, look: Look = lambda _: None) -> Found:
    """Compute what a study lacks; all of its rows by check and key of a column.

    `look` is told, again and again, what part of a row or block is done. Raises a VerdadError where the circuit cannot
    be built.
    """
    kind = kind_of(study)
    keys = {check: rows_key(board, study, check, models) for check in study.checks}
    while True:
        found = found_so_far(board, study, keys, store)
        missing = [
            (check, tuple(columns), first, last)
            for check in study.checks
            for ranges, columns in gaps({key: c for (own, key), c in found.items() if own == check}).items()
            for first, last in ranges
        ]
        if not missing:
            return found
        for check, columns, first, last in missing:
            rows = Rows(board, study, check, models, columns)
            for start in range(first, last, _BLOCK):
                stop = min(start + _BLOCK, last)
                table = rows.table(start, stop, look, found if kind.looks_back else NOTHING)
                for k, key in enumerate(rows.measurements):
                    column = table.column(k)
                    store.keep(keys[check], Block(key, start, stop, column.values.tolist(), column.causes.tolist()))
