"""The circuit that a transient runs: lossy lines and tables of frequencies become parts that have a form in time.

A lossy line is a chain of sections. One with delay is a lossless line with half of its series resistance at either end
and its conductance in the middle; without inductance or capacitance it is lumped. The chain's error falls with the
square of the number of sections (a second-order splitting of the telegrapher's equations; Strang, SIAM J. Numerical
Analysis 5, 1968).

A source that follows a table (FREQ) is the sum of the partial fractions of a rational function through it. Instants
that expressions name become corners.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from verdad_core.analyses.rational import Rational, fitted
from verdad_core.arrays import Floats
from verdad_core.devices.base import Control, Element
from verdad_core.devices.program import Program
from verdad_core.devices.transfer import Polynomials
from verdad_core.devices.waveforms import PWL, Waveform
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND, Structure, compile_structure
from verdad_core.errors import CircuitError, Finding, Place, Severity

#: Sections of a lossy line.
SECTIONS = 24


#: What a rational function may be off a table, as a part of its largest value: sought, worth telling, and at most.
SOUGHT, TOLD, MOST = 1e-3, 1e-2, 0.1

#: Frequencies at which a table is read at least.
READ_AT = 200

_TABULATED = ("tabulated voltage", "tabulated current")


def in_time(structure: Structure, matrix: ParameterMatrix) -> tuple[Structure, ParameterMatrix]:
    """A structure and rows that a transient can run. Raises CircuitError for what has no form in time."""
    clock = list(_clock(structure))
    lossy = {e.name: e for e in structure.elements if e.family == "line" and "z0" not in e.values}
    tables = {e.name: e for e in structure.elements if e.family in _TABULATED}
    if not lossy and not tables and not clock:
        return structure, matrix
    figures = {name: _figures(name, structure, matrix) for name in lossy}
    chains = {name: list(_sections(line, *figures[name].nominal)) for name, line in lossy.items()}
    chains |= {name: list(_fractions(element, structure, matrix)) for name, element in tables.items()}
    elements = [p for e in structure.elements for p in chains.get(e.name, [e])]
    timed = compile_structure([*elements, *clock], structure.nodesets)
    nominal, where = timed.nominal.copy(), {}
    for (name, parameter), column in structure.column_of.items():
        if name not in chains:
            where[column] = timed.column_of[name, parameter]
            nominal[where[column]] = matrix.nominal[column]
    varied = {where[c]: matrix.values[:, k] for k, c in enumerate(matrix.columns.tolist()) if c in where}
    for name, line in lossy.items():
        if (rows := figures[name].rows) is not None:
            varied |= _varied(line, chains[name], rows, timed)
    columns = np.array(list(varied), dtype=np.int32)
    return timed, ParameterMatrix(nominal, columns, np.array(list(varied.values())).reshape(-1, matrix.rows).T)


def _clock(structure: Structure) -> Iterator[Element]:
    """A source of nothing, with a corner at every instant that an expression names: steps end there.

    What a table of the time does between two points, or a comparison with it turns on and off again, could otherwise
    lie within one step and not be seen.
    """
    programs = (e.extra for e in structure.elements if isinstance(e.extra, Program))
    instants = sorted({t for program in programs for t in program.instants if 0.0 < t < math.inf})
    if instants:
        corners = (number for t in instants for number in (t, 0.0))
        yield Element(":clock", "current source", (GROUND, GROUND), extra=Waveform(PWL, (math.nan, *corners)))


@dataclass(frozen=True)
class _Figures:
    """Resistance, inductance, conductance and capacitance per length, and the length: [5], and by row [S, 5]."""

    nominal: Floats
    rows: Floats | None


def _figures(line: str, structure: Structure, matrix: ParameterMatrix) -> _Figures:
    columns = [structure.column(line, name) for name in ("r", "l", "g", "c", "len")]
    nominal, own = matrix.nominal[columns], matrix.columns.tolist()
    if not set(columns) & set(own):
        return _Figures(nominal, None)
    rows = np.tile(nominal, (matrix.rows, 1))
    for k, column in enumerate(columns):
        if column in own:
            rows[:, k] = matrix.values[:, own.index(column)]
    return _Figures(nominal, rows)


def _varied(line: Element, chain: Sequence[Element], rows: Floats, timed: Structure) -> dict[int, Floats]:
    """The rows' values of a line's sections by their columns in `timed`. Raises CircuitError."""
    found = {timed.column_of[part.name, name]: np.empty(len(rows)) for part in chain for name in part.values}
    for s, row in enumerate(rows):
        own = list(_sections(line, *row))
        if [(part.family, part.nodes) for part in own] != [(part.family, part.nodes) for part in chain]:
            raise CircuitError(
                f"{line.name} has an inductance, a capacitance or a conductance in some rows of this transient and "
                "none in others",
                place=Place(line=line.line, part=line.name),
                remedy="Give a small one instead of none, or run these rows by themselves.",
            )
        for part in own:
            for name, value in part.values.items():
                found[timed.column_of[part.name, name]][s] = value
    return found


def _sections(
    line: Element, resistance: float, inductance: float, conductance: float, capacitance: float, length: float
) -> Iterator[Element]:
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


def approximated(structure: Structure, matrix: ParameterMatrix | None = None) -> list[Finding]:
    """A warning for every source whose table (FREQ) is followed in time by more than TOLD off."""
    nominal = structure.nominal if matrix is None else matrix.nominal
    tables = [element for element in structure.elements if element.family in _TABULATED]
    return [
        Finding(
            Severity.WARNING,
            f"{element.name} follows a table of frequencies (FREQ): in time a rational function, which is up to "
            f"{error:.1%} of its largest value off",
            Place(line=element.line, part=element.name),
            "Give more points, with decibels and degrees that belong together.",
        )
        for element in tables
        if (error := _fit(_points(element, structure, nominal)).error) > TOLD
    ]


def _columns(element: Element, structure: Structure) -> list[int]:
    """Where a table's points stand in a row of parameters: hertz, decibels, degrees, point by point."""
    return [column for (name, _), column in structure.column_of.items() if name == element.name]


