"""What strangers send is read in processes of their own, which end when they take too long or too much memory."""

from __future__ import annotations

import multiprocessing
import resource
import threading
from collections.abc import Callable
from multiprocessing.pool import Pool
from pathlib import Path
from typing import TypeVar

from verdad_core.errors import VerdadError

Read = TypeVar("Read")

#: Processes at once; seconds and bytes that each reading may take.
MOST, SECONDS, BYTES = 2, 20.0, 1_000_000_000


class TooMuchError(VerdadError):
    """A reading that was broken off."""


class Apart:
    """Processes that read. One that behaved well reads what comes next; one that did not is ended."""

    def __init__(self, seconds: float = SECONDS, memory: int = BYTES) -> None:
        self.seconds, self.memory = seconds, memory
        self._turns = threading.BoundedSemaphore(MOST)
        self._idle: list[Pool] = []

    def read(self, function: Callable[..., Read], *what: object) -> Read:
        """What the function makes of it, or raises. Raises TooMuchError where it takes too long or too much memory."""
        with self._turns:
            pool = self._idle.pop() if self._idle else self._new()
            try:
                found = pool.apply_async(function, what).get(self.seconds)
            except (multiprocessing.TimeoutError, MemoryError) as error:
                pool.terminate()
                late = isinstance(error, multiprocessing.TimeoutError)
                most = f"{self.seconds:g} s" if late else f"{self.memory / 1e6:.0f} MB of memory"
                raise TooMuchError(
                    f"reading it took more than {most} and was broken off", remedy="Send less."
                ) from None
            except BaseException:
                self._idle.append(pool)
                raise
            self._idle.append(pool)
            return found

    def _new(self) -> Pool:
        return multiprocessing.get_context("spawn").Pool(1, _limit, (self.memory,))


#: Those of this process; they end with it.
READERS = Apart()


def _limit(memory: int) -> None:
    """From here on the process gets no more than so much."""
    pages = int(Path("/proc/self/statm").read_text().split()[0])
    most = pages * resource.getpagesize() + memory
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
