"""Netlists changed at random: whatever a text says, it runs, or is refused with a sentence that says where."""

from __future__ import annotations

import os
import random
from collections.abc import Callable

import pytest

from tests.core.circuits import EVERYTHING
from tests.core.golden import CASES
from tests.core.netlist.test_every_token import MORE
from verdad_core.errors import VerdadError
from verdad_core.simulate import simulate
from verdad_core.simulation import Limits

#: How many texts: VERDAD_LONG=10000 ./verdad test for the longer run.
MANY = int(os.environ.get("VERDAD_LONG", "250"))

LIMITS = Limits(points=2000, numbers=200_000, steps=100_000, seconds=2.0)

LINES = [line for text in (EVERYTHING, MORE, *CASES.values()) for line in text.splitlines() if line]

PIECES = (
    "0", "-1", "1e308", "1e-308", "nan", "inf", "{", "}", "(", ")", "'", '"', "=", ",", "*", ".ends", ".subckt x 1 2",
    "x1 1 2 x", "poly(2)", "{1/0}", "{a}", "v(a)", "i(v1)", "time", "temp", "\t", "+", ";", "$", "µ", "\u200b",
)  # fmt: skip


def _swapped(text: str, chance: random.Random) -> str:
    words = text.split(" ")
    one, other = chance.randrange(len(words)), chance.randrange(len(words))
    words[one], words[other] = words[other], words[one]
    return " ".join(words)


CHANGES: tuple[Callable[[str, random.Random], str], ...] = (
    lambda text, chance: text[: (k := chance.randrange(len(text) + 1))] + chance.choice(PIECES) + text[k:],
    lambda text, chance: text[: (k := chance.randrange(len(text) + 1))] + text[k + chance.randrange(1, 9) :],
    lambda text, chance: f"{text}\n{chance.choice(LINES)}",
    lambda text, chance: text.replace(chance.choice("0123456789"), chance.choice(PIECES), 1),
    _swapped,
)


@pytest.mark.parametrize("block", range(5))
def test_a_changed_netlist_runs_or_is_refused(block: int) -> None:
    for k in range(block, MANY, 5):
        chance = random.Random(k)
        text = chance.choice(list(CASES.values()))
        for _ in range(chance.randrange(1, 6)):
            text = chance.choice(CHANGES)(text, chance)
        try:
            simulate(f"changed\n{text}", limits=LIMITS).json()
        except VerdadError as error:
            assert error.message, text
        except Exception as error:
            raise AssertionError(f"seed {k}: {type(error).__name__}: {error}\n{text}") from error
