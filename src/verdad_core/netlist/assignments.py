"""`name = value` and `name(arguments) = value` pairs whose values may be expressions with blanks, as in `.param`."""

from __future__ import annotations

from dataclasses import dataclass, replace

from verdad_core.netlist.lines import Statement, Token


@dataclass(frozen=True)
class Assignment:
    """One pair; `arguments` is None where the name is no function's. `value` stands where it is written."""

    name: str
    arguments: tuple[str, ...] | None
    value: Token


def assignments(statement: Statement) -> list[Assignment]:
    """All pairs of a statement. Raises NetlistError, at its token, for what is none."""
    equals = [token for token in statement.tokens if token.text == "=" and _stands_alone(statement.text, token.start)]
    if not equals:
        token = statement.tokens[1] if len(statement.tokens) > 1 else None
        what = f"'{token.text}' is not understood here" if token else "a name is missing"
        raise statement.error(f"{statement.keyword}: {what}", f"Write {statement.keyword} name=value.", token)
    text = statement.text.lower() if len(statement.text.lower()) == len(statement.text) else statement.text
    first = len(statement.keyword) + len(text) - len(text.lstrip())
    bounds = [first, *(token.start + 1 for token in equals), len(text)]
    names = [_name_before(text[start : token.start]) for start, token in zip(bounds, equals, strict=False)]
    found = []
    for k, (_, name, arguments) in enumerate(names):
        left = text[bounds[k] : bounds[k] + names[k][0]].strip().strip(",").strip()
        end = bounds[k + 1] + names[k + 1][0] if k + 1 < len(names) else len(text)
        body = text[bounds[k + 1] : end].strip().strip(",").strip()
        token = _token_at(statement, bounds[k] + names[k][0])
        if not name or (k == 0 and left):
            stray = statement.tokens[1]
            raise statement.error(
                f"{statement.keyword}: '{stray.text}' is not understood here", f"Write {statement.keyword} name=value.",
                stray,
            )  # fmt: skip
        if not body:
            raise statement.error(
                f"{statement.keyword}: {name} has no value", f"Write {statement.keyword} name=value.", token
            )
        found.append(Assignment(name, arguments, replace(token, text=body)))
    return found


def _stands_alone(text: str, at: int) -> bool:
    """Whether an equals sign is no part of a comparison."""
    return text[at - 1 : at] not in ("=", "<", ">", "!") and text[at + 1 : at + 2] != "="


def _name_before(text: str) -> tuple[int, str, tuple[str, ...] | None]:
    """Where the name at the end of a text begins, the name, and its arguments."""
    before, arguments = text.rstrip(), None
    if before.endswith(")") and "(" in before:
        opening = before.rindex("(")
        arguments = tuple(before[opening + 1 : -1].replace(",", " ").split())
        before = before[:opening].rstrip()
    start = len(before)
    while start > 0 and (before[start - 1].isalnum() or before[start - 1] == "_"):
        start -= 1
    while start < len(before) and before[start].isdigit():
        start += 1
    return start, before[start:], arguments


def _token_at(statement: Statement, start: int) -> Token:
    """The token that stands at, or first after, a place of the statement's text."""
    return next((token for token in statement.tokens if token.start >= start), statement.tokens[-1])
