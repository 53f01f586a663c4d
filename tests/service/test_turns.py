"""Who computes when: turns that go round among windows, and equal work that is done once."""

from __future__ import annotations

import threading
from collections.abc import Callable

import pytest

from verdad.api.turns import Flights, Turns


def _waits(turns: Turns, window: str, order: list[str], waiting: list[int]) -> threading.Thread:
    """A thread that waits for a turn of a window, once it is known to wait."""
    begun = threading.Event()

    def look(ahead: int) -> None:
        waiting.append(ahead)
        begun.set()

    def take() -> None:
        with turns.turn(window, look):
            order.append(window)

    thread = threading.Thread(target=take)
    thread.start()
    begun.wait(5)
    return thread


def test_turns_go_round_among_windows() -> None:
    """Three of one window wait before one of another, which is second all the same."""
    turns, order, waiting = Turns(1), list[str](), list[int]()
    with turns.turn("first", lambda _: None):
        threads = [_waits(turns, window, order, waiting) for window in ("a", "a", "a", "b")]
        assert order == []
    for thread in threads:
        thread.join(5)
    assert order == ["a", "b", "a", "a"]
    assert max(waiting) >= 3


def test_who_gives_up_waiting_is_forgotten() -> None:
    class EnoughError(Exception):
        pass

    def look(_: int) -> None:
        raise EnoughError

    turns = Turns(1)
    with turns.turn("first", lambda _: None), pytest.raises(EnoughError), turns.turn("second", look):
        pass
    with turns.turn("third", look):
        pass


@pytest.mark.parametrize("made", ["result", None])
def test_equal_work_is_done_once_and_shared_where_it_is_of_use(made: str | None) -> None:
    flights: Flights[str] = Flights()
    flight, leads = flights.join("key")
    same, follows = flights.join("key")
    assert (leads, follows, same.followers) == (True, False, 1)
    assert same is flight
    found: list[str | None] = []
    wait: Callable[[], None] = lambda: found.append(same.landing.result(5))  # noqa: E731
    thread = threading.Thread(target=wait)
    thread.start()
    flights.land("key", flight, made)
    thread.join(5)
    flights.leave(same)
    assert found == [made]
    assert flight.followers == 0
    assert flights.join("key")[1]
