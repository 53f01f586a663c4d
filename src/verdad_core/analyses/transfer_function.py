"""Transfer function for small direct signals, with input and output resistance, at the operating point."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import AtBias
from verdad_core.analyses.small_signal import output_indices, respond
from verdad_core.arrays import Floats
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure


@dataclass(frozen=True)
class TransferFunctionResult(AtBias):
    """`transfer` [S] in the units of output over input; resistances [S] in Ω, infinite where no current flows."""

    transfer: Floats
    input_resistance: Floats
    output_resistance: Floats


def transfer_function(
    structure: Structure,
    output: tuple[str, str],
    source: str,
    matrix: ParameterMatrix | None = None,
    threads: int | None = None,
) -> TransferFunctionResult:
    """From an independent source to an output (plus, minus), for every row of `matrix`.

    Raises CircuitError for an output or a source that does not exist.
    """
    point = operating_point(structure, matrix, threads)
    n = structure.size
    input_drive = structure.unit_drive(source)
    element = next(element for element in structure.elements if element.name == source)
    by_voltage = f"i({source})" in structure.index_of
    seen = (f"i({source})", "0") if by_voltage else (element.nodes[1], element.nodes[0])
    (plus,), (minus,) = output_indices(structure, [output])
    # A voltage answers to a current through it, a branch current to a voltage in it.
    is_branch = output[0].startswith("i(")
    output_drive = np.zeros(n + 1)
    output_drive[plus] += 1.0
    output_drive[minus] -= 1.0
    output_drive[n] = 0.0
    drives = np.array([input_drive, output_drive], dtype=complex)
    answers = respond(point, np.zeros(1), [output, seen], drives, threads)[..., 0].real
    with np.errstate(divide="ignore"):
        input_resistance = -1.0 / answers[:, 0, 1] if by_voltage else answers[:, 0, 1]
        output_resistance = -1.0 / answers[:, 1, 0] if is_branch else answers[:, 1, 0]
    return TransferFunctionResult(point, answers[:, 0, 0], input_resistance, output_resistance)
