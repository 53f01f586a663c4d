"""Monte Carlo: rows in which every part with a spread takes a value drawn from it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure
from verdad_core.spreads.draw import draw
from verdad_core.spreads.spread import Spread


def monte_carlo_rows(
    structure: Structure,
    spreads: Iterable[Spread],
    parameter_of: Mapping[str, tuple[str, str]],
    seed: int,
    start: int,
    stop: int,
) -> ParameterMatrix:
    """Rows start..stop-1 of the Monte Carlo with `seed`.

    `parameter_of` gives for each part's designator the element and parameter that hold its value. A row does not
    depend on which block it is drawn in.
    """
    changes = {}
    for spread in spreads:
        key = parameter_of[spread.part]
        nominal = structure.nominal[structure.column(*key)]
        deviation = draw(seed, spread.part, spread.distribution, stop)[start:]
        changes[key] = nominal * (1.0 + spread.tolerance / 100.0 * deviation)
    if not changes:
        changes = {("", "temperature"): structure.nominal[:1].repeat(stop - start)}
    return ParameterMatrix.varied(structure, changes)
