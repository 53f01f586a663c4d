"""Elements that a `.model` describes: D, Q, J, M, S, W, O and U; and T, which has its values on its own card."""

from __future__ import annotations

import re
from collections.abc import Callable

from verdad_core.devices.base import Control
from verdad_core.errors import ValueTextError
from verdad_core.netlist.cards.card import Card, Kind, Words, write_values
from verdad_core.netlist.expressions import Value
from verdad_core.netlist.lines import Statement
from verdad_core.units import parse_netlist_number

#: What a semiconductor's card may say.
_SEMICONDUCTOR = {name: name for name in ("area", "m", "temp")} | {"dtemp": "rise", "rise": "rise"}
_GEOMETRY = {name: name for name in ("l", "w", "ad", "as", "pd", "ps", "nrd", "nrs")}
_IGNORED = frozenset({"ic", "off", "nrg", "nrb"})


def _semiconductor(least: int, most: int, names: str) -> Callable[[Statement], Card]:
    def read(statement: Statement) -> Card:
        words = Words(statement)
        nodes = list(words.nodes(least, f"{names} and model"))
        # What is left is a model and perhaps an area (MOS transistors have none here), or one more node before them.
        bare = _bare(words)
        has_area = len(bare) > 1 and statement.keyword[0] != "m" and _is_number(bare[-1])
        if least < most and len(bare) - has_area > 1:
            nodes.append(words.take("a node").text)
        model = words.take(f"{names} and model").text
        values: dict[str, Value] = {}
        words.skip("off")
        if words.is_number():
            values["area"] = words.number()
        words.skip("off")
        known = {**_SEMICONDUCTOR, **(_GEOMETRY if statement.keyword[0] == "m" else {})}
        values |= words.values(known, _IGNORED)
        clean = tuple(node.strip("[]") for node in nodes)
        return Card(statement.keyword, clean, statement, values=values, model=model)

    return read


def _bare(words: Words) -> list[str]:
    """The words before the first `name=value` or OFF."""
    texts = [token.text for token in words.rest]
    ends = [k for k, text in enumerate(texts) if text == "off" or texts[k + 1 : k + 2] == ["="]]
    return texts[: ends[0]] if ends else texts


def _is_number(text: str) -> bool:
    if re.search(r"[a-z]\d", text):
        return False  # a model such as 2n1234, and no value such as 4k7
    try:
        parse_netlist_number(text)
    except ValueTextError:
        return text[0] in "{'"
    return True


def _write(card: Card) -> str:
    controls = "".join(f" {c.source or f'{c.plus} {c.minus}'}" for c in card.controls)
    nodes = "".join(f" {node}" for node in card.nodes)
    model = f" {card.model}" if card.model else ""
    return f"{card.name}{nodes}{controls}{model}{write_values(card.values)}"


def _switch(statement: Statement) -> Card:
    words = Words(statement)
    nodes = words.nodes(2, "two nodes, what controls the switch, and a model")
    if statement.keyword[0] == "w":
        control = Control(source=words.take("the controlling source").text)
    else:
        control = Control(*words.nodes(2, "two controlling nodes and a model"))
    model = words.take("a model").text
    values: dict[str, Value] = {}
    if words.peek() in ("on", "off"):
        values["initially"] = 1.0 if words.take("on or off").text == "on" else 0.0
    values |= words.values({"initially": "initially", "m": "m"}, _IGNORED)
    return Card(statement.keyword, nodes, statement, values=values, controls=(control,), model=model)


def _lossless_line(statement: Statement) -> Card:
    words = Words(statement)
    nodes = words.nodes(4, "two ports of two nodes")
    known = {"z0": "z0", "zo": "z0", "td": "td", "f": "f", "nl": "nl"}
    known |= {name: name for name in ("r", "l", "g", "c", "len")}
    values = words.values(known, _IGNORED)
    if "len" in values and "l" in values and "c" in values:
        return Card(statement.keyword, nodes, statement, "line", values)
    if "z0" not in values or ("td" not in values and "f" not in values):
        raise statement.error(
            f"{statement.keyword} needs Z0 and TD, or Z0, F and NL, or LEN, L and C", "Write T1 1 0 2 0 Z0=50 TD=5n."
        )
    return Card(statement.keyword, nodes, statement, "line", values)


def _lossy_line(statement: Statement) -> Card:
    words = Words(statement)
    nodes = words.nodes(4, "two ports of two nodes and a model")
    model = words.take("a model").text
    return Card(statement.keyword, nodes, statement, values=words.values({"len": "len"}, _IGNORED), model=model)


def _distributed_rc(statement: Statement) -> Card:
    """Two ends and the node that its capacitance goes to."""
    words = Words(statement)
    a, b, common = words.nodes(3, "two ends, the capacitance's node and a model")
    model = words.take("a model").text
    values = words.values({"l": "len", "len": "len", "n": "lumps"}, _IGNORED)
    values.pop("lumps", None)
    return Card(statement.keyword, (a, b, common), statement, values=values, model=model)


DIODE = Kind(_semiconductor(2, 2, "anode, cathode"), _write)
BIPOLAR = Kind(_semiconductor(3, 4, "collector, base, emitter"), _write)
JFET = Kind(_semiconductor(3, 3, "drain, gate, source"), _write)
MOSFET = Kind(_semiconductor(3, 4, "drain, gate, source, bulk"), _write)
SWITCH = Kind(_switch, _write)
LOSSLESS_LINE = Kind(_lossless_line, _write)
LOSSY_LINE = Kind(_lossy_line, _write)
DISTRIBUTED_RC = Kind(_distributed_rc, _write)
