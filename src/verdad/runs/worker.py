"""What runner and qualifier share: a thread that takes work out of the database, one piece after the other."""

from __future__ import annotations

import threading
from abc import ABC, abstractmethod
from typing import Generic, TypeVar

import structlog
from sqlalchemy.exc import SQLAlchemyError

from verdad.db.session import Sessions

log = structlog.get_logger()

#: What names a piece of work.
Key = TypeVar("Key")


class Worker(ABC, Generic[Key]):
    """A newcomer says what comes next and carries it out; it asks `stopping` as often as it can."""

    def __init__(self, name: str, sessions: Sessions) -> None:
        self.sessions = sessions
        self.stopping = threading.Event()
        self.name = name
        self._wake = threading.Event()
        self._thread = threading.Thread(target=self._work, name=name, daemon=True)

    def start(self) -> None:
        self._thread.start()
        self._wake.set()

    def stop(self) -> None:
        """Finish nothing, lose nothing: what is under way stays in the database and goes on at the next start."""
        self.stopping.set()
        self._wake.set()
        self._thread.join(timeout=20)

    @property
    def ended(self) -> bool:
        """Whether the thread ended without being told to: nothing would be carried out any more."""
        return self._thread.ident is not None and not self._thread.is_alive() and not self.stopping.is_set()

    def wake(self) -> None:
        """Say that there may be new work."""
        self._wake.set()

    @abstractmethod
    def next(self) -> Key | None:
        """The oldest piece of work that is waiting or was left, or None."""

    @abstractmethod
    def carry_out(self, key: Key) -> None:
        """Do a piece of work and write down how it ended."""

    def close(self) -> None:
        """Called in the thread when it ends."""

    def _work(self) -> None:
        try:
            while not self.stopping.is_set():
                self._wake.wait(timeout=5)
                self._wake.clear()
                try:
                    while not self.stopping.is_set() and (key := self.next()) is not None:
                        self.carry_out(key)
                except SQLAlchemyError as error:
                    # The database is away: what is committed stays, and the next round tries again.
                    log.error(f"{self.name} waits for the database", error=type(error).__name__)
        finally:
            self.close()
