"""Text to statements: comments, continuation lines and tokens, each token with its place.

The rules are those of the published SPICE 2G6/3F5 user's manuals (case does not matter, `*` in the first column
starts a comment, `+` continues a statement; blanks, commas and parentheses separate) and the `;` and `$` comments
at the end of a line that model files from makers commonly carry.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from verdad_core.errors import NetlistError, Place

#: Longer texts are refused before they are read.
MAX_TEXT = 4_000_000
MAX_LINE = 20_000

_TOKEN = re.compile(r"\{[^}]*\}?|'[^']*'?|=|[^\s,()={}']+")
_TRAILING_COMMENT = re.compile(r"\s*(?:;|(?<![^\s])\$(?:\s|$)).*")


@dataclass(frozen=True)
class Token:
    """One word of a statement, in lower case, with the line and column (from 1) where it stands."""

    text: str
    line: int
    column: int


@dataclass(frozen=True)
class Statement:
    """One logical line: its tokens, with continuation lines joined. Never empty."""

    tokens: tuple[Token, ...]

    @property
    def keyword(self) -> str:
        """The first word, in lower case: an element name, or a directive with its dot."""
        return self.tokens[0].text

    @property
    def line(self) -> int:
        return self.tokens[0].line

    @property
    def words(self) -> list[str]:
        return [token.text for token in self.tokens]

    def error(self, message: str, remedy: str = "", token: Token | None = None) -> NetlistError:
        """An error at `token` (default: at the start of the statement)."""
        at = token or self.tokens[0]
        return NetlistError(message, place=Place(line=at.line, column=at.column), remedy=remedy)


@dataclass(frozen=True)
class Comment:
    """One comment line, without its mark."""

    text: str
    line: int


def split(text: str) -> Iterator[Statement | Comment]:
    """The statements and comment lines of `text`, in order.

    Raises NetlistError when the text is too long, is not text, or starts with a continuation line.
    """
    if len(text) > MAX_TEXT:
        raise NetlistError(
            f"the text has {len(text):,} characters; at most {MAX_TEXT:,} are read",
            remedy="Upload only the file that holds the model you need.",
        )
    if "\0" in text:
        line = text.count("\n", 0, text.index("\0")) + 1
        raise NetlistError(
            "this is not a text file: it holds NUL characters",
            place=Place(line=line),
            remedy="Upload the maker's model as plain text.",
        )
    tokens: list[Token] = []
    for number, raw in enumerate(text.splitlines(), 1):
        if len(raw) > MAX_LINE:
            raise NetlistError(
                f"the line has {len(raw):,} characters; at most {MAX_LINE:,} are read",
                place=Place(line=number),
                remedy="Break it into continuation lines that start with '+'.",
            )
        if raw.lstrip().startswith("*"):
            yield Comment(raw.lstrip()[1:].strip(), number)
            continue
        body = _TRAILING_COMMENT.sub("", raw)
        continues = body.lstrip().startswith("+")
        start = body.index("+") + 1 if continues else 0
        words = [Token(match.group().lower(), number, match.start() + 1) for match in _TOKEN.finditer(body, start)]
        if continues:
            if not tokens:
                raise NetlistError(
                    "a continuation line with nothing to continue",
                    place=Place(line=number, column=start),
                    remedy="Remove the '+', or put the statement it belongs to above it.",
                )
            tokens += words
        elif words:
            if tokens:
                yield Statement(tuple(tokens))
            tokens = words
    if tokens:
        yield Statement(tuple(tokens))
