"""The qualifier: a thread that puts models on the bench, one after the other, and writes down how far it is.

The state in the database is the only truth, as for studies: what was under way when the service stopped starts anew.
"""

from __future__ import annotations

import threading
import time
from datetime import UTC, datetime

import structlog
from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError

from verdad.db.session import Sessions
from verdad.db.tables import ModelRow, QualificationRow, RunState
from verdad.shelf.qualification import keep
from verdad.shelf.store import model_of
from verdad_core.errors import VerdadError
from verdad_core.qualification.bench import measure

log = structlog.get_logger()

#: Seconds between two looks at the database while a bench runs.
BETWEEN_LOOKS = 0.5


class _CancelledError(Exception):
    """Nobody waits for this bench any more."""


class Qualifier:
    """Carries out queued qualifications."""

    def __init__(self, sessions: Sessions) -> None:
        self._sessions = sessions
        self._wake = threading.Event()
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._work, name="qualifier", daemon=True)

    def start(self) -> None:
        self._thread.start()
        self._wake.set()

    def stop(self) -> None:
        """Ends what runs at its next look; it starts anew with the service."""
        self._stopping.set()
        self._wake.set()
        self._thread.join(timeout=20)

    def wake(self) -> None:
        """Say that there may be a new qualification."""
        self._wake.set()

    def _work(self) -> None:
        while not self._stopping.is_set():
            self._wake.wait(timeout=5)
            self._wake.clear()
            try:
                while not self._stopping.is_set() and (model := self._next()) is not None:
                    self._carry_out(model)
            except SQLAlchemyError as error:
                log.error("qualifier waits for the database", error=type(error).__name__)

    def _next(self) -> str | None:
        with self._sessions() as session:
            return session.scalar(
                select(QualificationRow.model_id)
                .where(QualificationRow.state.in_((RunState.RUNNING, RunState.QUEUED)))
                .order_by(QualificationRow.started_at)
                .limit(1)
            )

    def _carry_out(self, model_id: str) -> None:
        with self._sessions.begin() as session:
            row = session.get_one(QualificationRow, model_id)
            row.state = RunState.RUNNING
            model = session.get_one(ModelRow, model_id)
            key, kind, conditions, subject = row.key, model.kind, dict(model.conditions), model_of(model)
        looked = [0.0]

        def progress(done: int, experiments: int, doing: str) -> None:
            if self._stopping.is_set():
                raise _CancelledError
            if doing and time.monotonic() - looked[0] < BETWEEN_LOOKS:
                return
            looked[0] = time.monotonic()
            with self._sessions.begin() as session:
                row = session.get(QualificationRow, model_id)
                if row is None or row.key != key or row.state != RunState.RUNNING:
                    raise _CancelledError
                row.done, row.experiments, row.doing = done, experiments, doing

        try:
            measured = measure(subject, kind, conditions, progress)
        except _CancelledError:
            return
        except VerdadError as error:
            self._finish(model_id, key, RunState.FAILED, str(error))
            return
        except SQLAlchemyError:
            raise
        except Exception:
            log.exception("bench failed", model=model_id)
            self._finish(model_id, key, RunState.FAILED, "The bench failed. The service's log says more.")
            return
        with self._sessions.begin() as session:
            row = session.get_one(QualificationRow, model_id, with_for_update=True)
            if row.key == key and row.state == RunState.RUNNING:
                keep(row, measured)
                row.state, row.finished_at = RunState.DONE, datetime.now(UTC)
        log.info("model qualified", model=model_id)

    def _finish(self, model_id: str, key: str, state: RunState, message: str) -> None:
        with self._sessions.begin() as session:
            row = session.get(QualificationRow, model_id, with_for_update=True)
            if row is not None and row.key == key:
                row.state, row.message, row.finished_at = state, message, datetime.now(UTC)
