"""Evidence in a folder: a file of lines for each set of rows, and one for each check as drawn, called by their keys."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import asdict
from pathlib import Path

from verdad_core.studies.evidence import AsDrawn, Block


class FolderStore:
    """A store in a folder, which is made when something is kept. What cannot be read there counts as nothing."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def keep(self, rows: str, block: Block) -> None:
        with self._file(f"rows-{rows}").open("a") as target:
            target.write(json.dumps(asdict(block)) + "\n")

    def blocks(self, rows: str) -> Iterable[Block]:
        try:
            lines = (self.folder / f"rows-{rows}.json").read_text().splitlines()
        except OSError:
            return
        for line in lines:
            try:
                yield Block(**json.loads(line))
            except (ValueError, TypeError):
                continue

    def keep_drawn(self, check: str, found: AsDrawn) -> None:
        self._file(f"drawn-{check}").write_text(json.dumps(asdict(found)))

    def drawn(self, check: str) -> AsDrawn | None:
        """What a check gave as drawn, by its key; None where that is not kept."""
        try:
            return AsDrawn(**json.loads((self.folder / f"drawn-{check}.json").read_text()))
        except (OSError, ValueError, TypeError):
            return None

    def _file(self, name: str) -> Path:
        self.folder.mkdir(parents=True, exist_ok=True)
        return self.folder / f"{name}.json"
