"""Why a run of a check has no number."""

from __future__ import annotations

from enum import IntEnum


class Cause(IntEnum):
    """Why a row has no number for a measurement."""

    NUMBER = 0
    NOT_SOLVED = 1
    UNSTABLE = 2
    NOT_MEASURED = 3
    OUT_OF_TIME = 4
    REFUSED = 5
    #: Not computed yet.
    PENDING = 6

    @property
    def words(self) -> str:
        return ("a number", "not solved", "unstable", "not measured", "out of time", "refused", "pending")[self]
