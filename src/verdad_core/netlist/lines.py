"""Text to statements: comments, continuation lines and tokens, each token with its place.

The rules are those of the published SPICE 2G6/3F5 user's manuals (case does not matter, `*` in the first column
starts a comment, `+` continues a statement; blanks, commas and parentheses separate) and the `;` and `$` comments
at the end of a line that model files from makers commonly carry (a `$` begins one where a blank stands before it).
Continuation lines are joined before they are cut into tokens, so an expression may run over several lines. An
expression in braces or quotes is one token, with what operators join to it: `{k}*v(a)`.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, field

from verdad_core.errors import NetlistError, Place

#: Longer texts are refused before they are read; so are longer lines and statements.
MAX_TEXT = 4_000_000
MAX_LINE = 20_000
MAX_STATEMENT = 200_000

_BRACKET = re.compile(r"[{}()]")
_LINE_END = re.compile(r"\r\n|\r|\n")
_PLAIN = re.compile(r"[^\s,()={}'\"]+")
_COMMENT = re.compile(r";|(?<!\S)\$")
_OPENING, _CLOSING, _OPERATORS = "{'\"", "}'\"", "+-*/^<>&|?:!~"
#: Characters that nobody sees, in names that look alike.
_INVISIBLE = re.compile("[\u00ad\u200b-\u200f\u2060-\u2064\ufeff]")


@dataclass(frozen=True)
class Token:
    """One word of a statement, in lower case, with the line and column (from 1) where it stands."""

    text: str
    line: int
    column: int
    #: Where it begins in the statement's text.
    start: int = field(default=0, compare=False)

    @property
    def is_expression(self) -> bool:
        """Whether braces or quotes say that it is an expression."""
        return any(mark in self.text for mark in _OPENING)


@dataclass(frozen=True)
class Statement:
    """One logical line: its tokens, with continuation lines joined. Never empty."""

    tokens: tuple[Token, ...]
    #: The joined text as it was written, for file names and where parentheses matter.
    text: str = ""
    file: str | None = None

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

    def after(self, token: Token) -> str:
        """All that is written after a token, in lower case."""
        return self.text[token.start + len(token.text) :].strip().lower()

    @property
    def invisible(self) -> Token | None:
        """The first token with a character that nobody sees."""
        return next((token for token in self.tokens if _INVISIBLE.search(token.text)), None)

    def error(self, message: str, remedy: str = "", token: Token | None = None) -> NetlistError:
        """An error at `token` (default: at the start of the statement)."""
        at = token or self.tokens[0]
        return NetlistError(message, place=Place(self.file, at.line, at.column), remedy=remedy)


@dataclass(frozen=True)
class Comment:
    """One comment line, without its mark; `file` is the included file that it stands in, where it does."""

    text: str
    line: int
    file: str | None = None


class _Joined:
    """A statement that is being put together from its lines."""

    def __init__(self, body: str, line: int, file: str | None) -> None:
        self.file = file
        self.parts = [body]
        self.starts = [0]
        self.lines = [line]
        self.columns = [0]
        self.length = len(body)

    def join(self, body: str, line: int, column: int) -> None:
        """Add a continuation line whose text starts at `column` (from 0)."""
        self.starts.append(self.length + 1)
        self.lines.append(line)
        self.columns.append(column)
        self.parts.append(body)
        self.length += len(body) + 1

    def statement(self) -> Statement | None:
        text = " ".join(self.parts)
        if len(text) > MAX_STATEMENT:
            raise NetlistError(
                f"the statement has {len(text):,} characters; at most {MAX_STATEMENT:,} are read",
                place=Place(self.file, self.lines[0]),
                remedy="Split it into several statements.",
            )
        tokens = []
        for start, end in _words(text):
            part = bisect_right(self.starts, start) - 1
            column = start - self.starts[part] + self.columns[part] + 1
            tokens.append(Token(text[start:end].lower(), self.lines[part], column, start))
        return Statement(tuple(tokens), text, self.file) if tokens else None


def _words(text: str) -> Iterator[tuple[int, int]]:
    """Where the tokens of a statement begin and end."""
    at = 0
    while at < len(text):
        start = at
        if text[at] == "=" or text[at] == "}":
            at += 1
        elif text[at] in ",()" or text[at].isspace():
            at += 1
            continue
        else:
            at = _word_end(text, at)
        yield start, at


def _word_end(text: str, start: int) -> int:
    """Where the word that begins at `start` ends: one expression, or characters without a separator."""
    at, grouped = start, False
    while at < len(text):
        joined = at == start or text[at - 1] in _OPERATORS
        closed = at > start and text[at - 1] in _CLOSING
        if text[at] in _OPENING and joined:
            at, grouped = _group_end(text, at), True
        elif text[at] == "(" and grouped and not closed:
            at = _group_end(text, at)
        elif match := (None if closed and text[at] not in _OPERATORS else _PLAIN.match(text, at)):
            at = match.end()
        else:
            break
    return at


def _group_end(text: str, start: int) -> int:
    """Past the bracket or quote that closes the one at `start`; the end of the text where nothing does."""
    if text[start] not in "{(":
        end = text.find(text[start], start + 1)
        return len(text) if end < 0 else end + 1
    depth = 0
    for match in _BRACKET.finditer(text, start):
        depth += 1 if match.group() in "{(" else -1
        if depth == 0:
            return match.end()
    return len(text)


def split(text: str, file: str | None = None) -> Iterator[Statement | Comment]:
    """The statements and comment lines of `text`, in order; `file` is what errors name.

    Raises NetlistError when the text is too long, is not text, or starts with a continuation line.
    """
    if len(text) > MAX_TEXT:
        raise NetlistError(
            f"the text has {len(text):,} characters; at most {MAX_TEXT:,} are read",
            place=Place(file),
            remedy="Upload only the file that holds the model you need.",
        )
    if "\0" in text:
        line = text.count("\n", 0, text.index("\0")) + 1
        raise NetlistError(
            "this is not a text file: it holds NUL characters",
            place=Place(file, line),
            remedy="Upload the maker's model as plain text.",
        )
    joined: _Joined | None = None
    # What stands below a statement, or between its lines, comes after it.
    comments: list[Comment] = []
    for number, raw in enumerate(_LINE_END.split(text), 1):
        if len(raw) > MAX_LINE:
            raise NetlistError(
                f"the line has {len(raw):,} characters; at most {MAX_LINE:,} are read",
                place=Place(file, number),
                remedy="Break it into continuation lines that start with '+'.",
            )
        if raw.lstrip().startswith("*"):
            comments.append(Comment(raw.lstrip()[1:].strip(), number, file))
            if joined is None:
                yield comments.pop()
            continue
        comment = _COMMENT.search(raw)
        body = (raw[: comment.start()] if comment else raw).rstrip()
        if not body.strip():
            continue
        if body.lstrip().startswith("+"):
            start = body.index("+") + 1
            if joined is None:
                raise NetlistError(
                    "a continuation line with nothing to continue",
                    place=Place(file, number, start),
                    remedy="Remove the '+', or put the statement it belongs to above it.",
                )
            joined.join(body[start:], number, start)
            continue
        if joined and (statement := joined.statement()):
            yield statement
        yield from comments
        comments.clear()
        joined = _Joined(body, number, file)
    if joined and (statement := joined.statement()):
        yield statement
    yield from comments
