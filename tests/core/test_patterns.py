"""Every compiled pattern of the core, fed long lines of one thing: the work grows with the length, never faster."""

from __future__ import annotations

import importlib
import pkgutil
import re
import time
from collections.abc import Iterator

import pytest

import verdad_core

#: What lines of vendors' files, and of those who mean ill, can be full of.
LINES = [
    " ", "\t", "\n", "a", "1", "(", ")", "{", "}", "[", "-", "+", ".", ",", ";", "=", '"', "|", "* ",
    "a=", "1 ", "a ", "a1", "a.", "1.", "a_", "pin ", "1a ", "a b= ",
]  # fmt: skip
STARTS = ["", "* ", ".param ", "v("]


def _patterns() -> Iterator[tuple[str, re.Pattern[str]]]:
    for found in pkgutil.walk_packages(verdad_core.__path__, "verdad_core."):
        for name, value in vars(importlib.import_module(found.name)).items():
            for pattern in _within(value):
                yield f"{found.name}.{name}", pattern


def _within(value: object) -> Iterator[re.Pattern[str]]:
    if isinstance(value, re.Pattern):
        yield value
    elif isinstance(value, list | tuple):
        for item in value:
            yield from _within(item)
    elif isinstance(value, dict):
        for item in value.values():
            yield from _within(item)


PATTERNS = {pattern: name for name, pattern in _patterns()}


@pytest.mark.parametrize("pattern", PATTERNS, ids=list(PATTERNS.values()))
def test_time_grows_with_the_length_and_not_faster(pattern: re.Pattern[str]) -> None:
    # A clock of this process's own work; what is quadratic takes 64 times as long for 8 times the length, and at
    # 24,000 characters several seconds.
    for start in STARTS:
        for piece in LINES:
            text = start + piece * (24_000 // len(piece))
            # A clock that was disturbed once is asked again.
            if _work(pattern, text) > 0.1 and (long := min(_work(pattern, text) for _ in range(2))) > 0.1:
                short = min(_work(pattern, text[: len(text) // 8]) for _ in range(3))
                assert long < 24 * short, (start, piece, long, short)


def _work(pattern: re.Pattern[str], text: str) -> float:
    started = time.process_time()
    pattern.match(text)
    pattern.fullmatch(text)
    for _ in pattern.finditer(text):
        pass
    return time.process_time() - started
