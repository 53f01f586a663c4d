"""What a service keeps in memory between requests: results by key, within a size, and runs that are under way."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from verdad_core.errors import ConvergenceError

Kept = TypeVar("Kept")

#: Seconds that an interactive run may take.
PATIENCE = 60.0


class Remembered(Generic[Kept]):
    """Results by key; the ones that were not asked for the longest go first when there is no more room."""

    def __init__(self, most: int) -> None:
        self.most, self.size = most, 0
        self.lock = threading.Lock()
        self.kept: dict[Hashable, tuple[Kept, int]] = {}

    def get(self, key: Hashable) -> Kept | None:
        with self.lock:
            found = self.kept.pop(key, None)
            if found is None:
                return None
            self.kept[key] = found
            return found[0]

    def keep(self, key: Hashable, made: Kept, size: int = 1) -> Kept:
        """Keep what was made under the key; it is handed back."""
        with self.lock:
            if key not in self.kept:
                self.kept[key] = (made, size)
                self.size += size
            while self.size > self.most and len(self.kept) > 1:
                _, freed = self.kept.pop(next(iter(self.kept)))
                self.size -= freed
        return made


@dataclass
class Run:
    """A run that is under way: how much of it is done, how many wait before it, and why it shall end, where it shall.

    `gone` says that nobody waits for it any more.
    """

    gone: Callable[[], bool] = lambda: False
    done: float = 0.0
    ahead: int = 0
    stopped: str = ""
    overtaken: bool = False
    since: float = field(default_factory=time.monotonic)

    def wait(self, ahead: int) -> None:
        """Told how many wait before it. Raises ConvergenceError where it shall end; its time begins later."""
        self.ahead, self.since = ahead, time.monotonic()
        self.look(0.0)

    def look(self, done: float) -> None:
        """Told by the run how far it is. Raises ConvergenceError where it shall end."""
        self.done = done
        if self.gone():
            self.stopped = "nobody waits for it"
        if self.stopped:
            raise ConvergenceError(f"the run was ended: {self.stopped}")
        if time.monotonic() - self.since > PATIENCE:
            self.stopped = "it took too long"
            raise ConvergenceError(
                f"the run was ended after {PATIENCE:g} s, with {100 * done:.0f} % of it done",
                remedy="Shorten it, or allow longer steps.",
            )


class Runs:
    """Runs that windows wait for, by a name of the window: how far each is, and that it shall end."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.under_way: dict[str, Run] = {}

    @contextmanager
    def begun(self, by: str, gone: Callable[[], bool] = lambda: False) -> Iterator[Run]:
        """A run of a window; an earlier one of the same window is overtaken."""
        run = Run(gone)
        if by:
            with self.lock:
                if earlier := self.under_way.get(by):
                    earlier.stopped, earlier.overtaken = "it was overtaken by a later one", True
                self.under_way[by] = run
        try:
            yield run
        finally:
            with self.lock:
                if self.under_way.get(by) is run:
                    del self.under_way[by]

    def of(self, by: str) -> Run | None:
        """A window's run; None where there is none."""
        with self.lock:
            return self.under_way.get(by)

    def stop(self, by: str) -> None:
        with self.lock:
            if run := self.under_way.get(by):
                run.stopped = "somebody ended it"
