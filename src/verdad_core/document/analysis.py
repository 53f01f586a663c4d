"""What a check computes: the settings of its kind (checks/kinds)."""

from __future__ import annotations

from typing import ClassVar

from verdad_core.document.kinds import OfKind
from verdad_core.schema import chosen


class Analysis(OfKind):
    """The settings of a kind of check. One that is left out is chosen from the circuit."""

    _table = "verdad_core.checks.kinds"
    _called = "kind of check"
    _usual = "frequency response"

    #: Traces that it brings by a name of their own, besides volts and amperes.
    brings: ClassVar[frozenset[str]] = frozenset()

    @property
    def nets(self) -> tuple[str, ...]:
        """The nets that it looks at."""
        return chosen(self, "net")

    @property
    def pins(self) -> tuple[str, ...]:
        """The pins that it needs a meter in front of."""
        return chosen(self, "pin")

    @property
    def drivers(self) -> tuple[str, ...]:
        """The fixtures that drive it."""
        return chosen(self, "driver")
