"""A check made ready for the engine: its circuit compiled once, its scale chosen, and run for any rows."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import replace

from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import lasting
from verdad_core.checks.compiled import Compiler, compiled
from verdad_core.checks.elaborate import Models
from verdad_core.checks.kind import kind_of
from verdad_core.checks.overlaid import overlaid
from verdad_core.checks.prepared import Look, Prepared, RowResult
from verdad_core.checks.signals import Names
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.engine.matrix import ParameterMatrix

#: Numbers that rows side by side may bring.
_MOST_NUMBERS = 2_000_000


class Experiment(Prepared):
    """A prepared check that can be run."""

    def rows(self, matrix: ParameterMatrix | None = None, look: Look = lambda _: None) -> Iterator[RowResult]:
        """Run the analysis for every row of `matrix` (default: as drawn)."""
        for row in kind_of(self.check).rows(self, matrix, look):
            yield self._overlaid(row) if self.check.overlays else row

    def _overlaid(self, row: RowResult) -> RowResult:
        """The row with what was measured at its places, too."""
        signals = row.signals
        if signals is None:
            return row
        axis = next((trace.axis for trace in signals.others.values() if trace.axis), signals.axis)
        measured = overlaid(self.check, axis, signals.others)
        steep = signals.steep
        with_slopes = (lambda: replace(found := steep(), others={**found.others, **measured})) if steep else None
        return replace(row, signals=replace(signals, others={**signals.others, **measured}, steep=with_slopes))

    @property
    def rows_at_once(self) -> int:
        """How many rows are run side by side, so that what they bring stays within bounds; in time one by one."""
        kind = kind_of(self.check)
        if kind.one_by_one:
            return 1
        return max(1, min(1000, _MOST_NUMBERS // (kind.length(self.scale) * (1 + len(self.outputs)))))


def prepare(
    circuit: Circuit, check: Check, models: Models, metered: Collection[str] = (), nets: Collection[str] | None = None,
    compiler: Compiler = compiled,
) -> Experiment:  # fmt: skip
    """Compile a check with meters in front of some pins, and choose its scale; `nets` are those to keep, None for all.

    Raises a VerdadError when the circuit cannot be built, or its operating point is not found where it is needed.
    """
    names = Names.of(circuit, check)
    metered = sorted({*metered, *map(names.pin, check.analysis.pins)})
    structure = compiler(circuit, check, models, metered)
    point = operating_point(structure)
    kind = kind_of(check)
    if kind.rests:
        point.require()
    # A circuit that rests where it cannot stay is told of in every check.
    natural = lasting(point)
    scale = kind.scale(circuit, check, point, natural)
    kept = [net for net in names.nets if net != "gnd" and (nets is None or net in nets or net in kind.nets)]
    return Experiment(circuit, check, structure, names, tuple(kept), tuple(metered), point, natural, scale)
