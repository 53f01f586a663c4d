"""The qualifier: a thread that puts models on the bench, one after the other, and writes down how far it is.

The state in the database is the only truth, as for studies: what was under way when the service stopped starts anew.
"""

from __future__ import annotations

import time
from datetime import UTC, datetime

import structlog
from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError

from verdad.db.session import Sessions
from verdad.db.tables import ModelRow, QualificationRow, RunState
from verdad.runs.worker import Worker
from verdad.shelf.qualification import keep
from verdad.shelf.store import model_of
from verdad_core.errors import VerdadError
from verdad_core.qualification.bench import measure

log = structlog.get_logger()

#: Seconds between two looks at the database while a bench runs.
BETWEEN_LOOKS = 0.5


class _CancelledError(Exception):
    """Nobody waits for this bench any more."""


class Qualifier(Worker[str]):
    """Carries out queued qualifications."""

    def __init__(self, sessions: Sessions) -> None:
        super().__init__("qualifier", sessions)

    def next(self) -> str | None:
        with self.sessions() as session:
            return session.scalar(
                select(QualificationRow.model_id)
                .where(QualificationRow.state.in_((RunState.RUNNING, RunState.QUEUED)))
                .order_by(QualificationRow.started_at)
                .limit(1)
            )

    def carry_out(self, model_id: str) -> None:
        with self.sessions.begin() as session:
            row = session.get_one(QualificationRow, model_id)
            row.state = RunState.RUNNING
            model = session.get_one(ModelRow, model_id)
            key, kind, conditions, subject = row.key, model.kind, dict(model.conditions), model_of(model)
        looked = [0.0]

        def progress(done: int, experiments: int, doing: str) -> None:
            if self.stopping.is_set():
                raise _CancelledError
            if doing and time.monotonic() - looked[0] < BETWEEN_LOOKS:
                return
            looked[0] = time.monotonic()
            with self.sessions.begin() as session:
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
        with self.sessions.begin() as session:
            row = session.get_one(QualificationRow, model_id, with_for_update=True)
            if row.key == key and row.state == RunState.RUNNING:
                keep(row, measured)
                row.state, row.finished_at = RunState.DONE, datetime.now(UTC)
        log.info("model qualified", model=model_id)

    def _finish(self, model_id: str, key: str, state: RunState, message: str) -> None:
        with self.sessions.begin() as session:
            row = session.get(QualificationRow, model_id, with_for_update=True)
            if row is not None and row.key == key:
                row.state, row.message, row.finished_at = state, message, datetime.now(UTC)
