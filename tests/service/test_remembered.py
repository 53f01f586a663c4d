"""Results that are kept within a size, and runs that know of each other."""

import pytest

from verdad.api.remembered import PATIENCE, Remembered, Runs
from verdad_core.errors import ConvergenceError


def test_what_was_not_asked_for_the_longest_goes_first() -> None:
    kept: Remembered[str] = Remembered(10)
    for name in "abc":
        kept.keep(name, name.upper(), 4)
    assert [kept.get(name) for name in "abc"] == [None, "B", "C"]
    kept.get("b")
    kept.keep("d", "D", 4)
    assert [kept.get(name) for name in "bcd"] == ["B", None, "D"]


def test_one_that_is_too_large_is_kept_alone() -> None:
    kept: Remembered[str] = Remembered(10)
    kept.keep("a", "A", 4)
    kept.keep("b", "B", 40)
    assert (kept.get("a"), kept.get("b")) == (None, "B")


def test_a_later_run_overtakes_one_of_the_same_window_only() -> None:
    runs = Runs()
    with runs.begun("one") as first, runs.begun("two") as other:
        first.look(0.25)
        assert runs.of("one") is first
        with runs.begun("one") as second:
            with pytest.raises(ConvergenceError, match="overtaken"):
                first.look(0.5)
            second.look(0.1)
            other.look(0.9)
        assert runs.of("one") is None
    assert runs.of("two") is None


def test_a_run_beyond_all_patience_is_broken_off_and_known_to_be() -> None:
    """What it has by then is an answer to who waits, and nothing to remember."""
    with Runs().begun("one") as run:
        run.look(0.1)
        assert not run.stopped
        run.since -= PATIENCE
        with pytest.raises(ConvergenceError, match="20 % of it done"):
            run.look(0.2)
        assert run.stopped


def test_a_run_that_nobody_waits_for_ends() -> None:
    with Runs().begun("one", lambda: True) as run, pytest.raises(ConvergenceError, match="nobody waits"):
        run.look(0.1)
