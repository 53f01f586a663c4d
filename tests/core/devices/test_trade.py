"""What every row of the trade's table promises, whichever family it is of."""

from __future__ import annotations

import pytest

from verdad_core.devices import FAMILY_OF
from verdad_core.devices.trade import TRADE, Trade
from verdad_core.intake.generic import GENERIC_PARTS, generic_elements
from verdad_core.intake.kinds import KINDS
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
from verdad_core.placing.typed import read_typed

ROWS = pytest.mark.parametrize("row", TRADE.values(), ids=lambda row: row.family)
#: An element of each word's letter on model x.
WRITTEN = {"r": "r9 1 2 x 1k", "c": "c9 1 2 x 1n", "l": "l9 1 2 x 1u", "d": "d9 1 2 x",
           "q": "q9 1 2 0 x", "j": "j9 1 2 0 x", "m": "m9 1 2 0 x", "s": "s9 1 2 3 0 x", "w": "w9 1 2 v1 x",
           "t": "o9 1 0 2 0 x"}  # fmt: skip


@ROWS
def test_a_word_makes_the_family_with_what_it_fixes(row: Trade) -> None:
    for word in row.words:
        if word.word == "urc":
            continue  # becomes a ladder of others
        card = WRITTEN[row.letters[-1] if word.by_current else row.letters[0]]
        given = "(r=1 l=1u c=1n len=1)" if row.family == "line" else ""
        elements = flatten(read(f"v1 3 0 1\n{card}\n.model x {word.word}{given}\n")).elements
        [own] = [element for element in elements if element.family == row.family]
        assert {name: own.values[name] for name in word.fixed} == dict(word.fixed)


@ROWS
def test_what_is_not_known_of_the_family_is_its_own(row: Trade) -> None:
    """What a row names besides the family's parameters is not one of them, and each alias leads to one that is read."""
    own = {parameter.name for parameter in FAMILY_OF[row.family].parameters}
    assert set(row.aliases.values()) <= own | row.more
    assert {name for name, _ in row.parallel} <= own


@ROWS
def test_a_part_is_placed_under_its_words(row: Trade) -> None:
    pins = KINDS[row.kind].roles if row.kind else row.pins
    for placed in row.placed:
        part = GENERIC_PARTS[placed.key]
        assert part.pins == pins
        elements = generic_elements(placed.key, "X1", {pin: f"n{k}" for k, pin in enumerate(pins)}, {})
        assert row.family in {element.family for element in elements}
        assert all(elements[-1].values.get(name) == value for name, value in placed.fixed.items())
        for word in placed.typed:
            choice = read_typed(word, [])[0]
            assert (choice.key, choice.letter) == (placed.key, row.designator)