def _points(element: Element, structure: Structure, nominal: Floats) -> tuple[float, ...]:
    return tuple(nominal[_columns(element, structure)].tolist())


@lru_cache(maxsize=64)
def _fit(points: tuple[float, ...]) -> Rational:
    """Through a table of hertz, decibels and degrees, between its ends as a response reads it; what it is at rest
    counts as one more point.
    """
    hertz, decibels, degrees = np.array(points).reshape(-1, 3).T
    values = 10.0 ** (decibels / 20.0) * np.exp(1j * np.deg2rad(degrees))
    above = hertz > 0.0
    if not np.any(above):
        return fitted(hertz, values[:1].real.astype(complex), SOUGHT)
    known = np.log(hertz[above])
    read = np.unique(np.concatenate([known, np.linspace(known[0], known[-1], max(READ_AT, 4 * len(known)))]))
    size, angle = (np.interp(read, known, column[above]) for column in (decibels, np.deg2rad(degrees)))
    return fitted(
        np.concatenate([[0.0], np.exp(read)]),
        np.concatenate([[values[0].real], 10.0 ** (size / 20.0) * np.exp(1j * angle)]),
        SOUGHT,
    )


def _fractions(element: Element, structure: Structure, matrix: ParameterMatrix) -> Iterator[Element]:
    """The partial fractions of a source that follows a table. Raises CircuitError."""
    place = Place(line=element.line, part=element.name)
    if set(_columns(element, structure)) & set(matrix.columns.tolist()):
        raise CircuitError(
            f"the table of frequencies (FREQ) of {element.name} differs between rows, which a transient cannot follow",
            place=place,
            remedy="Run these rows by themselves.",
        )
    rational = _fit(_points(element, structure, matrix.nominal))
    if rational.error > MOST:
        raise CircuitError(
            f"{element.name} follows a table of frequencies (FREQ) that no response in time has: the nearest is "
            f"{rational.error:.0%} of its largest value off",
            place=place,
            remedy="Decibels and degrees have to belong together, from where the response is flat on; or describe it "
            "by a transfer function (LAPLACE).",
        )
    is_voltage = element.family == "tabulated voltage"
    # A voltage is that of a node into which the fractions' currents flow, and which draws one ampere a volt.
    total = f"{element.name}:sum"
    into = ("0", total) if is_voltage else element.nodes
    yield Element(
        f"{element.name}:constant", "controlled current", into, {"p1": rational.constant}, element.controls,
        element.line,
    )  # fmt: skip
    for k, (above, below) in enumerate(rational.sections()):
        yield Element(
            f"{element.name}:{k}", "transfer current", into, {}, element.controls, element.line,
            Polynomials(above, below),
        )  # fmt: skip
    if is_voltage:
        one, seen = {"p1": 1.0}, (Control(total, "0"),)
        yield Element(f"{element.name}:load", "controlled current", (total, "0"), one, seen, element.line)
        yield Element(element.name, "controlled voltage", element.nodes, one, seen, element.line)
