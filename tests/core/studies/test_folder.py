"""Evidence in a folder: kept, read back, and what is damaged there counts as nothing."""

from __future__ import annotations

import math
from pathlib import Path

from tests.core.boards import low_pass
from verdad_core.document.board import Board
from verdad_core.studies.evidence import AsDrawn, Block
from verdad_core.studies.folder import FolderStore
from verdad_core.studies.running import run_study


def test_blocks_come_back_and_a_damaged_line_is_computed_again(tmp_path: Path) -> None:
    store = FolderStore(tmp_path / "kept")
    assert list(store.blocks("a")) == []
    assert not (tmp_path / "kept").exists()
    block = Block("column", 0, 2, [1.0, math.nan], [0, 3])
    store.keep("a", block)
    with (tmp_path / "kept" / "rows-a.json").open("a") as target:
        target.write('{"column": "cut o\n[1]\n')
    [found] = store.blocks("a")
    assert (found.column, found.values[0], found.causes) == ("column", 1.0, [0, 3])
    assert math.isnan(found.values[1])
    assert store.drawn("k") is None
    store.keep_drawn("k", AsDrawn({"gain": 2.0}, ""))
    assert store.drawn("k") == AsDrawn({"gain": 2.0}, "")


def test_a_study_goes_on_from_what_a_folder_holds(tmp_path: Path) -> None:
    study = {"id": "mc", "title": "mc", "kind": "monte carlo", "checks": ["k"], "rows": 40}
    board = low_pass(studies=[study])
    store = FolderStore(tmp_path)
    first = run_study(board, board.studies[0], {}, store)
    more = Board.model_validate(board.model_dump(mode="json") | {"studies": [study | {"rows": 60}]})
    looked: list[float] = []
    again = run_study(more, more.studies[0], {}, store, looked.append)
    for key, column in first.items():
        assert again[key].values[:40].tolist() == column.values.tolist()
        assert again[key].done == 60
    # All is there: nothing is run.
    looked.clear()
    run_study(more, more.studies[0], {}, store, looked.append)
    assert not looked
