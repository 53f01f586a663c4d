"""The first line of a netlist that somebody pasted: its title, as published descriptions have it, or a statement."""

from __future__ import annotations

import re
from collections.abc import Mapping

from verdad_core.errors import Finding, NetlistError, Place, Severity
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
from verdad_core.netlist.scope import Netlist

_ENDED = re.compile(r"(?:^|\n)[ \t]*+\.end[ \t]*+\r?(?:\n\s*+)?\Z", re.IGNORECASE)


def read_pasted(text: str, texts: Mapping[str, str] | None = None) -> Netlist:
    """Read a netlist whose first line may be its title.

    It is the title where it cannot be read as a statement, or where the text ends in `.end`; a note says so where the
    line could have been one.
    """
    plain = read(text, texts=texts)
    first = text.partition("\n")[0].strip()
    if not first or first[0] in "*.+;$":
        return plain
    readable = not _is_wrong_at_first(plain)
    if readable and not _ENDED.search(text):
        return plain
    titled = read(text, has_title=True, texts=texts)
    if readable:
        titled.findings.append(
            Finding(
                Severity.NOTE, f"the first line, '{first[:80]}', is taken as the title, because the text ends in .end",
                Place(line=1), "Write a title above it if it is a part of the circuit.",
            )
        )  # fmt: skip
    return titled


def as_model_file(text: str, netlist: Netlist) -> str:
    """The text of a pasted netlist with its title as a comment: a file of models has none."""
    first = text.partition("\n")[0].strip()
    return f"* {text}" if first and first == netlist.title else text


def _is_wrong_at_first(netlist: Netlist) -> bool:
    if any(f.severity is Severity.ERROR and f.place.line == 1 and not f.place.file for f in netlist.findings):
        return True
    if any(f.severity is Severity.ERROR for f in netlist.findings):
        return False
    try:
        flatten(netlist)
    except NetlistError as error:
        return error.place.line == 1 and not error.place.file
    return False
