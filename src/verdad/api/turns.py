"""Who computes: a few at once, one window after the other where more wait; equal work under way is done once."""

from __future__ import annotations

import threading
from collections import OrderedDict, deque
from collections.abc import Callable, Hashable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Generic, TypeVar

Made = TypeVar("Made")

#: Seconds after which who waits looks up.
LOOK = 0.05


class Turns:
    """At most so many compute at once. Of the windows that wait each gets one turn before one gets a second."""

    def __init__(self, most: int) -> None:
        self._lock = threading.Lock()
        self._free = most
        self._waiting: OrderedDict[str, deque[threading.Event]] = OrderedDict()

    @contextmanager
    def turn(self, window: str, look: Callable[[int], None]) -> Iterator[None]:
        """Wait for a turn of this window. `look` is told now and then how many wait; what it raises ends the wait."""
        called = threading.Event()
        with self._lock:
            self._waiting.setdefault(window, deque()).append(called)
            self._call()
        try:
            while not called.wait(LOOK):
                with self._lock:
                    ahead = sum(map(len, self._waiting.values())) - 1
                look(ahead)
            yield
        finally:
            with self._lock:
                if called.is_set():
                    self._free += 1
                else:
                    self._waiting[window].remove(called)
                    if not self._waiting[window]:
                        del self._waiting[window]
                self._call()

    def _call(self) -> None:
        """Call those who wait longest, window by window, as long as there is room."""
        while self._free and self._waiting:
            window, queue = self._waiting.popitem(last=False)
            queue.popleft().set()
            self._free -= 1
            if queue:
                self._waiting[window] = queue


@dataclass
class Flight(Generic[Made]):
    """A piece of work that is under way, and how many others wait for it. What it brings is None where it is no use
    to them.
    """

    landing: Future[Made | None] = field(default_factory=Future)
    followers: int = 0
    done: float = 0.0


class Flights(Generic[Made]):
    """Pieces of work under way, by what they are."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._under_way: dict[Hashable, Flight[Made]] = {}

    def join(self, key: Hashable) -> tuple[Flight[Made], bool]:
        """The work of this key, and whether the caller is to do it: `land` it then, whatever happens."""
        with self._lock:
            known = self._under_way.get(key)
            if known is not None:
                known.followers += 1
                return known, False
            flight = self._under_way[key] = Flight()
            return flight, True

    def leave(self, flight: Flight[Made]) -> None:
        """One of those who wait for it waits no longer."""
        with self._lock:
            flight.followers -= 1

    def land(self, key: Hashable, flight: Flight[Made], made: Made | None) -> None:
        with self._lock:
            del self._under_way[key]
        flight.landing.set_result(made)
