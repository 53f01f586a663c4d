"""What strangers send is read in processes of their own, which end when they take too long or too much memory."""

from __future__ import annotations

import multiprocessing
import resource
import threading
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, TypeVar, cast

from verdad_core.errors import VerdadError

Read = TypeVar("Read")

#: Processes at once; seconds and bytes that each reading may take.
MOST, SECONDS, BYTES = 2, 20.0, 1_000_000_000

_SPAWN = multiprocessing.get_context("spawn")


class TooMuchError(VerdadError):
    """A reading that was broken off."""


class _Reader:
    """One process and the pipe to it: nothing else is shared, so that nothing is left locked when it dies."""

    def __init__(self, memory: int) -> None:
        self.pipe, theirs = _SPAWN.Pipe()
        self.process = _SPAWN.Process(target=_serve, args=(theirs, memory), daemon=True)
        self.process.start()
        theirs.close()

    def ask(self, function: Callable[..., Any], what: tuple[object, ...], seconds: float) -> tuple[bool, Any]:
        """Whether it was read, and what it is or what was raised.

        Raises TimeoutError, MemoryError, and EOFError or a ConnectionError where the process died; it is gone then.
        """
        try:
            self.pipe.send((function, what))
            if not self.pipe.poll(seconds):
                raise TimeoutError
            good, found = self.pipe.recv()
            if isinstance(found, MemoryError):
                raise found
        except BaseException:
            self.end()
            raise
        return good, found

    def end(self) -> None:
        self.process.kill()
        self.process.join()
        self.pipe.close()


class Apart:
    """Processes that read. One that behaved well reads what comes next; one that did not is ended."""

    def __init__(self, seconds: float = SECONDS, memory: int = BYTES) -> None:
        self.seconds, self.memory = seconds, memory
        self._turns = threading.BoundedSemaphore(MOST)
        self._idle: list[_Reader] = []

    def read(self, function: Callable[..., Read], *what: object) -> Read:
        """What the function makes of it, or raises. Raises TooMuchError where it takes too long or too much memory."""
        with self._turns:
            try:
                reader, (good, found) = self._asked(function, what)
            except TimeoutError:
                raise self._too_much(f"{self.seconds:g} s") from None
            except (OSError, EOFError, MemoryError):
                raise self._too_much(f"{self.memory / 1e6:.0f} MB of memory") from None
            self._idle.append(reader)
        if not good:
            raise found
        return cast(Read, found)

    def _asked(self, function: Callable[..., Any], what: tuple[object, ...]) -> tuple[_Reader, tuple[bool, Any]]:
        """The answer and who gave it. One that waited may have been ended by somebody: then another one is asked."""
        with suppress(IndexError):
            while True:
                waiting = self._idle.pop()
                with suppress(EOFError, ConnectionError):
                    return waiting, waiting.ask(function, what, self.seconds)
        fresh = _Reader(self.memory)
        return fresh, fresh.ask(function, what, self.seconds)

    def _too_much(self, most: str) -> TooMuchError:
        return TooMuchError(f"reading it took more than {most} and was broken off", remedy="Send less.")


#: Those of this process; they end with it.
READERS = Apart()


def _serve(pipe: Connection, memory: int) -> None:
    """Read what comes, until nobody asks any more. From here on the process gets so much memory and no more."""
    pages = int(Path("/proc/self/statm").read_text().split()[0])
    most = pages * resource.getpagesize() + memory
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    while True:
        try:
            function, what = pipe.recv()
        except EOFError:
            return
        try:
            pipe.send((True, function(*what)))
        except Exception as error:
            pipe.send((False, error))
