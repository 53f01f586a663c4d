"""The errors of the core, and the findings that are not errors.

    VerdadError             something the designer can mend; carries place and remedy as data
    +-- ValueTextError      a quantity that cannot be read ("10kk")
    +-- NetlistError        a statement that cannot be read or resolved
    +-- CircuitError        a circuit that cannot be compiled (no ground, no direct-current path, ...)
    +-- ConvergenceError    an operating point that was not found
    +-- MeasurementError    a measurement that its trace does not hold
    +-- BoardError          a board document that contradicts itself

Anything else that is raised is a fault of Verdad, not of its input.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from enum import StrEnum


@dataclass(frozen=True)
class Place:
    """Where something is wrong. Every field is optional; `line` and `column` count from 1."""

    file: str | None = None
    line: int | None = None
    column: int | None = None
    part: str | None = None
    nodes: tuple[str, ...] = ()

    def unsaid(self, message: str) -> Place:
        """The place without the part and the nodes that a message names itself."""
        words = set(re.findall(r"[\w.+/-]+", message)) | set(re.findall(r"\w+", message))
        nodes = () if all(node in words for node in self.nodes) else self.nodes
        return replace(self, part=None if self.part in words else self.part, nodes=nodes)

    def __str__(self) -> str:
        words = [self.file or ""]
        if self.line is not None:
            words.append(f"line {self.line}" + (f", column {self.column}" if self.column else ""))
        if self.part:
            words.append(f"part {self.part}")
        if self.nodes:
            words.append(("node " if len(self.nodes) == 1 else "nodes ") + ", ".join(self.nodes))
        return ", ".join(word for word in words if word)


class VerdadError(Exception):
    """What is wrong (`message`), where (`place`) and what to do about it (`remedy`)."""

    def __init__(self, message: str, *, place: Place | None = None, remedy: str = "") -> None:
        self.message = message
        self.place = place or Place()
        self.remedy = remedy
        super().__init__(message)

    def __str__(self) -> str:
        where = str(self.place.unsaid(self.message))
        return ". ".join(part for part in ((f"{where}: " if where else "") + self.message, self.remedy) if part)


class ValueTextError(VerdadError, ValueError):
    """A quantity that cannot be read. A ValueError too, so that Pydantic reports it at the field."""


class NetlistError(VerdadError):
    """A statement that cannot be read or resolved."""


class CircuitError(VerdadError):
    """A circuit that cannot be compiled."""


class ConvergenceError(VerdadError):
    """An operating point that was not found; `place.nodes` names the nodes that would not settle."""


class MeasurementError(VerdadError):
    """A measurement that its trace does not hold."""


class BoardError(VerdadError, ValueError):
    """A board document that contradicts itself. A ValueError too, so that Pydantic reports it at the field."""


class Severity(StrEnum):
    """How much a finding matters."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


@dataclass(frozen=True)
class Finding:
    """One remark on a text or a result: what, how bad, where, and what to do."""

    severity: Severity
    message: str
    place: Place = field(default_factory=Place)
    remedy: str = ""

    @classmethod
    def of(cls, error: VerdadError) -> Finding:
        """The finding that says the same as `error`."""
        return cls(Severity.ERROR, error.message, error.place, error.remedy)
