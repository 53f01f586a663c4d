"""A structure whose values were turned is the one that compiling anew makes; equal keys mean equal structures."""

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.boards import RAILS, amplifier, board, c, pair, r, source, two
from verdad_core.checks.compiled import compiled, turned
from verdad_core.checks.keys import shape_key
from verdad_core.checks.quantities import with_quantity
from verdad_core.document.board import Board

METERED = ("R2.1", "U1.out")


def drawn() -> Board:
    parts = [
        r("R1", "10k", "in", "minus"), r("R2", "100k", "minus", "out"), c("C1", "10n", "minus", "out"),
        two("inductor", "L1", "1m", "out", "far"), r("R3", "1k", "far", "gnd"), amplifier("U1", "gnd", "minus", "out"),
    ]  # fmt: skip
    return board(parts, [source("in", ac="1"), *RAILS], "frequency response", output="out", source="vin")


TURNABLE = {"R1": "Ω", "R2": "Ω", "C1": "F", "L1": "H", "sp5v": "V", "sn5v": "V", "temperature": "°C"}


@given(st.dictionaries(st.sampled_from(sorted(TURNABLE)), st.integers(1, 200).map(str), min_size=1))
def test_turning_values_is_compiling_anew(values: dict[str, str]) -> None:
    before = pair(drawn())
    of = drawn()
    for name, text in values.items():
        of = with_quantity(of, "k", name, text)
    now = pair(of)
    assert shape_key(*before, {}) == shape_key(*now, {})
    kept, fresh = turned(compiled(*before, {}, METERED), *now), compiled(*now, {}, METERED)
    assert np.array_equal(kept.nominal, fresh.nominal, equal_nan=True)
    assert (kept.elements, kept.unknowns) == (fresh.elements, fresh.unknowns)


def without(part: str) -> Callable[[Board], Board]:
    def change(of: Board) -> Board:
        circuit = of.circuits[0]
        parts = tuple(each for each in circuit.parts if each.designator != part)
        return of.model_copy(update={"circuits": (circuit.model_copy(update={"parts": parts}),)})

    return change


@pytest.mark.parametrize(
    "change",
    [
        without("C1"),
        lambda of: with_quantity(of, "k", "U1.gain", "1000"),
        lambda of: with_quantity(of, "k", "vin.resistance", "50"),
        lambda of: with_quantity(of, "k", "vin.dc", "1"),
    ],
    ids=["a part", "a setting", "a source's resistance", "a source's value"],
)
def test_what_is_not_turned_has_another_key(change: Callable[[Board], Board]) -> None:
    assert shape_key(*pair(change(drawn())), {}) != shape_key(*pair(drawn()), {})
