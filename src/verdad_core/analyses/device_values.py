"""What a designer asks of one device at the operating point: currents into its pins, voltages, power, gm, capacitances.

The small-signal values are those at the pins, for low frequencies: the device's own linearised equations with its
inner nodes eliminated.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.devices import FAMILIES, FAMILY_OF, Control, Element
from verdad_core.devices.base import CHARGES, STATE, call_load
from verdad_core.engine.circuit import bare, fill, matrix_in, workspace
from verdad_core.engine.load import KERNELS, LOAD
from verdad_core.engine.rows import linearise_row
from verdad_core.engine.structure import GROUND, compile_structure
from verdad_core.errors import CircuitError
from verdad_core.jit import entry, pointer


@dataclass(frozen=True)
class DeviceValues:
    """Values of one device in one row, in the order of its pins.

    `currents` (A) flow into the pins, `voltages` (V) are those of the pins, `power` (W) is what the device takes.
    `conductances` [pins, pins] in S and `capacitances` in F are derivatives of the pins' currents and charges.
    """

    pins: tuple[str, ...]
    currents: Floats
    voltages: Floats
    power: float
    conductances: Floats
    capacitances: Floats

    @property
    def named(self) -> dict[str, float]:
        """The same by the names that are used on a bench: `i(base)`, `v(base,emitter)`, `gm`, ..."""
        values = {f"i({pin})": float(i) for pin, i in zip(self.pins, self.currents, strict=True)}
        common = 2 if len(self.pins) > 2 else 1
        for k, pin in enumerate(self.pins):
            if k != common:
                values[f"v({pin},{self.pins[common]})"] = float(self.voltages[k] - self.voltages[common])
        values["power"] = self.power
        if len(self.pins) == 2:
            values["conductance"] = float(self.conductances[0, 0])
            values["capacitance"] = float(self.capacitances[0, 0])
        else:
            out, control = 0, 1
            values["gm"] = float(self.conductances[out, control])
            values["output conductance"] = float(self.conductances[out, out])
            values["input conductance"] = float(self.conductances[control, control])
            values["input capacitance"] = float(self.capacitances[control, control])
            values["feedback capacitance"] = float(-self.capacitances[control, out])
            if values["input capacitance"] > 0:
                values["transition frequency"] = abs(values["gm"]) / (2 * np.pi * values["input capacitance"])
        return values


@entry
def _load_one(
    arrays: Packed, matrix_: Packed, memory: Floats, values: Floats, states: Floats, family: int, head: Integers,
    f: Floats, g: Floats, c: Floats,
) -> None:  # fmt: skip
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    x = pointer(values)
    linearise_row(circuit, work, matrix, 0, x, pointer(states))
    fill(work.f, circuit.n + 1, 0.0)
    fill(work.g, circuit.nnz + 1, 0.0)
    fill(work.c, circuit.nnz + 1, 0.0)
    work.options[CHARGES] = 1.0
    call_load(
        circuit.code[KERNELS * family + LOAD], pointer(head), circuit.table, circuit.slots, work.derived, work.options,
        work.state, x, work.f, work.q, work.g, work.c,
    )  # fmt: skip
    for k in range(len(f)):
        f[k] = work.f[k]
    for e in range(len(g)):
        g[e], c[e] = work.g[e], work.c[e]


def device_values(point: OperatingPoint, name: str, row: int = 0) -> DeviceValues:
    """Values of a two-terminal device or a transistor. Raises CircuitError for any other, and an unknown name."""
    structure = point.structure
    element = next((element for element in structure.elements if element.name == name), None)
    if element is None or not FAMILY_OF[element.family].pins:
        known = [e.name for e in structure.elements if FAMILY_OF[e.family].pins]
        raise CircuitError(
            f"there is no device '{name}' with values of its own", remedy="Devices: " + ", ".join(known[:20])
        )
    point.require(row)
    pins = FAMILY_OF[element.family].pins[: len(element.nodes)]
    alone = _alone(point, element, row)
    own = alone.structure
    n, nnz, circuit = own.size, len(own.rows), own.circuit
    f, g, c = np.zeros(n + 1), np.zeros(nnz), np.zeros(nnz)
    number = [each.name for each in FAMILIES].index(element.family)
    _load_one(
        circuit, alone.matrix.words, own.room(), alone.values[0], alone.states[0], number,
        own.head_of[name], f, g, c,
    )  # fmt: skip
    outer = [own.index(pin) for pin in pins]
    inner = [k for k, unknown in enumerate(own.unknowns) if name in unknown and k not in outer]
    order = [*outer, *inner]
    dense = np.zeros((2, n, n))
    dense[0, own.rows, own.columns], dense[1, own.rows, own.columns] = g, c
    inside = np.ix_(order, order)
    conductances, capacitances = _eliminated(dense[0][inside], dense[1][inside], len(outer))
    currents, voltages = f[outer], alone.values[0, outer]
    return DeviceValues(pins, currents, voltages, float(currents @ voltages), conductances, capacitances)


def _alone(point: OperatingPoint, element: Element, row: int) -> OperatingPoint:
    """The device by itself, on nodes named like its pins, with the voltages and parameters that it has in the row."""
    structure, family = point.structure, FAMILY_OF[element.family]
    pins = family.pins[: len(element.nodes)]
    where = dict(zip(pins, element.nodes, strict=True))
    controls = []
    for k, control in enumerate(element.controls):
        plus, minus = f"control {k} plus", f"control {k} minus"
        where[plus] = f"i({control.source})" if control.source else control.plus
        where[minus] = GROUND if control.source else control.minus
        controls.append(Control(plus, minus))
    ties = [Element(f"tie {node}", "resistor", (node, GROUND), {}) for node in where]
    own = compile_structure([replace(element, nodes=pins, controls=tuple(controls)), *ties])
    whole = point.matrix.nominal.copy()
    whole[point.matrix.columns] = point.matrix.values[row]
    nominal = own.nominal.copy()
    nominal[0] = whole[0]
    for parameter in family.parameters_for(element):
        nominal[own.column(element.name, parameter.name)] = whole[structure.column(element.name, parameter.name)]
    x = [point.values[row, structure.index(where.get(unknown, unknown))] for unknown in own.unknowns]
    first = structure.head_of[element.name][STATE]
    states = point.states[row, first : first + family.state_for(element)]
    matrix = replace(own.unvaried, nominal=nominal)
    return OperatingPoint(
        own, matrix, np.array([[*x, 0.0]]), np.zeros(1, np.int32), states[None, :], np.zeros((1, own.size))
    )


def _eliminated(g: Floats, c: Floats, kept: int) -> tuple[Floats, Floats]:
    """G + s c with the last unknowns eliminated, to the first order in s."""
    g11, g12, g21, g22 = g[:kept, :kept], g[:kept, kept:], g[kept:, :kept], g[kept:, kept:]
    c11, c12, c21, c22 = c[:kept, :kept], c[:kept, kept:], c[kept:, :kept], c[kept:, kept:]
    if not len(g22):
        return g11, c11
    try:
        left, right = np.linalg.solve(g22.T, g12.T).T, np.linalg.solve(g22, g21)
    except np.linalg.LinAlgError:
        # An inductor or a source: no conductance describes it.
        return np.full_like(g11, np.inf), c11
    return g11 - left @ g21, c11 - left @ c21 - c12 @ right + left @ c22 @ right
