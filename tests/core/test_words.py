from __future__ import annotations

import numpy as np
import pytest

from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.jit import entry
from verdad_core.words import Layout, opened, words


class Pair:
    places: Integers
    values: Floats
    count: int


@pytest.fixture(autouse=True)
def canaries() -> None:
    """Nothing lies behind the sections here, so that their lengths can be told."""


PAIR, WITHIN = words(Pair), words(Pair, within=True)
pair_in, pair_within = opened(PAIR), opened(WITHIN)


@entry
def _sum(packed: Packed) -> float:
    pair, total = pair_in(packed), 0.0
    for k in range(pair.count):
        total += pair.values[pair.places[k]]
    return total


@entry
def _fill(memory: Floats) -> None:
    pair = pair_within(memory)
    for k in range(pair.count):
        pair.values[k] = k + 1.0


def test_kernels_read_arrays_and_numbers_by_their_names() -> None:
    values, places = np.array([1.0, 20.0, 300.0, 4000.0]), np.array([3, 1, 3], dtype=np.int32)
    packed = PAIR.packed(places=places, values=values, count=3)
    assert _sum(packed) == 8020.0
    values[3] = 0.5
    assert _sum(packed) == 21.0
    assert PAIR.number(packed, "count") == 3


def test_every_field_is_given() -> None:
    with pytest.raises(TypeError, match="cannot be made of count"):
        PAIR.packed(count=3)


@pytest.mark.parametrize("values", [np.array([1, 2]), np.array([1.0, 2.0], dtype=np.float32), np.zeros((4, 4))[:, 1]])
def test_an_array_that_would_be_read_wrongly_is_refused(values: Floats) -> None:
    with pytest.raises(TypeError, match=r"values of .* is an array of another kind"):
        PAIR.packed(places=np.zeros(2, np.int32), values=values, count=2)


def test_what_a_table_points_to_follows_it_in_one_array() -> None:
    class Two:
        first: Floats
        second: Floats
        count: int

    kind = words(Two, within=True)
    memory = Layout(kind, {"first": 2, "second": 3}, count=5).array()
    assert len(memory) == len(kind.fields) + 2 + 3
    table = memory[: len(kind.fields)].view(np.int64)
    assert kind.number(table, "count") == 5
    assert kind.number(table, "second") - kind.number(table, "first") == 2 * memory.itemsize


def test_kernels_write_where_the_table_points() -> None:
    memory = Layout(WITHIN, {"places": 0, "values": 4}, count=4).array()
    _fill(memory)
    assert memory[len(WITHIN.fields) :].tolist() == [1.0, 2.0, 3.0, 4.0]


def test_an_array_that_holds_all_its_table_points_to_can_be_copied() -> None:
    memory = Layout(WITHIN, {"places": 0, "values": 4}, count=4).array()
    copied = memory.copy()
    _fill(copied)
    assert copied[len(WITHIN.fields) :].tolist() == [1.0, 2.0, 3.0, 4.0]
    assert not memory[len(WITHIN.fields) :].any()
