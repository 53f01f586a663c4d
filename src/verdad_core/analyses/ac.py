"""Small-signal frequency response: (G + jωC) X = B at the operating point of each row, frequencies side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.analyses.poles import AtBias
from verdad_core.analyses.small_signal import respond
from verdad_core.arrays import Complexes, Floats
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure
from verdad_core.errors import CircuitError


@dataclass(frozen=True)
class AcResult(AtBias):
    """`values` [S, outputs, F]: phasors in V or A; NaN in rows whose operating point was not found."""

    frequency: Floats
    values: Complexes


def logarithmic(start: float, stop: float, per_decade: int) -> Floats:
    """Frequencies in hertz from start to stop, both included, with at least `per_decade` points per decade."""
    if not 0 < start < stop or per_decade < 1:
        raise CircuitError(
            f"a frequency range from {start:g} Hz to {stop:g} Hz with {per_decade} points per decade is not possible",
            remedy="Start above 0 Hz, stop above the start, and take at least one point per decade.",
        )
    points = int(np.ceil(np.log10(stop / start) * per_decade - 1e-9)) + 1
    return np.geomspace(start, stop, max(points, 2))


def ac(
    structure: Structure,
    frequency: Floats,
    outputs: Sequence[tuple[str, str]],
    matrix: ParameterMatrix | None = None,
    threads: int | None = None,
) -> AcResult:
    """The response at `frequency` [F], in hertz, of each output (plus, minus) for every row of `matrix`.

    An output is a difference of two nodes ("0" is ground), or a branch current ("i(v1)", "0"). The drive is the
    small-signal magnitude and phase of the independent sources. Raises CircuitError for an output that does not
    exist and when no source drives the circuit.
    """
    _require_drive(structure, matrix)
    return ac_at(operating_point(structure, matrix, threads), frequency, outputs, threads)


def _require_drive(structure: Structure, matrix: ParameterMatrix | None) -> None:
    """Some source has a magnitude, in every row or in one of them."""
    driven = any(element.values.get("ac", 0.0) for element in structure.elements)
    if not driven and matrix is not None:
        magnitudes = {column for (_, name), column in structure.column_of.items() if name == "ac"}
        varied = [k for k, column in enumerate(matrix.columns.tolist()) if column in magnitudes]
        driven = bool(np.any(matrix.values[:, varied]))
    if not driven:
        raise CircuitError(
            "no source has a small-signal magnitude, so the response would be zero everywhere",
            remedy="Give the driving source an AC magnitude, 1 V for example.",
        )


def ac_at(
    point: OperatingPoint, frequency: Floats, outputs: Sequence[tuple[str, str]], threads: int | None = None
) -> AcResult:
    """`ac` around operating points that have been found."""
    _require_drive(point.structure, point.matrix)
    return AcResult(point, frequency, respond(point, frequency, outputs, threads=threads)[:, 0])
