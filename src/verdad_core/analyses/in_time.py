"""The circuit that a transient runs: lossy lines become chains of sections that have a form in time.

A section of a line with delay is a lossless line with half of its series resistance at either end and its conductance
in the middle; without inductance or capacitance it is lumped. The chain's error falls with the square of the number of
sections (a second-order splitting of the telegrapher's equations; Strang, SIAM J. Numerical Analysis 5, 1968).
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from verdad_core.devices import Element
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.errors import CircuitError, Place

#: Sections of a lossy line.
SECTIONS = 24


def in_time(structure: Structure, matrix: ParameterMatrix) -> tuple[Structure, ParameterMatrix]:
    """A structure and rows that a transient can run. Raises CircuitError for what has no form in time."""
    for element in structure.elements:
        if element.family in ("tabulated voltage", "tabulated current"):
            raise CircuitError(
                f"{element.name} follows a table of frequencies (FREQ), which has no form in time",
                place=Place(line=element.line, part=element.name),
                remedy="Describe it by a transfer function (LAPLACE), for one fitted to the table.",
            )
    lossy = {e.name: e for e in structure.elements if e.family == "line" and "z0" not in e.values}
    if not lossy:
        return structure, matrix
    parts = [p for e in structure.elements for p in (_sections(e, structure, matrix) if e.name in lossy else (e,))]
    timed = compile_structure(parts, structure.nodesets)
    nominal, where = timed.nominal.copy(), {}
    for (name, parameter), column in structure.column_of.items():
        if name not in lossy:
            where[column] = timed.column_of[name, parameter]
            nominal[where[column]] = matrix.nominal[column]
        elif column in matrix.columns:
            raise CircuitError(
                f"{name} is a lossy line; in a transient its {parameter} cannot differ from row to row",
                place=Place(part=name),
                remedy="Run one transient for each value.",
            )
    columns = np.array([where[column] for column in matrix.columns.tolist()], dtype=np.int32)
    return timed, ParameterMatrix(nominal, columns, matrix.values)


def _sections(line: Element, structure: Structure, matrix: ParameterMatrix) -> Iterator[Element]:
    resistance, inductance, conductance, capacitance, length = (
        float(matrix.nominal[structure.column(line.name, name)]) for name in ("r", "l", "g", "c", "len")
    )  # fmt: skip
    # Of one section.
    r, i, g, c = (value * length / SECTIONS for value in (resistance, inductance, conductance, capacitance))
    count = 0
    a, a_ref, b, b_ref = line.nodes

    def part(family: str, nodes: tuple[str, ...], **values: float) -> Element:
        nonlocal count
        count += 1
        return Element(f"{line.name}:{count}", family, nodes, values, line=line.line)

    def series(here: str, there: str) -> Iterator[Element]:
        """Half a section's resistance; nothing is a resistance that no signal notices."""
        yield part("resistor", (here, there), resistance=max(0.5 * r, 1e-6))

    here = a
    for k in range(SECTIONS):
        last = k == SECTIONS - 1
        there, ref = (b, b_ref) if last else (f"{line.name}:s{k}", a_ref)
        inner, far = f"{line.name}:m{k}", f"{line.name}:f{k}"
        yield from series(here, inner)
        if i > 0 and c > 0:
            yield part("line", (inner, a_ref, far, ref), z0=math.sqrt(i / c), td=math.sqrt(i * c))
        else:
            if c > 0:
                yield part("capacitor", (inner, a_ref), capacitance=0.5 * c)
                yield part("capacitor", (far, ref), capacitance=0.5 * c)
            if i > 0:
                yield part("inductor", (inner, far), inductance=i)
            else:
                yield part("resistor", (inner, far), resistance=1e-6)
        if g > 0:
            yield part("resistor", (far, ref), resistance=1.0 / g)
        yield from series(far, there)
        here = there
