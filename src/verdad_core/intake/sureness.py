"""How much a proposal should be trusted."""

from __future__ import annotations

from enum import StrEnum


class Sureness(StrEnum):
    """From what leaves no doubt to what says nothing."""

    SHOWN = "shown on the bench"
    SAID = "said in the file"
    LIKELY = "likely"
    GUESS = "guess"
    UNKNOWN = "unknown"
