"""Bytes of an upload to text: UTF-8, UTF-16, or the Western Windows encoding, and nothing that is not text."""

from __future__ import annotations

import codecs
from dataclasses import dataclass

from verdad_core.errors import NetlistError, Place
from verdad_core.netlist.lines import MAX_TEXT

_CONTROL = frozenset(range(32)) - {9, 10, 12, 13, 26}
_WIDE = {codecs.BOM_UTF16_LE: "utf-16-le", codecs.BOM_UTF16_BE: "utf-16-be"}

#: What the first bytes of files say that are handed in by mistake.
_WRONG_TYPES = (
    (b"PK\x03\x04", "a zip archive"), (b"PK\x05\x06", "a zip archive"), (b"Rar!", "a rar archive"),
    (b"7z\xbc\xaf", "a 7z archive"), (b"\x1f\x8b", "a gzip archive"), (b"BZh", "a bzip2 archive"),
    (b"\xfd7zXZ", "an xz archive"), (b"%PDF", "a PDF document"), (b"\x89PNG", "a picture"),
    (b"\xff\xd8\xff", "a picture"), (b"GIF8", "a picture"), (b"MZ", "a program"), (b"\x7fELF", "a program"),
    (b"\xd0\xcf\x11\xe0", "an office document"),
)  # fmt: skip


@dataclass(frozen=True)
class Decoded:
    """Text with `\\n` as its line ends, and the encoding that it was in."""

    text: str
    encoding: str


def decode(data: bytes, file: str | None = None) -> Decoded:
    """The text of an uploaded file. Raises NetlistError for what is not text; `file` is what the error names."""
    if len(data) > MAX_TEXT:
        raise NetlistError(
            f"the file is larger than {MAX_TEXT / 1e6:.0f} MB, which is the most that is read",
            place=Place(file),
            remedy="Upload only the file that holds the model you need.",
        )
    if what := wrong_type(data):
        raise NetlistError(
            f"this is not a text file but {what}",
            place=Place(file),
            remedy="Upload the maker's model as plain text, or several files in one .zip.",
        )
    wide = next((name for mark, name in _WIDE.items() if data.startswith(mark)), None)
    if wide:
        text, encoding = data[2:].decode(wide, errors="replace"), "UTF-16"
        data = text.encode(errors="replace")
    else:
        text, encoding = _narrow(data)
    for number, line in enumerate(data.split(b"\n"), 1):
        if any(byte in _CONTROL for byte in line):
            raise NetlistError(
                "this is not a text file",
                place=Place(file, number),
                remedy="Upload the maker's model as plain text, unpacked.",
            )
    return Decoded(text.replace("\r\n", "\n").replace("\r", "\n").rstrip("\x1a"), encoding)


def wrong_type(data: bytes) -> str | None:
    """What the data is by its first bytes, where that is no text; "a zip archive", for one."""
    return next((what for mark, what in _WRONG_TYPES if data.startswith(mark)), None)


def _narrow(data: bytes) -> tuple[str, str]:
    try:
        return data.decode("utf-8-sig"), "ASCII" if data.isascii() else "UTF-8"
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace"), "Windows-1252"
