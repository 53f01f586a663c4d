"""Element statements, a `Kind` for each first letter, as published in the SPICE 2G6/3F5 user's manuals."""

from __future__ import annotations

from verdad_core.netlist.cards.card import Card, Kind
from verdad_core.netlist.cards.controlled import BEHAVIOURAL, CONTROLLED
from verdad_core.netlist.cards.independent import INDEPENDENT
from verdad_core.netlist.cards.instance import INSTANCE
from verdad_core.netlist.cards.modelled import (
    BIPOLAR,
    DIODE,
    DISTRIBUTED_RC,
    JFET,
    LOSSLESS_LINE,
    LOSSY_LINE,
    MOSFET,
    SWITCH,
)
from verdad_core.netlist.cards.passive import COUPLING, PASSIVE
from verdad_core.netlist.lines import Statement

_KINDS: dict[str, Kind] = {
    "b": BEHAVIOURAL, "c": PASSIVE, "d": DIODE, "e": CONTROLLED, "f": CONTROLLED, "g": CONTROLLED, "h": CONTROLLED,
    "i": INDEPENDENT, "j": JFET, "k": COUPLING, "l": PASSIVE, "m": MOSFET, "o": LOSSY_LINE, "q": BIPOLAR,
    "r": PASSIVE, "s": SWITCH, "t": LOSSLESS_LINE, "u": DISTRIBUTED_RC, "v": INDEPENDENT, "w": SWITCH, "x": INSTANCE,
}  # fmt: skip


def read_card(statement: Statement) -> Card:
    """The element in a statement. Raises NetlistError with the token that is wrong."""
    kind = _KINDS.get(statement.keyword[0])
    if kind is None:
        raise statement.error(
            f"'{statement.keyword}' starts no element that Verdad reads",
            f"Elements start with one of {' '.join(sorted(_KINDS)).upper()}.",
        )
    return kind.read(statement)


def write_card(card: Card) -> str:
    """The statement that reads back as the same card."""
    return _KINDS[card.name[0]].write(card)


__all__ = ["Card", "Kind", "read_card", "write_card"]
