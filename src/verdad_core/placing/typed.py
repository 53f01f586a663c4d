"""What one types on the sheet to place something: `r 4k7 1%`, `c 100n x7r`, `q`, a model's name, `label vref`.

After a part, the nets of its pins may follow: `r 1k in out`, `c 100n out gnd`, `q +5V b e`, and a model's name with its
nets in the order of its nodes.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from verdad_core.devices import FAMILY_OF
from verdad_core.devices.trade import TRADE
from verdad_core.document.fixtures import Load, Port, Source, Supply
from verdad_core.document.parts import UNIT_LETTERS, VALUE_PARAMETER, ModelReference
from verdad_core.errors import ValueTextError
from verdad_core.intake.generic import GENERIC_PARTS, GenericPart
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.symbols import Symbol
from verdad_core.spreads.grades import GRADES
from verdad_core.stages import STAGES
from verdad_core.units import parse_value

#: Parts with a value, by what is typed for them: their family, and the unit of its value.
_VALUED = {
    TRADE[family].letters: (family, next(p.unit for p in FAMILY_OF[family].parameters if p.name == value))
    for family, value in VALUE_PARAMETER.items()
}
#: Short words for generic parts, by what the trade calls them.
_WORDS = {word: placed.key for row in TRADE.values() for placed in row.placed for word in placed.typed} | {"u": "opamp"}
_NET = re.compile(r"[A-Za-z0-9_+/-]{1,32}")
_Reader = Callable[[Sequence[str]], "Choice"]
#: Choices that are listed for an unfinished word.
MOST = 8


@dataclass(frozen=True)
class ShelfEntry:
    """What the sheet needs to know of a model on the shelf."""

    id: str
    name: str
    kind: str
    roles: tuple[str, ...]
    symbol: Symbol
    description: str = ""


@dataclass(frozen=True)
class Choice:
    """One thing that can be placed. `what` says which of the fields count.

    A part has a `kind`, a `letter` for its designator and a symbol; `value` and `tolerance` (per cent) where they were
    typed. Marks and fixtures have the name of their net in `net`.
    """

    what: Literal["part", "ground", "rail", "label", "note", "stage", "fixture", "wire"]
    title: str
    kind: str = ""
    letter: str = ""
    symbol: Symbol | None = None
    value: str = ""
    tolerance: float | None = None
    net: str = ""
    #: The generic part or the stage, by its key.
    key: str = ""
    model: ModelReference | None = None
    units: int = 1
    #: The nets that a part's pins go to, by pin; empty where none were typed.
    nets: Mapping[str, str] = field(default_factory=dict)
    #: What is attached from outside the board edge; its name is only what its kind is called.
    fixture: Supply | Source | Load | Port | None = None
    #: The words of a note, the two ends of a wire, or the pin that a mark is put on.
    text: str = ""


def read_typed(text: str, shelf: Iterable[ShelfEntry]) -> list[Choice]:
    """What `text` can mean, the likeliest first. Raises ValueTextError for a value or a word that cannot be read."""
    words = text.split()
    if not words:
        return []
    word, rest = words[0].lower(), words[1:]
    if word in _VALUED:
        return [_valued(word, rest)]
    if word in _STATEMENTS:
        return [_STATEMENTS[word](rest)]
    if re.fullmatch(r"[+-]\d+(\.\d+)?V?\d*", words[0], re.IGNORECASE) and not rest:
        return [Choice("rail", f"supply rail {words[0]}", net=words[0])]
    found = [*_short(words), *_models(words, shelf), *_generic(words), *_stages(words)]
    if not found:
        raise ValueTextError(
            f"nothing is called '{text.strip()}'",
            remedy="Type r, c or l and a value, a model's or a stage's name, gnd, or label and a name."
            " Name the nets of all pins of a part, or of none.",
        )
    return found[:MOST]


def _valued(word: str, rest: Sequence[str]) -> Choice:
    kind, unit = _VALUED[word]
    value, tolerance, others = "", None, list[str]()
    for item in rest:
        if match := re.fullmatch(r"±?(\d+(?:\.\d+)?)(%|ppm)", item):
            tolerance = float(match[1]) * (1.0 if match[2] == "%" else 1e-4)
            if not 0 < tolerance < 100:
                raise ValueTextError(f"a tolerance of {item} is not one", remedy="Write one such as 1%.")
        elif grade := next((g for g in GRADES if g.kind == kind and item.lower() in g.key.split("-")[0:1]), None):
            tolerance = tolerance or grade.tolerance
        elif not value:
            if parse_value(item, unit) <= 0:
                raise ValueTextError(f"'{item}' must be above zero", remedy="Enter the size only.")
            value = item
        else:
            others.append(item)
    if len(others) not in (0, 2) or not all(map(_NET.fullmatch, others)):
        names = ", ".join(dict.fromkeys(g.key.split("-")[0] for g in GRADES if g.kind == kind))
        raise ValueTextError(
            f"'{others[0]}' is neither a tolerance nor a grade, and not one of two nets",
            remedy=f"Write 1%, one of {names}, or the nets of both pins, as in {word} {value} in out.",
        )
    ends = f" {value}" if value else ""
    spread = f", ±{tolerance:g} %" if tolerance else ""
    symbol = GENERIC_PARTS[kind].symbol
    nets = _nets(("1", "2"), others)
    title = f"{kind}{ends}{spread}{_between(nets)}"
    return Choice("part", title, kind, TRADE[kind].designator, symbol, value, tolerance, nets=nets)


def _nets(pins: Iterable[str], words: Sequence[str]) -> dict[str, str]:
    """The nets by pin; words that mean ground are one net."""
    return {pin: "gnd" if word.lower() in ("gnd", "0") else word for pin, word in zip(pins, words, strict=False)}


def _between(nets: Mapping[str, str]) -> str:
    return f", at {', '.join(nets.values())}" if nets else ""


def _net(rest: Sequence[str], example: str) -> str:
    if not rest or not _NET.fullmatch(rest[0]):
        raise ValueTextError("a net's name is missing", remedy=f"Write {example}.")
    return rest[0]


def _label(rest: Sequence[str]) -> Choice:
    net = _net(rest, "label vref")
    return Choice("label", f"net name {net}", net=net, text=_pin(rest[1:]))


def _rail(rest: Sequence[str]) -> Choice:
    net = _net(rest, "rail +5V")
    return Choice("rail", f"supply rail {net}", net=net, text=_pin(rest[1:]))


def _ground(rest: Sequence[str]) -> Choice:
    return Choice("ground", "ground", net="gnd", text=_pin(rest))


def _pin(rest: Sequence[str]) -> str:
    """The pin that a mark goes to, such as R1.2, where one is named."""
    if len(rest) > 1 or (rest and "." not in rest[0]):
        raise ValueTextError(f"'{' '.join(rest)}' is no pin", remedy="Name a pin such as R1.2, or leave it out.")
    return rest[0] if rest else ""


def _note(rest: Sequence[str]) -> Choice:
    if not rest:
        raise ValueTextError("the note is empty", remedy="Write note and its words.")
    return Choice("note", "note", text=" ".join(rest))


def _fixture(kind: type[Supply | Source | Load | Port], field: str, default: str, example: str) -> _Reader:
    told = kind.model_fields[field].json_schema_extra
    unit = str(told["unit"]) if isinstance(told, dict) else ""

    def read(rest: Sequence[str]) -> Choice:
        net = _net(rest, example)
        quantity = rest[1] if len(rest) > 1 else default
        if not quantity:
            raise ValueTextError(f"the {kind.title} has no {unit}", remedy=f"Write {example}.")
        parse_value(quantity, unit)
        fixture = kind.model_validate({"name": kind.title, "plus": net, field: quantity})
        title = f"{kind.title} at {net}, {quantity} {unit}, outside the board edge"
        return Choice("fixture", title, net=net, fixture=fixture)

    return read


def _wire(rest: Sequence[str]) -> Choice:
    if len(rest) != 2:
        raise ValueTextError("a wire has two ends", remedy="Write wire R1.2 U1.in+.")
    return Choice("wire", f"wire from {rest[0]} to {rest[1]}", text=" ".join(rest))


_STATEMENTS: dict[str, _Reader] = {
    "gnd": _ground, "ground": _ground, "label": _label, "rail": _rail, "note": _note, "wire": _wire,
    "supply": _fixture(Supply, "volts", "", "supply +5V 5"),
    "source": _fixture(Source, "resistance", "0", "source in 50"),
    "load": _fixture(Load, "resistance", "", "load out 10k"),
    "port": _fixture(Port, "impedance", "50", "port in 50"),
}  # fmt: skip


def _models(words: Sequence[str], shelf: Iterable[ShelfEntry]) -> list[Choice]:
    """Models whose name begins with the word, and have as many pins as nets follow it; `ovn4183 x2` is two of them in
    one package.
    """
    name, units, nets = words[0].lower(), 1, words[1:]
    if len(words) == 2 and (match := re.fullmatch(rf"x([1-{len(UNIT_LETTERS)}])", words[1].lower())):
        units, nets = int(match[1]), ()
    if not all(map(_NET.fullmatch, nets)):
        return []
    found = []
    for entry in shelf:
        if entry.name.lower().startswith(name) and len(nets) in (0, len(entry.roles)):
            package = f", {units} in a package" if units > 1 else ""
            on = _nets(entry.roles, nets)
            title = f"{entry.name.upper()}{package}: {entry.description or entry.kind}{_between(on)}"
            found.append(
                Choice(
                    "part", title, "modelled", KINDS[entry.kind].designator, entry.symbol,
                    model=ModelReference(id=entry.id, name=entry.name), units=units, nets=on,
                )
            )  # fmt: skip
    return sorted(found, key=lambda choice: len(choice.model.name) if choice.model else 0)


def _short(words: Sequence[str]) -> list[Choice]:
    """What a short word, or a generic part's own name, stands for, whatever else begins so."""
    word = words[0].lower()
    part = GENERIC_PARTS.get(_WORDS.get(word, word if len(words) > 1 else ""))
    if part is None or len(words) - 1 not in (0, len(part.symbol.pins)) or not all(map(_NET.fullmatch, words[1:])):
        return []
    return [_generic_choice(part, words[1:])]


