"""What changed between two versions of a model: statement by statement, with values by name, then line by line."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterator
from dataclasses import dataclass

from verdad_core.errors import NetlistError
from verdad_core.intake.bundle import Bundle
from verdad_core.netlist.lines import Comment, split

#: Lines of a line-by-line difference that are shown.
MOST_LINES = 400


@dataclass(frozen=True)
class Change:
    """One statement that differs: in which file, what it is called, how it read before and how it reads now."""

    file: str
    statement: str
    before: str
    after: str


@dataclass(frozen=True)
class Difference:
    """Statements that changed, that are new or gone, and the lines of both texts side by side."""

    changes: tuple[Change, ...]
    lines: tuple[str, ...]


def difference(old: Bundle, new: Bundle) -> Difference:
    """From one bundle to another; a file is compared to the one of the same name, a single file to the other one."""
    pairs: list[tuple[str, str, str]] = []
    if len(old.files) == len(new.files) == 1:
        pairs.append((new.files[0].name, old.files[0].text, new.files[0].text))
    else:
        names = dict.fromkeys([*(f.name.lower() for f in old.files), *(f.name.lower() for f in new.files)])
        before, after = ({f.name.lower(): f.text for f in side.files} for side in (old, new))
        pairs += [(name, before.get(name, ""), after.get(name, "")) for name in names]
    changes: list[Change] = []
    lines: list[str] = []
    for name, a, b in pairs:
        if a == b:
            continue
        changes += _statements(name, a, b)
        lines += difflib.unified_diff(a.split("\n"), b.split("\n"), f"{name}, before", f"{name}, now", lineterm="", n=2)
    return Difference(tuple(changes), tuple(lines[:MOST_LINES]))


def _statements(file: str, before: str, after: str) -> Iterator[Change]:
    old, new = _by_name(before), _by_name(after)
    for name in dict.fromkeys([*old, *new]):
        a, b = old.get(name, ""), new.get(name, "")
        if _plain(a) != _plain(b):
            yield Change(file, name, a, b)


def _by_name(text: str) -> dict[str, str]:
    """Statements by what they are called: an element's name, or a directive with its first word; in their scope."""
    found: dict[str, str] = {}
    scope = ""
    try:
        for item in split(text):
            if isinstance(item, Comment):
                continue
            words = item.words
            if words[0] == ".subckt" and len(words) > 1:
                scope = f"{words[1]}."
            name = " ".join(words[:2]) if words[0].startswith(".") else words[0]
            key = scope + name
            while key in found:
                key += "'"
            found[key] = item.text
            if words[0] == ".ends":
                scope = ""
    except NetlistError:
        return {}
    return found


def _plain(text: str) -> str:
    return re.sub(r"\s+", " ", text).strip().lower()
