"""Behind every section of the memory that kernels work in lie words that none of them may write to."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np
import pytest

from verdad_core.arrays import Floats
from verdad_core.words import Layout

#: How many words, and what they hold: a number that no kernel makes.
BEHIND, CANARY = 3, -8.5179e209

_begin, _array = Layout.__init__, Layout.array


@pytest.fixture(autouse=True)
def canaries(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Every `Layout` made in a test is longer by what stays as it is."""
    behind: dict[Layout, Any] = {}
    given_out: list[tuple[Floats, Any]] = []

    def begin(layout: Layout, kind: Any, lengths: Mapping[str, int], **numbers: int) -> None:
        _begin(layout, kind, {field: length + BEHIND for field, length in lengths.items()}, **numbers)
        ends = np.array([*layout.starts.values(), layout.size])[1:]
        behind[layout] = (ends[:, None] - 1 - np.arange(BEHIND)).ravel()

    def array(layout: Layout) -> Floats:
        memory = _array(layout)
        if layout in behind:
            memory[behind[layout]] = CANARY
            given_out.append((memory, behind[layout]))
        return memory

    monkeypatch.setattr(Layout, "__init__", begin)
    monkeypatch.setattr(Layout, "array", array)
    yield
    assert all(np.all(memory[places] == CANARY) for memory, places in given_out)