def _generic(words: Sequence[str]) -> list[Choice]:
    text = " ".join(words).lower()
    exact = [GENERIC_PARTS[_WORDS[text]]] if text in _WORDS else []
    others = [part for part in GENERIC_PARTS.values() if _begins(text, part.key, part.title) and part not in exact]
    return [
        _generic_choice(part) for part in (*exact, *others) if part.key not in ("resistor", "capacitor", "inductor")
    ]


def _generic_choice(part: GenericPart, words: Sequence[str] = ()) -> Choice:
    letter = TRADE[part.family].designator if part.family else KINDS["other"].designator
    nets = _nets((pin.role for pin in part.symbol.pins), words)
    return Choice(
        "part", f"generic {part.title}{_between(nets)}", "generic", letter, part.symbol, key=part.key, nets=nets
    )


def _stages(words: Sequence[str]) -> list[Choice]:
    text = " ".join(words).lower()
    found = [stage for stage in STAGES.values() if _begins(text.removeprefix("stage "), stage.key, stage.title)]
    return [Choice("stage", f"stage: {stage.title}", key=stage.key) for stage in found]


def _begins(text: str, key: str, title: str) -> bool:
    """Whether a key, or a word of a title, begins with the text."""
    return key.startswith(text) or re.search(rf"\b{re.escape(text)}", title.lower()) is not None
