"""What two boards differ in, in words: circuits, parts, checks, spreads, studies, limits."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from verdad_core.checks.kind import kind_of
from verdad_core.document.board import Board, Circuit, Limit
from verdad_core.document.checks import Check
from verdad_core.document.parts import Generic, Modelled, Part, Statement, nets_of
from verdad_core.schema import Document
from verdad_core.spreads.amount import told
from verdad_core.spreads.spread import Spread

#: What is not said by itself: what is said in another way, and how a thing is called.
_ASIDE = frozenset({"id", "kind", "title", "designator", "checks"})


def differences(old: Board, new: Board) -> list[str]:
    """Sentences from the old board to the new one, in the order of the document; empty where they say the same."""
    found = [*_fields("the board", old, new, ("title", "purpose", "thin_margin", "derating"))]
    for before, after in _pairs({c.id: c for c in old.circuits}, {c.id: c for c in new.circuits}):
        if before is None or after is None:
            found.append(_came_or_went("circuit", before, after, lambda c: f"{c.title} with {len(c.parts)} parts"))
        else:
            found += _circuit(before, after)
    spreads = _pairs({s.of: s for s in old.spreads}, {s.of: s for s in new.spreads})
    found += [words for before, after in spreads if (words := _spread(before, after))]
    for was, now in _pairs({s.id: s for s in old.studies}, {s.id: s for s in new.studies}):
        if was is None or now is None:
            found.append(_came_or_went("study", was, now, lambda s: s.title))
        else:
            found += _fields(f"study {now.title}", was, now, ("title", "checks", *_names(now)))
    limits = _pairs({limit.id: limit for limit in old.limits}, {limit.id: limit for limit in new.limits})
    found += [words for before, after in limits if (words := _limit(old, new, before, after))]
    return found


def _pairs(old: Mapping[str, Any], new: Mapping[str, Any]) -> Iterator[tuple[Any, Any]]:
    for key in dict.fromkeys([*old, *new]):
        yield old.get(key), new.get(key)


def _came_or_went(what: str, before: Any, after: Any, said: Any) -> str:
    return f"{what} {said(after)} was added" if before is None else f"{what} {said(before)} was removed"


def _circuit(old: Circuit, new: Circuit) -> Iterator[str]:
    where = f"{new.title}: "
    if old.title != new.title:
        yield f"circuit {old.title} is called {new.title}"
    for before, after in _pairs({p.designator: p for p in old.parts}, {p.designator: p for p in new.parts}):
        if before is None or after is None:
            yield where + _came_or_went("part", before, after, lambda p: f"{p.designator} {_value(p)}".strip())
        else:
            yield from (where + words for words in _part(before, after))
    if old.definitions != new.definitions:
        yield f"{where}its definitions changed"
    for was, now in _pairs({c.id: c for c in old.checks}, {c.id: c for c in new.checks}):
        if was is None or now is None:
            yield where + _came_or_went("check", was, now, lambda c: c.title)
        else:
            yield from (where + words for words in _check(was, now))


def _value(part: Part) -> str:
    if isinstance(part, Modelled):
        return part.model.name.upper()
    if isinstance(part, Generic):
        return part.part
    return part.text if isinstance(part, Statement) else part.value


def _part(old: Part, new: Part) -> Iterator[str]:
    name = new.designator
    if old.kind != new.kind or _value(old) != _value(new):
        yield f"{name} is {_value(new) or new.kind}, it was {_value(old) or old.kind}"
    if nets_of(old) != nets_of(new):
        yield f"{name} is on {', '.join(nets_of(new))}, it was on {', '.join(nets_of(old))}"
    if type(old) is type(new):
        fields = [each for each in _names(new) if each not in ("value", "model", "part", "text", "pins")]
        yield from _fields(name, old, new, fields)


def _check(old: Check, new: Check) -> Iterator[str]:
    if old.title != new.title:
        yield f"check {old.title} is called {new.title}"
    what = f"check {new.title}"
    if old.analysis.kind != new.analysis.kind:
        yield f"{what} asks for {kind_of(new).title.lower()}, it asked for {kind_of(old).title.lower()}"
    else:
        yield from _fields(what, old.analysis, new.analysis, _names(new.analysis))
    yield from _fields(what, old, new, ("temperature",))
    for before, after in _pairs({f.name: f for f in old.fixtures}, {f.name: f for f in new.fixtures}):
        if before is None or after is None:
            yield f"{what}: " + _came_or_went("", before, after, lambda f: f"{f.kind} {f.name}").strip()
        elif type(before) is type(after):
            yield from _fields(f"{what}, {after.name}", before, after, _names(after))
        else:
            yield f"{what}, {after.name}: it is a {after.kind}, it was a {before.kind}"
    for was, now in _pairs({m.id: m for m in old.measurements}, {m.id: m for m in new.measurements}):
        if was is None or now is None:
            yield f"{what}: " + _came_or_went("measurement", was, now, lambda m: m.title)
        elif (was.key, was.of, was.settings) != (now.key, now.of, now.settings):
            yield f"{what}: it measures {now.title}, it measured {was.title}"
        elif was.hand != now.hand:
            yield f"{what}: the hand value of {now.title} changed"
    if [o.file for o in old.overlays] != [o.file for o in new.overlays]:
        yield f"{what}: what was measured over it changed"


def _spread(old: Spread | None, new: Spread | None) -> str:
    if old == new:
        return ""

    def said(spread: Spread) -> str:
        words = ", ".join(f"{told(c.amount)} {c.distribution} ({c.contributor})" for c in spread.contributions)
        return words + (f", with {spread.group}" if spread.group else "")

    if old is None or new is None:
        return f"spread of {new.of}: {said(new)}, it had none" if new else f"spread of {old.of} was removed"  # type: ignore[union-attr]
    return f"spread of {new.of}: {said(new)}, it was {said(old)}"


def _limit(old: Board, new: Board, before: Limit | None, after: Limit | None) -> str:
    if before == after:
        return ""

    def named(board: Board, limit: Limit) -> str:
        check = board.check(limit.check)[1]
        return f"limit on {check.title}, {check.measurement(limit.measurement).title}"

    def bounds(limit: Limit) -> str:
        return f"{limit.lower or 'any'} to {limit.upper or 'any'}"

    if after is None:
        return f"{named(old, before)} was removed" if before else ""
    if before is None:
        return f"{named(new, after)}: {bounds(after)}, there was none"
    if (before.check, before.measurement) != (after.check, after.measurement):
        return f"{named(new, after)}: {bounds(after)}, it was a {named(old, before)}"
    if before.bounds != after.bounds:
        return f"{named(new, after)}: {bounds(after)}, it was {bounds(before)}"
    return f"{named(new, after)}: its reason is “{after.reason}”"


def _names(piece: Document) -> list[str]:
    return [name for name in type(piece).model_fields if name not in _ASIDE]


def _fields(what: str, old: Document, new: Document, names: Sequence[str]) -> Iterator[str]:
    for name in names:
        before, after = getattr(old, name, None), getattr(new, name, None)
        if before != after:
            yield f"{what}: {name.replace('_', ' ')} is {_said(after)}, it was {_said(before)}"


def _said(value: Any) -> str:
    if value is None or value == "":
        return "left open"
    if isinstance(value, Document):
        value = value.model_dump(exclude_defaults=True)
    if isinstance(value, dict):
        return ", ".join(f"{name} {_said(each)}" for name, each in value.items()) or "as usual"
    return ", ".join(map(str, value)) if isinstance(value, tuple) else str(value)
