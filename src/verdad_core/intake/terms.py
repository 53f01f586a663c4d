"""Terms of use in the header of a model file: shown beside the model, so that nobody has to look for them."""

from __future__ import annotations

import re

_START = re.compile(
    r"terms of use|licen[sc]e|copyright|\(c\)|©|all rights reserved|disclaimer|warrant|permission|as is\b|"
    r"may (?:not )?be (?:used|copied|distributed|modified)|free to (?:use|copy|change)",
    re.IGNORECASE,
)

#: Lines looked at, and characters kept.
HEADER, MOST = 200, 4000


def terms_of_use(text: str) -> str:
    """The paragraphs of comment lines near the top that speak of rights and duties, or ""."""
    found = ["\n".join(lines) for lines in _paragraphs(text) if any(_START.search(line) for line in lines)]
    return "\n\n".join(found)[:MOST]


def _paragraphs(text: str) -> list[list[str]]:
    """Comment lines of the header, cut where one is blank or a rule of signs, or where a statement stands."""
    paragraphs: list[list[str]] = [[]]
    for line in text.split("\n")[:HEADER]:
        stripped = line.strip()
        body = stripped.lstrip("*; ").strip() if stripped.startswith(("*", ";")) else ""
        if re.search(r"\w", body):
            paragraphs[-1].append(body)
        elif paragraphs[-1]:
            paragraphs.append([])
    return [paragraph for paragraph in paragraphs if paragraph]
