"""Bytes of an upload to text: UTF-8 or the Western Windows encoding, and nothing that is not text."""

from __future__ import annotations

from verdad_core.errors import NetlistError, Place
from verdad_core.netlist.lines import MAX_TEXT

_CONTROL = frozenset(range(32)) - {9, 10, 12, 13, 26}


def decode(data: bytes) -> str:
    """The text of an uploaded model file, with line ends as `\\n`. Raises NetlistError for what is not text."""
    if len(data) > MAX_TEXT:
        raise NetlistError(
            f"the file is larger than {MAX_TEXT / 1e6:.0f} MB, which is the most that is read",
            remedy="Upload only the file that holds the model you need.",
        )
    for number, line in enumerate(data.split(b"\n"), 1):
        if any(byte in _CONTROL for byte in line):
            raise NetlistError(
                "this is not a text file",
                place=Place(line=number),
                remedy="Upload the maker's model as plain text, unpacked.",
            )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    return text.replace("\r\n", "\n").replace("\r", "\n").rstrip("\x1a")
